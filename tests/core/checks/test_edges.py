"""Where each finding begins: the figure just before its limit and just at it, and what it advises, by hand."""

import math
from dataclasses import replace
from types import SimpleNamespace

import pytest

from bright_willow.core.checks import (
    bend,
    cautions,
    form,
    heat,
    lamination,
    prepare,
    press,
    strap,
    wood,
)
from bright_willow.core.checks.check_context import CheckContext
from bright_willow.core.common.estimate import Estimate, Figure
from bright_willow.core.form.closing import FaceStretch
from bright_willow.core.form.stiffness import STOP_MM, WATCH_MM
from bright_willow.core.gluing.adhesive import adhesive, adhesive_table
from bright_willow.core.heat.chamber import WALLS
from bright_willow.core.heat.limits import chance_whole
from bright_willow.core.learning.belief import NOTHING_LEARNT
from bright_willow.core.plan.plan import evaluate
from bright_willow.core.shape.curve import Curve
from bright_willow.core.shop.shop import OwnClamps, Shop
from bright_willow.core.workpiece.bend import Springback
from bright_willow.core.workpiece.workpiece import GOOD_LOSS, Press
from tests.core.methods.jobs import job_for

HAIR = 1e-6


def at_of(way: str = "cold_lamination", shop: Shop | None = None, **changes) -> CheckContext:
    """What the checks of a way look at; rooms of its job changed."""
    return evaluate(job_for(way, **changes), shop or Shop(), NOTHING_LEARNT)[1]


def made(at: CheckContext, **sets) -> CheckContext:
    """The same with figures of what is made changed."""
    return replace(at, make=replace(at.make, **sets))


def used(use: float, way: str = "cold_lamination") -> CheckContext:
    at = at_of(way)
    return made(at, use=replace(at.make.use, worst=Figure(use, "published")))


def opens(**sets) -> CheckContext:
    """A lay-up with figures of its springback changed."""
    at = at_of()
    assert isinstance(at.bend.opens, Springback)
    return replace(at, bend=replace(at.bend, opens=replace(at.bend.opens, **sets)))


def lost(share: float) -> CheckContext:
    return opens(loss_share=Estimate(share, share, share, "physics"))


def pressed(kind: str, **sets) -> CheckContext:
    return made(at_of(build_up={"press": kind}), press=Press(kind, **sets))


def steamed(way: str = "steam_strap", **sets) -> CheckContext:
    """Steamed stock with figures of its steam changed."""
    at = at_of(way)
    return made(at, heat=replace(at.make.heat, steam=replace(at.make.heat.steam, **sets)))


def timed(planned: float) -> CheckContext:
    """Steamed so many minutes, where 40 are the least and 90 the most."""
    time = replace(at_of("steam_strap").make.heat.steam.time, planned_min=planned, earliest_min=40.0, latest_min=90.0)
    return steamed(time=time)


def boxed(**sets) -> CheckContext:
    at = at_of("steam_strap")
    return made(at, heat=replace(at.make.heat, chamber=replace(at.make.heat.chamber, **sets)))


def strapped(at: CheckContext | None = None, **sets) -> CheckContext:
    at = at or at_of("steam_strap")
    return made(at, heat=replace(at.make.heat, strap=replace(at.make.heat.strap, **sets)))


def shaped(at: CheckContext, **sets) -> CheckContext:
    """The same with what a form does changed: of each only what is asked."""
    own = replace(at.form)
    own.__dict__.update(sets)
    return replace(at, form=own)


def closing(share: float, **sets) -> CheckContext:
    """A two-part form whose far half presses with such a share at its steepest place."""
    at = at_of(form={"kind": "two_part"})
    check = at.form.closing
    only = replace(check.pressers[0], **{"least_share": share, "best_share": share, **sets})
    return shaped(at, closing=replace(check, pressers=(only,), least_share=share, splits_advised_mm=()))


def gives(mm: float, **choice) -> CheckContext:
    at = at_of(form={"build": "ribs", "skin_mm": 6.5, **choice})
    return shaped(at, deflection=replace(at.form.deflection, value_mm=mm))


