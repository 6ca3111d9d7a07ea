"""Every curve of one bend, the figures of a piece and the marks of its stick, against integration and by hand."""

import math
from types import SimpleNamespace

import numpy as np
import pytest
from scipy.integrate import solve_ivp
from scipy.stats import binom

from bright_willow.core.common.estimate import Estimate
from bright_willow.core.learning.belief import NOTHING_LEARNT, BendRecord, learn
from bright_willow.core.plan.plan import plan, sketch
from bright_willow.core.shape.curve import Curve
from bright_willow.core.shop.shop import Shop
from bright_willow.core.workpiece.bend import NoSpringback, Springback, basis_of, bend_on
from bright_willow.core.workpiece.geometry import WITNESS_MM, Geometry, bend_places, stick_marks
from bright_willow.core.workpiece.glue_up import start_of
from bright_willow.core.workpiece.quantities import quantities
from bright_willow.core.workpiece.workpiece import (
    LIMIT_FEEL,
    STRAIN_FEEL,
    LimitUse,
    hot_of,
    laid_up_of,
    severity_of,
)
from tests.core.methods.jobs import JOBS, job_for

HOOK = Curve.of([300.0, 500.0, 100.0], [0.0, 1 / 400, 0.0])
S_CURVE = Curve.of([200.0, 300.0, 300.0, 200.0], [0.0, 1 / 500, -1 / 350, 0.0])
KEPT = Estimate(0.02, 0.02, 0.02, "allowance")


def traced(curve: Curve, cells: int = 400) -> np.ndarray:
    """(n, 2) a curve integrated from its middle by another program, level there, cell by cell."""
    middle = curve.length_mm / 2

    def there(s, y, sense):
        at = middle + sense * s
        k = curve.curvature[
            min(len(curve.curvature) - 1, int(np.searchsorted(curve.stations_mm, at, side="right")) - 1)
        ]
        return [sense * math.cos(y[2]), sense * math.sin(y[2]), -sense * k]

    arms = []
    for sense in (-1, 1):
        run = solve_ivp(
            there, (0, middle), [0, 0, 0], args=(sense,), max_step=2.0, t_eval=np.linspace(0, middle, cells), rtol=1e-9
        )
        arms.append(run.y[:2].T)
    return np.vstack((arms[0][::-1], arms[1]))


def bent(target: Curve, over: float = 1.1, trims=(30.0, 50.0), closed: bool = False, belief=None):
    """A target bent on a form of so much more curvature, by the law of a lay-up of ten."""
    law = sketch(job_for("cold_lamination")).way.law
    belief = belief or NOTHING_LEARNT.about(way="cold_lamination", group="ash_white|rigid")
    return law, bend_on(
        stated=target, target=target, k_form=target.curvature * over, law=law, belief=belief, settles=KEPT,
        trims_mm=trims, cannot_open=NoSpringback() if closed else None, dried=lambda released, wanted: (released + wanted) / 2,
    )  # fmt: skip


@pytest.mark.parametrize("target", [HOOK, S_CURVE], ids=["hook", "s"])
def test_what_each_end_opens_is_the_distance_of_two_curves_that_were_integrated(target):
    """Form and release laid with their middles together: the farther of the two tips, and so for settling and miss."""
    law, bend = bent(target)
    on_form, released = traced(bend.on_form), traced(bend.likely)

    def apart(a, b):
        return max(np.hypot(*(a[i] - b[i])) for i in (0, -1))

    opens = bend.opens
    assert isinstance(opens, Springback)
    assert opens.tip_mm.likely == pytest.approx(apart(on_form, released), rel=2e-3)
    assert opens.settling_tip_mm.value == pytest.approx(apart(released, traced(bend.settled)), rel=2e-3)
    assert opens.missed_tip_mm.value == pytest.approx(apart(released, traced(target)), rel=2e-3)
    to_size = target.with_curvature(law.release(target.curvature, loss_ratio=bend.loss_ratio.likely))
    assert opens.to_size_tip_mm.value == pytest.approx(apart(traced(target), traced(to_size)), rel=2e-3)
    tight = int(np.argmax(np.abs(bend.on_form.curvature)))
    lost = 1 - bend.likely.curvature[tight] / bend.on_form.curvature[tight]
    assert opens.loss_share.likely == pytest.approx(lost) and 0 < lost < 0.03
    assert opens.tip_mm.low < opens.tip_mm.likely < opens.tip_mm.high
    assert opens.settling_share == KEPT


