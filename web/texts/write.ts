/** Writes the catalogue of the sources, `texts/en.json`; with `--check`, says whether it is current. */

import { readFileSync, writeFileSync } from "node:fs";
import { catalogueOf } from "./catalogue";

const FILE = "texts/en.json";
const now = `${JSON.stringify(catalogueOf("src"), null, 1)}\n`;
if (!process.argv.includes("--check")) {
  writeFileSync(FILE, now);
} else if (readFileSync(FILE, "utf8") !== now) {
  process.stderr.write(`web/${FILE} is not what the sources say; run \`npm run texts\` in web/\n`);
  process.exit(1);
}
