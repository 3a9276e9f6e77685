/// <reference lib="webworker" />
/**
 * The core in a worker of its own: Python, what it stands on, and `wary`. It computes, and asks nothing of any host but
 * its own files; what it knows of jobs is what the page gives it.
 *
 * It goes on from a snapshot of the memory of a Python that has everything imported. Where that cannot be used it is
 * put together from its files, which takes several times as long, and the page hears why.
 */
import { loadPyodide, type PyodideInterface } from "pyodide";
import { beginning, goneOn, LOCK, NOTHING, type Native } from "../../core/library.mjs";

export interface Asked {
  id: number;
  act: string;
  said: string;
}
export type Told =
  | { id: number; answer: string }
  | { id: number; error: string }
  | { ready: number; memory: number; slow?: string }
  | { failed: string };

type Call = (act: string, said: string) => string;

const ROOT = new URL("/static/core/", self.location.origin).href;
const RUNTIME = ROOT + CORE.runtime;

async function asked(file: string): Promise<Response> {
  // What is kept on this device is taken from where it is kept, without a way through its keeper.
  const found = (await held?.match(ROOT + file)) ?? (await fetch(ROOT + file));
  if (!found.ok) throw new Error(`${file} is not there (${found.status})`);
  return found;
}

const held = await self.caches?.open("core").catch(() => undefined);

const bytes = async (file: string) => (await asked(file)).arrayBuffer();

/** Whether bytes are those that the build packed, to the last one; raises where they are not. */
async function checked(file: string, found: ArrayBuffer) {
  // A page that did not come over a safe connection has no sums; it has no keeper of files that could be off either.
  if (!self.crypto.subtle) return;
  const sum = new Uint8Array(await self.crypto.subtle.digest("SHA-256", found));
  const written = Array.from(sum, (byte) => byte.toString(16).padStart(2, "0")).join("");
  if (written !== CORE.files[file]?.sha256) throw new Error(`${file} is not what was packed`);
}

async function fromSnapshot(): Promise<PyodideInterface> {
  // All of it is asked for at once. The runtime is begun while the snapshot is on its way into the room that it takes.
  const script = import(/* @vite-ignore */ `${RUNTIME}pyodide.asm.mjs`) as Promise<{ default: never }>;
  const library = WebAssembly.compileStreaming(asked(CORE.library.file));
  const snapshot = new Uint8Array(CORE.files[CORE.snapshot]!.size);
  const there = bytes(CORE.snapshot).then((found) => {
    if (found.byteLength === snapshot.length) snapshot.set(new Uint8Array(found));
    return found;
  });
  const fits = there.then((found) => checked(CORE.snapshot, found));
  [library, fits].forEach((promise) => promise.catch(() => undefined));
  const native: Native = { ...CORE.library, library: await library };
  const begin = beginning((await script).default, native, snapshot);
  const python = await loadPyodide({
    indexURL: RUNTIME,
    lockFileContents: LOCK,
    packageBaseUrl: ROOT,
    stdLibURL: ROOT + CORE.nothing,
    createPyodideModule: async (settings: never) => {
      const module = await begin(settings);
      await there;
      return module;
    },
    _loadSnapshot: snapshot,
    _snapshotDeserializer: NOTHING,
  } as never);
  await fits;
  goneOn(python, native);
  return python;
}

async function fromFiles(): Promise<PyodideInterface> {
  const archives = Promise.all([bytes(CORE.site), bytes(CORE.wary)]);
  const python: PyodideInterface = await loadPyodide({
    indexURL: RUNTIME,
    lockFileContents: LOCK as never,
    packageBaseUrl: ROOT,
  });
  for (const archive of await archives) python.unpackArchive(archive, "zip", { extractDir: "/core" });
  python.runPython("import sys; sys.path.insert(0, '/core'); from wary.device import Device; call = Device().call");
  return python;
}

async function begun(): Promise<Call> {
  const from = performance.now();
  let slow: string | undefined;
  const python = await fromSnapshot().catch((why: unknown) => {
    slow = why instanceof Error ? why.message : String(why);
    return fromFiles();
  });
  const call = python.globals.get("call") as Call;
  // What Python has taken of this device's memory, in bytes.
  const memory = (python as unknown as { _module: { HEAPU8: Uint8Array } })._module.HEAPU8.length;
  self.postMessage({ ready: performance.now() - from, memory, slow } satisfies Told);
  return call;
}

const core = begun();
core.catch((wrong: unknown) => self.postMessage({ failed: String(wrong) } satisfies Told));

self.addEventListener("message", async (event: MessageEvent<Asked>) => {
  const { id, act, said } = event.data;
  try {
    const call = await core;
    self.postMessage({ id, answer: call(act, said) } satisfies Told);
  } catch (wrong) {
    self.postMessage({ id, error: String(wrong) } satisfies Told);
  }
});