def racked(count: int, opening_mm: float) -> CheckContext:
    """A rack of so many clamps, where ten that open 150 mm are wanted."""
    at = at_of(shop=Shop(clamps=(OwnClamps(kind="f_clamp", count=count, opening_mm=opening_mm),)))
    return shaped(at, clamps=10, clamp_opening_mm=150.0)


def swept(degrees: float) -> CheckContext:
    at = at_of()
    k = math.radians(degrees) / at.bend.blank.length_mm
    return replace(at, bend=replace(at.bend, blank=at.bend.blank.with_curvature(at.bend.blank.curvature * 0 + k)))


def legs_of(lean_deg: float) -> CheckContext:
    """A blank of two legs of 600 on a bend of 60, leaning in by so much: at 6° they lie 120 − 125 apart at their ends."""
    at, k = at_of(), math.radians(180 + 2 * lean_deg) / (60 * math.pi)
    return replace(at, bend=replace(at.bend, blank=Curve.of([600, 60 * math.pi, 600], [0.0, k, 0.0])))


def missed(mm: float, tip_mm: float = 4.0) -> CheckContext:
    return opens(missed_tip_mm=Figure(mm, "physics"), tip_mm=Estimate(tip_mm, tip_mm, tip_mm, "physics"))


def stocked(**sets) -> CheckContext:
    return at_of(stock={"species": "ash_white", "dryness": "air_dried", **sets})


def near_limit(use: float) -> CheckContext:
    at = at_of("steam_strap")
    return made(at, limits=replace(at.make.limits, chance=chance_whole(use)))


def dried(at: CheckContext | None = None, **sets) -> CheckContext:
    at = at or at_of("steam_strap")
    return made(at, drying=replace(at.make.drying, **sets))


def grows(mm: float) -> CheckContext:
    """A piece that nothing holds and that springs back so much more."""
    return dried(at_of("steam_strap", heat={"held_by": "none"}), early_tip_mm=mm)


def piped(softens_c: float) -> CheckContext:
    """A pipe in steam of 98 °C."""
    at = boxed(wall=replace(WALLS["abs"], softens_c=softens_c))
    return made(at, heat=replace(at.make.heat, steam=replace(at.make.heat.steam, chamber_c=98.05)))


def winch_left() -> float:
    """Seconds that are left for a winch once the piece is in its strap."""
    at = at_of("steam_strap")
    steam, choice = at.make.heat.steam, at.job.heat
    return steam.window_s - (steam.handling_s - choice.moves * choice.clamp_s / choice.hands)


