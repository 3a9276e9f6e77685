/** Whom this page takes to be signed in. Every request says so, and the server answers nobody else's. */
let person = "";

export const signedIn = () => person;

/** Takes somebody to be signed in from now on; nobody, where that is empty. */
export function meet(id: string) {
  person = id;
  if (!id) return;
  localStorage.setItem(LAST, id);
  waits.splice(0).forEach((what) => what(id));
}

const waits: ((id: string) => void)[] = [];
/** Does something once it is known who is signed in: a page asks for several things before it is. */
export function whenMet(what: (id: string) => void) {
  if (person) what(person);
  else waits.push(what);
}

const LAST = "person";
/** Who was signed in on this device last and did not sign out. */
export const lastPerson = () => localStorage.getItem(LAST) ?? "";

const LEAVING = "leaving";
/** Nobody is known on this device any more; where the server was out of reach, it hears of it as soon as it is not. */
export function forgotten(heard: boolean) {
  person = "";
  localStorage.removeItem(LAST);
  if (!heard) localStorage.setItem(LEAVING, "yes");
}
export const isLeaving = () => localStorage.getItem(LEAVING) !== null;
export const left = () => localStorage.removeItem(LEAVING);
