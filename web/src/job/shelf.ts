/** The browser's own store, where what was typed or photographed waits until the server has it. */
import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import type { EntryIn } from "../api/client";

export interface Waiting extends EntryIn {
  id: string;
  path: string;
  text: string;
  job: string;
  order: number;
}

/** A photograph or PDF that waits: its bytes, and where it belongs. */
export interface WaitingPaper {
  id: string;
  job: string;
  path: string;
  name: string;
  at: string;
  sha256: string;
  file: Blob;
}

interface Shelf extends DBSchema {
  waiting: { key: string; value: Waiting; indexes: { job: string } };
  papers: { key: string; value: WaitingPaper; indexes: { job: string } };
}

let shelf: Promise<IDBPDatabase<Shelf> | null> | undefined;

/** How long an older window may keep a newer store from being opened, in ms. */
const PATIENCE = 3_000;

/** The store; null where it is not to be had (then what waits is in memory only, and is sent all the same). */
export function opened() {
  const late = new Promise<null>((done) => setTimeout(() => done(null), PATIENCE));
  shelf ??= Promise.race([late, begun()]);
  return shelf;
}

function begun() {
  return openDB<Shelf>("wary-beacon", 2, {
    upgrade(db, before) {
      if (before < 1) db.createObjectStore("waiting", { keyPath: "id" }).createIndex("job", "job");
      if (before < 2) db.createObjectStore("papers", { keyPath: "id" }).createIndex("job", "job");
    },
    // A window with an older page lets go, so that a newer one can begin.
    blocking: (_, __, event) => (event.target as IDBDatabase).close(),
  }).catch(() => null);
}