EDGES = [
    # check, what it looks at for a figure, a figure that is still well, one that is not, what is found then
    (lamination.strain, used, 0.7 - HAIR, 0.7, "strain.risky", "watch"),
    (lamination.strain, used, 0.9 - HAIR, 0.9, "strain.try_first", "watch"),
    (lamination.strain, used, 1.3 - HAIR, 1.3, "strain.breaks", "stop"),
    (lamination.few_laminae, lost, 2 * GOOD_LOSS, 2 * GOOD_LOSS + HAIR, "laminae.few", "watch"),
    (lamination.thin_laminae, lambda t: made(at_of(), thinnest_sawn_mm=t), 2.0, 1.99, "laminae.thin", "watch"),
    (lamination.gauge_over_air, lambda k: pressed("vacuum", pressure_mpa=Figure(0.08, "physics"), over_air_kpa=k),
     0.0, 0.1, "press.gauge_cut", "fit"),
    (lamination.band_straight, lambda n: pressed("band", flat=((0.0, 50.0),) * n), 0, 1, "press.band_straight",
     "watch"),
    (lamination.band_lifts, lambda n: pressed("band", lifts=((0.0, 50.0),) * n), 0, 1, "press.band_lifts", "stop"),
    (lamination.cold_shop, lambda c: at_of(shop=Shop(temperature_c=c)), adhesive("uf_liquid").min_temp_c,
     adhesive("uf_liquid").min_temp_c - 0.5, "glue.cold", "stop"),
    (wood.run_out, lambda slope: stocked(grain_slope=slope), 1 / 12, 1 / 11.9, "stock.run_out", "watch"),
    (wood.moist, lambda wet: stocked(moisture_pct=wet), 14.0, 14.5, "stock.moist", "watch"),
    (wood.short_trim, lambda mm: at_of(part={"trim_mm": mm}), 10.0, 9.9, "part.short_trim", "watch"),
    (wood.figured, lambda yes: stocked(figured=yes), False, True, "stock.figured", "watch"),
    (press.bleeds_through, lambda mm: at_of("sheet_layup", prepare={"show": "inner"}, build_up={"layers": [
        {"thickness_mm": mm, "material": "ash_white"}, {"thickness_mm": 21.2 - mm, "material": "ash_white"}]}),
     0.9, 0.89, "press.bleed", "watch"),
    (press.bleeds_through, lambda show: at_of("sheet_layup", prepare={"show": show}, build_up={"layers": [
        {"thickness_mm": 5.15, "material": "ash_white"}] * 4 + [{"thickness_mm": 0.6, "material": "ash_white"}]}),
     "inner", "outer", "press.bleed", "watch"),
    (press.tent_is_warm, lambda c: at_of(glue_up={"tent": "blankets", "tent_c": c}),
     adhesive("uf_liquid").min_temp_c + 0.5, adhesive("uf_liquid").min_temp_c, "press.tent", "stop"),
    (prepare.kerf_eats, lambda kerf: at_of(shop=Shop(kerf_mm=kerf), build_up={"laminae": 10}), 3.4, 3.41,
     "prepare.kerf", "watch"),
    (form.closes, closing, 0.45, 0.45 - HAIR, "form.wedge", "watch"),
    (form.closes, closing, 0.25, 0.25 - HAIR, "form.starved", "watch"),
    (form.closes, closing, 0.0, -0.001, "form.undercut", "stop"),
    (form.stiff, gives, WATCH_MM - HAIR, WATCH_MM, "form.gives", "watch"),
    (form.stiff, gives, STOP_MM - HAIR, STOP_MM, "form.gives", "stop"),
    (form.clamps, lambda n: racked(n, 150.0), 10, 9, "form.clamps_short", "watch"),
    (form.clamps, lambda mm: racked(10, mm), 150.0, 149.0, "form.clamps_short", "watch"),
    (bend.crossing, legs_of, 3.0, 6.0, "form.crosses", "stop"),
    (bend.crossing, swept, 349.9, 350.0, "form.crosses", "stop"),
    (bend.misses, missed, 1.0 - HAIR, 1.0, "form.misses", "watch"),
    (bend.misses, lambda mm: missed(mm, 30.0), 3.0 - HAIR, 3.0, "form.misses", "watch"),
    (bend.overlaps, lambda mm: made(at_of("steam_free"), overlap_mm=mm), 0.0, 0.5, "form.overlaps", "watch"),
    (heat.can_it, near_limit, 0.85, 0.85 + HAIR, "heat.tight", "watch"),
    (heat.can_it, near_limit, 1.1, 1.1 + HAIR, "heat.some_break", "watch"),
    (heat.can_it, near_limit, 1.5, 1.5 + HAIR, "heat.breaks", "stop"),
    (heat.early, grows, 0.99, 1.0, "heat.early", "watch"),
    (heat.hot_release, lambda h: dried(on_form_h=h, cool_h=1.5), 1.5, 1.49, "heat.still_hot", "stop"),
    (heat.soft_pipe, piped, 101.1, 101.0, "heat.chamber_softens", "watch"),
    (strap.slow_winch, lambda s: strapped(close_s=s, ratio=20.0), winch_left(), winch_left() + 0.1, "heat.slow_winch",
     "watch"),
    (heat.chamber_heat, lambda c: steamed(chamber_c=c, boiling_c=100.0), 93.0, 92.9, "heat.cool_chamber", "watch"),
    (heat.chamber_heat, lambda c: steamed(chamber_c=c, boiling_c=c), 93.0, 92.0, "heat.high_up", "watch"),
    (heat.steam_times, timed, 39.5, 39.4, "heat.short_steam", "watch"),
    (heat.steam_times, timed, 90.5, 90.6, "heat.long_steam", "watch"),
    (heat.window, lambda s: steamed(handling_s=s, window_s=100.0), 80.0, 80.5, "heat.window", "watch"),
    (heat.window, lambda s: steamed(handling_s=s, window_s=100.0), 200.0, 200.5, "heat.window", "stop"),
    (heat.wet, lambda wet: steamed(moisture_pct=wet), 25.0, 25.5, "heat.beyond_range", "watch"),
    (heat.chamber, lambda n: boxed(changes_per_min=n), 4.0, 3.99, "heat.chamber_slow", "watch"),
    (heat.chamber, lambda n: boxed(changes_per_min=n), 2.0, 1.99, "heat.chamber_large", "stop"),
    (heat.chamber, lambda c: boxed(holds_c=c, ready_c=95.0, changes_per_min=9.0), 95.0, 94.9, "heat.chamber_weak",
     "stop"),
    (heat.chamber, lambda mm: boxed(inside_mm=(mm, 200.0, 900.0), proposed_mm=(150.0, 200.0, 900.0),
     changes_per_min=9.0), 149.5, 149.4, "heat.chamber_small", "stop"),
    (heat.short_ends, lambda mm: made(at_of("steam_strap"), ends_need_mm=(0.0, mm)), 150.5, 150.6, "heat.short_ends",
     "watch"),
    (heat.gentle, lambda n: made(at_of("steam_strap"), gentle=((10.0, 90.0),) * n), 0, 1, "heat.gentle", "watch"),
    (heat.scorch, lambda c: made(at_of("dry_heat"), heat=replace(at_of("dry_heat").make.heat, surface_c=c)), 199.9,
     200.0, "heat.scorches", "stop"),
    (heat.misses, missed, 2.0 - HAIR, 2.0, "heat.misses", "watch"),
    (strap.pull, lambda n: strapped(hand_n=n, pull_n=4 * n), 400.0 * 2, 400.0 * 2 + 1, "heat.heavy_pull", "watch"),
    (strap.stain, lambda yes: strapped(stains=yes), False, True, "heat.stain", "watch"),
    (strap.strap_stress, lambda mpa: strapped(stress_mpa=mpa), strap.STEEL_MPA, strap.STEEL_MPA + 0.1,
     "heat.strap_thin", "watch"),
    (strap.strap_stress, lambda mpa: strapped(stress_mpa=mpa), strap.YIELDS_MPA["mild_steel"],
     strap.YIELDS_MPA["mild_steel"] + 0.1, "heat.strap_thin", "stop"),
]  # fmt: skip


