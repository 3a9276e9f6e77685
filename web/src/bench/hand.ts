import { createContext, useContext } from "react";

/** What is in hand on the bench: the step, the row being typed, and the row whose setting aside is asked about. */
export interface Hand {
  part: string;
  step: string;
  go: (part: string, step: string) => void;
  row: (list: string) => string | undefined;
  take: (list: string, row: string | undefined) => void;
  /** Asks for the reason to set a row aside. */
  aside: (list: string, row: string) => void;
}

export const HandContext = createContext<Hand | null>(null);

export function useHand(): Hand {
  const hand = useContext(HandContext);
  if (!hand) throw new Error("no hand above this component");
  return hand;
}

/** A name for a new row that no other device will choose. */
export const newRow = () => Date.now().toString(36) + Math.floor(Math.random() * 1296).toString(36);

/** Puts the focus on the field of a path, once it is drawn. */
export function focusOn(path: string) {
  requestAnimationFrame(() => {
    const fields = [...document.querySelectorAll<HTMLElement>(`[data-path="${CSS.escape(path)}"]`)];
    const field = fields.find((one) => one.offsetParent !== null);
    field?.focus();
    if (field instanceof HTMLInputElement) field.select();
  });
}
