/**
 * Packs the core for the browser: the runtime of Python, what the core stands on, and `wary` itself, compiled.
 *
 *     node core/pack.mjs WHEELS OUT
 *
 * WHEELS is a folder of wheels as the lock file names them; OUT is emptied and filled with files that are named by
 * their hash, and with a `manifest.json` that lists them with their sizes. Nothing is fetched.
 */
import { createHash } from "node:crypto";
import { mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { brotliCompressSync, constants, gzipSync } from "node:zlib";
import { loadPyodide } from "pyodide";

const [wheels, out] = process.argv.slice(2);
const here = dirname(fileURLToPath(import.meta.url));
const runtime = join(here, "../node_modules/pyodide");

const python = await loadPyodide({ indexURL: runtime });
python.mountNodeFS("/wheels", wheels);
python.mountNodeFS("/project", join(here, "../.."));
python.FS.writeFile("/packing.py", readFileSync(join(here, "packing.py")));
const archives = python.runPython("import sys; sys.path.insert(0, '/'); import packing; packing.archives()").toJs();

rmSync(out, { recursive: true, force: true });
mkdirSync(out, { recursive: true });
const files = {};
const hashOf = (...all) => all.reduce((hash, bytes) => hash.update(bytes), createHash("sha256")).digest("hex");
const keep = (file, bytes) => {
  mkdirSync(dirname(join(out, file)), { recursive: true });
  writeFileSync(join(out, file), bytes);
  let sent = bytes.length;
  if (!file.endsWith(".zip")) {
    // Compressed here, once, and not each time that the server's files are gathered.
    const small = brotliCompressSync(bytes, { params: { [constants.BROTLI_PARAM_QUALITY]: 9 } });
    writeFileSync(join(out, `${file}.br`), small);
    writeFileSync(join(out, `${file}.gz`), gzipSync(bytes, { level: 9 }));
    sent = small.length;
  }
  files[file] = { size: bytes.length, sent, sha256: hashOf(bytes) };
  return file;
};
const parts = ["pyodide.asm.mjs", "pyodide.asm.wasm", "python_stdlib.zip"].map((name) => [
  name,
  readFileSync(join(runtime, name)),
]);
const folder = `runtime-${hashOf(...parts.map(([, bytes]) => bytes)).slice(0, 12)}/`;
for (const [name, bytes] of parts) keep(folder + name, bytes);
const named = Object.fromEntries(
  Object.entries(archives).map(([name, bytes]) => [name, keep(`${name}-${hashOf(bytes).slice(0, 12)}.zip`, bytes)]),
);
writeFileSync(join(out, "manifest.json"), JSON.stringify({ runtime: folder, ...named, files }, null, 2) + "\n");
