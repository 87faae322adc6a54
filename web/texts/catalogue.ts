/** Catalogues: the texts of the front end by the file that they stand in and a key made of their first words. */

import { readdirSync, readFileSync } from "node:fs";
import { join, sep } from "node:path";
import { messagesOf } from "./messages";

/** By file, without its ending, and key. `{0}`, `{1}` … in a text is filled in while the application runs. */
export type Catalogue = Record<string, Record<string, string>>;

const SOURCE = /\.tsx?$/;
const NO_TEXTS = /\.d\.ts$|^api\/types\.ts$/;
const KEY_WORDS = 6;

/** The name under which a file stands in a catalogue. */
export function nameOf(path: string): string {
  return path.split(sep).join("/").replace(SOURCE, "");
}

/** The keys of the texts of a file. */
export function keyed(path: string, code: string): Map<string, string> {
  const keys = new Map<string, string>();
  const taken = new Set<string>();
  for (const { text } of messagesOf(path, code)) {
    if (keys.has(text)) continue;
    const words = text.toLowerCase().match(/[\p{L}\d]+/gu) ?? [];
    const short = words.slice(0, KEY_WORDS).join("-");
    let key = short;
    for (let more = 2; taken.has(key); more += 1) key = `${short}-${more}`;
    taken.add(key);
    keys.set(text, key);
  }
  return keys;
}

/** The catalogue of the language in which the sources are written. */
export function catalogueOf(folder: string): Catalogue {
  const files = readdirSync(folder, { recursive: true, encoding: "utf8" })
    .filter((path) => SOURCE.test(path) && !NO_TEXTS.test(path.split(sep).join("/")))
    .sort();
  const catalogue: Catalogue = {};
  for (const path of files) {
    const keys = keyed(path, readFileSync(join(folder, path), "utf8"));
    if (keys.size) catalogue[nameOf(path)] = Object.fromEntries([...keys].map(([text, key]) => [key, text]));
  }
  return catalogue;
}
