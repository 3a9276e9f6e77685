/** What is begun beside the page once it can be used: the core, and the keeper of the application's own files. */
import { sendFiles } from "../attachments/box";
import { sentWhenInReach } from "../job/sending";
import { readerTakenAlong } from "../ui/scan/decode";
import { core } from "./core";

const IDLE = 1_500;

/** Begins what the first page does not need, once the browser has nothing to do for it any more. */
export function begunLater() {
  const begin = () => {
    void registered();
    core.start();
    void readerTakenAlong();
    sentWhenInReach(sendFiles);
  };
  const when = () =>
    "requestIdleCallback" in window ? requestIdleCallback(begin, { timeout: IDLE }) : setTimeout(begin, 300);
  // Without signal the call waits for nothing else.
  if (!navigator.onLine) begin();
  else if (document.readyState === "complete") when();
  else addEventListener("load", when, { once: true });
}

let newer = false;
const listeners = new Set<() => void>();
export const subscribeNewer = (listener: () => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};
/** Whether a newer version of the application is on this device, to be taken at its next opening. */
export const newerNow = () => newer;

async function registered() {
  try {
    const registration = await navigator.serviceWorker.register("/sw.js", { scope: "/" });
    const look = () => {
      if (newer || !registration.waiting || !navigator.serviceWorker.controller) return;
      newer = true;
      listeners.forEach((listener) => listener());
    };
    // One that is being taken along already was announced before this page was there.
    const follow = () => registration.installing?.addEventListener("statechange", look);
    look();
    follow();
    registration.addEventListener("updatefound", follow);
  } catch {
    // A private window, or a browser without: the application works while the server is in reach.
  }
}
