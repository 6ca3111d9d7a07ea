"""Days, by hand: what is left alone goes on through the night only where it may, and forms are waited for."""

from dataclasses import replace

import pytest

from bright_willow.core.common.estimate import Estimate
from bright_willow.core.common.operation import After, Operation
from bright_willow.core.scheduling.elapsed_days import Batches, elapsed

from .rules import steam

HOUR = 3600.0


def lasts(hours):
    return Estimate(hours * HOUR, hours * HOUR, hours * HOUR, "allowance")


def glued(*, alone, hands=1.0, left=12.0):
    return (Operation("glue", "glue", "Glue up", "piece", lasts(hands), unattended_s=lasts(left), may_run_alone=alone),)


@pytest.mark.parametrize(("alone", "hours"), [(True, 13.0), (False, 27.0)])
def test_what_may_not_run_alone_keeps_to_the_working_day(alone, hours):
    """One hour of hands, then twelve: nine of them fit into the ten of the day, three wait for the next."""
    assert elapsed(glued(alone=alone), Batches(1)).done_days * 24 == pytest.approx(hours)


def test_what_does_not_fit_the_day_begins_in_the_morning():
    """Six hours of hands for each of two pieces: the second would not be done by the evening."""
    made = elapsed(glued(alone=True, hands=6.0, left=0.0), Batches(2))
    assert made.attended_h == pytest.approx(12)
    assert made.done_days * 24 == pytest.approx(24 + 6)


def test_a_batch_of_two_takes_twice_the_hands_and_once_what_a_batch_takes():
    """Two and a half hours for each of two pieces, and one more for both straight after: six of the day's ten, so the
    second batch waits for the morning."""
    each = Operation("glue", "glue", "Glue up", "piece", lasts(2.5))
    both = Operation("watch", "watch", "Watch it", "batch", lasts(1.0), after=(After("glue", most_s=0.0),))
    made = elapsed((each, both), Batches(4, at_once=2))
    assert made.attended_h == pytest.approx(12)
    assert made.done_days * 24 == pytest.approx(24 + 6)
    assert elapsed((each, both), Batches(1)).done_days * 24 == pytest.approx(3.5)


def test_heat_is_made_once_for_what_follows():
    """Two loads on two forms: the second goes into the chamber that is hot."""
    quick = steam(set_h=0.1, dry_h=0.1)
    kept = elapsed(quick, Batches(2, 1, 2))
    cold = elapsed(tuple(replace(o, keeps_s=0.0) for o in quick), Batches(2, 1, 2))
    assert (cold.done_days - kept.done_days) * 86_400 == pytest.approx(1200)
