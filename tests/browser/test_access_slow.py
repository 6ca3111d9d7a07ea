"""For everyone: axe finds nothing serious on the pages that the quick tests leave out, on a tablet."""

from tests.browser.test_access import PATHS, faults


def test_axe_on_the_other_pages_on_a_tablet(page, marrow_lane):
    page.set_viewport_size({"width": 820, "height": 1180})
    assert faults(page, marrow_lane, PATHS[1::3] + PATHS[2::3]) == []