@pytest.mark.parametrize(("check", "seen", "well", "not_well", "code", "level"), EDGES, ids=[
    f"{e[4]}-{e[5]}-{n}" for n, e in enumerate(EDGES)
])  # fmt: skip
def test_a_finding_begins_at_its_limit(check, seen, well, not_well, code, level):
    before, found = check(seen(well)), check(seen(not_well))
    assert found is not None and (found.code, found.level) == (code, level)
    assert before is None or (before.code, before.level) != (code, level)
    assert found.message.strip().endswith(".") and found.reason.strip().endswith(".")
    assert "{" not in found.message + found.reason and "None" not in found.message + found.reason


def test_what_is_advised_of_a_form():
    """A body as deep as its stiffness wants grows by the cube root of what it gives; a skin likewise, as sold."""
    skin = form.stiff(gives(2.0)).fix.sets["form.skin_mm"]
    needed = 6.5 * (2.0 / (WATCH_MM * 0.8)) ** (1 / 3)
    assert skin == min(t for t in (6.5, 9.0, 12.0, 18.0, 25.0) if t >= needed) and skin > 6.5
    assert form.stiff(gives(900.0)).fix.sets == {"form.build": "stack"}  # no skin is thick enough
    deep = form.stiff(gives(2.0, build="stack", depth_mm=120)).fix.sets["form.depth_mm"]
    wanted = 120 * (2.0 / (WATCH_MM * 0.8)) ** (1 / 3)
    assert wanted <= deep <= wanted + 10 and deep % 10 == 0
    build = replace(_build(at_of(form={"build": "stack", "depth_mm": 42})), without_bolts=("base",))
    bolts = form.no_bolts(at_of(form={"build": "stack", "depth_mm": 42}), build)
    assert bolts.fix.sets == {"form.depth_mm": 80.0} and "the base" in bolts.message  # 72, to the next ten
    assert form.no_bolts(at_of(form={"build": "stack", "depth_mm": 60}), build).fix is None
    assert form.no_bolts(at_of(), replace(build, without_bolts=())) is None


