"""A trial at the bench: each piece with its own setting; what the run says of them; one kind against another; growth."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy import stats

from bright_willow.core.common.errors import PlanError
from bright_willow.core.common.estimate import Estimate
from bright_willow.core.execution.events import Event
from bright_willow.core.execution.live import live
from bright_willow.core.execution.run_records import records_of
from bright_willow.core.execution.run_state import state_of
from bright_willow.core.plan.plan import plan
from bright_willow.core.scheduling.job_tasks import CompletedTask, ShopCapacity
from bright_willow.core.scheduling.timetable import timetable
from bright_willow.core.scheduling.working_hours import ALWAYS
from bright_willow.core.trials.design import laid_out
from bright_willow.core.trials.group_comparison import chance_lower, difference
from bright_willow.core.trials.questions import QUESTIONS
from bright_willow.core.trials.threshold import BRITTLE, SPLINTERED
from bright_willow.core.trials.trial import Trial, TrialPiece, graded
from bright_willow.core.trials.trial_run import (
    blanks,
    loaded,
    trial_brief,
    trial_operations,
    trial_takes,
    with_run,
)
from tests.core.methods.jobs import job_for

STEAMED, GLUED = plan(job_for("steam_free")), plan(job_for("cold_lamination"))


def trial(asks="minutes", settings=(10.0, 20.0, 30.0), repeats=1, of=STEAMED, **more) -> Trial:
    return laid_out(of, name="t", asks=asks, settings=settings, repeats=repeats, seed=3, **more)


def brief_for(own: Trial, of=STEAMED):
    return trial_brief(own, 7, of, places=1, people=1, started_s=0.0, unit="mm")


def test_each_piece_is_as_long_in_the_steam_as_its_setting_text():
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
    done = [CompletedTask(o.key, -1, 0.0, 0.0) for o in brief.operations if o.scope == "job"]
    for n, at in loaded_at.items():
        done += [CompletedTask("warm_up", n, at - 20, at - 10), CompletedTask("load", n, at - 10, at)]
    table = timetable(
        [brief.work(done)], ShopCapacity(ALWAYS, 3, {"chamber": 3, "saw": 1, "iron": 1, "oven": 1}, 5_030.0)
    )
    out = {d.number: d.from_s for d in table.doings if d.operation.key == "bend"}
    for n, at in out.items():
        assert at - loaded_at[n] == pytest.approx(60 * own.pieces[brief.numbers[n] - 1].setting, abs=120)


def test_minutes_are_tried_below_and_above_the_plan_and_answer_with_both_edges():
    time = STEAMED.hot.heat.steam.time
    asked = QUESTIONS["minutes"]
    assert asked.published(STEAMED) == time.planned_min  # one figure for the steaming time
    proposed = [float(p) for p in asked.proposed(time.planned_min, "mm")]
    assert proposed == pytest.approx([0.6 * time.planned_min, time.planned_min, 1.6 * time.planned_min], abs=0.5)
    own = trial(settings=tuple(proposed), repeats=2)
    assert own.earliest_min == pytest.approx(time.earliest_min, abs=0.01) and own.answer() is None
    assert own.best_time is None and own.change() is None
    grades = {proposed[0]: SPLINTERED, proposed[1]: 0, proposed[2]: BRITTLE}
    for n, p in enumerate(own.pieces, 1):
        own = graded(own, n, grade=grades[p.setting], springback_mm=None, note="", stiffness="firm")
    made = own.best_time
    assert made.too_short.likely < made.best.likely < made.too_long.likely
    assert own.change().sets == {"heat.school": "own_trials", "heat.own_min": float(round(made.best.likely))}
    assert own.pieces[0].stiffness == "firm" and own.one_more() is not None  # the last piece was no whole one
    with pytest.raises(PlanError):
        graded(own, 1, grade=0, springback_mm=None, note="", stiffness="soft as butter")


def test_pieces_come_out_a_minute_apart_where_the_moves_allow_and_stand_in_the_order_they_go_in():
    quick = plan(job_for("steam_free", heat={"moves": 1, "carry_s": 3.0, "clamp_s": 5.0}))
    slow = plan(job_for("steam_free", heat={"moves": 9, "hands": 1, "clamp_s": 20.0}))
    assert trial(of=quick).apart_min == 1.0
    assert trial(of=slow).apart_min == np.ceil(slow.hot.heat.steam.handling_s / 60) > 2
    own = trial(of=quick, repeats=2)
    outs = sorted(p.out_min for p in own.loading())
    assert min(np.diff(outs)) >= 1.0
    ins = {p.number - 1: p.in_min for p in own.loading()}
    assert [ins[n] for n in own.listed] == sorted(ins.values())
    graded_one = graded(own, own.listed[0] + 1, grade=0, springback_mm=None, note="")
    assert graded_one.listed == own.listed  # a graded piece keeps its place in the list


def test_two_bends_of_one_blank():
    own = trial(repeats=3, bends=2)
    assert len(own.pieces) == 9 and [p.blank > 0 for p in own.pieces] == [True] * 9
    by_blank = {b: [p for p in own.pieces if p.blank == b] for b in {p.blank for p in own.pieces}}
    assert sorted(len(v) for v in by_blank.values()) == [1, 1, 1, 2, 2, 2]
    assert all(len({p.setting for p in v}) == 1 for v in by_blank.values())
    (cut,) = blanks(own, STEAMED)
    assert cut.count == 6 and cut.length_mm == pytest.approx(2 * STEAMED.bend.blank.length_mm, abs=0.1)
    both = next(b for b, v in by_blank.items() if len(v) == 2)
    times = {(p.in_min, p.out_min) for p in own.loading() if own.pieces[p.number - 1].blank == both}
    assert len(times) == 1  # they go in and come out together
    for more, field in (({"bends": 3}, "bends"), ({"bends": 2, "design": "one_at_a_time"}, "bends")):
        with pytest.raises(PlanError) as told:
            trial(**more)
        assert told.value.field == field


def test_what_the_run_says_is_taken_over_and_what_was_graded_stays():
    own = graded(trial(), 2, grade=1, springback_mm=None, note="mine")
    brief = brief_for(own)
    assert 2 not in brief.numbers and len(brief.numbers) == 2
    from bright_willow.core.execution.run_records import PieceRecord

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
    with pytest.raises(PlanError, match="graded"):
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
    with pytest.raises(PlanError):
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
        whole = p.setting > 15 or p.variant == 0
        own = graded(own, n, grade=0 if whole else SPLINTERED, springback_mm=None, note="")
    (one,) = own.versus()
    assert (one.first, one.other) == ("ash", "oak") and one.of_first.likely < one.of_other.likely
    assert one.safer is None and one.of_first == own.of_kind(0).best_time.best
    thick = trial(asks="thickness", settings=(4.0, 6.0), repeats=3, of=GLUED, variants=("ash", "oak"))
    for n, p in enumerate(thick.pieces, 1):
        whole = p.setting < 5 or p.variant == 0
        thick = graded(thick, n, grade=0 if whole else 3, springback_mm=None, note="")
    (two,) = thick.versus()
    assert two.of_first.likely > two.of_other.likely and 0.6 < two.safer <= 1
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
    with pytest.raises(PlanError) as told:
        trial(**more)
    assert told.value.field == field


def test_a_trial_of_before_still_opens():
    old = '{"name": "t", "asks": "minutes", "published": 20.0, "pieces": [{"setting": 10.0, "grade": 0}]}'
    assert Trial.model_validate_json(old).pieces[0].variant == 0
    with pytest.raises(ValueError, match="kind"):
        Trial.model_validate_json(old.replace('"grade": 0', '"variant": 2'))
