"""From a lot on the rack to printed labels, as it is done with a pointer and a keyboard."""

import io
import re

import pdfplumber
from playwright.sync_api import Page, expect


def settled(page: Page) -> None:
    page.wait_for_timeout(60)
    page.wait_for_selector("body:not([data-busy])")


def test_from_a_lot_to_printed_labels(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/rack")
    page.get_by_role("link", name="Add a lot").click()
    size = {"name": "Ash, loft", "thickness_mm": "70", "width_mm": "200", "length_mm": "5600", "count": "6"}
    for name, value in size.items():
        page.locator(f"[name={name}]").fill(value)
    page.locator("[name=species]").select_option("ash_white")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Rack")
    page.goto(f"{marrow_lane}/jobs/5/stock")
    row = page.locator(".lot-line", has_text="Ash, loft")
    row.get_by_role("button", name="Use this lot").click()
    settled(page)
    page.get_by_role("link", name=re.compile("Cut list")).click()
    expect(page.locator(".hand")).to_contain_text("Boards of “Ash, loft”")
    page.get_by_role("button", name="add a flaw").click()
    knob = page.locator("[data-handle=flaw-0] .knob")
    box = knob.bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + 160, box["y"] + 4, steps=6)
    page.mouse.up()
    settled(page)
    start = page.get_by_role("textbox", name="Flaw 1 from")
    expect(start).not_to_have_value("0")
    before = start.input_value()
    page.locator("[data-handle=flaw-0]").focus()
    page.keyboard.press("ArrowRight")
    settled(page)
    expect(start).not_to_have_value(before)
    page.get_by_role("button", name=re.compile("^Cut: ")).click()
    expect(page.get_by_role("button", name="Undo", exact=True)).to_be_visible()  # the page that says it is cut
    with page.expect_download() as caught:
        page.get_by_role("link", name="PDF", exact=True).click()
    with pdfplumber.open(io.BytesIO(caught.value.path().read_bytes())) as labels:
        words = labels.pages[0].extract_text()
    assert "A1" in words.split() and "this face up" in words
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.get_by_role("button", name=re.compile("^Cut: "))).to_be_visible()
    page.get_by_text("Ganged", exact=True).last.click()
    page.get_by_role("link", name=re.compile("Glue-up")).click()
    with page.expect_download() as caught:
        page.get_by_role("link", name="One side of A4").click()
    with pdfplumber.open(io.BytesIO(caught.value.path().read_bytes())) as sheet:
        assert len(sheet.pages) == 1 and "Orchard shelter rib" in sheet.pages[0].extract_text()


def test_boards_one_after_another_by_the_slider(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/5/prepare")
    drawing = page.locator(".view-boards svg").first
    expect(drawing.get_by_text(re.compile("^Board A: "))).to_be_visible()
    page.get_by_role("slider", name="Board by board").fill("1")
    expect(drawing.get_by_text(re.compile("^Board B: "))).to_be_visible()
    expect(drawing.get_by_text(re.compile("^Board A: "))).to_be_hidden()
