import { useEffect } from "react";

/** So long a page may still grow above a field that was taken in hand, ms. */
const SETTLES = 800;
/** Less than this covers the window for other reasons than a keyboard, px. */
const LEAST = 120;

/**
 * On a small screen the field in hand is in view whatever stands above it, also while that is still being
 * drawn and while a keyboard comes up; the styles are told how much of the window a keyboard covers, where a
 * browser lays it over the page.
 */
export function useKeyboard() {
  useEffect(() => {
    const view = window.visualViewport;
    const root = document.documentElement;
    if (!view) return;
    const measure = () => {
      const covered = Math.abs(view.scale - 1) < 0.01 ? innerHeight - view.height - view.offsetTop : 0;
      const up = covered > LEAST;
      root.style.setProperty("--keyboard", `${up ? Math.round(covered) : 0}px`);
      root.toggleAttribute("data-keyboard", up);
      // What is typed into stays in view while the keyboard comes up over it.
      if (up) document.activeElement?.scrollIntoView({ block: "nearest" });
    };
    view.addEventListener("resize", measure);
    view.addEventListener("scroll", measure);
    return () => {
      view.removeEventListener("resize", measure);
      view.removeEventListener("scroll", measure);
      root.style.removeProperty("--keyboard");
      root.removeAttribute("data-keyboard");
    };
  }, []);
  useEffect(() => {
    let grown: ResizeObserver | undefined;
    const keep = () => {
      const held = document.activeElement;
      if (!(held instanceof HTMLElement) || held.dataset.entry === undefined) return;
      if (!matchMedia("(max-width: 1120px)").matches) return;
      const show = () => document.activeElement === held && held.scrollIntoView({ block: "nearest" });
      grown?.disconnect();
      const growing = new ResizeObserver(show);
      grown = growing;
      growing.observe(document.body);
      setTimeout(() => growing.disconnect(), SETTLES);
      show();
    };
    document.addEventListener("focusin", keep);
    addEventListener("resize", keep);
    return () => {
      grown?.disconnect();
      document.removeEventListener("focusin", keep);
      removeEventListener("resize", keep);
    };
  }, []);
}
