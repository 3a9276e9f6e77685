/**
 * A job as the core on this device has it: the call at once, before the server has answered and where it cannot.
 *
 * What is shown is the server's job with what waits on top of it, worked out here. Once nothing waits any more, the
 * server's own is shown again; where it says something else, its word stands, and the difference is said and counted.
 */
import { api, asked, type EntryIn, type JobView, type Schemas } from "../api/client";
import { reachNow } from "../api/reach";
import { core, type Changed } from "../core/core";
import { dayIn } from "../ui/words";
import { patched } from "./patches";
import { keep, keptOf } from "./kept";

export type AtHand = Schemas["JobAtHand"];

export interface Closing {
  errors: { path: string; text: string }[];
  expected: Schemas["Expected"];
  words: string;
}

export interface LocalState {
  /** The job as it is shown; null where the server's own is. */
  shown: JobView | null;
  /** Whether the call is worked out here. */
  works: boolean;
  /** What the core here and the server's judged otherwise, in words; empty where they agree. */
  differs: string;
}

export class LocalJob {
  state: LocalState = { shown: null, works: false, differs: "" };
  private listeners = new Set<() => void>();
  private begun: Promise<boolean> | null = null;
  private zone = "UTC";
  private line: Promise<unknown> = Promise.resolve();
  /** How often the job was let go of: what was asked of the core before that is no answer any more. */
  private age = 0;

  constructor(
    readonly id: string,
    private who: () => string,
    private held: () => JobView | undefined,
    private put: (view: JobView) => void,
  ) {}

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };
  snapshot = () => this.state;

  private set(change: Partial<LocalState>) {
    this.state = { ...this.state, ...change };
    this.listeners.forEach((listener) => listener());
  }

  /** Takes the job in hand, once the core is there; `waiting` says what was typed here and is not kept yet. */
  begin(waiting: () => EntryIn[]) {
    if (this.begun || core.state.is !== "ready") return;
    const { age } = this;
    this.begun = this.taken(TRIES).catch(() => false);
    void this.begun.then((works) => {
      if (age !== this.age) return;
      if (!works) return (this.begun = null);
      this.set({ works });
      if (waiting().length) this.enter(waiting());
    });
  }

  /** Whether it could be taken in hand; what is typed meanwhile moves on under it, and then it is tried again. */
  private async taken(tries: number): Promise<boolean> {
    if (await this.take()) return true;
    if (tries <= 1) return false;
    await new Promise((done) => setTimeout(done, 300));
    return this.taken(tries - 1);
  }

  private async take(): Promise<boolean> {
    const found = await atHand(this.id);
    const held = this.held();
    if (!found?.log || !held) return false;
    this.zone = found.time_zone;
    const document = { ...(JSON.parse(found.document) as object), entries: found.log };
    const show = found.entries !== held.entries;
    const whole = await core.call<Partial<JobView> & { stage: JobView["state"] }>("take", {
      job: this.id,
      document,
      day: this.day(),
      show,
    });
    const now = this.held();
    if (!now) return false;
    if (!show) return now.entries === found.entries;
    // The page has it from another moment than the core: without signal the core's word is the later one.
    if (now.entries > found.entries || !reachNow().asOf) return false;
    const { stage, ...bench } = whole;
    this.put({ ...now, ...bench, state: stage, entries: found.entries });
    return true;
  }

  private day = () => dayIn(new Date(), this.zone);

  private busy = 0;
  /** One thing after the other, as it was typed and answered; what nothing is before is asked at once. */
  private next(what: () => Promise<void>) {
    const { age, busy } = this;
    this.busy += 1;
    const work = async () => (age === this.age ? what() : undefined);
    this.line = (busy ? this.line.then(work) : work())
      .catch(() => age === this.age && this.leave())
      .finally(() => (this.busy -= 1));
  }

  /** Asks the core; an answer that comes after the job was let go of is not taken. */
  private async ask(what: "enter" | "settle", said: object): Promise<Changed> {
    const { age } = this;
    const found = await core.call<Changed>(what, { job: this.id, day: this.day(), ...said });
    if (age !== this.age) throw new Error("let go of meanwhile");
    return found;
  }

  /** Shows what was typed as if it were kept. */
  enter(entries: EntryIn[], shown: () => void = () => undefined) {
    if (!this.state.works) return;
    this.next(async () => {
      const rows = entries.map((entry) => ({ ...entry, who: this.who(), at: entry.at ?? new Date().toISOString() }));
      const found = await this.ask("enter", { entries: rows });
      // What waits and what it comes to are drawn at once.
      shown();
      this.show(found);
    });
  }

  /** Takes in what the server answered. */
  settle(answer: Schemas["ChangedView"] & Partial<Pick<Schemas["KeptView"], "kept" | "refused">>) {
    if (!this.state.works) return;
    const { kept = [], refused = [], log } = answer;
    this.next(async () => {
      const found = await this.ask("settle", { kept, refused: refused.map((one) => one.id), log: log ?? [] });
      // The core does not have of it what the server has: it takes it in hand anew.
      if (found.kept !== answer.entries) return this.leave();
      if (this.state.shown) this.show(found);
      this.compare(found);
      this.keepSoon();
    });
  }

  private keeping: ReturnType<typeof setTimeout> | undefined;
  /** Keeps what the server has of the job for a time without signal, a moment after the last answer. */
  private keepSoon() {
    clearTimeout(this.keeping);
    this.keeping = setTimeout(() => {
      this.next(async () => {
        const known = await keptOf<AtHand>("job", this.id);
        const log = await core.call<NonNullable<AtHand["log"]>>("log", { job: this.id });
        if (known) await keep("job", this.id, { ...known, log, entries: log.length });
      });
    }, 1_000);
  }

  /** The last thing that this person typed here, for undo; null where there is none. */
  last = () => core.call<{ id: string; path: string } | null>("last", { job: this.id, who: this.who() });

  /** What is in the way of closing it so, and what would be sealed. */
  closing = (asked: Schemas["CloseIn"]) => core.call<Closing>("closing", { job: this.id, asked });

  /** The job as a job file. */
  file = () => core.call<object>("file", { job: this.id });

  private show({ changes, stage }: Changed) {
    const under = this.state.shown ?? this.held();
    if (!under) return;
    const anything = Object.keys(changes).length > 0;
    if (anything || this.state.shown) this.set({ shown: patched(under, this.held()!.entries, stage, changes) });
  }

  /** Where nothing waits in the core, the server's own is shown, and held against what was shown here. */
  private compare({ entries, kept }: Changed) {
    const { shown } = this.state;
    const held = this.held();
    if (!shown || entries !== kept || held?.entries !== kept) return;
    const differs = difference(shown, held);
    this.set({ shown: null, differs });
    if (!differs) return;
    void api.POST("/api/core/differences", { body: { job: this.id, entries: held.entries, said: differs } });
    this.leave();
  }

  /** Goes on with the server's call alone; the job is taken in hand anew when there is a reason to. */
  leave() {
    this.age += 1;
    this.begun = null;
    this.set({ shown: null, works: false });
  }
}

