"""For everyone: axe finds nothing serious on any page, on a desk and on a tablet; nothing runs off the side."""

import re

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import expect

PATHS = [
    "/",
    "/book",
    "/shop",
    "/quick?how=unsure",
    "/quick?shape=hook&how=steamed",
    "/rack",
    "/rack/lots/1",
    "/rack/woods?key=oak_white",
    "/jobs/5/way",
    "/jobs/10/build_up",
    "/jobs/9/build_up",
    "/jobs/4/form",
    "/jobs/9/form",
    "/jobs/12/form",
    "/jobs/13/form/mine",
    "/jobs/14/build_up",
    "/jobs/16/build_up",
    "/jobs/17/build_up",
    "/jobs/5/shape",
    "/jobs/5/stock",
    "/jobs/4/build_up",
    "/jobs/5/form",
    "/days",
    "/days?bar=14.load.1",
    "/bench",
    "/jobs/14/bench",
    "/jobs/5/bench",
    "/jobs/14/steam",
    "/jobs/14/why?seen=outer_splintered",
    "/jobs/14/trials",
    "/jobs/14/days",
    "/jobs/5/days?bar=5.close.0",
    "/jobs/1/measure",
    "/jobs/1/pictures",
    "/book/learnt",
    "/jobs/5/measure",
    "/jobs/5/shape/history",
    "/jobs/5/offsets/print",
    "/nowhere",
]


def faults(page, address, paths, *rules: str) -> list:
    """What axe finds on some pages, by all of its rules or some, and pages that are wider than the screen."""
    found = []
    page.set_extra_http_headers({"accept": "text/html"})
    for path in paths:
        page.goto(address + path)
        found += [(path, *fault) for fault in axe(page, *rules)]
        wide = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
        found += [(path, wide)] if wide > 0 else []
    return found


def axe(page, *rules: str) -> list:
    """What axe finds on the page that is open."""
    only = {"type": "rule", "values": rules} if rules else ["wcag2a", "wcag2aa", "wcag21aa", "best-practice"]
    run = Axe().run(page, options={"runOnly": only, "resultTypes": ["violations"], "selectors": False})
    return [(v["id"], [n["html"][:140] for n in v["nodes"][:3]]) for v in run.response["violations"]]


def test_axe_on_pages(page, marrow_lane):
    """Of every kind; the other pages are among the slow tests."""
    assert faults(page, marrow_lane, PATHS[::3]) == []


def test_words_can_be_read_on_dark_pages(page, marrow_lane):
    page.emulate_media(color_scheme="dark")
    assert faults(page, marrow_lane, PATHS[1::5], "color-contrast") == []


@pytest.mark.parametrize("kind", ["run", "rehearsal", "game"])
def test_axe_at_the_bench(page, marrow_lane, kind):
    import httpx2

    run = httpx2.post(f"{marrow_lane}/jobs/14/bench/start?kind={kind}").headers["location"]
    for size, scheme in (((1280, 800), "light"), ((820, 1180), "dark")):
        page.set_viewport_size({"width": size[0], "height": size[1]})
        page.emulate_media(color_scheme=scheme)
        page.goto(marrow_lane + run)
        assert axe(page) == [], (kind, scheme)


def test_first_load_is_small(page, marrow_lane):
    import httpx2

    asked = []
    page.on("request", lambda r: asked.append(r.url))
    page.goto(f"{marrow_lane}/jobs/5/shape")
    page.wait_for_load_state("networkidle")
    assert all(url.startswith((marrow_lane, "data:")) for url in asked)
    total = 0
    for url in {u for u in asked if u.startswith(marrow_lane)}:
        with httpx2.stream("GET", url, headers={"accept-encoding": "gzip"}) as answer:
            total += sum(len(chunk) for chunk in answer.iter_raw())
    assert total <= 150_000


UNSEEN = """() => [...document.querySelectorAll('a[href], button, input:not([type=hidden]), select, textarea, summary, [tabindex="0"]')]
  .filter((e) => e.getClientRects().length && !e.disabled && !e.matches('.visually-hidden') && getComputedStyle(e).visibility === 'visible')
  .filter((e) => {
    e.focus({ focusVisible: true });
    const seen = getComputedStyle(e);
    const handle = e.matches('.handle') && getComputedStyle(e.querySelector('.knob')).fill !== getComputedStyle(document.body).backgroundColor;
    return document.activeElement === e && !handle && (seen.outlineStyle === 'none' || parseFloat(seen.outlineWidth) < 2);
  }).map((e) => e.outerHTML.slice(0, 120))"""


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_where_the_keyboard_is_can_be_seen(page, marrow_lane, scheme):
    page.emulate_media(color_scheme=scheme)
    for path in ("/", "/quick", "/jobs/5/shape", "/jobs/9/build_up", "/jobs/5/form", "/jobs/5/days", "/rack", "/shop"):
        page.goto(marrow_lane + path)
        page.keyboard.press("Tab")  # so that the browser shows focus
        assert page.evaluate(UNSEEN) == [], path


