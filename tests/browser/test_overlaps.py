"""Nothing overlaps, nothing is cut: the words of every drawing of every demo job, measured by the browser."""

import pytest

from bright_willow.core.methods.method_registry import stages_for
from bright_willow.demo.marrow_lane import EXAMPLES

MEASURE = """() => {
  const said = [];
  for (const svg of document.querySelectorAll('.board-place svg.board')) {
    const frame = svg.getBoundingClientRect();
    if (!frame.width) continue;
    const shown = (e) => !e.closest('.step') || e.closest('.step.now');
    const words = [...svg.querySelectorAll('text')].filter((t) => shown(t) && !t.closest('.handle'));
    const boxes = words.map((t) => {
      const r = t.getBoundingClientRect();
      return { text: t.textContent, x0: r.left + 1, x1: r.right - 1, y0: r.top + r.height * 0.18, y1: r.bottom - r.height * 0.2 };
    });
    const knobs = [...svg.querySelectorAll('.handle .knob')].map((k) => {
      const r = k.getBoundingClientRect();
      return { text: 'a handle', x0: r.left, x1: r.right, y0: r.top, y1: r.bottom };
    });
    const cross = (a, b) => Math.min(a.x1, b.x1) - Math.max(a.x0, b.x0) > 1 && Math.min(a.y1, b.y1) - Math.max(a.y0, b.y0) > 1;
    boxes.forEach((a, i) => {
      if (a.x0 < frame.left - 1 || a.x1 > frame.right + 1 || a.y0 < frame.top - 1 || a.y1 > frame.bottom + 1) said.push(`cut off: ${a.text}`);
      for (const b of [...boxes.slice(i + 1), ...knobs]) if (cross(a, b)) said.push(`${a.text} / ${b.text}`);
    });
    const pieces = [...svg.querySelectorAll('path.strip')].filter((p) => shown(p) && !p.closest('.lens-in'));
    for (const piece of pieces) {
      const back = piece.getScreenCTM().inverse();
      for (const a of boxes) {
        let inside = 0;
        for (let u = 0; u <= 8; u += 1) for (let v = 0; v <= 2; v += 1) {
          const at = new DOMPoint(a.x0 + (a.x1 - a.x0) * u / 8, a.y0 + (a.y1 - a.y0) * v / 2).matrixTransform(back);
          if (piece.isPointInFill(at)) inside += 1;
        }
        if (inside > 1) said.push(`${a.text} / the piece`);
      }
    }
  }
  return said;
}"""


# What is not as it should be: words smaller than 11 px, and on the board of a job wood that does not fill it.
LEGIBLE = """() => [...document.querySelectorAll('.board-place svg text')].filter((t) => t.textContent.trim() && t.getClientRects().length && (!t.closest('.step') || t.closest('.step.now'))).map((t) => {
  const m = t.getScreenCTM();
  return [parseFloat(getComputedStyle(t).fontSize) * Math.hypot(m.a, m.b), t.textContent];
}).filter(([high]) => high < 10.95).map(([high, text]) => `${high.toFixed(1)} px: ${text}`)"""
FILLED = """() => {
  const place = document.querySelector('.board-place').getBoundingClientRect(), whole = { x0: 1e9, x1: -1e9, y0: 1e9, y1: -1e9 };
  for (const e of document.querySelectorAll('.board.fitted > .strip, .board.fitted > .form-body')) {
    const r = e.getBoundingClientRect();
    Object.assign(whole, { x0: Math.min(whole.x0, r.left), x1: Math.max(whole.x1, r.right), y0: Math.min(whole.y0, r.top), y1: Math.max(whole.y1, r.bottom) });
  }
  return Math.max((whole.x1 - whole.x0) / place.width, (whole.y1 - whole.y0) / place.height);
}"""
SIZES = {"desk": (1280, 800), "laptop": (1024, 768), "tablet": (820, 1180), "phone": (390, 844)}
DAYS_OF = (5, 7, 14, 17)  # piece by piece, in loads, with heat, without a form: the others' days are drawn the same


