/** Whom this page takes to be signed in. Every request says so, and the server answers nobody else's. */
let person = "";

export const signedIn = () => person;

/** Takes somebody to be signed in from now on; nobody, where that is empty. */
export function meet(id: string) {
  person = id;
}
