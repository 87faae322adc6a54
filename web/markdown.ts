import { Marked } from "marked";
import type { Plugin } from "vite";

const DOCS = /\/docs\/(.+)\.md$/;

/** Pages of `docs/` as HTML, made when the front end is built; links between them lead to the help section. */
export function markdown(): Plugin {
  return {
    name: "markdown",
    transform(code, id) {
      const page = DOCS.exec(id)?.[1];
      if (!page) return null;
      const folder = page.includes("/") ? `${page.slice(0, page.lastIndexOf("/"))}/` : "";
      const html = new Marked({ async: false, walkTokens: (token) => turnLink(token, folder) }).parse(code);
      return { code: `export default ${JSON.stringify(html)}`, map: null };
    },
  };
}

function turnLink(token: { type: string; href?: string }, folder: string): void {
  if (token.type !== "link" || !token.href || /^[a-z]+:|^#|^\//.test(token.href)) return;
  const [path = "", hash = ""] = token.href.split("#");
  const page = new URL(path, `http://docs/${folder}`).pathname.slice(1);
  token.href = page.endsWith(".md") ? `/help/${page.slice(0, -3)}${hash && `#${hash}`}` : token.href;
}
