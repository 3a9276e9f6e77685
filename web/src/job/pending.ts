/** Jobs of whoever is signed in that were opened or closed on this device, and that the server does not know of yet. */
import { useSyncExternalStore } from "react";
import { Problem } from "../api/client";
import { signedIn } from "../api/session";
import { opened, type Opening, type Sealing } from "./store";

export interface Pending {
  openings: Opening[];
  sealings: Sealing[];
}

let state: Pending = { openings: [], sealings: [] };
const listeners = new Set<() => void>();
export const subscribePending = (listener: () => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};
export const pendingNow = () => state;

/** Reads anew what waits to be opened and sealed for whoever is signed in. */
export async function readPending() {
  const db = await opened();
  const person = signedIn();
  const own = <T extends { person: string }>(all: T[] | undefined) =>
    (all ?? []).filter((one) => one.person === person);
  state = { openings: own(await db?.getAll("opening")), sealings: own(await db?.getAll("sealing")) };
  listeners.forEach((listener) => listener());
}

/** Puts a job that was closed here in the queue. Raises where the browser does not keep it. */
export async function toSeal(sealing: Omit<Sealing, "person">) {
  const db = await opened();
  if (!db)
    throw new Problem(507, "This browser keeps nothing", "It cannot be closed without signal in a private window.", []);
  await db.put("sealing", { ...sealing, person: signedIn() });
  await readPending();
}

/** Takes a job back from the queue: it goes on. */
export async function notToSeal(job: string) {
  await (await opened())?.delete("sealing", job);
  await readPending();
}

export const usePending = () => useSyncExternalStore(subscribePending, pendingNow);

let read: { person: string; done: Promise<void> } | undefined;
/** Once it was read for whoever is signed in. */
export function pendingRead() {
  if (read?.person !== signedIn()) read = { person: signedIn(), done: readPending() };
  return read.done;
}
