"""A trial at the bench: each piece with its own setting; what the run says of them; one kind against another; growth."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy import stats

from bright_willow.core.bench.events import Event
from bright_willow.core.bench.live import ALWAYS, live
from bright_willow.core.bench.records import records_of
from bright_willow.core.bench.state import state_of
from bright_willow.core.book.questions import QUESTIONS
from bright_willow.core.book.trial import Trial, TrialPiece, graded, laid_out
from bright_willow.core.book.trial_run import blanks, loaded, trial_brief, trial_operations, trial_takes, with_run
from bright_willow.core.days.timetable import timetable
from bright_willow.core.days.work import Done, Floor
from bright_willow.core.experience.versus import chance_lower, difference
from bright_willow.core.ground.errors import OutOfRange
from bright_willow.core.ground.estimate import Estimate
from bright_willow.core.plan.plan import plan
from tests.core.ways.jobs import job_for

STEAMED, GLUED = plan(job_for("steam_free")), plan(job_for("cold_lamination"))


def trial(asks="minutes", settings=(10.0, 20.0, 30.0), repeats=1, of=STEAMED, **more) -> Trial:
    return laid_out(of, name="t", asks=asks, settings=settings, repeats=repeats, seed=3, **more)


def brief_for(own: Trial, of=STEAMED):
    return trial_brief(own, 7, of, places=1, people=1, started_s=0.0, unit="mm")


def test_each_piece_is_as_long_in_the_steam_as_its_setting_says():
    own = trial()
    brief = brief_for(own)
    steam = next(o for o in brief.operations if o.warms)
    in_order = [p.setting for p in sorted(own.loading(), key=lambda p: p.in_min)]
    assert [s / 60 for s in steam.each_s] == in_order and len(set(in_order)) == 3
    assert [brief.whom(("steam", n)) for n in range(3)] == [
        f"piece {brief.numbers[n]}, {s:g} min" for n, s in enumerate(in_order)
    ]
    tasks = [t for t in brief.web.tasks if t.operation.key == "steam"]
    assert [t.alone_s / 60 for t in tasks] == in_order
    assert "set" not in {o.key for o in brief.operations}  # a piece that is only to stay whole comes off at once
    assert brief.operations[-1].key == "look" and "form" in brief.operations[-1].frees


def test_at_the_bench_they_come_out_each_on_its_own_time():
    """Gone through as the bench says, each piece is in the steam its own minutes, no two are bent at once."""
    own = trial(settings=(8.0, 14.0, 20.0))
    brief = brief_for(own)
    events, now, out = [], 0.0, {}
    for n in range(400):
        shown = live(brief, state_of(brief, events, now))
        if shown.is_over:
            break
        task = shown.now
        if task is None:
            now = max(now + 1.0, shown.changes_s or now)
            continue
        name = task.name
        events.append(Event(now, "begin", f"b{n}", name[0], name[1]))
        now += max(1.0, task.operation.attended_s.likely)
        if name[0] == "bend":
            out[name[1]] = now
        events.append(Event(now, "done", f"d{n}", name[0], name[1]))
    records = {r.number: r for r in records_of(brief, state_of(brief, events, now))}
    assert len(records) == 3
    for n, record in records.items():
        assert record.steamed_s / 60 == pytest.approx(own.pieces[brief.numbers[n] - 1].setting, abs=1.0)


def test_the_timetable_has_each_piece_in_the_steam_its_own_time():
    """All in at once in a chamber that is hot: each comes out after its own minutes, so no two shapes are taken for one."""
    own = trial(settings=(8.0, 14.0, 20.0))
    brief = brief_for(own)
    loaded_at = {n: 5_000.0 + 10 * n for n in range(3)}
    done = [Done(o.key, -1, 0.0, 0.0) for o in brief.operations if o.scope == "job"]
    for n, at in loaded_at.items():
        done += [Done("warm_up", n, at - 20, at - 10), Done("load", n, at - 10, at)]
    table = timetable([brief.work(done)], Floor(ALWAYS, 3, {"chamber": 3, "saw": 1, "iron": 1, "oven": 1}, 5_030.0))
    out = {d.number: d.from_s for d in table.doings if d.operation.key == "bend"}
    for n, at in out.items():
        assert at - loaded_at[n] == pytest.approx(60 * own.pieces[brief.numbers[n] - 1].setting, abs=120)


def test_what_the_run_says_is_taken_over_and_what_was_graded_stays():
    own = graded(trial(), 2, grade=1, springback_mm=None, note="mine")
    brief = brief_for(own)
    assert 2 not in brief.numbers and len(brief.numbers) == 2
    from bright_willow.core.bench.records import PieceRecord

    records = [PieceRecord(0, steamed_s=33 * 60.0), PieceRecord(1, steamed_s=60.1 * own.pieces[brief.numbers[1] - 1].setting, broke="splintered")]  # fmt: skip
    made = with_run(own, brief, records)
    first, second = (made.pieces[n - 1] for n in brief.numbers)
    assert first.setting == 33.0 and first.grade is None  # the minutes it really had
    assert second.setting == own.pieces[brief.numbers[1] - 1].setting and (second.grade, second.note) == (3, "splintered")  # fmt: skip
    assert made.pieces[1] == own.pieces[1]
    assert with_run(made, brief, records) == made  # taken over twice it is once
    by_hand = graded(own, brief.numbers[1], grade=1, springback_mm=None, note="only a fibre")
    assert with_run(by_hand, brief, records).pieces[brief.numbers[1] - 1].grade == 1
    assert with_run(own, replace(brief, numbers=(99,)), records) == own


def test_hours_on_the_form_are_held_and_measured():
    own = trial(asks="hours", settings=(4.0, 12.0), repeats=2, of=GLUED)
    ops = trial_operations(own, GLUED)
    cure = next(o for o in ops if o.kind == "cure")
    assert sorted(s / 3600 for s in cure.each_s) == [4.0, 4.0, 12.0, 12.0]
    assert any(o.key == "measure" for o in ops)  # it goes on to where it is measured
    takes = trial_takes(own, GLUED)
    assert takes.done_days >= 1 and takes.attended_h > 0.5
    assert trial_takes(trial(asks="hours", settings=(4.0,), of=GLUED), GLUED).done_days < takes.done_days


def test_blanks_to_cut():
    (one,) = blanks(trial(), STEAMED)
    part = STEAMED.job.part
    assert (one.count, one.thickness_mm, one.width_mm) == (3, part.thickness_mm, part.width_mm)
    assert one.length_mm == pytest.approx(STEAMED.bend.blank.length_mm, abs=0.1)
    thick = blanks(trial(asks="thickness", settings=(4.0, 6.0), repeats=3, of=GLUED), GLUED)
    assert [(b.count, b.thickness_mm) for b in thick] == [(3, 4.0), (3, 6.0)]
    done = graded(trial(settings=(10.0,)), 1, grade=0, springback_mm=None, note="")
    assert blanks(done, STEAMED) == () and loaded(done) == ()
    with pytest.raises(OutOfRange, match="graded"):
        brief_for(done)


def test_soaking_is_asked_and_sets_how_it_is_soaked():
    assert QUESTIONS["soak"].published(STEAMED) == 12.0 and QUESTIONS["soak"].published(GLUED) is None
    for hours, soaked in ((1.0, "none"), (12.0, "overnight"), (60.0, "days")):
        pieces = tuple(TrialPiece(setting=hours * k, grade=0 if k >= 1 else 3) for k in (0.5, 0.6, 1.0, 1.0, 1.2, 1.5))
        own = trial(asks="soak").model_copy(update={"pieces": pieces, "published": hours})
        assert own.change().sets == {"heat.soaked": soaked}


def test_difference_is_welchs():
    dice = np.random.default_rng(4)
    a, b = dice.normal(10, 1, 7), dice.normal(8.5, 2.5, 5)
    made = difference(a, b)
    low, high = stats.ttest_ind(a, b, equal_var=False).confidence_interval(0.8)
    assert (made.low, made.likely, made.high) == pytest.approx((low, a.mean() - b.mean(), high))
    assert difference((1.0, 1.0), (3.0, 3.0)).likely == -2
    with pytest.raises(OutOfRange):
        difference((1.0,), (2.0, 3.0))


def test_chance_that_one_is_lower():
    wide, narrow = Estimate(5, 10, 20, "learned"), Estimate(18, 20, 22.2, "learned")
    assert chance_lower(wide, narrow) + chance_lower(narrow, wide) == pytest.approx(1)
    assert chance_lower(wide, narrow) > 0.85
    dice = np.random.default_rng(1)
    draws = [np.exp(dice.normal(np.log(e.likely), np.log(e.high / e.low) / 2 / 1.2816, 40_000)) for e in (wide, narrow)]
    assert chance_lower(wide, narrow) == pytest.approx((draws[0] < draws[1]).mean(), abs=0.01)


def test_one_wood_against_another():
    own = trial(settings=(10.0, 20.0), repeats=3, variants=("ash", "oak"))
    assert len(own.pieces) == 12 and sum(p.variant for p in own.pieces) == 6
    assert {(p.setting, p.variant) for p in own.pieces} == {(10.0, 0), (10.0, 1), (20.0, 0), (20.0, 1)}
    for n, p in enumerate(own.pieces, 1):  # ash stays whole at ten minutes, oak needs twenty
        own = graded(own, n, grade=0 if p.setting > 15 or p.variant == 0 else 3, springback_mm=None, note="")
    (one,) = own.versus()
    assert (one.first, one.other) == ("ash", "oak") and one.of_first.likely < one.of_other.likely
    assert 0.6 < one.safer <= 1
    assert own.of_kind(1).tried and {p.variant for p in own.of_kind(1).pieces} == {0}


def test_springback_of_one_glue_against_another_and_its_growth():
    own = trial(asks="hours", settings=(8.0, 16.0), repeats=2, of=GLUED, variants=("rigid", "soft"))
    for n, p in enumerate(own.pieces, 1):
        own = graded(own, n, grade=0, springback_mm=5.0 + 3 * p.variant + 0.1 * n, later_mm=6.0 + 4 * p.variant + 0.1 * n, note="")  # fmt: skip
    (one,) = own.versus()
    assert one.safer is None and one.apart.high < 0 and one.of_other.likely == pytest.approx(one.of_first.likely - one.apart.likely)  # fmt: skip
    grown = own.growth()
    assert grown.slope.likely == pytest.approx(0, abs=0.2) and grown.at[0].likely == pytest.approx(1.5, abs=0.4)
    assert trial(asks="hours", settings=(8.0, 16.0), of=GLUED).growth() is None


@pytest.mark.parametrize(
    ("more", "field"),
    [
        ({"variants": ("ash", "ash")}, "variants"),
        ({"variants": ("ash",)}, "variants"),
        ({"variants": ("a", "b", "c", "d", "e")}, "variants"),
        ({"variants": ("ash", "x" * 41)}, "variants"),
        ({"variants": ("ash", "oak"), "design": "one_at_a_time"}, "design"),
        ({"variants": ("a", "b", "c", "d"), "repeats": 6}, "repeats"),
    ],
)
def test_kinds_that_cannot_be(more, field):
    with pytest.raises(OutOfRange) as told:
        trial(**more)
    assert told.value.field == field


def test_a_trial_of_before_still_opens():
    old = '{"name": "t", "asks": "minutes", "published": 20.0, "pieces": [{"setting": 10.0, "grade": 0}]}'
    assert Trial.model_validate_json(old).pieces[0].variant == 0
    with pytest.raises(ValueError, match="kind"):
        Trial.model_validate_json(old.replace('"grade": 0', '"variant": 2'))
