/**
 * Packs the core for the browser: the runtime of Python, what the core stands on, and `wary` itself, compiled; and a
 * snapshot of the memory of a Python that has all of it imported, from which a device begins in a fraction of the time.
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
import { beginning, LOCK, NOTHING } from "./library.mjs";

const LARGE = 20_000_000;
const [wheels, out] = process.argv.slice(2);
const here = dirname(fileURLToPath(import.meta.url));
const runtime = join(here, "../node_modules/pyodide");

async function archived() {
  const python = await loadPyodide({ indexURL: runtime });
  python.mountNodeFS("/wheels", wheels);
  python.mountNodeFS("/project", join(here, "../.."));
  python.FS.writeFile("/packing.py", readFileSync(join(here, "packing.py")));
  return python.runPython("import sys; sys.path.insert(0, '/'); import packing; packing.archives()").toJs();
}

/** The memory of a Python with everything imported that a device may ask for. */
async function remembered({ site, wary, library }) {
  const { default: create } = await import(join(runtime, "pyodide.asm.mjs"));
  const native = { path: `/core/${library.path}`, library: await WebAssembly.compile(library.bytes) };
  const python = await loadPyodide({
    indexURL: runtime,
    lockFileContents: LOCK,
    env: { PYTHONHASHSEED: "0" },
    createPyodideModule: beginning(create, native),
    _makeSnapshot: true,
  });
  for (const archive of [site, wary]) python.unpackArchive(archive, "zip", { extractDir: "/core" });
  python.FS.writeFile("/remembering.py", readFileSync(join(here, "remembering.py")));
  python.runPython("import sys; sys.path.insert(0, '/core'); sys.path.insert(0, '/')");
  python.runPython("import remembering; remembering.all_imported()");
  cleared(python);
  const whole = python.makeMemorySnapshot({ serializer: NOTHING });
  let last = whole.length;
  while (whole[last - 1] === 0) last -= 1;
  return { snapshot: whole.subarray(0, Math.ceil(last / 65_536) * 65_536), base: native.base };
}

/**
 * Writes zeros over what is free of the memory, which then takes next to nothing when it is compressed. What was never
 * in use lies beyond the break and is zero already.
 */
function cleared({ _module: module }) {
  const end = module._sbrk(0);
  const taken = [];
  for (let piece = 1 << 20; piece >= 32; piece >>= 1)
    for (;;) {
      const at = module._malloc(piece);
      const within = at && at + piece <= end;
      if (within) module.HEAPU8.fill(0, at, at + piece);
      taken.push(at);
      if (!within) break;
    }
  taken.forEach((at) => module._free(at));
  return module._sbrk(0);
}

const { site, wary, library_path: path, library: bytes, nothing } = await archived();
const library = { path, bytes };
const { snapshot, base } = await remembered({ site, wary, library });

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
    const params = { [constants.BROTLI_PARAM_QUALITY]: bytes.length > LARGE ? 7 : 9 };
    const small = brotliCompressSync(bytes, { params });
    writeFileSync(join(out, `${file}.br`), small);
    writeFileSync(join(out, `${file}.gz`), gzipSync(bytes, { level: 6 }));
    sent = small.length;
  }
  files[file] = { size: bytes.length, sent, sha256: hashOf(bytes) };
  return file;
};
const named = (name, bytes, ending) => keep(`${name}-${hashOf(bytes).slice(0, 12)}.${ending}`, bytes);
const parts = ["pyodide.asm.mjs", "pyodide.asm.wasm", "python_stdlib.zip"].map((name) => [
  name,
  readFileSync(join(runtime, name)),
]);
const folder = `runtime-${hashOf(...parts.map(([, bytes]) => bytes)).slice(0, 12)}/`;
for (const [name, bytes] of parts) keep(folder + name, bytes);
const manifest = {
  runtime: folder,
  site: named("site", site, "zip"),
  wary: named("wary", wary, "zip"),
  library: { file: named("library", library.bytes, "wasm"), path: `/core/${library.path}`, base },
  snapshot: named("snapshot", snapshot, "bin"),
  // What stands in the standard library's place where nothing is left to import.
  nothing: named("nothing", nothing, "zip"),
  files,
};
writeFileSync(join(out, "manifest.json"), JSON.stringify(manifest, null, 2) + "\n");
