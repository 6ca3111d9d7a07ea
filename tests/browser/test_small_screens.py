"""On a tablet, on a phone, enlarged, in print: nothing runs off the side, everything can be hit and reached."""

import pytest
from playwright.sync_api import expect

PAGES = [
    "/",
    "/?state=planned",
    "/quick?how=unsure",
    "/quick?shape=hook&how=steamed",
    "/rack",
    "/rack/lots/1",
    "/book",
    "/shop",
    "/jobs/5/shape",
    "/jobs/5/way",
    "/jobs/5/stock",
    "/jobs/9/build_up",
    "/jobs/12/form",
    "/jobs/14/bend",
    "/jobs/14/steam",
    "/jobs/15/dry",
    "/jobs/19/form",
    "/jobs/1/measure",
    "/jobs/5/shape/steps",
    "/jobs/5/shape/history",
    "/jobs/13/form/mine",
]
SMALL = """() => [...document.querySelectorAll('a.btn, button, select, input:not([type=hidden]):not([type=checkbox]):not([type=radio]), .view-names label, .pills label, .leaf a, .top nav a, summary')]
  .filter((e) => e.getClientRects().length && !e.closest('.visually-hidden, dialog, details:not([open]) > :not(summary), svg') && getComputedStyle(e).visibility === 'visible' && !e.matches('.visually-hidden, .visually-hidden-focusable'))
  .map((e) => [e, e.getBoundingClientRect()])
  .filter(([e, r]) => r.height < 43.5 || (e.matches('button, a.btn, .quiet') && r.width < 43.5))
  .map(([e, r]) => `${e.outerHTML.slice(0, 80)} ${Math.round(r.width)}x${Math.round(r.height)}`)"""


@pytest.mark.parametrize("size", [(390, 844), (820, 1180), (640, 400)], ids=["phone", "tablet", "twice as large"])
def test_nothing_runs_off_the_side_and_everything_can_be_hit(page, marrow_lane, size):
    """640 × 400 is what 1280 × 800 leaves at 200 %. On the others everything can be hit with a finger."""
    page.set_viewport_size({"width": size[0], "height": size[1]})
    wide, small = [], []
    for path in PAGES:
        page.goto(marrow_lane + path, wait_until="domcontentloaded")
        over = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
        if over > 0:
            wide.append((path, over))
        if size[0] < size[1]:
            small += [(path, message) for message in page.evaluate(SMALL)]
    assert wide == []
    assert small == [], "\n".join(map(str, small[:40]))


FIRST_FIELD = """() => Math.min(...[...document.querySelectorAll('.hand-scroll :is(input:not([type=hidden]), select, button)')].filter((e) => e.getClientRects().length).map((e) => e.getBoundingClientRect().top))"""


@pytest.mark.parametrize("size", [(1024, 768), (820, 1180), (390, 844)], ids=["laptop", "tablet", "phone"])
def test_on_a_small_screen_the_fields_come_before_the_drawing(page, marrow_lane, size):
    """The first field is within the first screen, no stage is longer than three, and Next is always at hand."""
    page.set_viewport_size({"width": size[0], "height": size[1]})
    for path in [p for p in PAGES if p.startswith("/jobs/") and p.count("/") == 3 and not p.endswith(("way", "bench"))]:
        page.goto(marrow_lane + path)
        assert page.evaluate(FIRST_FIELD) < size[1] * 0.75, path
        assert page.evaluate("document.documentElement.scrollHeight / innerHeight") <= 3.2, path
        places = [f'[data-place="{name}"]' for name in ("bar", "stem", "answer")]
        places += [".hand-scroll", '[data-place="board"]', '[data-place="sill"]']
        tops = [page.locator(place).bounding_box()["y"] for place in places]
        assert tops == sorted(tops), path
    page.goto(f"{marrow_lane}/jobs/14/bend")
    expect(page.locator(".next")).to_be_in_viewport()
    stem = page.locator('[data-place="stem"]').bounding_box()
    assert stem["width"] > 0.85 * size[0] and stem["height"] < 130


def test_in_print_only_what_is_read_is_left_and_it_reads_in_black_and_white(page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/14/bend")
    page.emulate_media(media="print")
    for gone in (".top", ".stem", ".next", ".view-slider"):
        expect(page.locator(gone).first).to_be_hidden()
    for left in (".wrap-drawing", ".figures", ".findings"):
        expect(page.locator(left).first).to_be_visible()
    expect(page.locator(".sill-figures tr").first).to_be_visible()  # folded on the screen
    assert page.evaluate("getComputedStyle(document.body).backgroundColor") == "rgb(255, 255, 255)"
    levels = page.locator(".findings .level span").all_inner_texts()
    assert levels and set(levels) <= {"OK", "Check", "Stop"}  # by word, not by colour


def test_still_for_those_who_ask_for_it(page, marrow_lane):
    page.emulate_media(reduced_motion="reduce")
    page.goto(f"{marrow_lane}/jobs/14/bend")
    moving = page.evaluate(
        "[...document.querySelectorAll('*')].filter((e) => parseFloat(getComputedStyle(e).transitionDuration) > "
        "0.01).length"
    )
    assert moving == 0
