"""Boards chosen and filled, against an exact answer."""

import numpy as np

from tools.exact_cutting import against_exact


def test_no_more_than_three_in_a_hundred_beyond_an_exact_answer():
    found = against_exact(range(31))
    assert len(found) >= 30
    wood, boards = np.mean(found, axis=0)
    assert 1.0 <= wood <= 1.03 and 1.0 <= boards <= 1.03
    assert min(b for _, b in found) >= 1.0 - 1e-9  # never fewer than the exact answer has
