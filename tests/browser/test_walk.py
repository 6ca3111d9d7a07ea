"""What a person does, from an empty shop to a plan that has learnt."""

import re

from playwright.sync_api import Page, expect


def typed(page: Page, name: str):
    """The input of that name."""
    return page.get_by_role("textbox", name=name, exact=True)


def settle(page: Page) -> None:
    page.wait_for_timeout(60)
    page.wait_for_selector("body:not([data-busy])")


def test_a_newcomer_walks_the_whole_job(page: Page, empty_shop, tmp_path):
    page.goto(empty_shop)
    page.get_by_role("button", name="New job").click()
    typed(page, "Name").fill("Hop pole bow")
    typed(page, "Chord").fill("3' 11 1/4\"")
    typed(page, "Rise").fill("30cm")
    typed(page, "Thickness").fill("30")
    page.keyboard.press("Tab")
    expect(page.get_by_role("heading", level=1)).to_have_text("Hop pole bow")
    expect(typed(page, "Chord")).to_have_value("1200.15")
    expect(page.locator("svg.board")).to_contain_text("rise 300 mm")
    page.reload()
    expect(typed(page, "Rise")).to_have_value("300")
    page.get_by_role("button", name="Next: Method").click()
    expect(page.locator(".more-ways, .ways-table").first).to_be_visible()
    page.get_by_role("button", name="Next: Wood").click()
    page.get_by_label("Species").select_option("Oak, white")
    expect(page.get_by_label("Species")).to_have_value("oak_white")
    page.get_by_role("button", name="Next: Layup").click()
    page.locator(".rung", has_text="6 ×").first.click()
    expect(page.locator(".rung.chosen")).to_contain_text("6 × 5")
    expect(page.locator(".rung.chosen")).to_have_css("background-color", "rgb(29, 47, 42)")  # the hand is still on it
    page.get_by_label("Glue").select_option("Laminating epoxy (thickened)")
    expect(page.locator(".sill")).to_contain_text("Springback, each end")
    before = page.locator(".figure-cell", has_text="Springback, each end").inner_text()
    page.get_by_role("button", name="Next: Form").click()
    with page.expect_download() as caught:
        page.get_by_role("link", name="A4", exact=True).click()
    assert caught.value.path().read_bytes().startswith(b"%PDF")
    assert caught.value.suggested_filename == "form-hop-pole-bow.pdf"
    page.get_by_role("button", name="Mark form as built").click()
    page.get_by_text("Cut list", exact=True).first.click()
    expect(page.locator(".view-strips")).to_contain_text("A1 A2")
    page.get_by_role("button", name="Next: Glue-up").click()
    page.get_by_text("Order of clamps", exact=True).click()
    expect(page.locator(".clamp-order")).to_contain_text("all snug in this order")
    page.get_by_role("button", name="Next: Schedule").click()
    page.get_by_role("button", name="Next: Bench").click()
    page.get_by_role("button", name="Next: Measure").click()
    for n, (chord, rise) in enumerate([("1206", "293"), ("1205", "294"), ("1206.5", "292.5")], 1):
        typed(page, "Chord").fill(chord)
        typed(page, "Rise").fill(rise)
        page.get_by_role("button", name="Save measurement").click()
        expect(page.locator("table.pieces tbody tr:not(.what-now)")).to_have_count(n)
    expect(page.locator(".hand")).to_contain_text("from 3 of your measured bends")
    page.get_by_role("link", name=re.compile("Layup")).click()
    after = page.locator(".figure-cell", has_text="Springback, each end").inner_text()
    assert "your shop" in after and "your shop" not in before
    page.get_by_role("link", name="Logbook", exact=True).click()
    expect(page.locator(".learning-chart")).to_contain_text("White oak, rigid glue")


