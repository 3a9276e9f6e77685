/**
 * The core on this device: the same Python that judges at the server, in a worker beside the page.
 *
 * It is begun once the page can be used, never before. Where a browser cannot run it, the page goes on with the
 * server's call and says so.
 */
import { api, type JobView, type Schemas } from "../api/client";
import type { Asked, Told } from "./worker";

export type Whole = JobView;
export interface Changed {
  changes: Schemas["Changes"];
  stage: Schemas["JobView"]["state"];
  /** How many entries are shown here, and how many of them the server has. */
  entries: number;
  kept: number;
}

/** What the device has of the core: nothing yet, on its way, there, or why not. */
export type CoreState =
  { is: "off" | "starting" } | { is: "ready"; took: number; memory: number } | { is: "failed"; why: string };

const BEGUN_FROM = {
  snapshot: [CORE.snapshot, CORE.library.file, CORE.nothing],
  files: [CORE.site, CORE.wary, `${CORE.runtime}python_stdlib.zip`],
};
type From = keyof typeof BEGUN_FROM;

type Wait = { done: (answer: string) => void; failed: (why: Error) => void };

class Core {
  state: CoreState = { is: "off" };
  private worker?: Worker;
  private waits = new Map<number, Wait>();
  private last = 0;
  private listeners = new Set<() => void>();

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };
  snapshot = () => this.state;

  private set(state: CoreState) {
    this.state = state;
    document.documentElement.dataset.core = state.is;
    if (state.is === "ready") document.documentElement.dataset.coreMegabytes = (state.memory / 1e6).toFixed(0);
    this.listeners.forEach((listener) => listener());
  }

  /** Begins it, once. */
  start() {
    if (this.state.is !== "off") return;
    if (typeof WebAssembly !== "object" || typeof Worker !== "function")
      return this.set({ is: "failed", why: "This browser cannot run the core." });
    this.set({ is: "starting" });
    void kept("snapshot");
    this.worker = new Worker(new URL("./worker.ts", import.meta.url), { type: "module", name: "core" });
    this.worker.onmessage = (event: MessageEvent<Told>) => this.told(event.data);
    this.worker.onerror = (event) => this.fail(event.message || "The core could not be started.");
  }

  private told(told: Told) {
    if ("ready" in told) {
      document.documentElement.dataset.coreFrom = told.slow ? "files" : "snapshot";
      if (told.slow) beganSlowly(told.slow);
      return this.set({ is: "ready", took: told.ready, memory: told.memory });
    }
    if ("failed" in told) return this.fail(told.failed);
    const wait = this.waits.get(told.id);
    this.waits.delete(told.id);
    if ("answer" in told) wait?.done(told.answer);
    else wait?.failed(new Error(told.error));
  }

  private fail(why: string) {
    this.worker?.terminate();
    this.set({ is: "failed", why });
    this.waits.forEach((wait) => wait.failed(new Error(why)));
    this.waits.clear();
  }

  /** Does one of its acts; what is asked while it starts waits until it has. */
  async call<T>(act: string, said: object): Promise<T> {
    if (this.state.is === "failed" || !this.worker) throw new Error("The core is not here.");
    const id = ++this.last;
    const answer = new Promise<string>((done, failed) => this.waits.set(id, { done, failed }));
    this.worker.postMessage({ id, act, said: JSON.stringify(said) } satisfies Asked);
    return JSON.parse(await answer) as T;
  }
}

export const core = new Core();

/** Says that the core had to be put together from its files, and keeps those for the next time. */
function beganSlowly(why: string) {
  console.warn(`The core did not begin from its snapshot: ${why}`);
  void kept("files");
  void api.POST("/api/core/slow", { body: { why: why.slice(0, 300) } }).catch(() => undefined);
}

/**
 * Keeps the files that the core begins from where they are found without signal.
 *
 * Those of the version before stay: the page of before, which an older service worker still gives, begins from them.
 * The new one lets them go when it takes over.
 */
async function kept(from: From) {
  try {
    const store = await caches.open("core");
    const others = Object.entries(BEGUN_FROM).flatMap(([one, files]) => (one === from ? [] : files));
    const wanted = Object.keys(CORE.files)
      .filter((file) => !others.includes(file))
      .map((file) => `/static/core/${file}`);
    const there = new Set((await store.keys()).map((request) => new URL(request.url).pathname));
    for (const path of wanted) if (!there.has(path)) await store.add(path);
  } catch {
    // A private window or a full disk: the core works all the same, and is fetched again the next time.
  }
}
