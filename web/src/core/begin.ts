/** What is begun beside the page once it can be used: the core, and the keeper of the application's own files. */
import { core } from "./core";

const IDLE = 1_500;

/** Begins what the first page does not need, once the browser has nothing to do for it any more. */
export function begunLater() {
  const begin = () => {
    void registered();
    core.start();
  };
  const when = () =>
    "requestIdleCallback" in window ? requestIdleCallback(begin, { timeout: IDLE }) : setTimeout(begin, 300);
  if (document.readyState === "complete") when();
  else addEventListener("load", when, { once: true });
}

async function registered() {
  try {
    await navigator.serviceWorker.register("/sw.js", { scope: "/" });
  } catch {
    // A private window, or a browser without: the application works while the server is in reach.
  }
}
