import { readdir, readFile, writeFile } from "node:fs/promises";
import { extname, join } from "node:path";
import { brotliCompressSync, constants, gzipSync } from "node:zlib";
import type { Plugin } from "vite";

const TEXT = new Set([".css", ".html", ".js", ".svg"]);

/** Every text of the build beside itself in less, which is what browsers are sent: as gzip, and as Brotli for those
 * that ask for it. */
export function compressed(): Plugin {
  return {
    name: "compressed",
    async writeBundle({ dir = "dist" }) {
      const files = await readdir(dir, { recursive: true });
      await Promise.all(
        files.filter((name) => TEXT.has(extname(name))).map((name) => compress(join(dir, name))),
      );
    },
  };
}

async function compress(path: string): Promise<void> {
  const whole = await readFile(path);
  await writeFile(`${path}.gz`, gzipSync(whole, { level: 9 }));
  await writeFile(
    `${path}.br`,
    brotliCompressSync(whole, { params: { [constants.BROTLI_PARAM_SIZE_HINT]: whole.length } }),
  );
}
