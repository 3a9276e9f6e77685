/**
 * What was typed and is not kept yet.
 *
 * An entry is written to IndexedDB and sent at the same time; it leaves the box only when the server
 * has said that it is kept, or that it cannot be. A closed tab, a restart of the server or a lost
 * connection therefore lose nothing: what is in the box is sent again, under the same ids, which is
 * harmless.
 */
import { api, asProblem, type EntryIn, type Schemas } from "../api/client";
import { opened, type Waiting } from "./shelf";

export type { Waiting };

export interface Refused {
  id: string;
  path: string;
  text: string;
}

export interface BoxState {
  waiting: Waiting[];
  refused: Refused[];
  /** Why nothing goes out at present: out of reach, or signed out. */
  held: "" | "offline" | "signed-out" | "gone";
}

const RETRY = [1_000, 2_000, 4_000, 8_000];

let order = Date.now() * 1000;

/** What goes out at once: no more than the server takes in one piece. */
const [MOST_ENTRIES, MOST_CHARACTERS] = [300, 60_000];
function batchOf(waiting: Waiting[]): Waiting[] {
  let characters = 0;
  const end = waiting.findIndex((entry, place) => {
    characters += entry.text.length;
    return place >= MOST_ENTRIES || (place > 0 && characters > MOST_CHARACTERS);
  });
  return end < 0 ? waiting : waiting.slice(0, end);
}

export class Outbox {
  state: BoxState = { waiting: [], refused: [], held: "" };
  private listeners = new Set<() => void>();
  private sending = false;
  private failures = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private loading: Promise<void> | null;

  constructor(
    readonly job: string,
    /** How many entries of the job the page holds: the answer says what is other than then. */
    private holds: () => number | undefined,
    private onKept: (answer: Schemas["KeptView"]) => void,
  ) {
    this.loading = this.load().finally(() => (this.loading = null));
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };
  snapshot = () => this.state;

  private set(change: Partial<BoxState>) {
    this.state = { ...this.state, ...change };
    this.tell();
  }

  private tell = () => this.listeners.forEach((listener) => listener());

  private async load() {
    const db = await opened();
    const left = (await db?.getAllFromIndex("waiting", "job", this.job)) ?? [];
    const known = new Set(this.state.waiting.map((entry) => entry.id));
    const waiting = [...left.filter((entry) => !known.has(entry.id)), ...this.state.waiting];
    if (left.length) this.set({ waiting: waiting.sort((a, b) => a.order - b.order) });
    if (left.length) void this.send();
  }

  /** Takes entries in and sends them. */
  add(entries: EntryIn[]) {
    const taken = entries.map(
      (entry) => ({ ...entry, text: entry.text ?? "", job: this.job, order: order++ }) as Waiting,
    );
    const paths = new Set(taken.map((entry) => entry.path));
    this.state = {
      ...this.state,
      waiting: [...this.state.waiting, ...taken],
      refused: this.state.refused.filter((refused) => !paths.has(refused.path)),
    };
    // First it goes out, then the page is drawn: the two go on side by side.
    void this.send();
    this.tell();
    void opened().then((db) => {
      const still = taken.filter((entry) => this.state.waiting.some((waiting) => waiting.id === entry.id));
      return Promise.all(still.map((entry) => db?.put("waiting", entry)));
    });
  }

  /** Sends what waits, in its order, until the box is empty or the server cannot be reached. */
  send = async () => {
    if (this.sending) return;
    this.sending = true;
    clearTimeout(this.timer);
    try {
      if (this.loading) await this.loading;
      while (this.state.waiting.length) {
        if (!(await this.sendBatch(batchOf(this.state.waiting)))) break;
      }
    } finally {
      this.sending = false;
    }
  };

  private async sendBatch(batch: Waiting[]): Promise<boolean> {
    const body = batch.map(({ id, path, text, unit, source, steady, raw, supersedes, undoes, at }) => ({
      ...{ id, path, text, unit, source, steady, raw: raw ?? "", supersedes, undoes, at },
    }));
    let answer;
    try {
      answer = await api.POST("/api/jobs/{job_id}/entries", {
        params: { path: { job_id: this.job }, query: { after: this.holds() } },
        body,
      });
    } catch {
      return this.hold("offline");
    }
    const status = answer.response.status;
    if (answer.data) {
      this.failures = 0;
      const { kept, refused } = answer.data;
      const gone = new Set([...kept, ...refused.map((one) => one.id)]);
      // What is kept is shown before what waited is let go, so that no field is empty in between.
      this.onKept(answer.data);
      this.set({
        waiting: this.state.waiting.filter((entry) => !gone.has(entry.id)),
        refused: [...this.state.refused, ...refused],
        held: "",
      });
      await this.discard(gone);
      return true;
    }
    if (status === 401) return this.hold("signed-out");
    if (status === 404 || status === 403) return this.hold("gone");
    if (status === 422 || status === 413) {
      // The server cannot read the batch: said at each field, and the text stays to be seen.
      const said = asProblem(status, answer.error).errors[0]?.text ?? "The server could not read this entry.";
      await this.discard(new Set(batch.map((entry) => entry.id)));
      this.set({
        waiting: this.state.waiting.filter((entry) => !batch.includes(entry)),
        refused: [...this.state.refused, ...batch.map(({ id, path }) => ({ id, path, text: said }))],
      });
      return true;
    }
    return this.hold("offline");
  }

  private hold(held: BoxState["held"]): false {
    this.set({ held });
    const wait = RETRY[Math.min(this.failures++, RETRY.length - 1)];
    if (held !== "gone") this.timer = setTimeout(() => void this.send(), wait);
    return false;
  }

  private async discard(ids: Set<string>) {
    const db = await opened();
    await Promise.all([...ids].map((id) => db?.delete("waiting", id)));
  }
}

const boxes = new Map<string, Outbox>();

/** The one box of a job in this window. */
export function boxOf(
  job: string,
  holds: () => number | undefined,
  onKept: (answer: Schemas["KeptView"]) => void,
): Outbox {
  let box = boxes.get(job);
  if (!box) {
    box = new Outbox(job, holds, onKept);
    boxes.set(job, box);
    const again = box.send;
    addEventListener("online", () => void again());
    document.addEventListener("visibilitychange", () => document.visibilityState === "visible" && void again());
  }
  return box;
}
