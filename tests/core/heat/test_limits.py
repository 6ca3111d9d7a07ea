"""The limit of hot stock by hand: size, moisture, grain, slow moves, and the chance of a whole piece."""

import math
from dataclasses import replace

import numpy as np
import pytest
from scipy.stats import norm

from bright_willow.core.common.errors import PlanError
from bright_willow.core.heat.limits import HotLimit, chance_whole, moisture_factor, size_factor, slow_factor
from bright_willow.core.job.job import Stock
from bright_willow.core.wood.species import species_table

WOODS = species_table()


def limit(wood="ash_white", thickness=25.0, **more):
    own = {"soaked": "none", "has_strap": False, **more}
    stock = own.pop("stock", Stock(dryness="green"))
    return HotLimit.of(WOODS[wood], stock, thickness_mm=thickness, **own)


def test_the_chance_is_what_breakage_of_five_in_a_hundred_means():
    stated = {1.0: 0.95, 1.1: 0.88, 1.2: 0.77, 1.39: 0.50, 1.6: 0.24}
    for use, chance in stated.items():
        assert chance_whole(use) == pytest.approx(chance, abs=0.005)
        assert chance_whole(use) == pytest.approx(float(norm.cdf(1.645 - math.log(use) / 0.2)), abs=1e-9)
    falls = [chance_whole(u) for u in np.linspace(0.01, 3, 200)]
    assert falls == sorted(falls, reverse=True) and chance_whole(0) == 1 and chance_whole(50) < 1e-9
    with pytest.raises(PlanError):
        chance_whole(-0.1)


def test_each_factor_by_hand():
    assert limit().allowed == pytest.approx(1 / 27)  # ash free: R/T 13
    assert limit(thickness=6.0).allowed == pytest.approx((25 / 6) ** 0.2 / 27)
    assert limit(thickness=2.0).allowed == pytest.approx(1.5 / 27) and size_factor(300.0) == 0.75
    assert limit(thickness=6.0, has_strap=True).allowed == pytest.approx(1 / 5.4)  # no size in a strap
    assert limit(thickness=2.0, is_dry_heat=True).allowed == pytest.approx(1 / (2 * 0.7 * 13 + 1))  # nor over dry heat
    kiln = Stock(dryness="kiln_dried")
    free = [limit(stock=kiln, soaked=s).allowed * 27 for s in ("none", "overnight", "days")]
    held = [limit(stock=kiln, soaked=s, has_strap=True).allowed * 5.4 for s in ("none", "overnight", "days")]
    assert free == pytest.approx([0.6, 0.65, 0.8]) and held == pytest.approx([0.8, 0.825, 0.9])
    assert moisture_factor(dryness="kiln_dried", soaked="none", moisture_pct=12.0) == pytest.approx(0.85)  # measured
    run_out = Stock(dryness="green", grain_slope=0.1)
    assert limit(stock=run_out).allowed == pytest.approx(0.81 / 27)
    assert limit(stock=run_out, has_strap=True).allowed == pytest.approx((1 - 0.19 / 2) / 5.4)
    assert limit(is_backed=True).allowed == pytest.approx(2 / 27)
    assert limit(moves_share=2.0).allowed == pytest.approx(0.75 / 27)
    assert [slow_factor(x) for x in (0.0, 1.0, 1.4, 3.0, 9.0)] == pytest.approx([1, 1, 0.9, 0.5, 0.5])


def test_bows_that_never_broke_are_not_stopped():
    """5 mm strips of white oak round R 75 by hand, green: within a hair of the limit, and not thrice beyond it."""
    oak = limit("oak_white", thickness=5.0)
    use = float(oak.use(np.array([1 / 77.5]), 5.0)[0])
    assert 0.5 < use < 0.85 and oak.chance(use) > 0.99


def test_a_share_of_unbroken_pieces_counts_only_where_there_is_no_radius():
    tupelo, ash = limit("tupelo"), limit("ash_white")
    assert not tupelo.has_data and tupelo.unbroken == pytest.approx(0.46) and ash.unbroken is None
    assert tupelo.chance(0.4) == chance_whole(0.4)  # an easy bend tells nothing of it
    assert tupelo.chance(0.6) == 0.46 and tupelo.chance(1.8) == pytest.approx(chance_whole(1.8))
    assert ash.chance(0.6) == chance_whole(0.6)
    assert limit("tupelo", is_dry_heat=True).unbroken is None


def test_a_backing_never_beats_a_strap():
    backed = limit("oak_white", is_backed=True, thickness=2.0)
    assert backed.needed == pytest.approx(max((1 / backed.allowed - 1) / 2, 0.5))
    assert replace(backed, least=9.0).needed == 9.0
