import { useSyncExternalStore } from "react";

const NARROW = matchMedia("(max-width: 560px)");

const subscribe = (changed: () => void) => {
  NARROW.addEventListener("change", changed);
  return () => NARROW.removeEventListener("change", changed);
};

/** How wide a drawing is drawn, in its own units: on a phone less, so that its words keep their size. */
export const useWidth = () => (useSyncExternalStore(subscribe, () => NARROW.matches) ? 390 : 680);