def _build(at: CheckContext):
    from bright_willow.core.form.construction import form_build

    return form_build(at.form)


def test_the_way_out_of_a_form_that_cannot_close():
    """Another direction where that is enough, else a split, else three parts, else one side only."""
    turn = form.closes(closing(0.1, best_share=0.5, best_direction_deg=-12.34)).fix
    assert turn.sets == {"form.close_deg": -12.3} and turn.message == "Close it at -12.3°."
    for share, direction in ((0.24, -12.0), (0.5, 84.5), (0.11, 3.0)):  # starved so too, past level, hardly better
        assert (
            "form.close_deg" not in form.closes(closing(0.1, best_share=share, best_direction_deg=direction)).fix.sets
        )
    stuck = closing(0.1)
    check = stuck.form.closing
    one = shaped(stuck, closing=replace(check, splits_advised_mm=(-120.0,)))
    said = form.closes(one).fix
    assert (
        said.sets == {"form.splits_mm": (-120.0,)} and said.message == "Split the outer half 120 mm left of the middle."
    )
    middle = form.closes(shaped(stuck, closing=replace(check, splits_advised_mm=(0.2,)))).fix
    assert middle.message == "Split the outer half at the middle."
    two = form.closes(shaped(stuck, closing=replace(check, splits_advised_mm=(-90.0, 90.0)))).fix
    assert two.sets == {"form.kind": "three_part", "form.splits_mm": ()}
    assert form.closes(stuck).fix.sets == {"form.kind": "one_sided", "form.splits_mm": ()}
    steep = replace(
        check.pressers[0], troubles=(FaceStretch(10.0, 40.0, "starved", 0.1), FaceStretch(50.0, 60.0, "starved", 0.2))
    )
    where = form.closes(shaped(stuck, closing=replace(check, pressers=(replace(steep, least_share=0.1),)))).stretch_mm
    assert where == (10.0, 40.0)  # its worst place
    wedge = form.closes(closing(0.3))
    assert "the steepest place has 1.5 mm" in wedge.message  # 5 mm · 0.3


