import { Marked, type Parser, type Tokens } from "marked";
import type { Plugin } from "vite";
import { anchor } from "./src/help/anchor";

interface Parsing {
  parser: Parser;
}

const DOCS = /\/docs\/(.+)\.md$/;

/** Pages of `docs/` as HTML, made when the front end is built; links between them lead to the help section. */
export function markdown(): Plugin {
  return {
    name: "markdown",
    transform(code, id) {
      const page = DOCS.exec(id)?.[1];
      if (!page) return null;
      const folder = page.includes("/") ? `${page.slice(0, page.lastIndexOf("/"))}/` : "";
      const html = new Marked({
        async: false,
        walkTokens: (token) => turnLink(token, folder),
        renderer: { heading, tablerow },
      }).parse(code);
      return { code: `export default ${JSON.stringify(html)}`, map: null };
    },
  };
}

/** Headings can be linked to: by their number, as `section-3`, or by their words. */
function heading(this: Parsing, { tokens, depth }: Tokens.Heading): string {
  const inner = this.parser.parseInline(tokens);
  const number = /^(\d+)\./.exec(inner)?.[1];
  return `<h${depth} id="${number ? `section-${number}` : anchor(inner)}">${inner}</h${depth}>\n`;
}

/** So can rows of tables, by what stands in front. */
function tablerow({ text }: Tokens.TableRow): string {
  const first = /<td[^>]*>(.*?)<\/td>/.exec(text)?.[1];
  return `<tr${first ? ` id="${anchor(first)}"` : ""}>\n${text}</tr>\n`;
}

function turnLink(token: { type: string; href?: string }, folder: string): void {
  if (token.type !== "link" || !token.href || /^[a-z]+:|^#|^\//.test(token.href)) return;
  const [path = "", hash = ""] = token.href.split("#");
  const page = new URL(path, `http://docs/${folder}`).pathname.slice(1);
  token.href = page.endsWith(".md") ? `/help/${page.slice(0, -3)}${hash && `#${hash}`}` : token.href;
}
