"""Days, by hand: what is left alone goes on through the night only where it may, and forms are waited for."""

from dataclasses import replace

import pytest

from bright_willow.core.common.estimate import Estimate
from bright_willow.core.common.operation import After, Batches, Operation
from bright_willow.core.methods.method_registry import WAYS
from bright_willow.core.plan.plan import plan
from bright_willow.core.scheduling.estimate_days import estimate_days

from ..methods.jobs import job_for
from .rules import steam

HOUR = 3600.0


def lasts(hours):
    return Estimate(hours * HOUR, hours * HOUR, hours * HOUR, "allowance")


def glued(*, alone, hands=1.0, left=12.0):
    return (Operation("glue", "glue", "Glue up", "piece", lasts(hands), unattended_s=lasts(left), may_run_alone=alone),)


@pytest.mark.parametrize(("alone", "hours"), [(True, 12.0), (False, 33.0)])
def test_what_may_not_run_alone_keeps_to_the_working_day(alone, hours):
    """Three hours of hands, then six, for each of two pieces: the second is watched past the evening, or begins anew."""
    twice = glued(alone=alone, hands=3.0, left=6.0)
    assert estimate_days(twice, Batches(2)).done_days * 24 == pytest.approx(hours)


def test_what_does_not_fit_the_day_begins_in_the_morning():
    """Six hours of hands for each of two pieces: the second would not be done by the evening."""
    made = estimate_days(glued(alone=True, hands=6.0, left=0.0), Batches(2))
    assert made.attended_h == pytest.approx(12)
    assert made.done_days * 24 == pytest.approx(24 + 6)


def test_a_batch_of_two_takes_twice_the_hands_and_once_what_a_batch_takes():
    """Two and a half hours for each of two pieces, and one more for both after: the day's ten hold the first
    batch and a piece of the second."""
    each = Operation("glue", "glue", "Glue up", "piece", lasts(2.5))
    both = Operation("watch", "watch", "Watch it", "batch", lasts(1.0), after=(After("glue", most_s=0.0),))
    made = estimate_days((each, both), Batches(4, at_once=2))
    assert made.attended_h == pytest.approx(12)
    assert made.done_days * 24 == pytest.approx(24 + 3.5)
    assert estimate_days((each, both), Batches(1)).done_days * 24 == pytest.approx(3.5)


def test_heat_is_made_once_for_what_follows():
    """Set up, warm up, then twice loaded, steamed and bent in one place; the second is cooled, set, dried and trimmed."""
    made = estimate_days(steam(set_h=0.1, dry_h=0.1), Batches(2, 1, 2), owned={"chamber": 1})
    seconds = 1800 + 1200 + 2 * (8 + 3000 + 60) + 2000 + 360 + 120 + 360 + 120
    assert made.done_days * 86_400 == pytest.approx(seconds)
    assert made.form_days * 86_400 == pytest.approx(3068 + 60 + 2000 + 360 + 120)
    assert made.attended_h * 3600 == pytest.approx(1800 + 300 + 2 * (8 + 2 * 60 + 120 + 120))


@pytest.mark.parametrize("way", sorted(WAYS))
def test_the_loads_that_are_not_placed_go_on_at_the_pace_of_those_that_are(way, monkeypatch):
    made = plan(job_for(way))
    many = replace(made.way.batches, pieces=made.way.batches.at_once * 61)
    quick = estimate_days(made.operations, many)
    monkeypatch.setattr("bright_willow.core.scheduling.estimate_days.PLACED", 100)
    whole = estimate_days(made.operations, many)
    assert quick.done_days == pytest.approx(whole.done_days, rel=0.03, abs=0.7)
    assert quick.form_days == pytest.approx(whole.form_days, rel=0.03, abs=0.7)
    assert quick.attended_h == pytest.approx(whole.attended_h, rel=0.02)


def test_an_operation_that_no_working_day_holds_and_people_the_shop_has_not():
    """Twelve hours of watching straight after an hour of hands: 13 h in one go; then two people where one works."""
    glue = Operation("glue", "glue", "Glue up", "piece", lasts(1.0), hands=2)
    watch = Operation(
        "watch", "watch", "Watch it", "piece", lasts(0), unattended_s=lasts(12), after=(After("glue", most_s=0),)
    )
    made = estimate_days((glue, watch), Batches(1))
    assert made.done_days * 24 == pytest.approx(13) and made.attended_h == pytest.approx(2)