def test_what_is_advised_of_steam():
    """By hand: seconds of moves, kilowatts, hands."""
    late = steamed(handling_s=170.0, window_s=120.0)
    choice = late.job.heat
    spare = 0.75 * 120 - (170 - choice.moves * choice.clamp_s / choice.hands)
    hands = math.ceil(choice.moves * choice.clamp_s / spare) if spare > 0 else 99
    advised = heat.window(late).fix
    assert (advised is None) == (not choice.hands < hands <= 6)
    quick = replace(
        late, job=late.job.model_copy(update={"heat": choice.model_copy(update={"moves": 6, "clamp_s": 20.0})})
    )
    # 100 s of closing by two, 60 of them; 90 − (110 − 60) = 40 s are left for it: three pairs of hands
    slow = made(quick, heat=replace(quick.make.heat, steam=replace(quick.make.heat.steam, handling_s=110.0)))
    assert heat.window(slow).fix.sets == {"heat.hands": 3} and slow.job.heat.hands == 2
    weak = boxed(holds_c=60.0, ready_c=95.0)
    air = weak.shop.temperature_c
    need = weak.job.heat.power_kw * (95 - air) / (60 - air)
    assert heat.chamber(weak).fix.sets == {"heat.power_kw": round(need, 1)} and need > 1.4 * weak.job.heat.power_kw
    near = boxed(holds_c=94.0, ready_c=95.0)
    assert heat.chamber(near).fix.sets["heat.power_kw"] == pytest.approx(1.4 * weak.job.heat.power_kw)
    large = heat.chamber(boxed(changes_per_min=1.0, litres=88.0))
    assert large.fix.sets == {"heat.power_kw": 4.2}  # two changes a minute of 88 l, 44 l/min a kilowatt, and a bit
    assert heat.chamber(boxed(changes_per_min=0.1, litres=3000.0)).fix is None  # no such boiler
    spare = heat.short_ends(made(at_of("steam_strap"), ends_need_mm=(0.0, 200.0))).fix
    assert spare.sets == {"part.trim_mm": 150.0, "part.right_trim_mm": 200.0}  # only the end that needs it
    both = heat.short_ends(made(at_of("steam_strap"), ends_need_mm=(200.0, 199.9))).fix
    assert both.sets == {"part.trim_mm": 200.0, "part.right_trim_mm": None}
    for soaked, dryness, found in (
        ("days", "kiln_dried", False),
        ("none", "kiln_dried", True),
        ("none", "air_dried", False),
    ):
        at = at_of("steam_strap", stock={"dryness": dryness}, heat={"soaked": soaked})
        assert (heat.dry_stock(at) is not None) == found


def test_what_is_advised_of_a_strap():
    """Steel as thick as its stress wants; a winch that brings the pull down to hands; clamps that hold, or a weld."""
    thick = strap.strap_stress(strapped(stress_mpa=330.0))
    own = at_of("steam_strap").job.heat.strap_mm
    assert thick.fix.sets == {"heat.strap_mm": round(2 * own + 0.1, 1)} and thick.level == "stop"
    assert strap.strap_stress(strapped(stress_mpa=165.0 * 9.9 / own)).fix is None  # no such strap
    winch = strap.pull(strapped(hand_n=5000.0, pull_n=8000.0)).fix
    assert winch.message == "Use a winch of 11 to 1." and winch.sets == {"heat.ratio": 11.0}  # 10 and a tenth
    slid = strapped(at_of("steam_strap", heat={"stop": "clamps", "stop_clamps": 1}), thrust_n=1e6, grip_n=10.0)
    assert strap.strap_holds(slid).fix.sets == {"heat.stop": "welded"}  # no number of clamps holds that
    held = strapped(at_of("steam_strap", heat={"stop": "clamps"}), thrust_n=8000.0, grip_n=100.0)
    count = held and strap.clamps_that_hold(8000.0, held.job.heat.stop_clamp)
    assert strap.strap_holds(held).fix.sets == {"heat.stop_clamps": count} and 1 < count <= 6


