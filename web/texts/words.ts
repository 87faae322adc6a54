/** Whether a text of the sources is meant for people, or for the browser and the server. */

/** Attributes and properties whose text is read, even where it is one small word. */
export const READ = new Set(
  (
    "alt aria-description aria-label aria-roledescription aria-valuetext adds detail done empty heading hint kept " +
    "label legend of placeholder said submit summary title what why words"
  ).split(" "),
);

/** Those whose text is never read. */
export const UNREAD = new Set(
  (
    "accept autoComplete className color cx cy d defaultValue dominantBaseline dy fill font href htmlFor id " +
    "inputMode key kind list look made name path pattern points preserveAspectRatio rel role scope stroke style target " +
    "textAnchor to tone transform type value viewBox"
  ).split(" "),
);

/** Functions whose texts are addresses, names of events, keys or questions to the page. */
export const ASKING =
  /^(act|api\.\w+|addEventListener|closest|dressKept|fetch|getElementById|getItem|getPropertyValue|includes|indexOf|invalidate\w*|load|lookup|matchMedia|matches|navigate|open|querySelector(All)?|RegExp|removeEventListener|replace|set|setItem|split|startsWith|endsWith|test|token|useKeys|useState|get|has|append|delete|join)$/;

const LETTERS = /\p{L}{2}/u;
const ADDRESS = /^[<./#?&]|^[a-z-]+:(\/\/|$)|^https?:|\{\d+\}\/|^\S*[/=_]\S*$/;
const STYLE =
  /^(?:[a-z0-9-]+:|\[[^\]]*\]:|data-\[[^\]]*\]:|max-\[[^\]]*\]:)*[!-]?(?:absolute|align|animate|appearance|aspect|backdrop|basis|bg|block|border|bottom|box|break|caption|clip|col|columns|contents|cursor|decoration|divide|duration|ease|fill|fixed|flex|float|font|gap|grid|group|grow|h|hidden|inline|inset|isolate|items|italic|justify|leading|left|line-clamp|line-through|list|m|max-h|max-w|mb|min-h|min-w|ml|mr|mt|mx|my|no-print|no-underline|not-italic|not-sr-only|object|opacity|order|origin|outline|overflow|p|pb|peer|pl|place|pointer-events|pr|print-only|pt|px|py|relative|resize|right|ring|rotate|rounded|row|scale|scroll|select|self|shadow|shrink|size|space|sr-only|sticky|stroke|table|tabular-nums|text|top|touch|tracking|transition|translate|truncate|underline|uppercase|visible|w|whitespace|z)(?:-[\w.[\]()%/#,:&>*_+-]+)?(?:\/\d+)?$/;

/** A text that is a sentence, a phrase or a name of something on the screen. */
export function isPhrase(text: string): boolean {
  if (!LETTERS.test(text.replace(/\{\d+\}/g, "")) || ADDRESS.test(text.trim())) return false;
  const tokens = text.trim().split(/\s+/);
  if (tokens.every((token) => STYLE.test(token) || /^\{\d+\}$/.test(token))) return false;
  if (tokens.length > 1) return !/^[A-Z\d]+( |$)[\d.\s{}LlMmhHvVzZ-]*$/.test(text);
  return /^\p{Lu}?\p{Ll}+(?:-\p{Ll}+)*[.,:;…!?]?$/u.test(text) && /^\p{Lu}/u.test(text);
}

/** A text that stands where text is read: one small word is enough. */
export function isRead(text: string): boolean {
  return LETTERS.test(text.replace(/\{\d+\}/g, ""));
}
