import { useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, useCallback, useContext, useEffect, useMemo, useSyncExternalStore } from "react";
import {
  api,
  asked,
  type EntryIn,
  type FieldView,
  type JobView,
  type MethodView,
  type PartView,
  type RowView,
  type Schemas,
} from "../api/client";
import { jobQuery, meQuery, useMe, useUnits } from "../api/queries";
import { signedIn } from "../api/session";
import { core } from "../core/core";
import { type LocalJob, localOf, type LocalState } from "./local";
import { type BoxState, boxOf } from "./outbox";
import { usePending } from "./pending";
import type { Opening, Sealing } from "./store";
import { emptyRow, patched } from "./patches";
import { rowOf } from "./path";

const isOpen = (state: JobView["state"]) => state !== "closed" && state !== "abandoned";

/** A field as the bench shows it: what is in force or waits to be sent, and what is to be said of it. */
export interface BenchField {
  text: string;
  unit: string;
  waits: boolean;
  said?: string;
  kept?: FieldView;
}

export interface Typed {
  path: string;
  text: string;
  unit?: string;
  source?: "typed" | "captured";
  steady?: boolean;
  /** The line that it was captured from, as it came. */
  raw?: string;
}

export interface Bench {
  job: JobView;
  box: BoxState;
  /** What the core on this device says of it. */
  here: LocalState;
  local: LocalJob;
  /** Where it was closed on this device and is not sealed yet; where it was opened here and is not sent yet. */
  sealing?: Sealing;
  opening?: Opening;
  open: boolean;
  /** The units of each kind of quantity with their size, once they are there. */
  units?: Record<string, Record<string, number>>;
  field: (path: string) => BenchField;
  /** The rows of a list: those that the server knows, then those that wait. */
  rows: (list: string) => RowView[];
  part: (key: string) => PartView;
  method: (part: PartView) => MethodView;
  enter: (...typed: Typed[]) => void;
  undo: () => Promise<string | null>;
  /** What waits since before the device knew by whom is this person's: they said so. */
  own: () => void;
  /** Lays aside what the server did not take. */
  layAside: () => void;
  /** Takes in what changed, or the job whole. */
  take: (answer: Answered) => void;
  fresh: (view: JobView) => void;
}

type Answered = Schemas["ChangedView"] & Partial<Pick<Schemas["KeptView"], "kept" | "refused">>;

const POLL = 3_000;

interface Done {
  id: string;
  path: string;
}
/** What each person did last in each job: undo takes back one's own. */
const history = new Map<string, Done[]>();

