"""The drawings of Bend, Form, Press, Bench and a trial, parsed and measured against the plan they show."""

import math
import re
from xml.etree.ElementTree import fromstring

import numpy as np
import pytest
from svgelements import Path

from bright_willow.core.gluing.glue_timing import Moves, race
from bright_willow.core.heat.wrapping import face_strains
from bright_willow.core.plan.compare import compare_ways
from bright_willow.core.plan.plan import plan
from bright_willow.core.stock.molding_profile import profiled
from bright_willow.core.trials.trial import Trial, TrialPiece
from bright_willow.core.workpiece.glue_up import glued_up
from bright_willow.drawing.block_drawing import block_svg
from bright_willow.drawing.bow_drawing import bow_svg
from bright_willow.drawing.flat_strip import flat_strip_svg
from bright_willow.drawing.in_place_drawing import in_place_svg, steps_shown
from bright_willow.drawing.press_drawing import clamp_places, clamps_svg, race_svg
from bright_willow.drawing.profile_drawing import profile_svg
from bright_willow.drawing.run_drawing import chain, run_svg
from bright_willow.drawing.trial_chart import trial_svg
from bright_willow.drawing.way_sketch import way_sketches
from bright_willow.drawing.wrap_drawing import wrap_svg
from tests.core.methods.jobs import job_for

NS = "{http://www.w3.org/2000/svg}"


def of_class(root, *names):
    return [e for e in root.iter() if set(names) <= set((e.get("class") or "").split())]


def title(element) -> str:
    return element.findtext(f"{NS}title") or ""


def words(root) -> str:
    return " ".join(root.itertext())


def box(element) -> tuple[float, float, float, float]:
    """A rectangle: left, width, top, height, y downwards."""
    return tuple(float(element.get(k)) for k in ("x", "width", "y", "height"))


def length_of(element) -> float:
    """Length of a path as another library reads it."""
    return float(Path(element.get("d")).length(error=1e-5))


def area_of(element) -> float:
    """Area of a closed path, its arcs cut fine by another library."""
    path = Path(element.get("d"))
    dots = np.array([(p.x, p.y) for p in (path.point(t) for t in np.linspace(0, 1, 4000))])
    x, y = dots.T
    return abs(float(np.sum(x * np.roll(y, -1) - np.roll(x, -1) * y))) / 2


# -- Press ----------------------------------------------------------------------------------------------------------
def test_the_race_is_drawn_to_its_seconds():
    """Each line lies open as long as it takes to cover, closed until there is pressure; the limit stands where it is."""
    made = race(Moves(4, 60.0, 10.0, 90.0, 400.0), hands=2, open_s=600, pot_s=None, closed_s=900)
    root = fromstring(race_svg(made))
    opened, closed = of_class(root, "lies-open"), of_class(root, "lies-closed")
    assert len(opened) == len(closed) == 4
    a_second = box(opened[0])[1] / (made.bars[0].covered_s - made.bars[0].spread_s)
    zero = box(opened[0])[0]
    for bar, first, then in zip(made.bars, opened, closed, strict=True):
        assert box(first)[0] == pytest.approx(zero + bar.spread_s * a_second, abs=0.01)
        assert box(then)[1] == pytest.approx((bar.pressed_s - bar.covered_s) * a_second, abs=0.01)
        assert sum(box(then)[:2]) == pytest.approx(zero + made.lasts_s * a_second, abs=0.01)
        assert title(first) == f"line {bar.line}: open for {(bar.covered_s - bar.spread_s) / 60:.1f} min"
    (limit,) = of_class(root, "time-latest")
    at = float(re.match(r"M(\S+)", limit.get("d"))[1])
    assert at == pytest.approx(zero + (made.bars[0].covered_s + 900) * a_second, abs=0.01)
    assert not of_class(root, "late") and f"you use {made.share:.0%}" in words(root)
    lost = fromstring(race_svg(race(Moves(4, 60.0, 10.0, 90.0, 400.0), hands=2, open_s=600, pot_s=None, closed_s=250)))
    assert len(of_class(lost, "lies-closed", "late")) == 4
    many = fromstring(race_svg(race(Moves(60, 5.0, 1.0, 9.0, 40.0), hands=1, open_s=600, pot_s=None, goes=2)))
    assert len(of_class(many, "lies-open")) <= 26 and "in 2 batches" in words(many)