def test_dragging_the_crown_and_an_end(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/5/shape")
    page.locator("html[data-board]").wait_for(state="attached")  # drawn for this page
    strip = page.locator("svg.board .strip").get_attribute("d")
    for handle, dx, dy, field in (("rise_mm-0", 0, -40, "Rise"), ("chord_mm-2", 35, 0, "Chord")):
        box = page.locator(f'[data-handle="{handle}"] .knob').bounding_box()
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        old = float(typed(page, field).input_value())
        frame = page.locator("svg.board").get_attribute("viewBox")
        page.mouse.move(x, y)
        page.mouse.down()
        for i in range(1, 9):
            page.mouse.move(x + dx * i / 8, y + dy * i / 8)
        expect(typed(page, field)).not_to_have_value(f"{old:g}")
        assert page.locator("svg.board").get_attribute("viewBox") == frame  # the paper lies still under the hand
        settle(page)
        knob = page.locator(f'[data-handle="{handle}"] .knob').bounding_box()
        assert abs(knob["x"] + knob["width"] / 2 - x - dx) < 3 and abs(knob["y"] + knob["height"] / 2 - y - dy) < 3
        page.mouse.up()
        settle(page)
        assert float(typed(page, field).input_value()) > old
    dragged = typed(page, "Rise").input_value()
    page.reload()
    expect(typed(page, "Rise")).to_have_value(dragged)
    assert page.locator("svg.board .strip").get_attribute("d") != strip
    page.keyboard.press("u")
    page.keyboard.press("u")
    expect(typed(page, "Rise")).to_have_value("500")
    expect(typed(page, "Chord")).to_have_value("1800")
    page.keyboard.press("y")
    expect(typed(page, "Rise")).to_have_value(dragged)


def test_handles_by_keyboard(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/5/shape")
    page.locator("html[data-board]").wait_for(state="attached")  # drawn for this page
    page.locator('[data-handle="rise_mm-0"]').focus()
    page.keyboard.press("ArrowUp")
    expect(typed(page, "Rise")).not_to_have_value("500")
    assert float(typed(page, "Rise").input_value()) > 500
    expect(page.locator('[data-handle="rise_mm-0"]')).to_be_focused()


def test_answers_while_typing_and_faults_beside_the_field(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/5/shape")
    rise = typed(page, "Rise")
    rise.click()
    rise.press("End")
    rise.press("Backspace")  # 50: the drawing follows before the field is left
    expect(page.locator("svg.board")).to_contain_text("rise 50 mm")
    expect(rise).to_be_focused()
    rise.fill("as high as it goes")
    page.keyboard.press("Tab")
    expect(page.locator("#f-shape-rise_mm-fault")).to_contain_text("is not a length")
    expect(rise).to_have_value("as high as it goes")
    expect(rise).to_be_focused()
    page.reload()  # what is typed is not lost, nor is it kept
    expect(page.locator("#f-shape-rise_mm-fault")).to_contain_text("is not a length")
    expect(typed(page, "Rise")).to_have_value("as high as it goes")
    expect(page.locator("[data-mark]")).to_have_text("Not saved: fix the marked field")
    typed(page, "Rise").fill("510")
    page.keyboard.press("Tab")
    expect(page.locator("[data-mark]")).to_have_text("All changes saved")
    page.reload()
    expect(typed(page, "Rise")).to_have_value("510")


def test_pressing_on_with_a_field_unfinished_keeps_it_first(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/5/shape")
    typed(page, "Width").fill("72")
    page.get_by_role("link", name=re.compile("^Wood")).click()
    page.wait_for_url("**/wood")
    page.goto(f"{marrow_lane}/jobs/5/shape")
    expect(typed(page, "Width")).to_have_value("72")
    typed(page, "Width").fill("seventy")
    page.get_by_role("button", name="Next: Method").click()
    expect(page.locator("#f-part-width_mm-fault")).to_be_visible()
    assert page.url.endswith("/shape")


def test_advice_is_one_press(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/5/build_up")
    page.get_by_text("more strip options").click()
    page.locator(".rung", has_text="3 ×").first.click()
    page.get_by_role("button", name=re.compile("Use 4 strips")).click()
    expect(page.locator(".rung.chosen")).to_contain_text("4 × 10")
    page.keyboard.press("u")
    expect(page.locator(".rung.chosen")).to_contain_text("3 ×")


def test_inches_anywhere(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/5/shape")
    page.keyboard.press("m")
    expect(typed(page, "Chord")).to_have_value("70 7/8")
    expect(page.locator("svg.board")).to_contain_text("70 7/8 in")
    typed(page, "Thickness").fill("1-1/2")
    page.keyboard.press("Tab")
    expect(typed(page, "Thickness")).to_have_value("1 1/2")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="mm", exact=True).click()
    expect(typed(page, "Thickness")).to_have_value("38.1")
    expect(typed(page, "Chord")).to_have_value("1800")  # not a hair off for having been shown in inches


def test_pointing_at_the_strip_lights_the_stick(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/5/stock")
    page.locator('svg.board path.segment[data-segment="20"]').hover()
    expect(page.locator('rect.segment[data-segment="20"]')).to_have_class(re.compile("lit"))


def test_keys_are_listed(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/5/shape")
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("undo")
    page.keyboard.press("Escape")
    page.keyboard.press("4")
    page.wait_for_url("**/layup")


def test_measuring_again_and_leaving_out(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/3/measure")
    expect(page.locator("table.pieces tbody tr:not(.what-now)")).to_have_count(4)
    row = page.locator("table.pieces tbody tr:not(.what-now)").last
    row.get_by_text("again").click()
    row.get_by_label("chord").fill("1210")
    row.get_by_label("rise").fill("x")
    row.get_by_role("button", name=re.compile("measured on")).click()
    expect(page.locator(".again .fault")).to_contain_text("is not a length")
    page.locator(".again[open]").get_by_label("rise").fill("288")
    page.locator(".again[open]").get_by_role("button", name=re.compile("measured on")).click()
    expect(page.locator("table.pieces tbody tr:not(.what-now)")).to_have_count(5)
    page.get_by_role("button", name="do not use").first.click()
    expect(page.locator("table.pieces")).to_contain_text("left out")


def test_a_dead_server_is_said_and_the_typing_stays(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/5/shape")
    page.route("**/keep?*", lambda route: route.abort())
    page.route("**/try?*", lambda route: route.abort())
    typed(page, "Rise").fill("480")
    page.on("console", lambda m: None)
    page.keyboard.press("Tab")
    expect(page.locator("#trouble")).to_contain_text("does not answer")
    expect(typed(page, "Rise")).to_have_value("480")
    expect(page.locator("[data-mark]")).to_contain_text("Not saved: the program does not answer")
    page.unroute("**/keep?*")
    expect(page.locator("[data-mark]")).to_have_text("All changes saved")
    page.reload()
    expect(typed(page, "Rise")).to_have_value("480")


SHAPES = {
    "arc: radius and angle": "Radius",
    "arc: radius and length": "Length",
    "arc: three points": "Between, up",
    "hook: straight, arc, straight": "Angle",
    "U: legs, corners, flat": "Left leg leans in",
    "S: two opposed arcs": "Second angle",
    "open hoop": "Gap",
    "arc with transitions": "Transition, each",
    "parabola": "Rise",
    "ellipse": "Height",
    "closed ring": "Diameter",
    "custom: straights and arcs": "Radius of segment 1",
    "measured or imported points": "Measuring error",
}


def test_every_shape_is_chosen_changed_and_undone(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/2/shape")
    for name, field in SHAPES.items():
        page.get_by_label("Shape", exact=True).select_option(name)
        expect(typed(page, field)).to_be_visible()
        settle(page)
        drawn = page.locator("svg.board .strip").get_attribute("d")
        if name == "measured or imported points":
            page.get_by_role("textbox", name=re.compile("Points")).fill("0, 0\n150, 110\n300, 140\n450, 115\n600, 0")
        else:
            value = float(typed(page, field).input_value())
            typed(page, field).fill(f"{value + 6:g}")
        page.keyboard.press("Tab")
        expect(page.locator("svg.board .strip")).not_to_have_attribute("d", drawn)
        settle(page)
        page.get_by_role("button", name="undo").click()
        expect(page.locator("svg.board .strip")).to_have_attribute("d", drawn)


def test_an_outline_is_brought_in_and_an_odd_one_refused(page: Page, marrow_lane, tmp_path):
    good, bad = tmp_path / "brace.svg", tmp_path / "bomb.svg"
    good.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="900mm" height="400mm" viewBox="0 0 900 400"><path d="M0 300L200 300A200 200 0 0 0 400 100L400 0"/></svg>'
    )
    bad.write_text('<!DOCTYPE svg [<!ENTITY a "aaaa">]><svg xmlns="http://www.w3.org/2000/svg">&a;</svg>')
    page.goto(f"{marrow_lane}/jobs/8/shape")
    for path, message in ((bad, "entities or a document type"), (good, "exactly, as 3 straights and arcs")):
        if not page.locator(".bring-outline[open]").count():
            page.get_by_text("Import a file").click()
        page.get_by_label("File", exact=True).set_input_files(path)
        page.get_by_role("button", name="Import").click()
        expect(page.locator(".hand [role=status]")).to_contain_text(message)
    expect(page.get_by_label("Shape", exact=True)).to_have_value("polycurve")
    expect(page.locator("svg.board")).to_contain_text("R 200 mm")


def test_a_chain_is_built_in_the_list_and_on_the_drawing(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/2/shape")
    page.locator("html[data-board]").wait_for(state="attached")  # drawn for this page
    page.get_by_label("Shape", exact=True).select_option("custom: straights and arcs")
    rows = page.locator(".row-line")
    expect(rows).to_have_count(1)
    page.locator(".row-add").get_by_role("button", name="straight").click()
    expect(rows).to_have_count(2)
    typed(page, "Length of segment 2").fill("90")
    page.keyboard.press("Tab")
    settle(page)
    page.get_by_role("button", name="Move row 2 up").click()
    expect(page.get_by_label("Segment 1", exact=True)).to_have_value("straight")
    expect(typed(page, "Length of segment 1")).to_have_value("90")
    settle(page)
    page.locator(".row-grip").nth(0).drag_to(rows.nth(1))  # and by its number, back down
    expect(page.get_by_label("Segment 2", exact=True)).to_have_value("straight")
    settle(page)

    def drag(handle, dx, dy):
        box = page.locator(f'[data-handle="{handle}"] .knob').bounding_box()
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + dx / 2, y + dy / 2)
        page.mouse.move(x + dx, y + dy)
        settle(page)
        page.mouse.up()
        settle(page)

    drag("add-0", 20, 30)
    expect(rows).to_have_count(3)
    before = typed(page, "Radius of segment 1").input_value()
    drag("radius-0", 0, -12)
    expect(typed(page, "Radius of segment 1")).not_to_have_value(before)
    last, own = (page.locator(f'[data-handle="{h}"] .knob').bounding_box() for h in ("joint-2", "move-0"))
    drag("move-0", last["x"] - own["x"], last["y"] - own["y"])  # its number let go over the last stretch
    expect(page.get_by_label("Segment 3", exact=True)).to_have_value("arc")
    page.keyboard.press("Escape")
    typed(page, "Radius of segment 3").fill("as you like")
    page.keyboard.press("Tab")
    expect(page.locator(".row-line .fault")).to_contain_text("is not a length")
    expect(typed(page, "Radius of segment 3")).to_have_value("as you like")


def test_the_rack_feeds_a_job(page: Page, empty_shop):
    page.goto(f"{empty_shop}/rack")
    page.get_by_role("link", name="Add a lot").click()
    typed(page, "Name of the lot").fill("Oak by the door")
    page.get_by_label("Species").select_option("Oak, white")
    typed(page, "Grain run-out: rise").fill("30")
    page.get_by_role("button", name="Save").click()
    expect(page.locator(".rack-table")).to_contain_text("look twice")
    page.get_by_role("link", name="Oak by the door").click()
    expect(page.locator(".run-out-drawing")).to_contain_text("rise 30 mm")
    page.goto(empty_shop)
    page.get_by_role("button", name="New job").click()
    page.wait_for_url("**/shape?new=1")
    page.goto(f"{empty_shop}/jobs/1/stock")
    page.get_by_role("button", name="Use this lot").click()
    expect(page.locator(".lot-line.chosen")).to_contain_text("Oak by the door")
    expect(page.get_by_label("Species")).to_have_value("oak_white")
    expect(page.locator(".sill")).to_contain_text("strips each")
    page.get_by_role("button", name="Do not use").click()
    expect(page.locator(".lot-line.chosen")).to_have_count(0)


def test_a_shape_too_tight_is_marked_where_it_is(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/2/shape")
    typed(page, "Thickness").fill("300")
    page.keyboard.press("Tab")
    expect(page.locator("#f-shape-radius_mm-fault")).to_contain_text("radius")
    expect(page.locator(".board-refused .stop-ring")).to_have_count(1)
    page.goto(f"{marrow_lane}/jobs/8/shape")
    expect(page.locator("svg.board .fit-worst")).to_have_count(1)
    before = page.locator("svg.board .strip").get_attribute("d")
    page.locator("label[for$='from_other_end-yes']").click()
    expect(page.locator("svg.board .strip")).not_to_have_attribute("d", before)


def test_layers_typed_and_the_other_schools(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/5/build_up")
    page.get_by_text("custom plies").click()
    for _ in range(6):
        settle(page)
        page.get_by_role("button", name="Remove row 3").click()
    expect(page.locator(".row-line")).to_have_count(2)
    typed(page, "Thickness of ply 1").fill("12")
    page.keyboard.press("Tab")
    expect(page.locator(".hand .fault")).to_contain_text("add up to 17 mm")
    typed(page, "Thickness of ply 1").fill("5")
    typed(page, "Ply 2 pre-bent to").fill("1100")
    page.keyboard.press("Tab")
    settle(page)
    page.get_by_role("button", name="show veneer on both faces").click()
    expect(page.locator(".row-line")).to_have_count(4)
    page.get_by_text("From sheets", exact=True).click()
    expect(page.locator(".view-sheets")).to_contain_text("must bend along")
    expect(page.locator(".view-sheets")).to_be_visible()
    page.keyboard.press("v")
    expect(page.locator(".view-board svg.board")).to_be_visible()
    page.goto(f"{marrow_lane}/jobs/5/form")
    page.get_by_label("Overbend", exact=True).select_option("none")
    expect(page.locator(".sill")).to_contain_text("miss by")
    page.get_by_role("button", name="Use the calculated overbend").click()
    expect(page.get_by_label("Overbend", exact=True)).to_have_value("computed")


def test_a_form_that_cannot_close_is_split_and_drawn_open(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/12/form")
    page.locator("html[data-board]").wait_for(state="attached")  # drawn for this page
    expect(page.locator(".sill")).to_contain_text("cannot close")
    expect(page.locator(".share-undercut").first).to_be_attached()
    page.get_by_role("button", name=re.compile("Split the outer half")).click()
    expect(page.locator(".sill")).not_to_contain_text("cannot close")
    expect(page.locator(".presser-group")).to_have_count(2)
    page.get_by_label("Open and close it").fill("60")
    expect(page.locator(".presser-group").first).to_have_attribute("transform", re.compile("translate"))
    before = typed(page, "Split 1").input_value()
    box = page.locator('[data-handle="split-0"] .knob').bounding_box()
    page.mouse.move(box["x"] + 6, box["y"] + 6)
    page.mouse.down()
    page.mouse.move(box["x"] + 40, box["y"] + 12)
    page.mouse.move(box["x"] + 70, box["y"] + 22)
    settle(page)
    page.mouse.up()
    settle(page)
    expect(typed(page, "Split 1")).not_to_have_value(before)
    page.get_by_role("button", name="Remove split 1").click()
    expect(page.locator(".sill")).to_contain_text("cannot close")
    page.get_by_label("Kind of form").select_option("three-piece form")
    page.get_by_text("Its parts", exact=True).click()
    expect(page.locator(".view-parts")).to_contain_text("left side caul")
    with page.expect_download() as caught:
        page.get_by_role("link", name="ZIP").click()
    assert caught.value.path().read_bytes().startswith(b"PK")
    page.goto(f"{marrow_lane}/jobs/4/form")
    page.locator("html[data-board]").wait_for(state="attached")  # drawn for this page
    knob = page.locator('[data-handle="close-0"]')
    knob.focus()
    page.keyboard.press("ArrowRight")
    expect(typed(page, "Closing direction")).not_to_have_value("0")
    page.get_by_role("link", name="Reuse one of my forms").click()
    expect(page.locator(".rack-table")).to_contain_text("Shelter rib, test pair")


def test_a_whole_steam_job_from_an_empty_shop(page: Page, empty_shop):
    page.goto(empty_shop)
    page.get_by_role("button", name="New job").click()
    typed(page, "Name").fill("Bucket handle")
    page.get_by_label("Shape", exact=True).select_option("hook: straight, arc, straight")
    for name, value in (("Straight before", "300"), ("Radius", "5"), ("Angle", "120"), ("Straight after", "200")):
        typed(page, name).fill(value if name != "Radius" else '7 1/2"')
    typed(page, "Thickness").fill("18")
    page.keyboard.press("Tab")
    settle(page)
    page.get_by_role("button", name="Next: Method").click()
    row = page.locator(".ways-table tr", has_text="Steam bend with strap")
    if not row.is_visible():
        page.get_by_text("Other methods (").click()
    row.get_by_role("button", name=re.compile("^Use ")).click()
    expect(page.locator(".ways-table tr.chosen")).to_contain_text("Steam bend with strap")
    page.get_by_role("button", name="Next: Wood").click()
    page.get_by_text("air-dried", exact=True).click()
    typed(page, "Moisture, %").fill("20")
    page.keyboard.press("Tab")
    settle(page)
    page.get_by_role("button", name="Next: Bend").click()
    slider = page.get_by_label("Bend around the form")
    expect(page.locator(".step.now")).to_have_attribute("data-step", slider.input_value())
    half_way = page.locator(".step.now").text_content()
    slider.press("End")
    expect(page.locator(".step.now")).to_contain_text("closed")
    assert "pull" in half_way and half_way != page.locator(".step.now").text_content()
    page.locator("summary", has_text="Strap and stops").click()
    page.get_by_text("clamps", exact=True).first.click()
    expect(page.get_by_label("Clamps at each stop")).to_be_visible()  # the fold stays open
    typed(page, "How many").fill("1")
    page.get_by_label("Clamps at each stop").select_option("F-clamp")
    expect(page.locator(".sill")).to_contain_text("will slide")
    expect(page.locator(".sill")).to_contain_text("Use 5 clamps")
    expect(slider).to_have_value("8")  # and the slider where it was
    expect(page.locator(".step.now")).to_contain_text("closed")
    settle(page)
    page.get_by_role("button", name=re.compile("Use [0-9]+ clamps at each stop")).click()
    expect(page.locator(".sill")).not_to_contain_text("will slide")
    page.get_by_role("button", name="Next: Steam").click()
    expect(page.locator(".heat-chart")).to_contain_text("planned")
    expect(page.locator(".chamber-drawing")).to_contain_text("vent, always open")
    page.locator("summary", has_text="Steam box").click()
    page.get_by_label("Steam box made of").select_option("PVC pipe")
    expect(page.locator(".sill")).to_contain_text("softens at about 80 °C")
    page.get_by_role("button", name="Build the box of plywood").click()
    expect(page.locator(".sill")).not_to_contain_text("softens")
    settle(page)
    typed(page, "Steam power, kW").fill("none")
    page.keyboard.press("Tab")
    expect(page.locator(".hand .fault")).to_contain_text("is not a power")
    typed(page, "Steam power, kW").fill("4")
    page.keyboard.press("Tab")
    settle(page)
    page.get_by_role("button", name="Next: Form").click()
    page.get_by_role("button", name="Mark form as built").click()
    page.get_by_role("button", name="Next: Bending steps").click()
    expect(page.locator(".moves").first).to_contain_text("too cool to bend after this")
    page.get_by_role("button", name="Next: Drying").click()
    expect(page.locator(".frame-drawing")).to_contain_text("A frame holds the ends")
    page.get_by_role("button", name="Next: Schedule").click()
    page.get_by_role("button", name="Next: Bench").click()
    page.get_by_role("button", name="Next: Measure").click()
    expected = page.locator(".figure-cell", has_text="Chord to expect").locator(".figure-value").inner_text()
    rise = page.locator(".figure-cell", has_text="Rise to expect").locator(".figure-value").inner_text()
    typed(page, "Chord").fill(f"{float(expected.split()[0]) + 4}")
    typed(page, "Rise").fill(f"{float(rise.split()[0]) - 1}")
    page.get_by_role("button", name="Save measurement").click()
    expect(page.locator("table.pieces tbody tr:not(.what-now)")).to_have_count(1)
    page.get_by_role("link", name="Logbook", exact=True).click()
    expect(page.locator(".learning-chart")).to_contain_text("White ash, air-dried")


def test_a_first_timer_is_led_through_one_bend_and_can_leave(page: Page, empty_shop):
    page.goto(empty_shop)
    for way in ("Start a full job", "Start with a file", "Start with the guide"):
        expect(page.get_by_role("heading", name=way)).to_be_visible()
    page.get_by_role("button", name="Walk me through my first bend").click()
    guide = page.get_by_label("Guide")
    expect(guide).to_contain_text("First bend, 1 of 10")
    seen = [guide.inner_text()]
    for on_to in ("Method", "Wood", "Layup", "Form"):
        page.get_by_role("button", name=f"Next: {on_to}").click()
        expect(guide).to_contain_text(f"{len(seen) + 1} of 10")
        seen.append(guide.inner_text())
    page.get_by_role("button", name="Mark form as built").click()
    expect(guide).to_contain_text("6 of 10")
    expect(page.locator(".sections")).to_contain_text("strips")
    page.get_by_role("button", name="Next: Glue-up").click()
    expect(page.locator(".race")).to_contain_text("from first glue to clamped")
    page.get_by_role("button", name="Next: Schedule").click()
    page.get_by_role("button", name="Next: Bench").click()
    page.get_by_role("button", name="Next: Measure").click()
    expect(guide).to_contain_text("10 of 10")
    typed(page, "Chord").fill("605")
    typed(page, "Rise").fill("118")
    page.get_by_role("button", name="Save measurement").click()
    expect(guide).to_contain_text("a whole bend")
    assert len(set(seen)) == 5 and all("Good:" in text for text in seen)
    page.get_by_role("button", name="leave the guide").click()
    expect(page.get_by_label("Guide")).to_have_count(0)
    expect(typed(page, "Name")).to_have_value("My first bend")


def test_an_empty_shop_begins_with_a_file(page: Page, empty_shop, tmp_path):
    drawing = tmp_path / "Brace outline.svg"
    drawing.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="800mm" height="300mm" viewBox="0 0 800 300">'
        '<path d="M50 250 A420 420 0 0 1 750 250" fill="none" stroke="black"/></svg>'
    )
    page.goto(empty_shop)
    page.get_by_label("Open a job file, drawing or point list: JSON, ZIP, SVG, DXF, CSV").set_input_files(drawing)
    page.get_by_role("button", name="Open", exact=True).click()
    page.wait_for_url("**/jobs/1/shape*")
    expect(typed(page, "Name")).to_have_value("Brace outline")
    expect(page.locator("svg.board")).to_contain_text("R 420 mm")
    page.goto(empty_shop)
    page.locator("summary", has_text="Open a file").click()
    words = tmp_path / "letter.csv"
    words.write_text("dear sir")
    page.locator("#open-file").set_input_files(words)
    page.get_by_role("button", name="Open", exact=True).click()
    expect(page.locator(".fault")).to_be_visible()


def test_a_job_is_found(page: Page, marrow_lane):
    page.goto(marrow_lane)
    page.keyboard.press("/")
    page.keyboard.type("gate")
    page.keyboard.press("Enter")
    expect(page.locator(".job-row")).to_have_count(3)
    page.locator("#find-wood").select_option(label="European oak")
    expect(page.locator(".job-row")).to_have_count(1)
    assert "find=gate" in page.url and "wood=" in page.url
    page.get_by_role("link", name=re.compile("all [0-9]+")).click()
    page.locator("#find-state").select_option(label="a Stop check is open")
    expect(page.locator(".job-row")).to_have_count(1)
    expect(page.locator(".job-row")).to_contain_text("Bail for the windfall basket")
    page.locator("#find-way").select_option(label="Hot iron or pipe")
    expect(page.locator("main")).to_contain_text("No jobs match")