export function useJob(id: string) {
  const cache = useQueryClient();
  const me = useMe().data;
  const units = useUnits().data;
  const query = useQuery(jobQuery(id));
  const holds = useCallback(() => cache.getQueryData<JobView>(["job", id])?.entries, [cache, id]);
  const fresh = useCallback(
    (view: JobView) => {
      if (view.entries >= (holds() ?? 0)) cache.setQueryData(["job", id], view);
    },
    [cache, holds, id],
  );
  const person = me?.id ?? signedIn();
  const local = localOf(
    person,
    id,
    () => cache.getQueryData(meQuery.queryKey)?.name ?? "",
    () => cache.getQueryData<JobView>(["job", id]),
    (view) => cache.setQueryData(["job", id], view),
  );
  const take = useCallback(
    (answer: Answered) => {
      const { entries, state, changes } = answer;
      const held = cache.getQueryData<JobView>(["job", id]);
      if (!held || entries < held.entries) return;
      cache.setQueryData(["job", id], patched(held, entries, state, changes));
      // A job that is closed is shown as the server has it.
      if (isOpen(state)) local.settle(answer);
      else local.leave();
      // A job that was closed elsewhere is another page.
      if (isOpen(held.state) && !isOpen(state)) void cache.invalidateQueries({ queryKey: ["job", id] });
    },
    [cache, id, local],
  );
  const box = boxOf(person, id, holds, take);
  const state = useSyncExternalStore(box.subscribe, box.snapshot);
  const here = useSyncExternalStore(local.subscribe, local.snapshot);
  const ready = useSyncExternalStore(core.subscribe, core.snapshot).is === "ready";
  const job = here.shown ?? query.data;
  const pending = usePending();
  const sealing = pending.sealings.find((one) => one.job === id);
  const opening = pending.openings.find((one) => one.job === id);
  const open = !!job && isOpen(job.state) && !(sealing && !sealing.back);
  const entries = query.data?.entries;
  useEffect(() => {
    if (open && ready && entries !== undefined && !here.works) local.begin(() => box.state.waiting);
  }, [box, entries, here.works, local, open, ready]);

  // Someone else's entries are seen within seconds: a cheap question, answered with what changed.
  useQuery({
    queryKey: ["changes", person, id],
    queryFn: async () => {
      const after = holds();
      if (box.state.waiting.length || after === undefined) return null;
      const changed = await asked(
        api.GET("/api/jobs/{job_id}/changes", { params: { path: { job_id: id }, query: { after, log: true } } }),
      );
      if (holds() === after && !box.state.waiting.length) take(changed);
      return changed.entries;
    },
    enabled: open,
    initialData: null,
    staleTime: Infinity,
    refetchInterval: POLL,
    refetchOnWindowFocus: "always",
    retry: false,
  });

  const bench = useMemo<Bench | null>(() => {
    if (!job) return null;
    const waiting = new Map(state.waiting.map((entry) => [entry.path, entry]));
    const refused = new Map(state.refused.map((entry) => [entry.path, entry]));
    const field = (path: string): BenchField => {
      const kept = job.fields[path];
      const waits = waiting.get(path);
      const not = refused.get(path);
      const said = not?.text;
      if (waits && !waits.undoes) return { text: waits.text, unit: waits.unit ?? "", waits: true, said, kept };
      // What was not taken stays where it was typed.
      if (not && !waits && !not.typed.undoes)
        return { text: not.typed.text, unit: not.typed.unit ?? "", waits: false, said, kept };
      return { text: kept?.text ?? "", unit: kept?.unit ?? "", waits: !!waits, said, kept };
    };
    const enter = (...typed: Typed[]) => {
      if (!typed.length) return;
      const entries = typed.map(({ path, text, unit = "", source = "typed", steady, raw = "" }) => ({
        id: crypto.randomUUID(),
        path,
        text,
        unit,
        source,
        steady: steady ?? null,
        raw: raw.slice(0, 200),
        undoes: false,
        supersedes: waiting.get(path)?.id ?? job.fields[path]?.id ?? null,
        at: new Date().toISOString(),
      }));
      const done = history.get(`${person} ${id}`) ?? [];
      history.set(`${person} ${id}`, [...done, ...entries.map(({ id, path }) => ({ id, path }))].slice(-200));
      typedIn(entries);
    };
    const typedIn = (entries: EntryIn[]) => {
      // The core begins before anything is drawn. A field shows what is typed in it by itself; what is ticked or
      // chosen is seen at once.
      local.enter(entries, box.tell);
      box.add(
        entries,
        here.works && document.activeElement?.matches("input[data-entry]:not([type=checkbox], [type=radio])"),
      );
    };
    const undo = async () => {
      const last =
        history.get(`${person} ${id}`)?.pop() ?? (await (here.works ? local.last() : lastOf(id, job.entries)));
      if (!last) return null;
      if (state.refused.some((one) => one.id === last.id)) {
        await box.layAside(last.id);
        return last.path;
      }
      const taken = { id: crypto.randomUUID(), path: last.path, text: "", undoes: true, supersedes: last.id };
      const entry = {
        ...taken,
        unit: "",
        source: "typed",
        steady: null,
        raw: "",
        at: new Date().toISOString(),
      } as const;
      typedIn([entry]);
      return last.path;
    };
    const rows = (list: string) => {
      const known = job.rows[list] ?? [];
      const names = new Set(known.map((row) => row.row));
      const fresh: RowView[] = [];
      for (const { path, text } of [...waiting.values(), ...state.refused.map((one) => one.typed)]) {
        const row = rowOf(path, list);
        if (!row || names.has(row) || !text) continue;
        names.add(row);
        fresh.push(emptyRow(row));
      }
      return [...known, ...fresh];
    };
    return {
      job,
      box: state,
      here,
      local,
      sealing,
      opening,
      open,
      units,
      field,
      rows,
      part: (key) => job.parts.find((part) => part.key === key) ?? job.parts[0]!,
      method: (part) => job.methods.find((method) => method.key === part.method)!,
      enter,
      undo,
      own: () => void box.own(),
      layAside: () => void box.layAside(),
      take,
      fresh,
    };
  }, [box, fresh, here, id, job, local, open, opening, person, sealing, state, take, units]);

  return { bench, error: query.error };
}

/** The last thing this person typed into the job, from its trail: undo after a reload. */
async function lastOf(id: string, entries: number): Promise<Done | null> {
  const trail = await asked(
    api.GET("/api/jobs/{job_id}/entries", {
      params: { path: { job_id: id }, query: { after: Math.max(0, entries - 200) } },
    }),
  ).catch(() => []);
  const undone = new Set(trail.filter((entry) => entry.undoes).map((entry) => entry.supersedes));
  const own = trail.filter(
    (entry) => entry.own && ["typed", "captured"].includes(entry.source) && !entry.undoes && !undone.has(entry.id),
  );
  return own.at(-1) ?? null;
}

export const BenchContext = createContext<Bench | null>(null);

/** The bench that a component stands on. */
export function useBench(): Bench {
  const bench = useContext(BenchContext);
  if (!bench) throw new Error("no bench above this component");
  return bench;
}
