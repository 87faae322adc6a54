import assert from "node:assert/strict";
import { mkdir, mkdtemp, readdir, readFile, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { test } from "node:test";
import { brotliDecompressSync, gunzipSync } from "node:zlib";
import { compressed } from "../compress";

const TEXT = "const words = ['reef', 'reef', 'reef'];\n".repeat(200);

test("every text of a build lies beside itself in less, and says the same", async () => {
  const dir = await mkdtemp(join(tmpdir(), "built-"));
  try {
    await mkdir(join(dir, "assets"));
    await Promise.all(
      ["index.html", "assets/a.js", "assets/a.css"].map((name) => writeFile(join(dir, name), TEXT)),
    );
    await writeFile(join(dir, "assets/a.woff2"), TEXT);
    const { writeBundle } = compressed();
    assert.ok(typeof writeBundle === "function");
    await (writeBundle as (options: { dir: string }) => Promise<void>)({ dir });
    for (const name of ["index.html", "assets/a.js", "assets/a.css"]) {
      const [gz, br] = await Promise.all(["gz", "br"].map((end) => readFile(join(dir, `${name}.${end}`))));
      assert.ok(gz && br && br.length < gz.length && gz.length < TEXT.length / 10);
      assert.equal(gunzipSync(gz).toString(), TEXT);
      assert.equal(brotliDecompressSync(br).toString(), TEXT);
    }
    // Fonts are compressed as they are.
    assert.ok(!(await readdir(join(dir, "assets"))).some((name) => name.startsWith("a.woff2.")));
  } finally {
    await rm(dir, { recursive: true });
  }
});