def test_the_curves_of_a_bend_are_one_another_s():
    law, bend = bent(HOOK)
    assert bend.on_form.curvature == pytest.approx(HOOK.curvature * 1.1)
    assert bend.blank.length_mm == pytest.approx(HOOK.length_mm + 80) and bend.trim_mm == 50
    assert bend.blank.lengths_mm[[0, -1]] == pytest.approx([330, 150])  # each end runs on with its own curvature
    low, likely, high = bend.released_curvature
    assert (low[1], high[1]) > (likely[1], 0) and low[1] > likely[1] > high[1]  # a low ratio loses least
    assert bend.likely is bend.released[1]
    assert bend.by_mechanics.curvature == pytest.approx(law.release(HOOK.curvature * 1.1, loss_ratio=1.0))
    assert bend.settled.curvature == pytest.approx(likely * 0.98)
    _, untrimmed = bent(HOOK, trims=(0.0, 0.0))
    assert untrimmed.blank is untrimmed.on_form and untrimmed.trim_mm == 0
    _, ring = bent(Curve.of([1000.0], [math.tau / 1000]), closed=True, trims=(0.0, 0.0))
    assert isinstance(ring.opens, NoSpringback) and ring.tip_mm == Estimate(0.0, 0.0, 0.0, "physics")


def test_a_piece_is_its_own_mirror_where_it_reads_the_same_backwards():
    for curve, alike in (
        (Curve.of([300.0, 500.0, 300.0], [0.0, 1 / 400, 0.0]), True),
        (Curve.of([300.0, 500.0, 301.0], [0.0, 1 / 400, 0.0]), False),
        (Curve.of([300.0, 500.0, 300.0], [0.0, 1 / 400, 1 / 4000]), False),
        (HOOK, False),
    ):
        assert bent(curve)[1].is_its_own_mirror == alike


def test_what_springback_rests_on_is_said():
    def believed(count):
        records = [
            BendRecord(
                group="ash_white|rigid", form_curvature=1e-3, predicted_curvature=9.8e-4, thickness_mm=40, face="mid",
                chord_mm=1650 + n, rise_mm=388,
            )
            for n in range(count)
        ]  # fmt: skip
        return learn(records).about(way="cold_lamination", group="ash_white|rigid")

    assert basis_of(believed(0)).startswith("calculated")
    assert "1 of your measured bends" in basis_of(believed(1)) and "3 of your measured bends" in basis_of(believed(3))
    assert bent(HOOK, belief=believed(3))[1].opens.bends == 3
    assert bent(HOOK, belief=believed(3))[1].opens.tip_mm.grade == "learned"


@pytest.mark.parametrize("way", ["cold_lamination", "steam_strap"])
def test_how_hard_it_is_bent_is_told_run_by_run(way):
    """One share for each run of the curve on the form, of the lamina bent hardest there; the worst of all."""
    made = sketch(job_for(way))
    use = made.make.use
    merged = made.bend.on_form.merged()
    assert len(use.along) == len(use.feels) == merged.lengths_mm.size == 3
    assert use.worst.value == max(use.along) == use.along[1] and use.along[0] == use.along[2] == 0
    bands = STRAIN_FEEL if use.of == "strain" else LIMIT_FEEL
    assert use.feels == tuple(severity_of(u, bands) for u in use.along) and use.feel == use.feels[1]
    by_hand = LimitUse.over(HOOK, np.array([[0.1, 0.2, 0.0], [0.0, 0.95, 0.1]]), of="limit", grade="published")
    assert by_hand.along == (0.1, 0.95, 0.1) and by_hand.feel == "risky" and by_hand.worst.value == 0.95
    for limit, word in ((0.5, "firm"), (0.7, "risky"), (0.9, "try one dry"), (1.3, "expect breaks")):
        assert severity_of(limit) == word != severity_of(limit - 1e-9)


