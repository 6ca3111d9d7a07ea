"""The quick answer as a new user meets it: an empty shop, a few figures, a printed form."""

import re

import pypdfium2
import pytest
from playwright.sync_api import Page, expect


@pytest.mark.parametrize("size", [(1280, 800), (820, 1180), (390, 844)])
def test_from_an_empty_shop_to_a_printed_form_in_one_click(page: Page, empty_shop, tmp_path, size):
    page.set_viewport_size({"width": size[0], "height": size[1]})
    page.goto(empty_shop)
    answer = page.locator("#quick-answer")
    expect(answer.locator("dt")).to_have_count(6)
    first = answer.locator("dd").first.inner_text()
    page.get_by_role("textbox", name="Rise", exact=True).fill("300")
    expect(answer.locator("dd").first).not_to_have_text(first)  # as it is typed, without a button
    expect(page).to_have_url(re.compile(r"/quick\?.*shape\.rise_mm=300"))  # and a reload asks the same
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    with page.expect_download() as waiting:
        page.get_by_role("link", name="Print the form").click()
    saved = tmp_path / "form.pdf"
    waiting.value.save_as(saved)
    assert len(pypdfium2.PdfDocument(saved)) >= 1


def test_another_shape_asks_for_its_own_size_and_a_fault_stands_beside_its_field(page: Page, empty_shop):
    page.goto(f"{empty_shop}/quick")
    page.locator("label[for=tab-hook]").click()
    expect(page.get_by_role("textbox", name="Straight before", exact=True)).to_be_visible()
    width = page.get_by_role("textbox", name="Width", exact=True)
    width.fill("wide")
    expect(width).to_have_attribute("aria-invalid", "true")
    expect(page.locator("#f-part-width_mm-fault")).to_contain_text("is not a length")
    width.fill("35")
    expect(page.locator("#f-part-width_mm-fault")).to_have_count(0)
    page.get_by_text("not sure").click()
    expect(page.locator(".quick-methods li")).to_have_count(2)
    page.get_by_role("button", name="Make it a full job").click()
    expect(page).to_have_url(re.compile(r"/jobs/1/"))
    page.get_by_role("link", name="Shape").first.click()
    expect(page.get_by_role("textbox", name="Width", exact=True)).to_have_value("35")


def test_without_script_a_button_answers(browser, empty_shop):
    context = browser.new_context(java_script_enabled=False, base_url=empty_shop)
    page = context.new_page()
    page.goto("/")
    page.get_by_role("textbox", name="Chord", exact=True).fill("800")
    page.get_by_role("button", name="Answer").click()
    assert "shape.chord_mm=800" in page.url
    expect(page.locator("#quick-answer dt")).to_have_count(6)
    context.close()


@pytest.mark.parametrize("size", [(1280, 800), (820, 1180), (390, 844)])
def test_from_a_common_part_to_a_job_a_variant_and_its_pack(page: Page, empty_shop, tmp_path, size):
    page.set_viewport_size({"width": size[0], "height": size[1]})
    page.goto(f"{empty_shop}/presets")
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    page.get_by_role("link", name="Curved apron").click()
    expect(page.get_by_role("textbox", name="Thickness", exact=True)).to_have_value("20")
    page.get_by_role("button", name="Make it a full job").click()
    expect(page).to_have_url(re.compile(r"/jobs/1/"))
    page.goto(f"{empty_shop}/jobs/1/compare")
    page.get_by_role("textbox", name="Strips", exact=True).fill("8")
    page.get_by_role("button", name="Compare", exact=True).click()
    expect(page.locator("tr.differs").first).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    page.get_by_role("button", name="Use this one").click()
    expect(page).to_have_url(re.compile(r"/jobs/1/method"))
    page.goto(f"{empty_shop}/jobs/1/layup")
    expect(page.locator(".answer")).to_contain_text("8 strips of ")
    page.goto(f"{empty_shop}/jobs/1/pack")
    page.get_by_role("checkbox", name="story stick").check()
    with page.expect_download() as waiting:
        page.get_by_role("button", name="Print the job pack").click()
    saved = tmp_path / "pack.pdf"
    waiting.value.save_as(saved)
    document = pypdfium2.PdfDocument(saved)
    assert len(document) > 3
    document.close()


def test_a_question_mark_opens_and_an_archived_job_comes_back(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/5/shape")
    page.get_by_role("button", name="What is Chord?").click()
    expect(page.get_by_text("The straight line from one end of a curve to the other.")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_text("The straight line from one end of a curve to the other.")).to_be_hidden()
    page.goto(f"{marrow_lane}/?order=name")
    page.get_by_role("button", name="Archive Orchard gate arch").click()
    expect(page.get_by_role("link", name="Orchard gate arch", exact=True)).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("link", name="Orchard gate arch", exact=True)).to_have_count(1)
