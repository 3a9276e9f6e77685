import { type ReactNode, useEffect } from "react";
import Modal from "react-bootstrap/Modal";
import { type Bench, useBench } from "../job/useJob";
import { makeLook, nextLook } from "./call/looking";
import { bodyOf, firstOpenIn, focusOn, type Hand } from "./hand";
import { whyAside } from "./why";

const KEYS: [string, string][] = [
  ["Enter", "next field; ticks an item and goes on"],
  ["Shift Enter", "the field before"],
  ["↑ ↓", "the run above, the run below"],
  ["0 to 9", "with no field in hand: into the first open field of the step"],
  ["n", "new run, or new row"],
  ["x", "set this run aside"],
  ["l", "the look to make next: where it is entered, or that nothing is wrong there"],
  ["Ctrl Z", "take back the last entry"],
  ["/", "to the round, to find a system"],
  ["?", "this list"],
];

const SHORT = [
  ["Enter", "next"],
  ["n", "new run"],
  ["x", "set aside"],
  ["Ctrl Z", "undo"],
];

export function Keys({ onAll, children }: { onAll: () => void; children: ReactNode }) {
  const bench = useBench();
  const keys = nextLook(bench) && bench.open ? [["l", "look next"], ...SHORT] : SHORT;
  return (
    <div className="keys">
      {keys.map(([key, word]) => (
        <span key={key}>
          <kbd>{key}</kbd> {word}
        </span>
      ))}
      <button type="button" className="btn btn-link" onClick={onAll}>
        <kbd>?</kbd> all keys
      </button>
      {children}
    </div>
  );
}

export function AllKeys({ show, onHide }: { show: boolean; onHide: () => void }) {
  return (
    <Modal show={show} onHide={onHide} centered>
      <Modal.Header closeButton>
        <Modal.Title>Keys</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <dl className="key-list">
          {KEYS.map(([key, does]) => (
            <div key={key}>
              <dt>
                <kbd>{key}</kbd>
              </dt>
              <dd>{does}</dd>
            </div>
          ))}
        </dl>
        <p className="soft mb-0">
          The letters work outside a field, and in one that is still empty. None of them is needed.
        </p>
      </Modal.Body>
    </Modal>
  );
}

const FIGURE = /^[\d.,+−-]$/;

/** A place where a letter would be typed as text. */
const writes = (target: EventTarget | null) =>
  target instanceof HTMLTextAreaElement ||
  target instanceof HTMLSelectElement ||
  (target instanceof HTMLInputElement &&
    !["checkbox", "radio", "file"].includes(target.type) &&
    (target.value !== "" || target.inputMode !== "decimal"));

/** The keys of the bench. Letters count outside fields, and in a figure's field that is still empty. */
export function useKeys(hand: Hand, bench: Bench, onAll: (show: boolean) => void) {
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (document.querySelector(".modal.show, .offcanvas.show")) return;
      const field = event.target instanceof HTMLInputElement ? event.target : null;
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") {
        if (field?.dataset.path && !field.hasAttribute("data-kept") && field.type !== "checkbox") return;
        event.preventDefault();
        void bench.undo().then((path) => path && focusOn(path));
        return;
      }
      if (event.ctrlKey || event.metaKey || event.altKey || writes(event.target)) return;
      const typing = field && field.inputMode === "decimal";
      if (!typing && FIGURE.test(event.key)) {
        // The figure goes where the work goes on: the key itself is then typed into that field.
        const body = bodyOf(hand.part, hand.step);
        const place = body && firstOpenIn(body, "[inputmode=decimal]");
        if (place instanceof HTMLInputElement) {
          place.focus();
          place.select();
        }
        return;
      }
      const body = bodyOf(hand.part, hand.step);
      const dock = (field ?? document.activeElement)?.closest<HTMLElement>(".dock") ?? body?.querySelector(".dock");
      if (event.key === "?") onAll(true);
      else if (event.key === "/") location.assign("/?find");
      else if (event.key === "l" && bench.open && nextLook(bench)) makeLook(bench, hand, nextLook(bench)!);
      else if (event.key === "n" && dock instanceof HTMLElement) newRow(dock);
      else if (event.key === "x" && dock instanceof HTMLElement) {
        const list = dock.dataset.list!;
        const rows = bench.rows(list);
        const here = rows.find((row) => row.row === dock.dataset.row) ?? rows.at(-1);
        if (!here) return;
        hand.ask(whyAside(bench, list, here.row));
      } else return;
      event.preventDefault();
    };
    addEventListener("keydown", press);
    return () => removeEventListener("keydown", press);
  });
}

/** A new row in this dock; where the row in hand is new already, its first field. */
function newRow(dock: HTMLElement) {
  const again = dock.querySelector<HTMLElement>(":scope > .dock-head [data-new]");
  if (again) again.click();
  else dock.querySelector<HTMLElement>("[data-entry]")?.focus();
}
