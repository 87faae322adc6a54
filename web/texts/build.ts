import { readFileSync } from "node:fs";
import { relative } from "node:path";
import type { Plugin } from "vite";
import { keyed, nameOf, type Catalogue } from "./catalogue";
import { translated } from "./translated";

/**
 * Builds the front end in the language of a catalogue, named by its file; without one it is built as it is written.
 * A text that the catalogue does not have stays as it is. Its language, and the
 * country whose dates are wanted, stand under no file: {"": {"language": "de-AT"}}.
 */
export function inLanguage(file: string | undefined, folder: string): Plugin {
  const catalogue = file ? (JSON.parse(readFileSync(file, "utf8")) as Catalogue) : {};
  return {
    name: "in-language",
    enforce: "pre",
    transform(code, id) {
      const path = relative(folder, id);
      const own = catalogue[nameOf(path)];
      if (!own || path.startsWith("..")) return null;
      const keys = keyed(path, code);
      return { code: translated(path, code, (text) => own[keys.get(text) ?? ""]), map: null };
    },
    transformIndexHtml(html) {
      const language = catalogue[""]?.["language"];
      return language ? html.replace(/lang="[^"]*"/, `lang="${language}"`) : html;
    },
  };
}