def test_what_is_glued_and_what_is_bent_hot_is_found_in_what_is_made():
    made = {way: sketch(job_for(way)).make for way in JOBS}
    glued = {way for way, make in made.items() if laid_up_of(make)}
    hot = {way for way, make in made.items() if hot_of(make)}
    assert glued == {"cold_lamination", "sheet_layup", "steam_laminae"}
    assert hot == set(JOBS) - glued | {"steam_laminae"}
    laid_up = made["cold_lamination"]
    uses = [x.use_of_strain for x in laid_up.laminae]
    assert laid_up.worst is laid_up.laminae[uses.index(max(uses))]
    # half-way from coming off to fully cured
    assert laid_up.planed_h == pytest.approx((laid_up.press_h + laid_up.glue.full_cure_h) / 2)


# -- the finished piece ---------------------------------------------------------------------------------------------
@pytest.mark.parametrize(
    ("curve", "thick"),
    [(HOOK, 24.0), (S_CURVE, 20.0), (Curve.of([900.0], [1 / 400]), 30.0), (Curve.of([2000.0], [1 / 400]), 30.0)],
    ids=["hook", "s", "arc", "more than half a turn"],
)
def test_size_over_all_and_faces_against_points_laid_off_square(curve, thick):
    """Both faces are half the thickness off a mid-line that was integrated; the box is round all of them."""
    piece = Geometry(curve, thick, 40.0)
    mid = traced(curve, 4000)
    way = np.gradient(mid, axis=0)
    off = np.stack((-way[:, 1], way[:, 0]), axis=1) / np.hypot(*way.T)[:, None]
    outer, inner = mid + off * thick / 2, mid - off * thick / 2
    across, up = np.ptp(np.vstack((outer, inner)), axis=0)
    assert piece.overall_across_mm == pytest.approx(across, rel=2e-3)
    assert piece.overall_up_mm == pytest.approx(up, rel=3e-3)
    for name, points in (("inner", inner), ("mid", mid), ("outer", outer)):
        length = np.hypot(*np.diff(points, axis=0).T).sum()
        assert piece.face(name).length_mm == pytest.approx(length, rel=1e-3), name
        assert piece.face(name).chord_mm == pytest.approx(np.hypot(*(points[-1] - points[0])), rel=2e-3), name
    assert piece.outer.length_mm - piece.inner.length_mm == pytest.approx(thick * curve.sweep_rad, abs=1e-6)


@pytest.mark.parametrize(("sweep", "legs"), [(0.0, 180.0), (90.0, 90.0), (180.0, 0.0), (200.0, 20.0), (360.0, 180.0)])
def test_the_angle_between_the_ends(sweep, legs):
    curve = Curve.of([1000.0], [math.radians(sweep) / 1000])
    assert Geometry(curve, 10, 10).legs_angle_deg == pytest.approx(legs, abs=1e-9)


def test_bends_are_marked_where_they_start_turn_and_end():
    def places(curve):
        return [(kind, round(at, 6)) for _, kind, at in bend_places(curve)]

    assert places(HOOK) == [("bend_start", 300), ("bend_end", 800), ("tightest", 550)]
    assert places(S_CURVE) == [("bend_start", 200), ("bend_start", 500), ("bend_end", 800), ("tightest", 650)]
    assert [name for name, _, _ in bend_places(S_CURVE)][1] == "bend turns"
    assert places(Curve.of([900.0], [1 / 400])) == []  # one arc is bent all along
    two = Curve.of([200.0, 300.0, 200.0], [1 / 300, 0.0, 1 / 300])
    assert places(two) == [("bend_end", 200), ("bend_start", 500)]  # none of the two is the tightest


