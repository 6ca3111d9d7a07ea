"""The program itself, killed at any instant, loses no tap."""

from tools.tapping import tap_until_killed


def test_killed_twenty_times_no_acknowledged_tap_is_lost(tmp_path):
    told, lost, broken = tap_until_killed(tmp_path, times=20, seed=3)
    assert told >= 10 and lost == 0 and broken == 0
