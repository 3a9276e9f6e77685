/** What is kept on this device to be at hand without signal. It belongs to whoever is signed in, and goes when they sign out. */
import { signedIn } from "../api/session";
import { opened } from "./store";

const keyOf = (kind: string, id: string, person = signedIn()) => `${person} ${kind} ${id}`;

/** Keeps it; where there is no room or no store, it is not at hand, and the page goes on. */
export async function keep(kind: string, id: string, what: unknown): Promise<boolean> {
  if (!signedIn()) return false;
  try {
    const db = await opened();
    await db?.put("hand", what, keyOf(kind, id));
    return !!db;
  } catch {
    return false;
  }
}

export async function keptOf<T>(kind: string, id: string, person = signedIn()): Promise<T | undefined> {
  try {
    return (await (await opened())?.get("hand", keyOf(kind, id, person))) as T | undefined;
  } catch {
    return undefined;
  }
}

/** Takes all that was at hand for a person from this device. What waits to be sent stays. */
export async function wiped(person: string) {
  const db = await opened();
  await db?.delete("hand", IDBKeyRange.bound(`${person} `, `${person} \uffff`));
}