def test_the_stick_lies_along_three_lines_of_the_blank():
    """By hand: inner and outer lie half a thickness times the turn from the middle nearer and further."""
    arc = Curve.of([1000.0], [1e-3])
    blank = arc.lengthened(40.0, 60.0)
    ends = sketch(job_for("cold_lamination", shape={"kind": "arc_by_radius", "face": "mid", "radius_mm": 1000,
                                                    "angle_deg": math.degrees(1.0)})).ends  # fmt: skip
    marks = stick_marks(
        blank, arc, thickness_mm=20, trims_mm=(40.0, 60.0), ends=ends, witness_mm=WITNESS_MM, own=(), ring=(), sheets=()
    )
    by_kind = {(m.kind, m.mid_mm < 0): m for m in marks}
    assert [m.kind for m in marks] == ["blank_end", "part_end", "witness", "centre", "part_end", "blank_end"]
    assert [m.mid_mm for m in marks] == pytest.approx([-540, -500, -460, 0, 500, 560])
    left, right = by_kind["part_end", True], by_kind["part_end", False]
    assert (right.inner_mm, right.outer_mm) == pytest.approx((500 - 10 * 0.5, 500 + 10 * 0.5))
    assert (left.inner_mm, left.outer_mm) == pytest.approx((-495, -505))
    assert by_kind["centre", False].inner_mm == pytest.approx(0, abs=1e-9)
    bare = stick_marks(
        arc, arc, thickness_mm=20, trims_mm=(0.0, 0.0), ends=ends, witness_mm=None, own=(), ring=(), sheets=()
    )
    assert {m.kind for m in bare} == {"part_end", "centre"}


def test_marks_of_a_mitred_end_lie_where_the_cut_crosses_each_face():
    made = plan(job_for("cold_lamination", part={"left_cut": "mitred", "left_mitre_deg": 45}))
    square = plan(job_for("cold_lamination"))
    first, plain = (next(m for m in p.stick if m.kind == "part_end") for p in (made, square))
    assert first.inner_mm - plain.inner_mm == pytest.approx(12) and first.outer_mm - plain.outer_mm == pytest.approx(
        -12
    )
    assert first.mid_mm == pytest.approx(plain.mid_mm)


# -- quantities and closing -----------------------------------------------------------------------------------------
@pytest.mark.parametrize(("count", "whole"), [(1, 0.95), (4, 0.9), (12, 0.8), (40, 0.6)])
def test_spares_are_as_many_as_bring_the_pieces_wanted(count, whole):
    """The fewest, and at least one, with which as many come out whole on average as are wanted."""
    job = job_for("cold_lamination", part={"count": count, "spares": 0})
    made = sketch(job)
    own = quantities(job, Shop(), stock=made.quantities.stock, trim_mm=60, whole_share=whole, made=(0, 0))
    likely, spares = own.expected_yield.likely, own.spares_advised
    assert binom.mean(count + spares, likely) >= count - 1e-9 and own.spares == 0 and own.pieces == count
    assert spares == 1 or binom.mean(count + spares - 1, likely) < count
    better = quantities(job, Shop(), stock=made.quantities.stock, trim_mm=60, whole_share=whole, made=(400, 0))
    worse = quantities(job, Shop(), stock=made.quantities.stock, trim_mm=60, whole_share=whole, made=(4, 8))
    hopeless = quantities(job, Shop(), stock=made.quantities.stock, trim_mm=60, whole_share=whole, made=(0, 400))
    assert better.expected_yield.likely > likely > worse.expected_yield.likely
    assert better.spares_advised <= own.spares_advised <= worse.spares_advised
    assert hopeless.spares_advised == 0  # spares are no answer there