def overlaps(page, address, jobs) -> tuple[int, list]:
    """Every view of every stage of some jobs, sliders at either end: how many drawings there are, and what is wrong in
    them. A panel, with everything folded that folds, is no longer than two screens of 1280 × 800."""
    found, seen = [], 0
    for number, example in jobs:
        for row in stages_for(example.job):
            if row.key == "days" and number not in DAYS_OF:
                continue
            page.goto(f"{address}/jobs/{number}/{row.key}", wait_until="domcontentloaded")
            if (high := page.evaluate("document.querySelector('.hand-scroll').scrollHeight")) > 1508:
                found.append((number, row.key, f"{high} px long"))
            for view in page.locator('[name="board-view"]').all() or [None]:
                if view is not None:
                    view.evaluate("e => { e.checked = true; }")
                seen += page.locator(".board-place svg.board:visible").count()
                name = view.get_attribute("value") if view else ""
                found += [(number, row.key, name, message) for message in page.evaluate(MEASURE)]
                slider = page.locator("[data-steps-slider]:visible")
                for key in ("Home", "End") if slider.count() else ():
                    slider.press(key)
                    found += [(number, row.key, key, message) for message in page.evaluate(MEASURE)]
    return seen, found


def test_words_keep_clear_of_each_other_and_of_the_piece_in_inches(page, marrow_lane):
    """Of every seventh job; all of them in mm are among the slow tests."""
    page.goto(marrow_lane)
    page.keyboard.press("m")
    page.wait_for_load_state("networkidle")
    chosen = list(enumerate(EXAMPLES, 1))[::7]
    seen, found = overlaps(page, marrow_lane, chosen)
    assert seen > len(chosen) * 4 and found == [], "\n".join(map(str, found))


@pytest.mark.parametrize("size", SIZES)
def test_drawings_are_made_for_the_size_of_the_page(page, marrow_lane, size):
    """Of every eighth job, others for every second size: words of 11 px and more that keep clear of one another, and
    wood that fills the board."""
    page.set_viewport_size({"width": SIZES[size][0], "height": SIZES[size][1]})
    small, empty, found = [], [], []
    first = 2 + 4 * (list(SIZES).index(size) % 2)
    for number, example in list(enumerate(EXAMPLES, 1))[first::8]:
        for row in stages_for(example.job):
            page.goto(f"{marrow_lane}/jobs/{number}/{row.key}")
            if not page.locator(".board-place svg.board.fitted:visible").count():
                small += [(number, row.key, said) for said in page.evaluate(LEGIBLE)]
                continue
            page.locator(f'html[data-board="{SIZES[size][0]}"]').wait_for(state="attached")
            small += [(number, row.key, said) for said in page.evaluate(LEGIBLE)]
            found += [(number, row.key, said) for said in page.evaluate(MEASURE)]
            if (share := page.evaluate(FILLED)) < (0.55 if size != "phone" else 0.45):
                empty.append((number, row.key, share))
    assert (small, found, empty) == ([], [], []), "\n".join(map(str, [*small, *found, *empty]))


# Words of one row of a table that lie on one another.
IN_ROWS = """(rows) => [...document.querySelectorAll(rows)].flatMap((row) => {
  const words = [], walk = document.createTreeWalker(row, NodeFilter.SHOW_TEXT);
  while (walk.nextNode()) {
    const range = document.createRange();
    range.selectNodeContents(walk.currentNode);
    if (walk.currentNode.textContent.trim()) for (const box of range.getClientRects()) words.push([walk.currentNode.textContent.trim(), box]);
  }
  const lies = (a, b) => Math.min(a.right, b.right) - Math.max(a.left, b.left) > 1 && Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top) > 3;
  return words.flatMap(([name, a], i) => words.slice(i + 1).filter(([, b]) => lies(a, b)).map(([other]) => `${name} / ${other}`));
})"""


@pytest.mark.parametrize("size", SIZES)
def test_figures_of_one_row_keep_apart(page, marrow_lane, size):
    page.set_viewport_size({"width": SIZES[size][0], "height": SIZES[size][1]})
    for path, rows in (
        ("/jobs/18/layup", ".rung"),
        ("/jobs/19/layup", ".rung"),
        ("/rack", "tr"),
        ("/jobs/5/method", "tr"),
    ):
        page.goto(marrow_lane + path)
        page.evaluate("for (const fold of document.querySelectorAll('.hand details')) fold.open = true")
        assert page.evaluate(IN_ROWS, rows) == [], path
