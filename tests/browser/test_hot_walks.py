"""Hot bends gone through as a person would: iron, blanket, strap at 2 h and at 48 h, steamed ring, straightening, bag."""

import re

import pytest
from playwright.sync_api import Page, expect

from bright_willow.store.store import Store
from tests.browser.test_walk import settle, typed
from tests.core.methods.jobs import job_for
from tools.running import running_app

RING = {
    "shape": {"kind": "ring", "face": "inner", "diameter_mm": 400},
    "part": {"thickness_mm": 12, "width_mm": 30, "count": 2, "spares": 1, "trim_mm": 0},
    "build_up": {"laminae": 4},
}
ARC = {"kind": "arc_by_radius", "face": "inner", "radius_mm": 900, "angle_deg": 90}
BAG = {"shape": ARC, "part": {"thickness_mm": 25, "width_mm": 30}, "heat": {"wall": "bag"}}


@pytest.fixture
def opened(page: Page, tmp_path):
    """Opens a stage of a job in a shop of its own."""
    store = Store(tmp_path)
    with running_app(store) as address:

        def at(job, stage: str) -> str:
            with store.connected():
                job_id = store.jobs.add(job)
            page.goto(f"{address}/jobs/{job_id}/{stage}")
            return f"{address}/jobs/{job_id}/"

        yield at


def through(page: Page, base: str) -> set[str]:
    """Open every stage of the job one after another; returns their keys."""
    links = page.locator("nav a[href*='/jobs/']").evaluate_all("all => all.map(a => a.getAttribute('href'))")
    keys = {m.group(1) for link in links if (m := re.fullmatch(r"/jobs/\d+/([\w-]+)", link))}
    for key in sorted(keys):
        page.goto(base + key)
        settle(page)
        expect(page.locator("main")).to_be_visible()
    return keys


def springs_back(page: Page) -> float:
    cell = page.locator(".figure-cell", has_text="Springback, each end").inner_text()
    return float(re.search(r"([\d.]+) mm", cell).group(1))


@pytest.mark.parametrize(("way", "message"), [("dry_heat", "The flat strip"), ("blanket", "The flat strip")])
def test_over_an_iron_and_under_a_blanket(page: Page, opened, way, message):
    base = opened(job_for(way), "bend")
    expect(page.locator(".board-views")).to_contain_text(message)
    turned = float(re.search(r"bend to (\d+)° for 110°", page.locator("main").inner_text()).group(1))
    assert 110 < turned < 130  # a 2 mm strip keeps most of its bend
    page.goto(base + "dry")
    expect(page.locator(".hand")).to_contain_text("no jig and no drying days")
    keys = through(page, base)
    assert "steam" not in keys and {"bend", "form", "drying", "measure"} <= keys


def test_in_a_strap_two_hours_and_two_days(page: Page, opened):
    base = opened(job_for("steam_strap"), "dry")
    hours = typed(page, "Hours on the form")
    seen = {}
    for h in ("2", "48"):
        hours.fill(h)
        page.keyboard.press("Tab")
        settle(page)
        page.locator('label[for="view-hours"]').click()
        expect(page.locator(".drying-chart")).to_contain_text(f"{h} h on the form, as planned")
        expect(page.locator(".view-hours tr.chosen-row")).to_contain_text(f"{h} h")
        seen[h] = springs_back(page)
    assert seen["48"] < 0.7 * seen["2"]
    page.reload()
    expect(hours).to_have_value("48")
    assert {"steam", "drying", "bending-steps"} <= through(page, base)


def test_a_steamed_ring(page: Page, opened):
    base = opened(job_for("steam_laminae", **RING), "build_up")
    use = page.locator(".figure-cell", has_text="% of breaking strain").inner_text()
    assert int(re.search(r"(\d+)%", use).group(1)) < 50
    expect(page.locator(".sill")).to_contain_text("a ring glued all around")
    page.goto(base + "steam")
    page.get_by_text("Steam box", exact=True).filter(visible=True).click()
    before = page.locator("main").inner_text()
    page.get_by_role("group", name="Strips of a piece banded into one pack").get_by_text("no", exact=True).click()
    settle(page)
    assert page.locator("main").inner_text() != before
    assert {"layup", "bend", "steam", "glue-up", "drying"} <= through(page, base)


def test_a_bowed_piece_is_straightened(page: Page, opened):
    base = opened(job_for("steam_free"), "way")
    table = page.locator(".ways-table").first
    expect(page.locator("main")).to_contain_text("Steam bend, no strap")
    expect(table).not_to_contain_text("Straighten")
    page.get_by_role("button", name="Straighten").click()
    expect(table).to_contain_text("Straighten")
    page.goto(base + "bend")
    expect(page.locator(".sill")).to_contain_text("straight")
    expect(page.locator(".sill")).to_contain_text("Block height")
    expect(page.locator(".sill")).not_to_contain_text("Springback, each end")
    keys = through(page, base)
    assert not {"form", "drying"} & keys
    page.goto(base + "measure")
    page.get_by_role("button", name="Start the record").click()
    expect(typed(page, "Chord")).to_be_visible()


def test_bent_in_the_bag(page: Page, opened):
    base = opened(job_for("steam_free", **BAG), "steam")
    page.get_by_text("Steam box", exact=True).filter(visible=True).click()
    page.get_by_role("group", name="Bent in the bag").get_by_text("yes", exact=True).click()
    settle(page)
    expect(page.locator("main")).to_contain_text("then held at full bend")
    page.goto(base + "bend")
    expect(page.locator(".board-views")).to_contain_text("In the bag")
    expect(page.locator("main")).not_to_contain_text("lever pull")
    page.goto(base + "moves")
    expect(page.locator("main")).to_contain_text("5 pulls")
    through(page, base)


def test_an_iron_bend_is_checked_and_eased_twice_at_the_bench(page: Page, opened):
    """From Start to the bend, two passes that say what to do, a third within what is allowed; then on with the run."""
    opened(job_for("dry_heat"), "bench")
    page.get_by_role("button", name="Start", exact=True).click()
    page.wait_for_url("**/runs/*")
    done = (("look_over", -1), ("dimension", -1), ("dry_run", -1), ("heat_up", 0), ("bend", 0))
    taps = [{"client": f"walk-{key}", "kind": "done", "key": key, "number": number} for key, number in done]
    assert page.request.post(f"{page.url}/events", data={"events": taps}).ok
    page.get_by_role("link", name="Check piece 1").first.click()
    for number, gaps in enumerate(((12, 0, 3, 0), (5, 0, 1, 0), (1, 0, 1, 0)), 1):
        for place, gap in enumerate(gaps):
            page.get_by_label(f"Gap at place {place + 1}").fill(str(gap))
        page.get_by_role("button", name="Save and show what to do").click()
        expect(page.locator("#what-to-do")).to_contain_text("is done" if number == 3 else "What to do now")
        expect(page.locator(".ease-passes li")).to_have_count(number if number > 1 else 0)
    expect(page.locator(".easing-drawing .place")).to_have_count(4)
    page.get_by_role("link", name="Back to the run").click()
    expect(page.locator(".run-log")).to_contain_text("checked: piece 1, largest gap 1 mm")