@pytest.mark.parametrize("side", ["inner", "outer"])
def test_clamps_press_the_far_side_square_and_are_numbered_in_turn(side):
    made = plan(job_for("cold_lamination", form={"side": side}))
    own = made.glued_up
    root = fromstring(clamps_svg(made, own, "mm"))
    circles = of_class(root, "order")
    assert [title(c) for c in circles] == [f"clamp {n}" for n in own.order] and len(circles) == made.form.clamps
    far = made.bend.blank.parallel(made.site.sense * made.job.part.thickness_mm / 2)
    apart = far.length_mm / made.form.clamps
    near_face = made.face.curve.traced(400)
    for i, ((number, foot, away), circle) in enumerate(zip(clamp_places(made, own.order), circles, strict=True)):
        (there,), (heading,) = far.at(np.array([(i + 0.5) * apart]))
        assert foot == pytest.approx(there) and number == own.order[i]
        assert np.hypot(*away) == pytest.approx(1)
        assert away @ [math.cos(heading), math.sin(heading)] == pytest.approx(0, abs=1e-9)
        outside = np.array([float(circle.get("cx")), -float(circle.get("cy"))])
        assert (outside - foot) @ away > 0  # it stands off the wood, and further from the form than the wood
        assert np.hypot(*(near_face - outside).T).min() > np.hypot(*(near_face - foot).T).min()
    assert f"{made.form.clamps} clamps: all snug" in words(root)
    bag = plan(job_for("cold_lamination", build_up={"press": "vacuum"}))
    assert "a bag or a band presses" in words(fromstring(clamps_svg(bag, bag.glued_up, "mm")))
    assert glued_up(bag.job, bag.shop, bag.bend, bag.laid_up, bag.form).order == ()


# -- Bend -----------------------------------------------------------------------------------------------------------
@pytest.mark.parametrize("way", ["steam_strap", "steam_free"])
def test_every_step_round_the_form_keeps_the_wood_as_long_and_as_thick_as_it_is(way):
    made = plan(job_for(way))
    root = fromstring(wrap_svg(made, "mm"))
    steps = of_class(root, "step")
    assert [s.get("data-step") for s in steps] == [str(i) for i in range(9)] and len(of_class(root, "now")) == 1
    strap = made.hot.heat.strap
    blank, thick = made.bend.blank.length_mm, made.hot.thickness_mm
    for step, shown in zip(made.wrapping, steps, strict=True):
        (piece,) = of_class(shown, "strip")
        assert area_of(piece) == pytest.approx(blank * thick, rel=2e-3)
        assert len(of_class(shown, "stop-block")) == (2 if strap else 0)
        assert len(of_class(shown, "strap")) == (1 if strap else 0) == len(of_class(shown, "shim"))
        outer, inner = face_strains(
            np.abs(step.mid.curvature).max() if step.share else 0.0, thick, has_stops=strap is not None
        )
        assert (step.outer, step.inner) == pytest.approx((outer, inner))
        assert f"outside stretched {step.outer:.1%}" in words(shown)
    assert "straight, 0°" in words(steps[0]) and "closed, " in words(steps[-1])
    arms = [s.pulls[1].arm_mm for s in made.wrapping]
    assert arms == sorted(arms, reverse=True)  # the hand comes nearer to the bend, and pulls harder
    for step in made.wrapping:
        assert step.pulls[1].pull_n * step.pulls[1].arm_mm == pytest.approx(made.wrapping[0].pulls[1].pull_n * arms[0])
    assert made.wrapping[-1].mid.sweep_rad == pytest.approx(made.bend.blank.sweep_rad)


def test_a_bowed_piece_lies_over_its_block_to_scale():
    made = plan(job_for("straighten"))
    block, half = made.hot.block, made.hot.thickness_mm / 2
    root = fromstring(block_svg(made, made.hot, "mm"))
    (strip,), (was,) = of_class(root, "strip"), of_class(root, "outline", "target")
    for drawn in (strip, was):
        assert area_of(drawn) == pytest.approx(made.bend.stated.length_mm * 2 * half, rel=2e-3)
    (wedge,) = of_class(root, "stop-block")
    _, _, top, high = box(wedge)
    # the piece bent back rises over its span as high as the block is
    assert high == pytest.approx(block.block_mm.likely, rel=0.03)
    (bench,) = of_class(root, "bench-top")
    assert float(re.findall(r"-?\d+\.?\d*", bench.get("d"))[1]) == pytest.approx(top + high, abs=0.01)
    said = words(root)
    assert "span " in said and "passes to expect" in said and "clamp" in said and len(of_class(root, "pull")) == 2


def test_a_bow_and_its_string():
    made = plan(job_for("steam_free", heat={"wall": "bag", "in_bag": True}))
    bow = made.hot.bow
    root = fromstring(bow_svg(bow, "mm"))
    (drawn,), (string,) = of_class(root, "bow"), of_class(root, "bowstring")
    scale = length_of(string) / bow.chord_mm
    assert length_of(drawn) / scale == pytest.approx(np.hypot(*np.diff(bow.points, axis=0).T).sum(), rel=1e-3)
    assert len(of_class(root, "bracket")) == len(bow.brackets)
    assert "string " in words(root)