def test_a_term_is_explained_by_a_key_from_its_field(page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/1/measure")
    page.locator("#p-chord").focus()
    page.keyboard.press("F1")
    expect(page.locator(".what-card:popover-open")).to_contain_text("Chord")
    assert focused(page) == "chord"
    page.keyboard.press("F1")
    expect(page.locator(".what-card:popover-open")).to_have_count(0)


def focused(page):
    return page.evaluate("document.activeElement.name || document.activeElement.textContent.trim()")


def test_the_keyboard_is_soon_at_the_first_field_and_never_lost(page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/5/shape")
    for _ in range(2):
        page.keyboard.press("Tab")
    assert focused(page) == "Skip to the fields"
    page.keyboard.press("Enter")
    page.keyboard.press("Tab")
    assert focused(page) == "name"
    page.keyboard.press("Escape")
    page.locator(".next button").focus()
    page.keyboard.press("Enter")  # Next
    page.wait_for_url("**/method")
    expect(page.locator(".hand h2").or_(page.locator("main h1")).last).to_be_focused()
    page.keyboard.press(".")
    page.wait_for_url("**/wood")
    page.keyboard.press(",")
    page.wait_for_url("**/method")
    page.get_by_role("button", name="Use ").first.focus()
    page.keyboard.press("Enter")
    page.wait_for_selector("text=chosen")
    expect(page.locator(".hand h2")).to_be_focused()


def test_the_choice_of_dark_screens_stays(page, marrow_lane):
    page.emulate_media(color_scheme="light")
    page.goto(marrow_lane)
    page.get_by_role("button", name="Dark screens").click()
    paper = "getComputedStyle(document.body).backgroundColor"
    dark = page.evaluate(paper)
    page.goto(f"{marrow_lane}/jobs/5/shape")
    assert page.evaluate(paper) == dark == "rgb(20, 32, 28)"
    page.emulate_media(media="print")
    assert page.evaluate(paper) == "rgb(255, 255, 255)"


def test_a_handle_is_where_the_pointer_is_before_the_server_has_answered(page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/5/shape")
    page.locator("html[data-board]").wait_for(state="attached")
    page.route("**/pull**", lambda route: None)  # never answered
    knob = page.locator(".handle circle.knob").first
    box = knob.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - 40, y + 25, steps=4)
    moved = knob.bounding_box()
    assert abs(moved["x"] - box["x"] + 40) < 2 and abs(moved["y"] - box["y"] - 25) < 2


def test_a_whole_job_by_keyboard_alone(page, empty_shop):
    """From the empty shop to a measured piece: fewer than 120 keys besides what is typed."""
    pressed = 0

    def press(key):
        nonlocal pressed
        pressed += 1
        page.keyboard.press(key)

    def type_into(name, text):
        for _ in range(12):
            if page.evaluate("document.activeElement.name") == name:
                break
            press("Tab")
        assert page.evaluate("document.activeElement.name") == name
        page.keyboard.press("Control+A")
        page.keyboard.type(text)

    def onward(stage):
        press("n")
        page.wait_for_url(re.compile(f"/{stage}($|[?])"))
        expect(page.locator(".hand h2")).to_be_focused()

    page.goto(empty_shop)
    onward("shape")
    type_into("name", "Hop pole bow")
    type_into("shape.chord_mm", "900")
    type_into("shape.rise_mm", "180")
    type_into("part.thickness_mm", "20")
    press("Escape")
    expect(page.locator("[data-mark=kept]")).to_be_visible()
    for stage in ("method", "wood", "layup", "form", "cut-list", "glue-up", "schedule", "bench", "measure"):
        onward(stage)
    type_into("chord", "905")
    type_into("rise", "176")
    press("Enter")
    expect(page.locator("table.pieces tbody tr:not(.what-now)")).to_have_count(1)
    assert pressed < 120
