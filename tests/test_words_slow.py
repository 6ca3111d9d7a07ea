"""No page of any demo job says a word the product replaced."""

from bright_willow.demo.marrow_lane import EXAMPLES
from tests.test_words import replaced, shop

__all__ = ["shop"]


def test_no_page_of_any_job_says_a_word_that_was_replaced(shop):
    assert not replaced(shop, range(len(EXAMPLES) + 1))
