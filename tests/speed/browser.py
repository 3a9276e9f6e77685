"""At the browser: from the key to the call, with a server and without signal, and until a page is drawn."""

import statistics
from typing import Any

from tests.speed.timing import full_job, full_visit, show, wanted


def signed_in(url: str, plant: Any) -> Any:
    """A page of the technician, who signed in by hand, in a browser of their own."""
    from tests.browser.base import browser

    page = browser().new_context(base_url=url, viewport={"width": 1280, "height": 800}).new_page()
    page.goto("/sign-in")
    page.get_by_label("Address").fill(plant.technician.username)
    page.get_by_label("Password").fill("a-long-enough-one")
    page.keyboard.press("Enter")
    page.get_by_role("link", name="Systems").wait_for()
    return page


def in_the_browser(url: str, plant: Any) -> None:
    """From the key press that confirms a figure to the new call on the page."""
    page = signed_in(url, plant)
    job = full_job(plant, 3)
    page.add_init_script(SHOWN)
    loaded = [until_shown(page, f"/jobs/{job.id}", ".verdict") for _ in range(10)][2:]
    show("browser: the job's page, until the call is shown", loaded)
    print(f"{'':58} usable in {statistics.median(loaded) / 1000:.2f} s{wanted(statistics.median(loaded) / 1000, 0.7)}")
    cold = page.evaluate("performance.now()")
    page.locator("[data-judged=here]").wait_for()
    judges = page.evaluate("performance.now()") / 1000
    print(
        f"{'browser: the core judges, after a page that was just opened':58} {judges:.2f} s{wanted(judges, 2)}, asked at {cold / 1000:.2f} s"
    )
    key_to_call(page, job, "a job of 12 entries, judged here", (16, 33), (33, 66))
    long = full_visit(plant, 75)
    page.goto(f"/jobs/{long.id}")
    page.locator("[data-judged=here]").wait_for()
    key_to_call(page, long, "a visit of 300 entries, judged here", (16, 33), (33, 66))
    page.route("**/assets/worker-*", lambda route: route.abort())
    page.goto(f"/jobs/{long.id}")
    page.locator(".verdict").wait_for()
    key_to_call(page, long, "the same, judged at the server", (80, 100), (80, 100))


def without_signal(url: str, plant: Any) -> None:
    """What is on the way, and how long it takes from nothing, without signal, to the page and to the first call."""
    import json

    from tests.both import DIST

    manifest = json.loads((DIST / "core/manifest.json").read_text())
    # What is only there for a device that cannot use the snapshot is not on the way.
    instead = (manifest["site"], manifest["wary"], f"{manifest['runtime']}python_stdlib.zip")
    sent = sum(one["sent"] for file, one in manifest["files"].items() if file not in instead) / 1e6
    print(f"{'without signal: the core on the way, compressed':58} {sent:.1f} MB{wanted(sent, 15)}")
    page = signed_in(url, plant)
    ready = "() => document.documentElement.dataset.core === 'ready'"
    page.wait_for_function(ready, timeout=60_000)
    job = full_visit(plant, 75)
    page.goto(f"/jobs/{job.id}")
    page.locator("[data-judged=here]").wait_for(timeout=60_000)
    page.wait_for_timeout(2_000)
    page.context.set_offline(True)
    page.add_init_script(SHOWN)
    shown, there, first = [], [], []
    for _ in range(3):
        shown.append(until_shown(page, f"/jobs/{job.id}", ".verdict") / 1000)
        page.wait_for_function(ready, timeout=60_000)
        there.append(page.evaluate("performance.now()") / 1000 - shown[-1])
        page.locator("[data-judged=here]").wait_for(timeout=60_000)
        first.append(page.evaluate("performance.now()") / 1000 - shown[-1])
    memory = float(page.evaluate("document.documentElement.dataset.coreMegabytes"))
    print(
        f"{'without signal: the page from nothing, the worst of three':58} {max(shown):.2f} s{wanted(max(shown), 0.6)}"
    )
    print(f"{'without signal: the core is there after that':58} {max(there):.2f} s")
    print(f"{'without signal: the first call after that':58} {max(first):.2f} s{wanted(max(first), 1.5)}")
    print(f"{'the memory of the core':58} {memory:.0f} MB{wanted(memory, 300)}")
    page.context.close()


Pair = tuple[float, float]


def key_to_call(page: Any, job: Any, name: str, tree: Pair, paint: Pair) -> None:
    """From the key press that confirms a figure to the new call in the page's own tree, and to its paint.

    Of each what its median and its 95th per cent should be at most, ms.
    """
    page.get_by_role("navigation", name="Run sheet").get_by_role("button", name="As found").click()
    page.locator(".tally-number").nth(2).click()
    shown = page.get_by_role("textbox", name="Shown", exact=True)
    took = []
    for number in range(66):
        shown.fill(f"20.{80 + number % 15}")
        took.append(page.evaluate(PRESS_TO_CALL))
        page.wait_for_timeout(150)
    for place, (until, (median, most)) in enumerate((("the page's tree", tree), ("the paint", paint))):
        one = [each[place] for each in took[6:]]
        show(f"browser: key → {until}, {name}", one)
        print(
            f"{'':58} median{wanted(statistics.median(one), median)} ms, 95th per cent{wanted(statistics.quantiles(one, n=20)[-1], most)} ms"
        )


SHOWN = """addEventListener("DOMContentLoaded", () => new MutationObserver((_, watching) => {
  for (const one of [".verdict", ".history svg"])
    if (document.querySelector(one) && !performance.getEntriesByName(one).length)
      requestAnimationFrame(() => performance.mark(one));
}).observe(document, { childList: true, subtree: true }))"""


def until_shown(page: Any, path: str, what: str) -> float:
    """Milliseconds from asking for a page until something on it is painted, by the browser's own clock."""
    page.goto(path)
    page.locator(what).first.wait_for()
    page.wait_for_function("what => performance.getEntriesByName(what).length", arg=what)
    return float(page.evaluate("what => performance.getEntriesByName(what)[0].startTime", what))


PRESS_TO_CALL = """() => new Promise((done) => {
  const start = performance.now();
  new MutationObserver((_, watching) => {
    watching.disconnect();
    const tree = performance.now() - start;
    requestAnimationFrame(() => {
      // A message is taken after the frame was handed over to be painted.
      const { port1, port2 } = new MessageChannel();
      port1.onmessage = () => done([tree, performance.now() - start]);
      port2.postMessage(0);
    });
  }).observe(document.querySelector(".call"), { childList: true, characterData: true, subtree: true });
  document.activeElement.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true }));
})"""


def a_long_history_drawn(url: str, plant: Any) -> None:
    """The system's page with a history of 500 visits, until its chart is drawn."""
    page = signed_in(url, plant)
    page.add_init_script(SHOWN)
    drawn = [until_shown(page, f"/systems/{plant.system.id}", ".history svg") for _ in range(8)][2:]
    show("browser: a history of 500 visits drawn", drawn)
