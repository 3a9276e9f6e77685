/**
 * The browser's own store, where what was typed or photographed waits until the server has it.
 *
 * Several people may use one device: what waits belongs to whoever typed it, is shown to nobody else,
 * and is sent in nobody else's session.
 */
import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import type { EntryIn, Schemas } from "../api/client";

/** Whoever something belongs to that waits since before a device knew that. */
export const NOBODY = "";

export interface Waiting extends EntryIn {
  id: string;
  path: string;
  text: string;
  job: string;
  order: number;
  person: string;
  /** Why the server did not take it, where it did not: it stays until its person lays it aside, or types something else there. */
  refused?: string;
}

/** A photograph or PDF that waits: its bytes, where it belongs, and why the server did not take it, if it did not. */
export interface WaitingAttachment {
  id: string;
  job: string;
  path: string;
  name: string;
  at: string;
  sha256: string;
  file: Blob;
  person: string;
  refused?: string;
}

/** A job that is closed on this device, and is to be sealed by the server once it has every entry. */
export interface Sealing {
  job: string;
  /** The machine's name. */
  name: string;
  person: string;
  close: Schemas["CloseIn"];
  at: string;
  /** Why it came back, where it did. */
  back?: string;
}

/** A job that was opened on this device; the server opens it under the same id. */
export interface Opening {
  job: string;
  /** The machine's name. */
  name: string;
  person: string;
  open: Schemas["OpenJobIn"];
  at: string;
  /** A practice brings what is hidden, and what was done. */
  practice?: boolean;
  /** Why it cannot be opened, where it cannot. */
  back?: string;
}

interface Store extends DBSchema {
  /** What is at hand without signal, by person, kind and id. */
  hand: { key: string; value: unknown };
  sealing: { key: string; value: Sealing };
  opening: { key: string; value: Opening };
  waiting: { key: string; value: Waiting; indexes: { job: string } };
  papers: { key: string; value: WaitingAttachment; indexes: { job: string } };
}

/** The files that wait, under the name that they had when there were first any. */
export const FILES = "papers";

let store: Promise<IDBPDatabase<Store> | null> | undefined;

/** How long an older window may keep a newer store from being opened, in ms. */
const PATIENCE = 3_000;

/**
 * The store; null where it is not to be had (then what waits is in memory only, and is sent all the same).
 *
 * One that opens slowly is there for whoever asks later, and one that the browser ended is opened anew.
 */
export function opened() {
  const late = new Promise<null>((done) => setTimeout(() => done(null), PATIENCE));
  return Promise.race([late, opening()]);
}

/** Does something once the store is there, however late that is. */
export function onceOpened(what: () => void) {
  void opening().then((db) => db && what());
}

function opening() {
  const mine = (store ??= begun().then((db) => {
    // One that cannot be had is asked for again by whoever needs it next.
    if (!db) store = undefined;
    return db;
  }));
  return mine;
}

function begun() {
  return openDB<Store>("wary-beacon", 4, {
    async upgrade(db, before, _, change) {
      if (before < 1) db.createObjectStore("waiting", { keyPath: "id" }).createIndex("job", "job");
      if (before < 2) db.createObjectStore(FILES, { keyPath: "id" }).createIndex("job", "job");
      if (before < 4) {
        db.createObjectStore("hand");
        db.createObjectStore("sealing", { keyPath: "job" });
        db.createObjectStore("opening", { keyPath: "job" });
      }
      if (before === 1 || before === 2)
        for (const name of before < 2 ? (["waiting"] as const) : (["waiting", FILES] as const)) {
          // Nobody knows any more who typed what waits since before: it is asked for, and never sent unasked.
          let one = await change.objectStore(name).openCursor();
          while (one) {
            await one.update({ ...one.value, person: NOBODY } as never);
            one = await one.continue();
          }
        }
    },
    // A window with an older page lets go, so that a newer one can begin.
    blocking: (_, __, event) => {
      (event.target as IDBDatabase).close();
      store = undefined;
    },
    // The browser ended it: for want of room, or since it was cleared.
    terminated: () => (store = undefined),
  }).catch(() => null);
}