def test_a_strip_laid_flat_has_every_bend_where_it_begins_and_ends():
    for way in ("dry_heat", "blanket"):
        made = plan(job_for(way))
        heat, long = made.hot.heat, made.bend.target.length_mm
        root = fromstring(flat_strip_svg(made, heat, "mm"))
        (piece,), (blank,) = of_class(root, "strip"), of_class(root, "blank")
        assert box(piece)[:2] == pytest.approx((0, long), abs=0.01)
        assert box(blank)[:2] == pytest.approx((-made.bend.trims_mm[0], made.bend.blank.length_mm), abs=0.01)
        assert box(piece)[3] == made.job.part.width_mm == -2 * box(piece)[2]
        zones = of_class(root, "bend-zone")
        assert [title(z) for z in zones] == [f"bend {b.order}" for b in heat.bends]
        for zone, bend in zip(zones, heat.bends, strict=True):
            assert box(zone)[:2] == pytest.approx((bend.start_mm, bend.end_mm - bend.start_mm), abs=0.01)
            assert f"{bend.order}: bend to {bend.bent_deg:.0f}° for {bend.wanted_deg:.0f}°" in words(root)
        places = sorted({0.0, long, *(e for b in heat.bends for e in (round(b.start_mm, 2), round(b.end_mm, 2)))})
        marks = [float(re.match(r"M(\S+)", m.get("d"))[1]) for m in of_class(root, "mark")]
        assert marks == pytest.approx(places, abs=0.01)
        assert len(of_class(root, "blanket-reach")) == (1 if way == "blanket" else 0)


# -- Form, Way, Prepare ---------------------------------------------------------------------------------------------
@pytest.mark.parametrize("side", ["inner", "outer"])
def test_in_place_every_lamina_lies_on_the_one_before(side):
    made = plan(job_for("cold_lamination", form={"kind": "in_place", "side": side}))
    root = fromstring(in_place_svg(made, made.laid_up, "mm"))
    steps, shown = of_class(root, "step"), steps_shown(made.laid_up)
    assert shown == list(range(1, 11)) and len(steps) == 10 and "now" in steps[-1].get("class")
    last = of_class(steps[-1], "strip")
    order = [x.number for x in made.laid_up.laminae]
    assert [title(s) for s in last] == [f"strip {n}" for n in (order if side == "inner" else order[::-1])]
    for drawn in last:  # each as long as its own middle and as thick as it is
        lamina = next(x for x in made.laid_up.laminae if title(drawn) == f"strip {x.number}")
        assert area_of(drawn) == pytest.approx(lamina.cut_length_mm * lamina.thickness_mm, rel=3e-3)
    for i, step in enumerate(steps, 1):
        assert len(
            of_class(step, "strip")
        ) == i and f"strip {last and order[i - 1] if side == 'inner' else order[-i]} of 10" in words(step)
    many = plan(job_for("cold_lamination", form={"kind": "in_place"}, build_up={"laminae": 40}))
    few = steps_shown(many.laid_up)
    assert len(few) == 16 and few[0] == 1 and few[-1] == 40


def test_ways_are_drawn_in_one_window_at_one_scale():
    rows = compare_ways(job_for("cold_lamination"))
    drawn = way_sketches([r.made for r in rows])
    assert [bool(d) for d in drawn] == [bool(r.made) for r in rows] and way_sketches([None]) == [""]
    roots = [(r.made, fromstring(d)) for r, d in zip(rows, drawn, strict=True) if d]
    assert len({root.get("viewBox") for _, root in roots}) == 1
    left, top, wide, high = (float(v) for v in roots[0][1].get("viewBox").split())
    for made, root in roots:
        for name, curve in (("strip", made.wanted), ("on-form", made.on_form)):
            (path,) = of_class(root, name)
            x0, y0, x1, y1 = Path(path.get("d")).bbox()
            assert left <= x0 and x1 <= left + wide and top <= y0 and y1 <= top + high, (made, name)
            assert area_of(path) == pytest.approx(curve.length_mm * made.thickness_mm, rel=3e-3)


def test_a_profile_is_drawn_cut_and_put_together():
    job = job_for("cold_lamination", prepare={"profile": {"kind": "cove", "size_mm": 12}})
    made = plan(job)
    own = profiled(job, made.shop, [x.thickness_mm for x in made.laid_up.laminae])
    root = fromstring(profile_svg(own, "mm"))
    whole = of_class(root, "board-wood")
    assert len(whole) == own.blanks and f"{len(own.bands)} strips out of" in words(root)
    x0, y0, x1, y1 = Path(whole[0].get("d")).bbox()
    assert (x1 - x0, y1 - y0) == pytest.approx((own.depth_mm, float(np.ptp(own.outline[:, 1]))), abs=0.01)
    in_place = [e for e in of_class(root, "glued") if "in place" in title(e)]
    assert {title(e) for e in in_place} == {f"strip {n} in place" for n, o in enumerate(own.together, 1) if o}


