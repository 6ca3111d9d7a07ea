"""Counts what a maker reads: words and figures of every stage, and clicks and words from an empty shop to a form."""

from __future__ import annotations

import re
import shutil
import statistics
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from bright_willow.core.methods.method_registry import stages_for
from bright_willow.demo.marrow_lane import EXAMPLES, fill
from bright_willow.store.store import Store
from tools.running import running_app
from tools.shots import FLAGS, TODAY

JOBS = (5, 18, 14)  # glued strips, steamed then glued, steamed in a strap
FIGURE = re.compile(r"\d")
FRACTION = re.compile(r"(\d+)\s+(\d+/\d+)")  # one figure of two words
Line = Callable[[str, str, str, bool], None]
# The text that is seen of a page: not what is folded away, nor what is only for a screen reader or for pointing.
SEEN = """() => {
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  const words = [];
  while (walker.nextNode()) {
    const node = walker.currentNode, parent = node.parentElement;
    if (!node.data.trim() || parent.closest("title, script, style, .visually-hidden, option:not(:checked)")) continue;
    if (!parent.checkVisibility({ opacityProperty: true, visibilityProperty: true })) continue;
    const range = document.createRange();
    range.selectNodeContents(node);
    const box = range.getBoundingClientRect();
    if (box.width > 1 && box.height > 1 && parent.getBoundingClientRect().width > 1) words.push(node.data);
  }
  return words.join(" ");
}"""


@contextmanager
def _pages(store: Store, language: str = "en-US") -> Iterator[Page]:
    """A page of an open shop. language: of the browser."""
    with running_app(store, lambda: TODAY) as address, sync_playwright() as player:
        browser = player.chromium.launch(executable_path=shutil.which("chromium"), args=FLAGS)
        context = browser.new_context(
            base_url=address, viewport={"width": 1280, "height": 800}, locale=language, accept_downloads=True
        )
        yield context.new_page()
        browser.close()


def counted(page: Page) -> tuple[int, int]:
    """Words and figures that are seen on a page."""
    words = FRACTION.sub(r"\1-\2", str(page.evaluate(SEEN))).split()
    return len(words), sum(1 for w in words if FIGURE.search(w))


def stages(unit: str) -> dict[str, tuple[int, int]]:
    """Words and figures of every stage of three jobs of the demo."""
    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder))
        with store.connected():
            fill(store, TODAY.date())
            store.shop_settings.save(store.shop_settings.get().model_copy(update={"units": unit}))
        made = {}
        with _pages(store) as page:
            for job in JOBS:
                for row in stages_for(EXAMPLES[job - 1].job):
                    page.goto(f"/jobs/{job}/{row.key}")
                    made[f"{job} {row.key}"] = counted(page)
        return made


def quick_form() -> tuple[int, int, float]:
    """Clicks from an empty shop to a printed form by the quick answer, the words read, and ms until it answers anew."""
    with tempfile.TemporaryDirectory() as folder, _pages(Store(Path(folder))) as page:
        page.goto("/")
        words = counted(page)[0]
        taken = []
        for rise in range(9, 20):
            begun = time.perf_counter()
            page.request.get(f"/quick/answer?shape.rise_mm={rise}")
            taken.append((time.perf_counter() - begun) * 1000)
        with page.expect_download() as waiting:
            page.get_by_role("link", name="Print the form").click()
        waiting.value.path()
    return 1, words, statistics.median(taken)


def first_form() -> tuple[int, int]:
    """Clicks from an empty shop to the printed sheet of a full job's form, and the words read on the way, the quick
    answer passed over."""
    clicks, words = 0, 0
    with tempfile.TemporaryDirectory() as folder, _pages(Store(Path(folder))) as page:

        def click(name: str) -> None:
            nonlocal clicks
            with page.expect_navigation():
                page.get_by_role("button", name=name).first.click()
            clicks += 1

        def read() -> None:
            nonlocal words
            words += counted(page)[0]

        page.goto("/")
        page.locator(".quick").evaluate("quick => quick.remove()")
        read()
        click("New job")
        read()
        while "/form" not in page.url:
            click("Next: ")
            read()
        with page.expect_download() as waiting:
            page.get_by_role("link", name="Letter").first.click()
            clicks += 1
        waiting.value.path()
    return clicks, words


def pages(line: Line) -> None:
    """Print the counts against what is asked."""
    for unit in ("in", "mm"):
        made = stages(unit)
        words, figures = [w for w, _ in made.values()], [f for _, f in made.values()]
        most = max(made, key=lambda k: made[k][0])
        line(
            f"words of a stage, median, {unit}",
            f"{statistics.median(words):.0f}",
            "≤ 330",
            statistics.median(words) <= 330,
        )
        line(f"  at most ({most}), {unit}", f"{max(words)}", "≤ 450", max(words) <= 450)
        line(
            f"figures of a stage, median, {unit}",
            f"{statistics.median(figures):.0f}",
            "≤ 40",
            statistics.median(figures) <= 40,
        )
        over = sorted((f"{k} {f}" for k, (_, f) in made.items() if f > 40), key=lambda x: -int(x.split()[-1]))
        line(f"  stages with more, {unit}", "; ".join(over) or "none", "none", not over)
    clicks, words_read, answer_ms = quick_form()
    line("empty shop to a printed form, quick, clicks", f"{clicks}", "≤ 3", clicks <= 3)
    line("  words on the page", f"{words_read}", "≤ 300", words_read <= 300)
    line("  quick answer", f"{answer_ms:.0f} ms", "≤ 100 ms", answer_ms <= 100)
    clicks, words_read = first_form()
    line("empty shop to a printed form, clicks", f"{clicks}", "≤ 10", clicks <= 10)
    line("  words read on the way", f"{words_read}", "≤ 1500", words_read <= 1500)
