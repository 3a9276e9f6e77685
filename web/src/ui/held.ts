import { useState } from "react";

/** What is typed into a form of its own: it outlives a look at another place and a reload, until it is let go. */
export function useHeld<T extends object>(key: string, begins: T) {
  const [typed, setTyped] = useState<T>(() => ({
    ...begins,
    ...(JSON.parse(sessionStorage.getItem(key) ?? "{}") as Partial<T>),
  }));
  const hold = (next: T) => {
    sessionStorage.setItem(key, JSON.stringify(next));
    setTyped(next);
  };
  return { typed, hold, letGo: () => sessionStorage.removeItem(key) };
}
