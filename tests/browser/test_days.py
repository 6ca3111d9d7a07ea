"""The days in a real browser: point at a bar, drag it, let go of it, say what is done, add a form; all jobs together."""

from __future__ import annotations

import datetime as dt

import pytest
from playwright.sync_api import Page, expect

from bright_willow.store.store import Store
from tests.sample import fill
from tools.running import running_app

from .test_nothing_lost import KEPT, mark

NOW = dt.datetime(2026, 11, 24, 9, 40, tzinfo=dt.UTC)


@pytest.fixture
def shop(tmp_path):
    store = Store(tmp_path)
    with store.connected():
        fill(store, NOW.date())
        week = store.shop_settings.get().week.model_copy(update={"zone": "UTC"})
        store.shop_settings.save(store.shop_settings.get().model_copy(update={"week": week}))
    with running_app(store, lambda: NOW) as address:
        yield address


def _drag(page: Page, handle: str, by: float) -> None:
    knob = page.locator(f'[data-handle="{handle}"] .knob')
    page.wait_for_load_state("networkidle")  # what is put in anew for the size of the page has come
    knob.hover()  # waits until the drawing is made for the size of the page and stands still
    # asked of the knob that is there then: the drawing may have been put in anew since
    x, y = knob.evaluate(
        "k => { const b = k.getBoundingClientRect(); return [b.x + b.width / 2, b.y + b.height / 2]; }"
    )
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + by, y, steps=5)
    page.mouse.up()


def test_a_bar_is_pointed_at_dragged_let_go_and_a_form_added(page: Page, shop):
    page.goto(f"{shop}/jobs/14/days")
    panel = page.locator(".days-bar")
    expect(panel).to_contain_text("Next")
    ends = page.locator(".sill-figures tr", has_text="last piece done").locator("td").first
    before = ends.text_content()
    third = page.locator("svg.days a.run").filter(has=page.locator("title", has_text="batch 4")).first
    third.click()
    expect(panel).to_contain_text("batch 4: piece 7")
    expect(panel).to_contain_text("Waiting")
    handle = page.locator('[data-handle="bar-14.warm_up.3"], [data-handle="bar-14.load.3"]').get_attribute(
        "data-handle"
    )
    x = page.locator(f'[data-handle="{handle}"] .knob').bounding_box()["x"]
    edges = page.locator("svg.days .days-edge")
    a_weekend = edges.nth(7).bounding_box()["x"] - edges.nth(3).bounding_box()["x"]
    _drag(page, handle, a_weekend)
    expect(panel.locator(".days-bar-head")).to_have_text("Locked")
    expect(mark(page)).to_have_text(KEPT)
    pinned = page.locator(f'[data-handle="{handle}"] .knob.pinned')
    assert abs(pinned.bounding_box()["x"] - x - a_weekend) < 8  # where it was let go
    assert ends.text_content() != before
    at = page.get_by_label("Start at").input_value()
    page.reload()
    page.locator(f'a.run[href$="{handle.removeprefix("bar-")}"]').first.click(force=True)
    expect(page.get_by_label("Start at")).to_have_value(at)
    page.locator(f'[data-handle="{handle}"]').focus()
    page.keyboard.press("ArrowRight")
    expect(page.get_by_label("Start at")).not_to_have_value(at)
    page.get_by_role("button", name="Unlock").click()
    expect(panel.locator(".days-bar-head")).to_have_text("Planned")
    expect(ends).to_have_text(before)
    page.get_by_text("Would another form help?", exact=True).click()
    row = page.locator(".pays-table tr", has=page.get_by_role("rowheader", name="2 forms and straps", exact=True))
    expect(row).to_contain_text("sooner")
    promised = row.locator("td").first.inner_text().split()[0]
    row.get_by_role("button", name="Use 2 forms and straps").click()
    expect(page.locator(".pays-table tr", has_text="as it is").locator("td").first).to_contain_text(promised)
    expect(page.locator('input[name="heat.forms"]')).to_have_value("2")
    page.get_by_text("Equipment in use", exact=True).click()
    expect(page.locator(".view-things svg")).to_contain_text("strap 2")


def test_what_is_begun_and_done_at_the_bench(page: Page, shop):
    page.goto(f"{shop}/jobs/5/days")
    panel = page.locator(".days-bar")
    expect(panel.locator(".days-title")).to_have_text("Lay the template on")  # no form is built yet
    page.goto(f"{shop}/jobs/5/form")
    page.get_by_role("button", name="Mark form as built").click()
    expect(page.get_by_role("button", name="Mark form as built")).to_have_count(0)
    page.goto(f"{shop}/jobs/5/days")
    expect(panel.locator(".days-title")).to_have_text("Number them and keep their order")
    panel.get_by_role("button", name="Started").click()
    expect(panel.locator(".days-bar-head")).to_have_text("Under way")
    panel.get_by_role("button", name="Done").click()
    expect(panel.locator(".days-bar-head")).to_have_text("Done")
    page.get_by_text("Day by day", exact=True).click()
    expect(page.locator(".days-list tr.is-done", has_text="Number them")).to_be_visible()
    page.goto(f"{shop}/jobs/5/days")
    expect(panel.locator(".days-title")).to_have_text("Dry run")


def test_all_jobs_together_and_what_is_due(page: Page, shop):
    page.goto(shop)
    due = page.locator(".due-soon")
    expect(due).to_contain_text("Today")
    due.get_by_role("link", name="more").first.click()
    expect(page.get_by_role("heading", name="Schedule of the shop")).to_be_visible()
    handle = page.locator('[data-handle^="bar-5.mix"]').nth(2).get_attribute("data-handle")
    _drag(page, handle, 40)
    expect(page.locator(".days-bar-head")).to_have_text("Locked")
    expect(page.locator(f'[data-handle="{handle}"] .knob.pinned')).to_be_visible()
    page.reload()
    expect(page.locator(f'[data-handle="{handle}"] .knob.pinned')).to_be_visible()
    page.keyboard.press("v")
    expect(page.locator(".view-things svg")).to_be_visible()
    with page.expect_download() as caught:
        page.get_by_role("link", name="iCalendar").click()
    assert caught.value.path().read_bytes().startswith(b"BEGIN:VCALENDAR")
    page.get_by_role("link", name="Hours, people, equipment").click()
    page.get_by_label("People at work").fill("1")
    page.get_by_role("button", name="Save").click()
    expect(page.locator(".kept-line")).to_have_text("Saved.")
    page.goto(f"{shop}/days")
    expect(page.locator(".days-sill .findings")).to_contain_text("needs 2 people; the shop has 1")
    page.get_by_role("button", name="The shop has 2 people.").first.click()
    expect(page.locator(".days-sill .findings")).not_to_contain_text("needs 2 people")