def test_what_is_advised_of_a_lay_up():
    """The first rung that answers, from the few laminae up; the thinnest that can be cut here, from the thin ones down."""
    tight = made(at_of(build_up={"laminae": 2}), use=replace(at_of().make.use, worst=Figure(1.4, "published")))
    easier = next(r for r in tight.ladder if r.use_of_strain < 0.7)
    sets = lamination.strain(tight).fix.sets
    assert sets == {"build_up.laminae": easier.laminae, "build_up.lamina_mm": easier.lamina_mm}
    own = lamination.strain(used(0.95))
    assert own.fix is None or own.fix.sets["build_up.laminae"] != 10  # never what is chosen already
    thin = lamination.thin_laminae(at_of(build_up={"laminae": 24}))
    thickest = [r for r in at_of(build_up={"laminae": 24}).ladder if r.thickness_mm >= Shop().thinnest_mm][-1]
    assert thin.fix.sets["build_up.laminae"] == thickest.laminae
    doubtful = opens(tip_mm=Estimate(4.0, 10.0, 14.0, "physics"), bends=2)
    found = lamination.little_known(doubtful)
    assert found.code == "springback.unknown" and "only 2 bends of this kind" in found.reason
    assert (
        "only 1 bend of" in lamination.little_known(opens(tip_mm=Estimate(4.0, 10.0, 14.0, "physics"), bends=1)).reason
    )
    assert lamination.little_known(opens(tip_mm=Estimate(4.0, 10.0, 14.0, "physics"), bends=3)) is None
    assert lamination.little_known(opens(tip_mm=Estimate(4.0, 10.0, 13.9, "physics"), bends=0)) is None
    wanted = adhesive("uf_liquid").pressure_mpa_low
    light = pressed("vacuum", pressure_mpa=Figure(wanted * 0.99, "physics"))
    assert lamination.weak_press(light).code == "press.weak"
    assert lamination.weak_press(pressed("vacuum", pressure_mpa=Figure(wanted, "physics"))) is None
    band = pressed("band", pressure_mpa=Figure(wanted / 2, "physics"), turns_deg=46.0)
    assert lamination.weak_press(band).fix.sets == {"build_up.band_pull": "both_ends"}
    short = pressed("band", pressure_mpa=Figure(wanted / 2, "physics"), turns_deg=45.0)
    assert set(lamination.weak_press(short).fix.sets) == {"build_up.adhesive"}
    assert adhesive(lamination.weak_press(short).fix.sets["build_up.adhesive"]).pressure_mpa_low <= 0.02
    cold = at_of(shop=Shop(temperature_c=11.0))
    willing = adhesive_table()[lamination.cold_shop(cold).fix.sets["build_up.adhesive"]]
    assert willing.min_temp_c <= 11 and lamination.cold_shop(at_of(shop=Shop(temperature_c=2.0))).fix is None
    most = max(x.pull_n for x in at_of().make.laminae)
    assert lamination.band_pull(pressed("band", left_kn=Figure(most / 1000, "physics"))) is None
    assert lamination.band_pull(pressed("band", left_kn=Figure(most / 1001, "physics"))).code == "press.band_pull"


def test_ends_that_a_press_leaves_open():
    """Within the trim nothing is said; beyond it, to whole five; past the half of the blank it cannot be."""

    def open_by(mm: float) -> CheckContext:
        return pressed("vacuum", open_end_mm=Figure(mm, "physics"), open_end_gap_mm=Figure(2.0, "physics"))

    assert lamination.open_ends(open_by(60.0)) is None
    beyond = lamination.open_ends(open_by(61.0))
    assert beyond.fix.sets == {"part.trim_mm": 65.0, "part.right_trim_mm": None} and beyond.level == "watch"
    half = at_of().blank_length_mm / 2
    assert lamination.open_ends(open_by(half - 0.1)).code == "press.open_ends"
    never = lamination.open_ends(open_by(half + 0.1))
    assert (never.code, never.level) == ("press.cannot_close", "stop")
    assert never.fix is None or never.fix.sets["build_up.laminae"] >= 1.1 * 10


def test_what_is_said_of_the_pieces_wanted():
    few = at_of(part={"count": 8, "spares": 1})
    advised = replace(few, quantities=replace(few.quantities, spares_advised=3))
    assert wood.no_spare(advised).fix.sets == {"part.spares": 3} and wood.no_spare(advised).code == "part.few_spares"
    enough = replace(few, quantities=replace(few.quantities, spares_advised=1))
    assert wood.no_spare(enough) is None
    none = replace(at_of(part={"spares": 0}), quantities=replace(few.quantities, spares_advised=1))
    assert wood.no_spare(none).fix.message == "Add one spare." and wood.no_spare(none).code == "part.no_spare"
    right = {"left_cut": "mitred", "left_mitre_deg": 45, "trim_mm": 0, "right_trim_mm": 40}
    short = bend.ends_cut(at_of(part=right))
    assert short.code == "shape.mitre_short" and "The left end" in short.message
    needed = float(short.fix.sets["part.trim_mm"])
    assert needed % 5 == 0 and bend.ends_cut(at_of(part={**right, "trim_mm": needed})) is None
    pair = {**right, "copies": "pairs", "hand": "right"}
    assert "The right end" in bend.ends_cut(at_of(part=pair)).message  # of the other hand it is the other end
    assert bend.points_tell(at_of()) is None


