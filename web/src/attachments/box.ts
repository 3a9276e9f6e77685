/**
 * Photographs and papers that are not kept yet, by one person in one job.
 *
 * Like an entry, a file is written to the browser's store and sent at the same time, in its person's own
 * session; it leaves the box only when the server has said that it is kept. One that the server refuses
 * stays on the device with the reason, until the person throws it away. Its id is chosen here, so that
 * sending it again is harmless.
 */
import { api, asFile, asProblem, type Schemas } from "../api/client";
import { signedIn } from "../api/session";
import { pendingNow, pendingRead } from "../job/pending";
import { FILES, NOBODY, opened, type WaitingAttachment } from "../job/store";

export type Attachment = Schemas["AttachmentView"];

export interface AttachmentsState {
  waiting: WaitingAttachment[];
  /** Those that the server did not take, each with why. */
  refused: WaitingAttachment[];
  /** Those that wait since before the device knew whose they are. */
  unowned: WaitingAttachment[];
  held: boolean;
}

const RETRY = [1_000, 3_000, 8_000, 15_000];

export class AttachmentBox {
  state: AttachmentsState = { waiting: [], refused: [], unowned: [], held: false };
  private listeners = new Set<() => void>();
  private sending = false;
  private failures = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(
    readonly person: string,
    readonly job: string,
    private onKept: (paper: Attachment) => void,
  ) {
    void this.load();
    addEventListener("online", () => void this.send());
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };
  snapshot = () => this.state;

  private set(change: Partial<AttachmentsState>) {
    this.state = { ...this.state, ...change };
    this.listeners.forEach((listener) => listener());
  }

  private async load() {
    const db = await opened();
    const all = (await db?.getAllFromIndex(FILES, "job", this.job)) ?? [];
    const unowned = all.filter((one) => one.person === NOBODY);
    const known = new Set([...this.state.waiting, ...this.state.refused].map((one) => one.id));
    const found = all.filter((one) => one.person === this.person && !known.has(one.id));
    if (!found.length && !unowned.length) return;
    this.set({
      unowned,
      waiting: [...found.filter((one) => !one.refused), ...this.state.waiting],
      refused: [...this.state.refused, ...found.filter((one) => one.refused)],
    });
    void this.send();
  }

  /** What nobody was known to have taken is this person's: they said so. */
  async own() {
    const mine = this.state.unowned.map((one) => ({ ...one, person: this.person }));
    const db = await opened();
    await Promise.all(mine.map((one) => db?.put(FILES, one)));
    this.set({ unowned: [], waiting: [...mine, ...this.state.waiting] });
    void this.send();
  }

  /** Takes files in, all of one place, and sends them. */
  async add(files: File[], path: string) {
    for (const file of files) {
      const one: WaitingAttachment = {
        id: crypto.randomUUID(),
        job: this.job,
        path,
        name: file.name || "photograph",
        at: new Date().toISOString(),
        sha256: await digest(file),
        file,
        person: this.person,
      };
      const db = await opened();
      await db?.put(FILES, one).catch(() => undefined);
      this.set({ waiting: [...this.state.waiting, one] });
    }
    void this.send();
  }

  /** Throws a file away that was not taken, once whoever took it said so. */
  async forget(id: string) {
    // It is gone from the device before it is gone from the page: a page left at once brings nothing back.
    await (await opened())?.delete(FILES, id);
    this.set({ refused: this.state.refused.filter((one) => one.id !== id) });
  }

  /** Sends a file again that was not taken. */
  async again(id: string) {
    const found = this.state.refused.find((one) => one.id === id);
    if (!found) return;
    const one: WaitingAttachment = { ...found, refused: undefined };
    await (await opened())?.put(FILES, one);
    this.set({
      refused: this.state.refused.filter((other) => other.id !== id),
      waiting: [...this.state.waiting, one],
    });
    void this.send();
  }

  send = async () => {
    if (this.sending || signedIn() !== this.person) return;
    this.sending = true;
    clearTimeout(this.timer);
    try {
      // A job that was opened on this device is opened at the server first.
      await pendingRead();
      if (this.state.waiting.length && pendingNow().openings.some((one) => one.job === this.job)) {
        this.hold();
        return;
      }
      for (let one = this.state.waiting[0]; one; one = this.state.waiting[0])
        if (signedIn() !== this.person || !(await this.sendOne(one))) break;
    } finally {
      this.sending = false;
    }
  };

  private async sendOne(one: WaitingAttachment): Promise<boolean> {
    const { id, path, name, sha256, at } = one;
    const params = { path: { job_id: this.job }, query: { id, path, name, sha256, at } };
    const sent = asFile(one.file as File);
    let answer;
    try {
      answer = await api.POST("/api/jobs/{job_id}/attachments", {
        params,
        ...sent,
        headers: { ...sent.headers, "X-Person": this.person },
      });
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
    const refused = problem ? { ...one, refused: text } : null;
    if (refused) await db?.put(FILES, refused).catch(() => undefined);
    else await db?.delete(FILES, id);
    this.set({
      waiting: this.state.waiting.filter((waiting) => waiting.id !== id),
      refused: refused ? [...this.state.refused, refused] : this.state.refused,
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

/** Sends what waits of whoever is signed in, of jobs that no page shows as well. */
export async function sendFiles() {
  const all = (await (await opened())?.getAll(FILES)) ?? [];
  const own = all.filter((one) => one.person === signedIn() && !one.refused);
  for (const job of new Set(own.map((one) => one.job))) await attachmentBoxOf(signedIn(), job, () => undefined).send();
}

const boxes = new Map<string, AttachmentBox>();

/** The one box of a person and a job in this window. */
export function attachmentBoxOf(person: string, job: string, onKept: (paper: Attachment) => void): AttachmentBox {
  let box = boxes.get(`${person} ${job}`);
  if (!box) {
    box = new AttachmentBox(person, job, onKept);
    boxes.set(`${person} ${job}`, box);
  }
  return box;
}
