/** Putting a source into another language, while it is built. */

import { messagesOf, type Message } from "./messages";

type Range = Message["range"];

/** The source with each of its texts as `said` gives it; one that it gives nothing for stays. */
export function translated(path: string, code: string, said: (text: string) => string | undefined): string {
  const messages = messagesOf(path, code)
    .filter((one) => said(one.text) !== undefined)
    .sort((a, b) => a.range[0] - b.range[0] || b.range[1] - a.range[1]);
  const within = ([start, end]: Range): string => {
    let at = start;
    let out = "";
    for (const one of messages) {
      // Those within a slot of another are written with it.
      if (one.range[0] < at || one.range[1] > end) continue;
      out += code.slice(at, one.range[0]) + written(one, said(one.text) ?? one.text, within);
      at = one.range[1];
    }
    return out + code.slice(at, end);
  };
  return within([0, code.length]);
}

function written(one: Message, text: string, within: (range: Range) => string): string {
  const parts = text.split(/\{(\d+)\}/).map((part, at) => {
    const slot = at % 2 ? one.slots[Number(part)] : undefined;
    if (slot) return one.form === "template" ? `\${${within(slot)}}` : within(slot);
    if (one.form === "template") return part.replace(/[\\`]|\$\{/g, "\\$&");
    return one.form === "children" ? part && `{${JSON.stringify(part)}}` : JSON.stringify(part);
  });
  if (one.form === "template") return `\`${parts.join("")}\``;
  return one.form === "attribute" ? `{${parts.join("")}}` : parts.join("");
}
