"""Why a method is among the first three: the least and the soonest of those shown, and no other."""

import pytest

from bright_willow.core.plan.compare import compare_ways, suited
from tests.core.methods.jobs import job_for


@pytest.mark.parametrize("way", ["cold_lamination", "steam_strap", "dry_heat"])
def test_a_reason_stands_with_the_best_of_the_first_alone(way):
    first, rest = suited(compare_ways(job_for(way)))
    shown = [s for s in first if s.row.made]
    assert len(shown) >= 2 and not {s.row.key for s in first} & {r.key for r in rest}
    for reason, of in (
        ("least springback", lambda m: m.tip_mm.likely),
        ("done soonest", lambda m: m.days),
        ("least wood", lambda m: m.wood_m3),
    ):
        known = [s for s in shown if of(s.row.made)]  # what no wood is known of has no least
        least = min(of(s.row.made) for s in known)
        assert [s.row.key for s in shown if reason in s.why] == [s.row.key for s in known if of(s.row.made) <= least]
