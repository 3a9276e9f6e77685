/**
 * Photographs and papers that are not kept yet.
 *
 * Like an entry, a file is written to the browser's store and sent at the same time; it leaves the box
 * only when the server has said that it is kept, or why it is not. Its id is chosen here, so that
 * sending it again is harmless.
 */
import { api, asFile, asProblem, type Schemas } from "../api/client";
import { opened, type WaitingPaper } from "../job/shelf";

export type Paper = Schemas["PaperView"];

export interface RefusedPaper {
  id: string;
  name: string;
  path: string;
  text: string;
}

export interface PapersState {
  waiting: WaitingPaper[];
  refused: RefusedPaper[];
  held: boolean;
}

const RETRY = [1_000, 3_000, 8_000, 15_000];

export class PaperBox {
  state: PapersState = { waiting: [], refused: [], held: false };
  private listeners = new Set<() => void>();
  private sending = false;
  private failures = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(
    readonly job: string,
    private onKept: (paper: Paper) => void,
  ) {
    void this.load();
    addEventListener("online", () => void this.send());
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };
  snapshot = () => this.state;

  private set(change: Partial<PapersState>) {
    this.state = { ...this.state, ...change };
    this.listeners.forEach((listener) => listener());
  }

  private async load() {
    const db = await opened();
    const left = (await db?.getAllFromIndex("papers", "job", this.job)) ?? [];
    const known = new Set(this.state.waiting.map((one) => one.id));
    const found = left.filter((one) => !known.has(one.id));
    if (!found.length) return;
    this.set({ waiting: [...found, ...this.state.waiting] });
    void this.send();
  }

  /** Takes files in, all of one place, and sends them. */
  async add(files: File[], path: string) {
    for (const file of files) {
      const one: WaitingPaper = {
        id: crypto.randomUUID(),
        job: this.job,
        path,
        name: file.name || "photograph",
        at: new Date().toISOString(),
        sha256: await digest(file),
        file,
      };
      const db = await opened();
      await db?.put("papers", one).catch(() => undefined);
      this.set({ waiting: [...this.state.waiting, one] });
    }
    void this.send();
  }

  /** Puts a refusal out of sight, once it was read. */
  forget(id: string) {
    this.set({ refused: this.state.refused.filter((one) => one.id !== id) });
  }

  send = async () => {
    if (this.sending) return;
    this.sending = true;
    clearTimeout(this.timer);
    try {
      for (let one = this.state.waiting[0]; one; one = this.state.waiting[0]) if (!(await this.sendOne(one))) break;
    } finally {
      this.sending = false;
    }
  };

  private async sendOne(one: WaitingPaper): Promise<boolean> {
    const { id, path, name, sha256, at } = one;
    const params = { path: { job_id: this.job }, query: { id, path, name, sha256, at } };
    let answer;
    try {
      answer = await api.POST("/api/jobs/{job_id}/papers", { params, ...asFile(one.file as File) });
    } catch {
      return this.hold();
    }
    const { status } = answer.response;
    if (!answer.data && (status >= 500 || status === 401 || status === 429)) return this.hold();
    this.failures = 0;
    if (answer.data) this.onKept(answer.data);
    const problem = answer.data ? null : asProblem(status, answer.error);
    const text = problem?.errors[0]?.text ?? problem?.message ?? "";
    const db = await opened();
    await db?.delete("papers", id);
    this.set({
      waiting: this.state.waiting.filter((waiting) => waiting.id !== id),
      refused: problem ? [...this.state.refused, { id, name, path, text }] : this.state.refused,
      held: false,
    });
    return true;
  }

  private hold(): false {
    this.set({ held: true });
    this.timer = setTimeout(() => void this.send(), RETRY[Math.min(this.failures++, RETRY.length - 1)]);
    return false;
  }
}

/** SHA-256 of a file, so that the server can say whether it arrived whole; empty where the browser gives none. */
async function digest(file: Blob): Promise<string> {
  const subtle = globalThis.crypto?.subtle as SubtleCrypto | undefined;
  if (!subtle) return "";
  const hash = await subtle.digest("SHA-256", await file.arrayBuffer());
  return [...new Uint8Array(hash)].map((byte) => byte.toString(16).padStart(2, "0")).join("");
}

const boxes = new Map<string, PaperBox>();

/** The one box of a job in this window. */
export function paperBoxOf(job: string, onKept: (paper: Paper) => void): PaperBox {
  let box = boxes.get(job);
  if (!box) {
    box = new PaperBox(job, onKept);
    boxes.set(job, box);
  }
  return box;
}
