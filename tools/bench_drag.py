"""How soon a drag is seen in the browser: the handle in its frame, and the drawing calculated for it."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
from playwright.sync_api import Page, sync_playwright

from bright_willow.demo.marrow_lane import fill
from bright_willow.store.store import Store
from tools.running import running_app
from tools.shots import FLAGS
from tools.yardstick import QUIET_S, yardstick_s

Line = Callable[[str, str, str, bool], None]
MOVES = 40
# For each move: when the handle is drawn there, and when a board calculated for that place or a later one is.
MEASURE = """async (moves) => {
  const soon = () => new Promise((done) => requestAnimationFrame(() => done(performance.now())));
  const knob = () => document.querySelector('.handle circle.knob');
  const box = knob().getBoundingClientRect();
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  const at = (kind, n) => {
    const place = { bubbles: true, button: 0, clientX: x - n * 0.6, clientY: y + n * 0.6 };
    (kind === 'pointerdown' ? knob() : document).dispatchEvent(new PointerEvent(kind, place));
  };
  const handle = [], board = [];
  at('pointerdown', 0);
  for (let n = 1; n <= moves; n += 1) {
    const svg = document.querySelector('svg.board'), begun = performance.now();
    at('pointermove', n);
    handle.push(await soon() - begun);
    while (document.querySelector('svg.board') === svg && performance.now() - begun < 3000) await soon();
    board.push(await soon() - begun);
  }
  at('pointerup', moves);
  return [handle, board];
}"""
BARE = """async (times) => {
  const took = [];
  for (let n = 0; n < times; n += 1) {
    const begun = performance.now();
    await (await fetch('/static/mark.svg', { cache: 'no-store' })).text();
    took.push(performance.now() - begun);
  }
  return took;
}"""


def drags(line: Line) -> None:
    """Drag a handle of three jobs, forty moves each, beside a static file of the same server."""
    store = Store(Path(tempfile.mkdtemp()))
    with store.connected():
        fill(store)
    with running_app(store) as address, sync_playwright() as play:
        browser = play.chromium.launch(executable_path=shutil.which("chromium"), args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        for job in (5, 2, 15):
            _of(line, page, address, job)
        browser.close()


def _of(line: Line, page: Page, address: str, job: int) -> None:
    page.goto(f"{address}/jobs/{job}/shape", wait_until="networkidle")
    before = yardstick_s()
    handle, board = page.evaluate(MEASURE, MOVES)
    bare = float(np.median(page.evaluate(BARE, MOVES)))
    scale = QUIET_S / max(before, yardstick_s())
    first, last = (float(np.percentile(np.array(v) * scale, 95)) for v in (handle, board))
    line(f"job {job} dragged: the handle, 95 of 100 within", f"{first:.0f} ms", "≤ 17 ms", first <= 17)
    line("  the drawing calculated for it", f"{last:.0f} ms", "≤ 50 ms", last <= 50)
    line("  a static file fetched by the page, median", f"{bare * scale:.1f} ms", "-", True)
