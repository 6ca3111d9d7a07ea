"""Nothing overlaps in any drawing of any demo job, in mm."""

from bright_willow.demo.marrow_lane import EXAMPLES
from tests.browser.test_overlaps import overlaps


def test_words_keep_clear_of_each_other_and_of_the_piece(page, marrow_lane):
    jobs = list(enumerate(EXAMPLES, 1))
    seen, found = overlaps(page, marrow_lane, jobs)
    assert seen > len(jobs) * 4 and found == [], "\n".join(map(str, found))