def test_what_a_sentence_says_of_its_figures():
    """The sentences that are put together from parts, word by word."""
    rough = job_for("cold_lamination")

    def told(band):
        shape = SimpleNamespace(doubtful_mm=band, is_closed=False)
        return bend.points_tell(replace(at_of(), job=_Told(rough, shape))).message

    assert told((400.0, 700.0)).endswith("it may be R 400 mm to R 700 mm.")
    assert told((400.0, 2e6)).endswith("it may be R 400 mm to straight.")
    assert told((400.0, 999_999.0)).endswith("to R 999999 mm.")
    sheets = [
        {"thickness_mm": 5.0, "material": "flex_ply_5"},
        {"thickness_mm": 5.0, "material": "flex_ply_5", "grain": "across"},
    ]
    turned = lamination.sheet_turned(at_of("sheet_layup", build_up={"layers": sheets}, part={"thickness_mm": 10}))
    assert turned.message.startswith("Turn ply 2, flexible plywood")
    assert turned.fix.sets == {"build_up.layers.1.grain": "along"}
    steep = wood.run_out(stocked(grain_slope=1 / 8))
    assert "1 in 8;" in steep.reason and steep.fix.sets == {"stock.grain_slope": 0.0}
    saw = cautions.gluing(adhesive("uf_liquid"), 5.9)
    assert saw[0].startswith("Ripping thin strips") and not cautions.gluing(adhesive("uf_liquid"), 6.0)[0].startswith(
        "Ripping thin"
    )
    deepest = form.stiff(gives(1e6, build="stack", depth_mm=900)).fix
    assert deepest.sets == {"form.depth_mm": 1000.0}  # as deep as a form may be


def test_what_is_said_of_a_ring_and_of_ends_that_lie_free():
    ring = {"kind": "ring", "face": "mid", "diameter_mm": 500}
    at = at_of(shape=ring, part={"trim_mm": 0})
    assert at.missed_mm == 0 and at.springback is None and bend.misses(at) is None and bend.crossing(at) is None
    mitred = {"left_cut": "mitred", "left_mitre_deg": 60, "trim_mm": 0}
    assert bend.ends_cut(at_of(shape=ring, part=mitred)) is None  # a ring has no ends
    once = swept(355.0)
    none, one = (
        replace(once, job=once.job.model_copy(update={"part": once.job.part.model_copy(update=part)}))
        for part in ({"trim_mm": 0.0, "right_trim_mm": None}, {"trim_mm": 0.0, "right_trim_mm": 40.0})
    )
    assert bend.crossing(none).fix is None and bend.crossing(one).fix.sets["part.right_trim_mm"] is None
    held = at_of("steam_free")
    assert held.form.site.press == "held" and form.clamps_weak(held) is None
    strong = at_of()
    assert form.clamps_weak(strong) is None
    found = form.clamps_weak(replace(strong, form=SimpleNamespace(site=_Pressing(strong.form.site, 1.0))))
    assert found is None
    found = form.clamps_weak(replace(strong, form=SimpleNamespace(site=_Pressing(strong.form.site, 0.97))))
    assert found.code == "form.clamps_weak" and "touching each other" in found.message


class _Told:
    """A job with another shape, of which only what is told is asked."""

    def __init__(self, job, shape):
        self.job, self.shape = job, shape

    def __getattr__(self, name):
        return getattr(self.job, name)


class _Pressing:
    """A site whose clamps give a share of what its glue wants."""

    def __init__(self, site, share):
        self.site, self.clamps_press_mpa = site, share * site.pressure_mpa

    def __getattr__(self, name):
        return getattr(self.site, name)
