import { createContext, useContext } from "react";
import { parted } from "../job/path";

/** What a reason is asked for: where it is entered, and the words of the dialog. */
export interface Asked {
  path: string;
  title: string;
  says: string;
  label: string;
  keep: string;
  /** What leaves it as it is, beside the cross. */
  leave?: string;
}

/** What is in hand on the bench: the step, the row being typed, and what a reason is asked for. */
export interface Hand {
  part: string;
  step: string;
  go: (part: string, step: string) => void;
  row: (list: string) => string | undefined;
  take: (list: string, row: string | undefined) => void;
  /** Asks for the reason of what is done: a row that is set aside, a look that is skipped. */
  ask: (why: Asked) => void;
}

export const HandContext = createContext<Hand | null>(null);

export function useHand(): Hand {
  const hand = useContext(HandContext);
  if (!hand) throw new Error("no hand above this component");
  return hand;
}

/** A name for a new row that no other device will choose. */
export const newRow = () => Date.now().toString(36) + Math.floor(Math.random() * 1296).toString(36);

const shown = (field: HTMLElement) => field.offsetParent !== null;

/** Every place of a step where something can be typed or ticked, but for its caution, in their order. */
export function placesIn(scope: ParentNode): HTMLElement[] {
  return [...scope.querySelectorAll<HTMLElement>("[data-entry]:not([data-caution])")].filter(shown);
}

const isOpen = (place: HTMLElement) =>
  place instanceof HTMLInputElement
    ? place.type === "checkbox"
      ? !place.checked && place.dataset.loose === undefined
      : place.value === "" && !place.readOnly
    : place.dataset.open !== undefined;

/** A dock as it stands on the page: its part, the list that it belongs to, without its part, and the row in it. */
export interface Docked {
  part: string;
  list: string;
  row: string;
}

/** The dock of a list, by its full path, where it is on the page. */
export const dockOf = (full: string) =>
  document.querySelector<HTMLElement>(`.dock[data-list="${CSS.escape(full)}"]`) ?? undefined;

/** Every dock on the page, with the row in it. */
export function docksShown(): Docked[] {
  return [...document.querySelectorAll<HTMLElement>(".dock[data-list]")].map(({ dataset }) => {
    const { part, rest } = parted(dataset.list!);
    return { part, list: rest, row: dataset.row! };
  });
}

/** The first place of a step that is still open, or its first place. */
export function firstOpenIn(scope: ParentNode, only = "*"): HTMLElement | undefined {
  const places = placesIn(scope).filter((place) => place.matches(only));
  return places.find(isOpen) ?? places[0];
}

export const bodyOf = (part: string, step: string) => document.getElementById(`step-${part}-${step}`);

/** Puts the focus where the work of a step goes on. */
export function focusOnStep(part: string, step: string, scroll = true) {
  requestAnimationFrame(() => {
    const body = bodyOf(part, step);
    if (!body) return;
    const place = firstOpenIn(body);
    const panel = document.querySelector(".machine-panel");
    if (scroll) (panel ?? body).scrollIntoView({ block: "start" });
    place?.focus({ preventScroll: true });
    // The machine that is touched stays in view as far as the field in hand does.
    if (scroll && panel) place?.scrollIntoView({ block: "nearest" });
  });
}

/** Puts the focus on the field of a path, once it is drawn: before the next key, where what draws it is under way. */
export function focusOn(path: string) {
  const put = () => {
    const field = fieldOf(path);
    field?.focus();
    if (field instanceof HTMLInputElement) field.select();
    return field !== undefined;
  };
  // What a key or a tap changed is drawn before this runs; what is drawn later has a frame.
  queueMicrotask(() => put() || requestAnimationFrame(put));
}

/** The field of a path, where it is on the page. */
export const fieldOf = (path: string) =>
  [...document.querySelectorAll<HTMLElement>(`[data-path="${CSS.escape(path)}"]`)].find(shown);