# -- Bench and trials -----------------------------------------------------------------------------------------------
@pytest.mark.parametrize("way", ["steam_strap", "cold_lamination"])
def test_one_load_at_the_bench_is_drawn_in_minutes(way):
    """Bars follow one another with nothing between; the shaded stretch is as long as its window."""
    made = plan(job_for(way))
    own = chain(made.operations)
    assert [o.key for o in own] == (
        ["warm_up", "load", "steam", "bend"] if way == "steam_strap" else ["mix", "spread", "close"]
    )
    root = fromstring(run_svg(made.operations))
    (shaded,) = of_class(root, "run-window-band")
    window = own[-1].window
    a_minute = box(shaded)[1] / (window.seconds / 60)
    bars = [e for e in root.iter(f"{NS}rect") if e.get("class") in ("run-hands", "run-alone")]
    at = 0.0
    for o in own:
        if o.key == window.since:
            assert box(shaded)[0] == pytest.approx(30 + at * a_minute, abs=0.02)
        for minutes in (o.attended_s.likely / 60, o.unattended_s.likely / 60):
            if minutes:
                left, wide, *_ = box(bars.pop(0))
                assert left == pytest.approx(30 + at * a_minute, abs=0.02)
                assert wide == pytest.approx(max(3.0, minutes * a_minute), abs=0.02)
                at += minutes
    assert not bars and "One batch, " in words(root) and "people" in words(root)
    bare = tuple(o for o in made.operations if not o.window)
    assert chain(bare) == () and "One batch, " in words(fromstring(run_svg(bare)))


def test_the_best_steaming_time_stands_between_both_edges():
    grades = [(20, 5), (30, 0), (30, 0), (60, 0), (90, 6)]
    pieces = tuple(TrialPiece(setting=s, grade=g) for s, g in grades)
    trial = Trial(name="m", asks="minutes", published=45, earliest_min=25, latest_min=70, pieces=pieces)
    root, best = fromstring(trial_svg(trial)), trial.best_time
    said = "".join(root.itertext())
    assert f"best at {round(best.best.likely)} min" in said and "too short" in said and "too long" in said
    assert "splintered" in said and "broke short" in said
    xs = [float(re.match(r"M(\S+)", e.get("d"))[1]) for e in of_class(root, "time")]
    assert len(xs) == 3 and sorted(xs) == [xs[0], xs[1], xs[2]]  # too short, best, too long


def test_pieces_of_a_trial_stand_at_their_setting_whole_above_broken_below():
    grades = [(30, 4), (45, 3), (45, 0), (60, 1), (60, 0), (90, 0)]
    pieces = tuple(TrialPiece(setting=s, grade=g) for s, g in grades)
    trial = Trial(name="soak", asks="soak", published=60, pieces=(*pieces, TrialPiece(setting=75)))
    root = fromstring(trial_svg(trial))
    dots = of_class(root, "dot")
    assert len(dots) == 6 and len(of_class(root, "trial-broken")) == sum(not p.is_whole for p in pieces)
    at = {title(d).split(":")[0].split(",")[0]: float(d.get("cx")) for d in dots}
    # a setting twice another lies as far from it as four times from twice
    logs = np.log([s for s, _ in grades])
    xs = np.array([at[f"piece {n}"] for n in range(1, 7)])
    slope, start = np.polyfit(logs, xs, 1)
    assert xs == pytest.approx(start + slope * logs, abs=0.02) and slope > 0
    heights = {
        p.is_whole: [float(d.get("cy")) for d, q in zip(dots, pieces, strict=True) if q.is_whole == p.is_whole]
        for p in pieces
    }
    assert max(heights[True]) < min(heights[False])
    answer = trial.answer()
    (likely,) = of_class(root, "time-latest")
    x = float(re.match(r"M(\S+)", likely.get("d"))[1])
    assert x == pytest.approx(start + slope * math.log(answer.at_90.likely), abs=0.05)
    (band,) = of_class(root, "trial-band")
    assert band.get("d").endswith("Z") and "9 of 10 whole at" in words(root)
    none = Trial(name="none yet", asks="minutes", published=60, pieces=(TrialPiece(setting=60), TrialPiece(setting=90)))
    assert "no piece graded yet" in words(fromstring(trial_svg(none)))
