"""For everyone: axe finds nothing serious on a tablet, nor on the dark pages the quick tests leave out."""

from tests.browser.test_access import PATHS, faults


def test_axe_on_a_tablet(page, marrow_lane):
    page.set_viewport_size({"width": 820, "height": 1180})
    assert faults(page, marrow_lane, PATHS[::2]) == []


def test_axe_on_the_other_dark_pages(page, marrow_lane):
    page.emulate_media(color_scheme="dark")
    assert faults(page, marrow_lane, PATHS[2::4]) == []