/** How often it is tried to take a job in hand that is typed into meanwhile. */
const TRIES = 4;
const COMPARED = ["rows", "parts", "loose_ends", "ways", "not_valid", "decides", "machine"] as const;

/** What of two benches is not the same, in words; times aside, which are the server's own. */
export function difference(here: JobView, there: JobView): string {
  const wrong = COMPARED.filter((name) => !same(here[name], there[name]));
  const paths = new Set([...Object.keys(here.fields), ...Object.keys(there.fields)]);
  const fields = [...paths].filter((path) => !same(plain(here.fields[path]), plain(there.fields[path])));
  if (!wrong.length && !fields.length) return "";
  const calls =
    here.machine.headline === there.machine.headline
      ? ""
      : `This device said “${here.machine.headline}”, the server says “${there.machine.headline}”. `;
  return `${calls}Not the same: ${[...wrong, ...fields.slice(0, 5)].join(", ")}`;
}

const plain = (field?: JobView["fields"][string]) =>
  field && { ...field, at: "", previous: field.previous && { ...field.previous, at: "" } };

function same(one: unknown, other: unknown): boolean {
  if (Object.is(one, other)) return true;
  if (typeof one !== "object" || typeof other !== "object" || !one || !other) return false;
  const keys = Object.keys(one);
  if (keys.length !== Object.keys(other).length) return false;
  return keys.every((key) => same(one[key as never], other[key as never]));
}

/** What a device needs to go on with a job: from the server, or as it was kept here last. */
async function atHand(id: string): Promise<AtHand | undefined> {
  try {
    const found = await asked(api.GET("/api/jobs/{job_id}/at-hand", { params: { path: { job_id: id } } }));
    await keep("job", id, found);
    return found;
  } catch {
    return keptOf<AtHand>("job", id);
  }
}

const locals = new Map<string, LocalJob>();

/** The one local job of a person and a job in this window. */
export function localOf(
  person: string,
  id: string,
  who: () => string,
  held: () => JobView | undefined,
  put: (view: JobView) => void,
): LocalJob {
  const key = `${person} ${id}`;
  let local = locals.get(key);
  if (!local) locals.set(key, (local = new LocalJob(id, who, held, put)));
  return local;
}

/** Lets go of a job in this window: it is taken in hand anew. */
export const leaveLocal = (person: string, id: string) => locals.get(`${person} ${id}`)?.leave();
