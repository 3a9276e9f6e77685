/**
 * What was typed and is not kept yet, by one person into one job.
 *
 * It is sent in that person's session and in no other. An entry is written to IndexedDB and sent at the same time; it leaves the box only when the server
 * has said that it is kept, or that it cannot be. A closed tab, a restart of the server or a lost
 * connection therefore lose nothing: what is in the box is sent again, under the same ids, which is
 * harmless.
 */
import { api, asProblem, clockOff, type EntryIn, type Schemas } from "../api/client";
import { signedIn } from "../api/session";
import { pendingNow, pendingRead } from "./pending";
import { NOBODY, onceOpened, opened, type Waiting } from "./store";

export type { Waiting };

/** What the server did not take: why, and what was typed. */
export interface Refused {
  id: string;
  path: string;
  text: string;
  typed: Waiting;
}

export interface BoxState {
  waiting: Waiting[];
  refused: Refused[];
  /** Entries that wait since before the device knew who typed them. */
  unowned: Waiting[];
  /** What waited here from before is in it by now. */
  read: boolean;
  /** Why nothing goes out at present: out of reach, or signed out. */
  held: "" | "offline" | "signed-out" | "gone" | "closed";
  /** The browser has no room for it, or keeps nothing: what waits is in this window alone. */
  unkept: boolean;
  /** So many entries were left for a lead to look at: this person may not work on the job any more. */
  left: number;
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

/** So many times an entry is sent that the server cannot work with; then it is put aside, and the others go on. */
const MOST_FAULTS = 3;
/** What was typed is shown with its call; after so many ms without it. */
const AT_LATEST = 40;
const DAY = 86_400_000;

const CLOCK_MAY = 120_000;
/**
 * When it was typed, by the server's clock: a device whose clock is hours off counts right from one entry to the next.
 * One that is days off does not say when: then it is when the server has it.
 */
export function when(at?: string | null): string | null {
  const off = clockOff();
  if (!at || Math.abs(off) >= DAY) return null;
  return Math.abs(off) < CLOCK_MAY ? at : new Date(Date.parse(at) - off).toISOString();
}
/** The seconds by which this device's clock is ahead, where that is so much that times are put right by it. */
const clockSaid = () => (Math.abs(clockOff()) < CLOCK_MAY ? null : Math.round(clockOff() / 1000));

export class Outbox {
  state: BoxState = { waiting: [], refused: [], unowned: [], read: false, held: "", unkept: false, left: 0 };
  private listeners = new Set<() => void>();
  private sending = false;
  private failures = 0;
  private faults = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private loading: Promise<void> | null;

