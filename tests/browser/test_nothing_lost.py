"""What is typed is kept or said not to be: slow answers, two windows, a stopped program, a file held by another."""

import sqlite3

import pytest
from playwright.sync_api import Page, expect

from bright_willow.store.store import Store
from tests.sample import fill
from tools.running import Program

from .test_walk import settle, typed

KEPT = "All changes saved"


def mark(page: Page):
    return page.locator("[data-mark]")


@pytest.fixture
def program(tmp_path):
    store = Store(tmp_path)
    with store.connected():
        fill(store)
    made = Program(tmp_path, often=True).start()
    yield made
    made.end()


def test_a_choice_made_while_a_drag_is_being_kept_stays(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/4/form")
    page.locator("html[data-board]").wait_for(state="attached")
    held = []
    page.route("**/form/pull?*keep=1*", lambda route: held.append(route))
    knob = page.locator('[data-handle="close-0"] .knob')
    box = knob.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    typed = page.get_by_role("textbox", name="Closing direction")
    before = typed.input_value()
    page.mouse.move(x + 12, y + 2)
    expect(typed).not_to_have_value(before)  # filled in while it is dragged: nobody's change
    page.mouse.move(x + 25, y + 4)
    page.mouse.up()
    page.wait_for_timeout(150)
    assert held, "the drag is under way"
    kind = page.get_by_label("Built as")
    other = next(o for o in ("ribs", "sawn_sides", "solid", "stack") if o != kind.input_value())
    kind.select_option(other)
    expect(mark(page)).to_have_text("saving …")
    held[0].continue_()
    expect(mark(page)).to_have_text(KEPT)
    expect(page.get_by_label("Built as")).to_have_value(other)
    page.reload()
    expect(page.get_by_label("Built as")).to_have_value(other)
    page.goto(f"{marrow_lane}/jobs/4/form/history")
    said = [page.locator(".history li span:nth-child(2)").nth(i).inner_text() for i in (0, 1)]
    assert said == ["changed form", "dragged on the drawing"]


def test_two_windows_on_one_job(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/5/shape")
    other = page.context.new_page()
    other.goto(f"{marrow_lane}/jobs/5/shape")
    typed(page, "Rise").fill("480")
    page.keyboard.press("Tab")
    expect(mark(page)).to_have_text(KEPT)
    typed(other, "Width").fill("77")  # another field: both stand
    other.keyboard.press("Tab")
    expect(other.locator(".notice")).to_contain_text("Merged with")
    expect(typed(other, "Rise")).to_have_value("480")
    typed(page, "Width").fill("66")  # the same field: both are said, and nothing is overwritten
    page.keyboard.press("Tab")
    fault = page.locator("#f-part-width_mm-fault")
    expect(fault).to_contain_text("your change “66”, the other change “77”")
    expect(typed(page, "Width")).to_have_value("77")
    page.get_by_role("button", name="use my change").click()
    expect(mark(page)).to_have_text(KEPT)
    expect(typed(page, "Width")).to_have_value("66")
    other.locator("[data-key=u]").click()  # it would take back what this window never saw
    expect(other.locator(".notice")).to_contain_text("in the meantime")
    expect(typed(other, "Width")).to_have_value("66")
    other.close()


def test_back_shows_what_stands_now(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/5/shape")
    typed(page, "Rise").fill("470")
    page.keyboard.press("Tab")
    expect(mark(page)).to_have_text(KEPT)
    page.goto(f"{marrow_lane}/jobs/5/stock")
    page.go_back()
    expect(typed(page, "Rise")).to_have_value("470")
    typed(page, "Thickness").fill("41")
    page.keyboard.press("Tab")
    expect(mark(page)).to_have_text(KEPT)
    page.reload()
    expect(typed(page, "Rise")).to_have_value("470")


def test_the_program_stops_and_what_was_typed_is_kept_when_it_runs_again(page: Page, program):
    page.goto(f"{program.address}/jobs/5/shape")
    program.end()
    typed(page, "Rise").fill("455")
    page.keyboard.press("Tab")
    expect(mark(page)).to_contain_text("Not saved: the program does not answer")
    typed(page, "Width").fill("71")
    page.keyboard.press("Tab")
    program.start()
    expect(mark(page)).to_have_text(KEPT)
    assert b'value="455"' in program.ask("GET", "/jobs/5/shape")[1]
    assert b'value="71"' in program.ask("GET", "/jobs/5/shape")[1]
    # and where the window is closed before it runs again
    program.end()
    typed(page, "Rise").fill("444")
    page.keyboard.press("Tab")
    expect(mark(page)).to_contain_text("Not saved")
    context = page.context
    page.close()
    program.start()
    later = context.new_page()
    later.goto(program.address)
    for _ in range(50):
        if b'value="444"' in program.ask("GET", "/jobs/5/shape")[1]:
            break
        later.wait_for_timeout(100)
    assert b'value="444"' in program.ask("GET", "/jobs/5/shape")[1]
    assert later.evaluate("Object.keys(localStorage).length") == 0


def test_half_typed_text_survives_a_reload(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/5/shape")
    typed(page, "Rise").fill("495")  # not left yet
    page.reload()
    expect(typed(page, "Rise")).to_have_value("495")
    expect(mark(page)).to_have_text(KEPT)
    page.goto(f"{marrow_lane}/shop")
    page.get_by_label("Saw kerf").fill("2.7")
    page.reload()
    expect(page.get_by_label("Saw kerf")).to_have_value("2.7")
    expect(page.locator(".typed-before")).to_contain_text("not saved yet")
    page.get_by_role("button", name="Save").click()
    expect(page.locator(".kept-line")).to_have_text("Saved.")
    page.reload()
    expect(page.locator(".typed-before")).to_have_count(0)
    expect(page.get_by_label("Saw kerf")).to_have_value("2.7")


def test_a_file_held_by_another_program_is_said_and_tried_again(page: Page, marrow_lane, tmp_path):
    page.goto(f"{marrow_lane}/jobs/5/shape")
    holder = sqlite3.connect(tmp_path / "bright-willow.sqlite3", isolation_level=None)
    holder.execute("begin immediate")
    typed(page, "Rise").fill("465")
    page.keyboard.press("Tab")
    expect(mark(page)).to_contain_text("Another program is using the shop's file")
    other = page.context.new_page()  # reading goes on
    other.goto(f"{marrow_lane}/jobs/5/stock")
    expect(other.locator(".hand")).to_contain_text("Species")
    other.close()
    holder.execute("rollback")
    holder.close()
    expect(mark(page)).to_have_text(KEPT)
    page.reload()
    expect(typed(page, "Rise")).to_have_value("465")
    settle(page)


def test_what_is_typed_while_the_page_still_wakes_up_is_kept(page: Page, marrow_lane):
    """The scripts come late; the names of this browser's windows later still, so a draft is sent beside a choice."""
    held = []
    page.add_init_script(
        "navigator.locks.query = () => new Promise((done) => setTimeout(() => done({ held: [] }), 700))"
    )
    page.route("**/js/main.js", lambda route: held.append(route))
    page.goto(f"{marrow_lane}/jobs/5/shape", wait_until="commit")
    typed(page, "Name").fill("Garden hoop")
    page.get_by_label("Shape", exact=True).select_option("hook: straight, arc, straight")
    while not held:
        page.wait_for_timeout(20)
    held[0].continue_()
    page.unroute("**/js/main.js")
    expect(typed(page, "Straight before")).to_be_visible()
    expect(typed(page, "Name")).to_have_value("Garden hoop")
    expect(mark(page)).to_have_text(KEPT)
    page.reload()
    kept = []
    page.route("**/shape/keep?*", lambda route: route.continue_() if kept else kept.append(route))
    typed(page, "Name").fill("Garden hoop, left")  # noted, while the window has no name yet: sent when it has …
    while not kept:
        page.wait_for_timeout(20)
    page.get_by_label("Shape", exact=True).select_option("s")
    kept[0].continue_()
    expect(typed(page, "Second radius")).to_be_visible()  # … and so is what comes after
    expect(page.get_by_label("Shape", exact=True)).to_have_value("s")
    page.reload()
    expect(page.get_by_label("Shape", exact=True)).to_have_value("s")
    expect(typed(page, "Name")).to_have_value("Garden hoop, left")
