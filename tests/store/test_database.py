"""What the database or its disk says of itself, in a sentence a maker understands."""

import sqlite3
from typing import get_args

import pytest

from bright_willow.core.learning.belief import MeasuredBend
from bright_willow.store.database import FULL, why_not
from bright_willow.store.repositories.training_data import LEAST_SHARE, _counting


@pytest.mark.parametrize(
    ("said", "told"),
    [
        ("attempt to write a readonly database", "read-only"),
        ("the file system is read-only", "read-only"),
        ("database is locked", "Another program"),
        ("database or disk is full", FULL),
        ("database disk image is malformed", "damaged"),
        ("file is not a database", "damaged"),
    ],
)
def test_a_fault_of_the_file_is_told_by_what_it_is(said, told, tmp_path):
    assert told in why_not(sqlite3.OperationalError(said), tmp_path)
    assert told not in why_not(sqlite3.OperationalError(said), tmp_path / "gone")


def test_bends_of_another_shop_count_by_their_share_or_not_at_all():
    for kind in get_args(MeasuredBend):
        _count_by_share(kind.model_construct(share=1.0, left_out=False))


def _count_by_share(bend):
    third, none = _counting(bend, 0.3), _counting(bend, LEAST_SHARE / 2)
    assert _counting(bend, 1.0) is bend
    assert (third.share, third.left_out, none.share, none.left_out) == (0.3, False, 1.0, True)
