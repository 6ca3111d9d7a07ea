"""A little of what `make torture` does at length."""

import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.services.outline_reader import Reader
from tools import attacks, torture
from tools.running import Program


def held(rows):
    bad = [row for row in rows if not row.good]
    assert not bad, bad
    return rows


def test_hostile_requests_are_answered():
    held(torture.hostile(500, seed=3, slow_s=10))  # a machine that runs other tests beside may be slow; 2 s alone


def test_killed_at_any_moment_nothing_acknowledged_is_lost():
    held(torture.kills(5))


def test_killed_in_an_import_a_restore_a_photo_a_cut_or_a_migration():
    held(attacks.kills(8))


def test_a_run_stands_fewer_pieces_and_many_presses_of_start():
    held(attacks.bench())


def test_copies_that_are_none_neither_wipe_the_shop_nor_break_a_page():
    held(attacks.restores())


def test_a_clock_that_jumps_by_a_year_loses_nothing():
    held(attacks.clocks())


def test_bad_disks_are_said():
    assert len(held(torture.disks())) == 11


def test_a_file_without_end_is_given_up_and_the_next_one_read():
    reader = Reader(seconds=6)
    try:
        with pytest.raises(PlanError, match="so it was stopped"):
            reader.read(torture.ENDLESS["cubics.svg"], "a.svg", 1)
        found, count, _ = reader.read(torture._lines(50), "a.dxf", 1)
        assert count == 1 and len(found.points) == 51
        with pytest.raises(PlanError, match="no outline"):
            reader.read(torture.ENDLESS["circle.dxf"], "circle.dxf", 1)
    finally:
        reader.stop()


def test_ctrl_c_ends_it_at_once_and_a_second_one_is_told_where_the_first_is(tmp_path):
    program = Program(tmp_path, "demo", often=True).start()
    try:
        with pytest.raises(RuntimeError, match=f"open already, at {program.address}"):
            Program(tmp_path).start()
    finally:
        assert program.end() < 5
