/// <reference lib="webworker" />
/**
 * The core in a worker of its own: Python, what it stands on, and `wary`. It computes, and asks nothing of any host but
 * its own files; what it knows of jobs is what the page gives it.
 */
import { loadPyodide, type PyodideInterface } from "pyodide";

export interface Asked {
  id: number;
  act: string;
  said: string;
}
export type Told =
  | { id: number; answer: string }
  | { id: number; error: string }
  | { ready: number; memory: number }
  | { failed: string };

const { runtime, site, wary } = CORE;
const ROOT = new URL("/static/core/", self.location.origin).href;

const bytes = async (file: string) => {
  const found = await fetch(ROOT + file);
  if (!found.ok) throw new Error(`${file} is not there (${found.status})`);
  return found.arrayBuffer();
};

async function begun(): Promise<(act: string, said: string) => string> {
  const from = performance.now();
  // All of it is asked for at once; it is put together as it comes.
  const archives = Promise.all([bytes(site), bytes(wary)]);
  const python: PyodideInterface = await loadPyodide({
    indexURL: ROOT + runtime,
    lockFileContents: { info: ABOUT, packages: {} } as never,
    packageBaseUrl: ROOT,
  });
  for (const archive of await archives) python.unpackArchive(archive, "zip", { extractDir: "/core" });
  const call = python.runPython(
    "import sys; sys.path.insert(0, '/core'); from wary.device import Device; Device().call",
  ) as (act: string, said: string) => string;
  // What Python has taken of this device's memory, in bytes.
  const memory = (python as unknown as { _module: { HEAPU8: Uint8Array } })._module.HEAPU8.length;
  self.postMessage({ ready: performance.now() - from, memory } satisfies Told);
  return call;
}

const ABOUT = {
  abi_version: "2026_0",
  arch: "wasm32",
  platform: "emscripten_5_0_3",
  python: "3.14.2",
  version: "314.0.7",
};

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
