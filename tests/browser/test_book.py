"""The book in a real browser: what becomes of a piece, what is learnt switched off and on, a trial run at the bench."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect


def test_what_becomes_of_a_piece_is_chosen_in_its_row(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/2/measure")
    fold = page.locator("tr.what-now details").first
    fold.locator("summary").click()
    fold.get_by_role("button", name="Scrap it").click()
    fold = page.locator("tr.what-now details").first
    expect(fold.locator("summary")).to_have_text(re.compile("rejected"))
    expect(fold).to_have_attribute("open", "")  # it stays as it was opened
    expect(page.locator("table.pieces tbody tr").first).to_contain_text("scrap")
    fold.get_by_role("button", name="not decided").click()
    expect(page.locator("tr.what-now summary").first).not_to_contain_text("scrap")
    expect(page.locator("table.pieces tbody tr").first).to_contain_text("as expected")


def test_a_piece_bent_again_is_a_job_that_can_be_planned(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/14/measure")
    fold = page.locator("tr.what-now details").first
    fold.locator("summary").click()
    fold.get_by_role("button", name="Re-bend it").click()
    expect(page.locator("h1")).to_contain_text("again")
    page.get_by_role("link", name="Bend", exact=False).first.click()
    expect(page.locator(".sill")).to_be_visible()
    expect(page.get_by_text("All changes saved")).to_be_visible()


def test_views_of_the_board_follow_what_is_measured(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/2/measure")
    page.locator('label[for="view-along"]').click()
    expect(page.get_by_role("img", name="Pieces along their whole length")).to_be_visible()
    page.locator('label[for="p-by-ends"]').click()
    expect(page.get_by_label("Chord", exact=True)).to_be_hidden()
    page.get_by_label("Piece", exact=True).fill("e1")
    page.get_by_label("Left end by square").fill("180")
    page.locator("#p-square_right").fill("176")
    page.get_by_role("button", name="Save measurement").click()
    expect(page.locator("table.pieces tr:not(.what-now)", has_text="e1")).to_contain_text("by its ends")
    board = page.get_by_role("img", name="Pieces along their whole length")
    expect(board).to_be_visible()  # the view that was chosen stays
    expect(board.get_by_text("e1", exact=True)).to_be_visible()
    expect(page.get_by_text("Each half, measured ÷ calculated")).to_be_visible()


def test_a_learnt_figure_is_switched_to_the_allowance(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/book")
    page.get_by_role("link", name="What the logbook shows").click()
    room = page.locator("#settling")
    expect(room.get_by_text("Creep since").first).to_be_attached()
    room.get_by_role("button", name="Use the rule of thumb").click()
    expect(page.locator("#settling")).to_contain_text("Plans use the rule of thumb.")
    page.goto(f"{marrow_lane}/jobs/5/build_up")
    expect(page.locator("tr", has_text="later creep at the ends")).to_have_attribute(
        "title", re.compile("rule of thumb")
    )
    page.goto(f"{marrow_lane}/book/learnt")
    page.locator("#settling").get_by_role("button", name="Use our own figure").click()
    expect(page.locator("#settling").get_by_role("button", name="Use the rule of thumb")).to_be_visible()
    page.goto(f"{marrow_lane}/jobs/5/build_up")
    expect(page.locator("tr", has_text="later creep at the ends")).to_contain_text("your shop")


def test_a_trial_is_laid_out_run_and_its_pieces_called_at_the_bench(page: Page, marrow_lane):
    page.goto(f"{marrow_lane}/jobs/14/trials")
    page.get_by_label("Settings").fill("8, 14")
    page.get_by_label("Compare").fill("ash, oak")
    page.get_by_label("Pieces of each").fill("1")
    page.get_by_role("button", name="Plan the test bends").click()
    expect(page.get_by_role("heading", name="Blanks to cut")).to_be_visible()
    expect(page.get_by_text(re.compile("^4 of "))).to_be_visible()
    page.get_by_role("button", name="Run it at the bench").click()
    expect(page.get_by_text("test bends at the bench")).to_be_visible()
    names = page.locator(".run-pieces").inner_text()
    for name in ("ash, 8 min", "oak, 8 min", "ash, 14 min", "oak, 14 min"):
        assert name in names
    page.go_back()
    expect(page.get_by_role("link", name=re.compile("under way"))).to_be_visible()
