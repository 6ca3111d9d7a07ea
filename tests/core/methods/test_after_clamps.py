"""A glued curve brought to its width: the machine by hand for curves on either side of each limit."""

import pytest

from bright_willow.core.methods.steps.after_clamps import edge_work, safest_machine
from bright_willow.core.plan.plan import plan
from bright_willow.core.shape.curve import Curve
from bright_willow.core.shop.shop import Shop
from tests.core.methods.jobs import job_for


def arc(degrees, length_mm=1000.0):
    import math

    return Curve.of([length_mm], [math.radians(degrees) / length_mm])


@pytest.mark.parametrize(
    ("blank", "width_mm", "machine"),
    [
        (arc(89.0), 60.0, "table_saw"),
        (arc(-89.0), 60.0, "table_saw"),  # the other way around is the same curve
        (arc(91.0), 60.0, "band_saw"),
        (arc(60.0), 101.0, "band_saw"),
        (arc(60.0, 299.0), 60.0, "band_saw"),
        (Curve.of([500.0, 500.0], [0.0008, -0.0008]), 60.0, "band_saw"),  # it bends both ways and would rock
        (arc(179.0), 60.0, "band_saw"),
        (arc(181.0), 60.0, "hand"),
        (arc(60.0, 199.0), 60.0, "hand"),
        (Curve.of([1000.0], [0.0]), 60.0, "table_saw"),
    ],
)
def test_the_safest_machine_by_what_rests_on_a_fence(blank, width_mm, machine):
    assert safest_machine(blank, width_mm) == machine


@pytest.mark.parametrize("unit", ["mm", "in"])
def test_its_steps_name_the_first_edge_the_dry_pass_and_what_not_to_do(unit):
    shop = Shop(units=unit, clean_up_mm=8.0)
    job = job_for("cold_lamination")
    for blank, words in ((arc(60.0), ("Dry pass", "stand under")), (arc(120.0), ("Not at a table saw", "Gauge"))):
        work = edge_work(job, shop, blank)
        text = " ".join(work.steps)
        assert all(word in text for word in words) and work.cautions
        assert work.steps[1].startswith("Joint the edge that lay on the platform first")
        assert ("4 mm" if unit == "mm" else "5/32 in") in work.steps[1]  # half of what is there to clean up
    ring = plan(job_for("cold_lamination", shape={"kind": "ring", "face": "inner", "diameter_mm": 500}), shop)
    steps = next(o for o in ring.operations if o.key == "clean_up")
    assert "by hand" in " ".join(steps.steps) and "Dry pass" not in " ".join(steps.steps)


def test_hot_bends_are_wedged_straight_while_moist():
    jig = next(o for o in plan(job_for("steam_strap")).operations if o.key == "to_frame")
    assert "still moist" in jig.steps[-1]
