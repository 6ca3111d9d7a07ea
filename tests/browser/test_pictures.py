"""A piece measured on a picture with the mouse and with keys, in a real browser."""

from __future__ import annotations

import re

import numpy as np
import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect

from bright_willow.store.store import Store
from tests.sample import fill
from tools.pictured import Laid
from tools.running import running_app

JOB, K = 2, 1.25


@pytest.fixture
def shop(tmp_path):
    store = Store(tmp_path)
    with store.connected():
        fill(store)
        built = store.forms.find(JOB)[-1].built
    with running_app(store) as address:
        yield store, built, address


def screen(page: Page, spot) -> tuple[float, float]:
    message = "(svg, [x, y]) => { const q = new DOMPoint(x, y).matrixTransform(svg.getScreenCTM()); return [q.x, q.y] }"
    return tuple(page.locator("[data-picture-board]").evaluate(message, [float(v) for v in spot]))


def put(page: Page, spot, count: int, kind: str, off=(2, -2)) -> None:
    x, y = screen(page, spot)
    page.mouse.move(x + off[0], y + off[1])
    page.mouse.click(x + off[0], y + off[1])
    expect(page.locator(f'[data-mark^="{kind}"]')).to_have_count(count)


def test_a_piece_is_marked_on_a_picture_and_measured(page: Page, shop, tmp_path):
    store, built, address = shop
    laid = Laid.of(built, K, "outer")
    file = tmp_path / "piece.jpg"
    file.write_bytes(laid.photo())
    page.goto(f"{address}/jobs/{JOB}/measure")
    page.get_by_role("link", name="Measure on a picture").click()
    page.get_by_label("Add a picture").set_input_files(file)
    page.get_by_role("button", name="Add and measure").click()
    asks = page.locator(".photo-asks")
    expect(asks).to_have_text("Mark a corner of the rectangle.")
    for i, spot in enumerate(laid.camera.px(laid.sheet), 1):
        put(page, spot, i, "corner")
    expect(asks).to_contain_text("from one end to the other")
    expect(page.locator(".photo-lens")).to_be_visible()  # beside the pointer's place, larger
    edge = laid.camera.px(laid.face)
    put(page, edge[0], 1, "point")
    for i, spot in enumerate(edge[1:-1], 2):
        put(page, spot, i, "point", off=(1, 1))
    put(page, edge[-1] + np.array([0, 60]), len(edge), "point", off=(0, 0))  # beside it
    wrong = page.locator(f'[data-mark="point-{len(edge) - 1}"]')
    x, y = screen(page, edge[-1] + np.array([0, 60]))
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(*screen(page, edge[-1] + np.array([2, 2])), steps=3)
    page.mouse.up()
    row = page.get_by_role("row", name="measured ÷ calculated")
    expect(row).to_contain_text(re.compile(r"1\.[123]\d ±"))  # it opened K times what mechanics says
    # by keys: a mark goes a dot at a time, and out
    wrong.focus()
    page.keyboard.press("Shift+ArrowDown")
    expect(page.locator(":focus")).to_have_attribute("data-mark", f"point-{len(edge) - 1}")
    page.keyboard.press("Delete")
    expect(page.locator('[data-mark^="point"]')).to_have_count(len(edge) - 1)
    put(page, edge[-1], len(edge), "point")
    page.get_by_role("button", name="closer").click()
    assert float(page.locator("[data-picture-board]").get_attribute("viewBox").split()[2]) < laid.camera.wide
    page.get_by_role("button", name="whole picture").click()
    for wide, high in ((1280, 800), (820, 1180)):
        page.set_viewport_size({"width": wide, "height": high})
        found = Axe().run(page, options={"runOnly": ["wcag2a", "wcag2aa", "wcag21aa", "best-practice"]})
        assert [(v["id"], v["nodes"][0]["html"][:140]) for v in found.response["violations"]] == []
        assert page.evaluate("document.documentElement.scrollWidth <= document.documentElement.clientWidth")
    page.get_by_label("The edge is the").select_option("inner")
    expect(page.get_by_role("button", name="Save measurement")).to_have_count(0)
    page.get_by_label("The edge is the").select_option("outer")
    page.get_by_label("Name of a new piece").fill("seen")
    page.get_by_role("button", name="Save measurement").click()
    expect(page.get_by_role("row", name="seen")).to_contain_text("on a picture")
    with store.connected():
        assert any(p.label == "seen" for p in store.forms.find(JOB)[-1].pieces)


def test_what_is_no_picture_is_said_and_the_page_stays(page: Page, shop, tmp_path):
    _, _, address = shop
    lies = tmp_path / "lies.jpg"
    lies.write_bytes(b"no picture at all")
    page.goto(f"{address}/jobs/{JOB}/pictures")
    page.get_by_label("Add a picture").set_input_files(lies)
    page.get_by_role("button", name="Add and measure").click()
    expect(page.locator("#pic-photo-fault")).to_contain_text("not a readable JPEG or PNG")