  constructor(
    readonly person: string,
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

  /** Shows what the box holds by now. */
  tell = () => this.listeners.forEach((listener) => listener());

  private async load() {
    const db = await opened();
    // A store that opens slowly is read when it is there, and has what came meanwhile.
    if (!db) onceOpened(() => void this.load().then(() => this.keep(this.state.waiting)));
    const all = (await db?.getAllFromIndex("waiting", "job", this.job).catch(() => null)) ?? [];
    const mine = all.filter((entry) => entry.person === this.person);
    const left = mine.filter((entry) => !entry.refused);
    const refused = new Set(this.state.refused.map((one) => one.id));
    const again = mine.filter((entry) => entry.refused && !refused.has(entry.id)).map(refusedOf);
    const unowned = all.filter((entry) => entry.person === NOBODY);
    const known = new Set(this.state.waiting.map((entry) => entry.id));
    const waiting = [...left.filter((entry) => !known.has(entry.id)), ...this.state.waiting];
    this.set({
      unowned,
      waiting: waiting.sort((a, b) => a.order - b.order),
      refused: [...again, ...this.state.refused],
      read: true,
    });
    if (left.length) void this.send();
  }

  /** What nobody was known to have typed is this person's: they said so. */
  async own() {
    const mine = this.state.unowned.map((entry) => ({ ...entry, person: this.person }));
    const db = await opened();
    await Promise.all(mine.map((entry) => db?.put("waiting", entry)));
    this.set({ unowned: [], waiting: [...mine, ...this.state.waiting].sort((a, b) => a.order - b.order) });
    void this.send();
  }

  /** Takes entries in and sends them. Where `later` is given, it says when they are shown. */
  add(entries: EntryIn[], later = false) {
    const taken = entries.map(
      (entry) => ({ ...entry, text: entry.text ?? "", job: this.job, order: order++, person: this.person }) as Waiting,
    );
    const paths = new Set(taken.map((entry) => entry.path));
    // Something else is typed where something was not taken: that is laid aside by it.
    const aside = this.state.refused.filter((refused) => paths.has(refused.path));
    void this.discard(new Set(aside.map((one) => one.id)));
    this.state = {
      ...this.state,
      waiting: [...this.state.waiting, ...taken],
      refused: this.state.refused.filter((refused) => !paths.has(refused.path)),
    };
    // First it goes out, then the page is drawn: the two go on side by side.
    void this.send();
    if (later) setTimeout(this.tell, AT_LATEST);
    else this.tell();
    void this.keep(taken);
  }

  /** Writes entries into the store, as far as they still wait. */
  private async keep(entries: Waiting[]) {
    try {
      const db = await opened();
      const still = entries.filter((entry) => this.state.waiting.some((waiting) => waiting.id === entry.id));
      if (!db && still.length) throw new Error("nothing is kept");
      await Promise.all(still.map((entry) => db!.put("waiting", entry)));
      if (this.state.unkept) this.set({ unkept: false });
    } catch {
      this.set({ unkept: true });
    }
  }

  /** What was not taken stays where it was typed, with the reason, also when the page is closed. */
  private async putBack(why: Map<string, string>): Promise<Refused[]> {
    const back = this.state.waiting
      .filter((entry) => why.has(entry.id))
      .map((entry) => ({ ...entry, refused: why.get(entry.id)! }));
    const db = await opened();
    await Promise.all(back.map((entry) => db?.put("waiting", entry))).catch(() => this.set({ unkept: true }));
    return back.map(refusedOf);
  }

  /** Lays aside what was not taken: all of it, or one. */
  async layAside(id?: string) {
    const aside = this.state.refused.filter((one) => !id || one.id === id);
    this.set({ refused: this.state.refused.filter((one) => !aside.includes(one)) });
    await this.discard(new Set(aside.map((one) => one.id)));
  }

  /** Sends what waits, in its order, until the box is empty or the server cannot be reached. */
  send = async () => {
    // Whoever is signed in by now sends what is theirs, and nothing else.
    if (this.sending || signedIn() !== this.person) return;
    this.sending = true;
    clearTimeout(this.timer);
    try {
      if (this.loading) await this.loading;
      // A job that was opened here is opened at the server first.
      await pendingRead();
      if (pendingNow().openings.some((one) => one.job === this.job)) {
        this.hold("offline");
        return;
      }
      while (this.state.waiting.length) {
        // After a fault one entry goes out alone, so that one that cannot be worked with holds none of the others up.
        const batch = this.faults ? this.state.waiting.slice(0, 1) : batchOf(this.state.waiting);
        if (signedIn() !== this.person || !(await this.sendBatch(batch))) break;
      }
    } finally {
      this.sending = false;
    }
  };

  private async sendBatch(batch: Waiting[]): Promise<boolean> {
    const body = batch.map(({ id, path, text, unit, source, steady, raw, supersedes, undoes, at }) => ({
      ...{ id, path, text, unit, source, steady, raw: raw ?? "", supersedes, undoes },
      at: when(at),
      clock_off: clockSaid(),
    }));
    let answer;
    try {
      answer = await api.POST("/api/jobs/{job_id}/entries", {
        params: { path: { job_id: this.job }, query: { after: this.holds(), log: true } },
        headers: { "X-Person": this.person },
        body,
      });
    } catch {
      return this.hold("offline");
    }
    const status = answer.response.status;
    if (answer.data) {
      this.failures = this.faults = 0;
      const { kept, refused, state } = answer.data;
      if (refused.length && (state === "closed" || state === "abandoned")) {
        // Somebody closed it meanwhile: what was typed here is not dropped, and goes where this person says.
        const known = new Set<string>(kept);
        this.onKept({ ...answer.data, refused: [] });
        this.set({ waiting: this.state.waiting.filter((entry) => !known.has(entry.id)), held: "closed" });
        await this.discard(known);
        return false;
      }
      const back = await this.putBack(new Map(refused.map((one) => [one.id, one.text])));
      const gone = new Set<string>([...kept, ...refused.map((one) => one.id)]);
      // What is kept is shown before what waited is let go, so that no field is empty in between.
      this.onKept(answer.data);
      this.set({
        waiting: this.state.waiting.filter((entry) => !gone.has(entry.id)),
        refused: [...this.state.refused, ...back],
        held: "",
      });
      await this.discard(new Set<string>(kept));
      return true;
    }
    if (status === 401) return this.hold("signed-out");
    if (status === 404 || status === 403) return this.leave(batch, body);
    const faulty = status === 500 && batch.length === 1 && ++this.faults >= MOST_FAULTS;
    if (status === 500 && !faulty) {
      this.faults = Math.max(1, this.faults);
      return this.hold("offline");
    }
    if (status === 422 || status === 413 || faulty) {
      // The server cannot work with the batch: said at each field, and the text stays there.
      const problem = asProblem(status, answer.error);
      const said = faulty
        ? "The server could not work with this; it was noted. Type it another way."
        : (problem.errors[0]?.text ?? "The server could not read this entry.");
      this.faults = 0;
      const back = await this.putBack(new Map(batch.map((entry) => [entry.id, said])));
      this.set({
        waiting: this.state.waiting.filter((entry) => !batch.includes(entry)),
        refused: [...this.state.refused, ...back],
      });
      return true;
    }
    return this.hold("offline");
  }

  /** Who may not work on the job any more leaves what they typed for a lead to look at; else it waits here. */
  private async leave(batch: Waiting[], body: EntryIn[]): Promise<boolean> {
    try {
      const params = { path: { job_id: this.job } };
      const left = await api.POST("/api/jobs/{job_id}/left-behind", {
        params,
        headers: { "X-Person": this.person },
        body,
      });
      if (!left.data) return this.hold("gone");
    } catch {
      return this.hold("offline");
    }
    this.set({
      waiting: this.state.waiting.filter((entry) => !batch.includes(entry)),
      left: this.state.left + batch.length,
    });
    await this.discard(new Set(batch.map((entry) => entry.id)));
    return true;
  }

  private hold(held: BoxState["held"]): false {
    this.set({ held });
    const wait = RETRY[Math.min(this.failures++, RETRY.length - 1)];
    if (held !== "gone") this.timer = setTimeout(() => void this.send(), wait);
    return false;
  }

  /** Lets go of what waits: it went elsewhere, or is thrown away. */
  async letGo() {
    const ids = new Set(this.state.waiting.map((entry) => entry.id));
    await this.discard(ids);
    this.set({ waiting: [], held: "" });
  }

  private async discard(ids: Set<string>) {
    const db = await opened();
    await Promise.all([...ids].map((id) => db?.delete("waiting", id)));
  }
}

function refusedOf(typed: Waiting): Refused {
  return { id: typed.id, path: typed.path, text: typed.refused ?? "", typed };
}

const boxes = new Map<string, Outbox>();

/** The one box of a person and a job in this window. */
export function boxOf(
  person: string,
  job: string,
  holds: () => number | undefined,
  onKept: (answer: Schemas["KeptView"]) => void,
): Outbox {
  let box = boxes.get(`${person} ${job}`);
  if (!box) {
    box = new Outbox(person, job, holds, onKept);
    boxes.set(`${person} ${job}`, box);
    const again = box.send;
    addEventListener("online", () => void again());
    document.addEventListener("visibilitychange", () => document.visibilityState === "visible" && void again());
  }
  return box;
}