@pytest.mark.parametrize(
    ("curve", "start"),
    [
        (Curve.of([1000.0], [1e-3]), 0.5),
        (Curve.of([1000.0], [0.0]), 0.5),  # nothing is bent
        (Curve.of([500.0, 500.0], [0.0, 2e-3]), 0.0),  # half of it straight at the left: held there
        (Curve.of([500.0, 500.0], [2e-3, 0.0]), 1.0),
        (Curve.of([300.0, 700.0], [0.0, 2e-3]), 0.65),  # hardly straight: at the crown
        (Curve.of([400.0, 200.0, 400.0], [0.0, 2e-3, 0.0]), 0.5),  # straight at both ends alike
        (Curve.of([500.0, 300.0, 200.0], [0.0, 2e-3, 0.0]), 0.65),  # the other end is straight too
        (Curve.of([500.0, 500.0], [3e-3, 1e-3]), 1 / 3),  # half of the turn lies to either side
    ],
)
def test_closing_starts_at_the_crown_or_at_the_end_that_is_held(curve, start):
    assert start_of(SimpleNamespace(blank=curve)) == pytest.approx(start)


# -- the race of a glue-up ------------------------------------------------------------------------------------------
def raced(shop: Shop | None = None, **glue_up):
    """A glue-up of thirty laminae, and what clears its race."""
    changes = {k: glue_up.pop(k) for k in list(glue_up) if k in ("build_up", "part")}
    build = {"laminae": 30, **changes.get("build_up", {})}
    part = {"width_mm": 200, **changes.get("part", {})}
    return plan(job_for("cold_lamination", build_up=build, part=part, glue_up=glue_up), shop).glued_up


def cleared(made) -> dict[str, object]:
    return {field: value for way in made.clears for field, value in way.change.sets.items()}


WARM = Shop(temperature_c=30.0)


def test_a_race_that_is_lost_is_cleared_in_every_way_there_is():
    """Each by the least that does it, and none that does not; each kind of change once."""
    lost = raced(WARM, open_min=15.0)
    assert lost.race.share > 1 and lost.is_tight
    ways = cleared(lost)
    assert {"glue_up.hands", "glue_up.goes", "glue_up.temperature_c", "build_up.adhesive"} <= set(ways)
    for field, fewer in (("hands", -1), ("goes", -1), ("temperature_c", 1)):
        value = ways[f"glue_up.{field}"]
        done, not_yet = (raced(WARM, open_min=15.0, **{field: v}).race.share for v in (value, value + fewer))
        assert done <= 0.9 < not_yet, field
    assert ways["build_up.adhesive"] != "uf_liquid" and ways["glue_up.open_min"] is None  # its sheet goes with it
    for way in lost.clears:
        assert way.race.share <= 0.9 and way.message.endswith(".")
    assert len(lost.clears) == len({next(iter(w.change.sets)) for w in lost.clears})
    brushed = raced(WARM, open_min=15.0, spread_by="brush")
    assert brushed.race.share > lost.race.share
    hopeless = raced(open_min=4.0, spread_by="brush")  # no cooler than it cures, no more than six goes, eight hands
    assert set(cleared(hopeless)) == {"build_up.adhesive", "glue_up.open_min"}


def test_ten_degrees_double_what_a_glue_stands():
    shares = [raced(WARM, open_min=15.0, temperature_c=c).race.share for c in (30.0, 25.0, 20.0)]
    assert shares[0] / shares[1] == pytest.approx(math.sqrt(2)) == shares[1] / shares[2]
    at_limit = raced(Shop(temperature_c=20.0), open_min=15.0 / 2)
    assert "glue_up.temperature_c" not in cleared(at_limit)  # it cures no cooler than that


def test_a_race_that_is_won_wants_nothing_and_says_how_it_is_mixed():
    won = raced(build_up={"laminae": 4})
    assert won.clears == () and not won.is_tight and won.race.share < 0.9
    assert sorted(won.order) == list(range(1, len(won.order) + 1)) and won.abreast.pieces == 1
    made = plan(job_for("cold_lamination", glue_up={"goes": 2, "by_weight": 25}))
    one_go = made.laid_up.glue_g.value / made.way.on_form.goes * 5 / 9  # the larger of two batches of nine lines
    assert made.glued_up.race.goes == 2 and made.glued_up.mix.mass_g == pytest.approx(one_go)
    assert made.glued_up.stands.open_s == pytest.approx(
        made.laid_up.glue.open_min * 60 * 2 ** ((20 - made.glued_up.temperature_c) / 10)
    )
