"""Marrow Lane: an invented shop that works for a community orchard. Every job and figure here is made up."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass

from ..core.book.built_form import BuiltForm
from ..core.job.heat_choice import Heat
from ..core.job.job import BuildUp, FormChoice, Job, Layer, Part, Stock
from ..core.plan.plan import sketch
from ..core.shape.curve import Curve
from ..core.shape.kinds.arc_by_chord import ArcByChord
from ..core.shape.kinds.arc_by_radius import ArcByRadius
from ..core.shape.kinds.eased_arc import EasedArc
from ..core.shape.kinds.hook import Hook
from ..core.shape.kinds.hoop import Hoop
from ..core.shape.kinds.outline import Outline
from ..core.shape.kinds.polycurve import Polycurve, Stretch
from ..core.shape.kinds.ring import Ring
from ..core.shape.kinds.s import SBend
from ..core.shape.kinds.u import UBend
from ..core.shop.shop import OwnClamps, Shop
from ..core.wood.lot import Lot
from ..core.wood.species import OwnWood
from ..store.book import Store

SHOP = Shop(
    name="Marrow Lane",
    kerf_mm=2.6,
    planing_mm=0.8,
    thinnest_mm=2.0,
    temperature_c=21.0,
    thicknesses_mm=(3.0,),
    clamps=(
        OwnClamps(kind="f_clamp", count=24, opening_mm=300),
        OwnClamps(kind="g_clamp", count=8, opening_mm=150),
        OwnClamps(kind="pipe", count=10, opening_mm=900),
    ),
    woods=(
        OwnWood(
            key="ash_black",
            moe_gpa=10.4,
            note="Our black ash is a little softer than the table: a stick loaded and measured in March.",
        ),
        OwnWood(
            key="marrow_pear",
            name="Marrow Lane pear",
            sg12=0.7,
            moe_gpa=9.8,
            mor_mpa=88,
            crush_mpa=48,
            note="From the old espaliers; sticks broken over a bench.",
        ),
    ),
)
LOTS = (
    Lot(
        name="Ash, north stack",
        species="ash_white",
        thickness_mm=70,
        width_mm=210,
        length_mm=2400,
        count=7,
        dryness="air_dried",
        moisture_pct=11,
        rise_mm=9,
        run_mm=300,
    ),
    Lot(
        name="Walnut offcuts",
        species="walnut_black",
        thickness_mm=38,
        width_mm=140,
        length_mm=900,
        count=3,
        moisture_pct=8.5,
        flaws="small_knots",
    ),
    Lot(
        name="White oak, gate post side",
        species="oak_white",
        thickness_mm=80,
        width_mm=180,
        length_mm=2100,
        count=4,
        dryness="air_dried",
        moisture_pct=12,
        rise_mm=15,
    ),
    Lot(
        name="Larch with shakes",
        species="larch_european",
        thickness_mm=45,
        width_mm=160,
        length_mm=3000,
        count=5,
        dryness="air_dried",
        rise_mm=40,
        run_mm=400,
        flaws="checks",
    ),
)


@dataclass(frozen=True)
class Came:
    """How a made-up piece came out: springback over mechanics, days after the form, and what went wrong."""

    over_mechanics: float
    day: dt.date
    mishap: str = ""
    note: str = ""
    later: dt.date | None = None


@dataclass(frozen=True)
class Example:
    """One job of the demo, how far it has got, and the pieces that came off its form."""

    job: Job
    settled: tuple[str, ...]
    came: Sequence[Came] = ()
    form_built: bool = False


def _day(month: int, day: int) -> dt.date:
    return dt.date(2026, month, day)


EXAMPLES: tuple[Example, ...] = (
    Example(
        Job(
            name="Trellis bow for the espaliers",
            notes="Bows over the south wall; the espaliers are tied to them.",
            shape=ArcByRadius(kind="arc_by_radius", face="inner", radius_mm=620, angle_deg=128),
            part=Part(thickness_mm=21, width_mm=34, count=5, spares=1, trim_mm=30),
            stock=Stock(species="larch_european", dryness="air_dried", grain_slope=0.04),
            build_up=BuildUp(laminae=6, adhesive="pva_crosslinking"),
        ),
        ("shape", "stock", "build_up", "form"),
        (
            Came(1.12, _day(3, 9)),
            Came(1.31, _day(3, 11), later=_day(4, 2)),
            Came(1.22, _day(3, 13)),
            Came(2.05, _day(3, 15), "early_release", "Needed the clamps: taken off after five hours."),
            Came(1.05, _day(3, 18)),
            Came(1.27, _day(3, 20)),
        ),
        True,
    ),
    Example(
        Job(
            name="Lantern bracket for the picking path",
            shape=ArcByRadius(kind="arc_by_radius", face="outer", radius_mm=240, angle_deg=150),
            part=Part(thickness_mm=15, width_mm=24, count=4, spares=1, trim_mm=25),
            stock=Stock(species="cherry_black", dryness="kiln_dried"),
            build_up=BuildUp(laminae=6, adhesive="uf_liquid"),
            form=FormChoice(side="inner", liner_mm=0.5, depth_mm=60),
        ),
        ("shape", "stock", "build_up", "form"),
        (
            Came(1.41, _day(5, 4)),
            Came(1.18, _day(5, 6)),
            Came(1.29, _day(5, 7), later=_day(5, 21)),
            Came(1.36, _day(5, 9)),
        ),
        True,
    ),
    Example(
        Job(
            name="Shelter rib, trial pair",
            notes="Two short ribs to learn how this ash behaves before the six long ones are cut.",
            shape=ArcByChord(kind="arc_by_chord", face="inner", chord_mm=1200, rise_mm=300),
            part=Part(thickness_mm=32, width_mm=45, count=2, spares=1, trim_mm=40),
            stock=Stock(species="ash_white", dryness="air_dried"),
            build_up=BuildUp(laminae=6, adhesive="uf_liquid"),
        ),
        ("shape", "stock", "build_up", "form"),
        (Came(1.24, _day(9, 14), later=_day(9, 22)), Came(1.33, _day(9, 16)), Came(1.15, _day(9, 17))),
        True,
    ),
    Example(
        Job(
            name="Orchard gate arch",
            shape=ArcByChord(kind="arc_by_chord", face="outer", chord_mm=1240, rise_mm=410),
            part=Part(thickness_mm=45, width_mm=70, count=1, spares=1, trim_mm=50),
            stock=Stock(species="oak_white", dryness="air_dried", grain_slope=0.05),
            build_up=BuildUp(laminae=7, adhesive="resorcinol"),
            form=FormChoice(kind="two_part", side="inner", liner_mm=1.0, depth_mm=110, goods="plywood"),
        ),
        ("shape", "stock"),
    ),
    Example(
        Job(
            name="Orchard shelter rib",
            notes="Six ribs carry the roof of the picking shelter.",
            shape=ArcByChord(kind="arc_by_chord", face="inner", chord_mm=1800, rise_mm=500),
            part=Part(thickness_mm=40, width_mm=60, count=6, spares=1, trim_mm=40),
            stock=Stock(species="ash_white", dryness="air_dried", moisture_pct=11, grain_slope=0.03, lot=LOTS[0]),
            build_up=BuildUp(laminae=8, adhesive="uf_liquid"),
            form=FormChoice(side="inner", liner_mm=0.0, depth_mm=100),
        ),
        ("shape", "stock", "build_up"),
    ),
    Example(
        Job(
            name="Lyre stand for the bandstand",
            notes="Music stand for the harvest concert: two S sides, left and right.",
            shape=SBend(
                kind="s",
                face="mid",
                start_mm=60,
                first_radius_mm=210,
                first_angle_deg=78,
                straight_mm=40,
                second_radius_mm=150,
                second_angle_deg=95,
                end_mm=40,
            ),
            part=Part(
                thickness_mm=16, width_mm=28, count=2, spares=1, trim_mm=30, copies="pairs", mate_tolerance_mm=1.5
            ),
            stock=Stock(species="walnut_black", dryness="kiln_dried", moisture_pct=8.5, lot=LOTS[1]),
            build_up=BuildUp(laminae=8, adhesive="uf_liquid"),
        ),
        ("shape", "stock"),
    ),
    Example(
        Job(
            name="Hoops for lantern frames",
            notes="Open hoops; the gap takes the latch.",
            shape=Hoop(kind="hoop", face="outer", diameter_mm=340, gap_mm=150),
            part=Part(thickness_mm=8, width_mm=20, count=6, spares=2, trim_mm=10),
            stock=Stock(species="ash_white", dryness="air_dried"),
            build_up=BuildUp(laminae=4, adhesive="pva_crosslinking"),
            form=FormChoice(side="inner", depth_mm=60),
        ),
        ("shape",),
    ),
    Example(
        Job(
            name="Old gate arch, measured in place",
            notes="Heights above a straightedge laid across the old arch, every 100 mm, to its outer face.",
            shape=Outline(
                kind="outline",
                face="outer",
                slack_mm=0.8,
                source="straightedge",
                points_mm=(
                    (0, 0),
                    (100, 142),
                    (200, 232),
                    (300, 295),
                    (400, 338),
                    (500, 364),
                    (600, 373),
                    (700, 366),
                    (800, 341),
                    (900, 299),
                    (1000, 237),
                    (1100, 148),
                    (1200, 3),
                ),
            ),
            part=Part(thickness_mm=40, width_mm=60, count=1, spares=1, trim_mm=50),
            stock=Stock(species="oak_european", dryness="air_dried"),
            build_up=BuildUp(laminae=10, adhesive="epoxy"),
            form=FormChoice(kind="three_part", depth_mm=100),
        ),
        ("shape",),
    ),
    Example(
        Job(
            name="Ticket desk front",
            way="sheet_layup",
            notes="Flexible plywood between walnut veneers; the desk stands at the orchard gate on open days.",
            shape=EasedArc(
                kind="eased_arc", face="outer", straight_mm=180, easing_mm=160, radius_mm=520, angle_deg=110
            ),
            part=Part(thickness_mm=11.2, width_mm=900, count=1, spares=0, trim_mm=40),
            stock=Stock(species="walnut_black", dryness="kiln_dried"),
            build_up=BuildUp(
                lay_up="layers",
                layers=(
                    Layer(thickness_mm=0.6, material="walnut_black"),
                    Layer(thickness_mm=5, material="flex_ply_5"),
                    Layer(thickness_mm=5, material="flex_ply_5"),
                    Layer(thickness_mm=0.6, material="walnut_black"),
                ),
                adhesive="uf_liquid",
            ),
            form=FormChoice(build="ribs", goods="plywood", skin_mm=6.5, side="outer", liner_mm=1.0, depth_mm=100),
        ),
        ("shape", "stock"),
    ),
    Example(
        Job(
            name="Rim for the pomace sieve",
            notes="A closed ring: four layers, their joints apart.",
            shape=Ring(kind="ring", face="inner", diameter_mm=360),
            part=Part(thickness_mm=8, width_mm=70, count=1, spares=1, trim_mm=0),
            stock=Stock(species="ash_white", dryness="air_dried"),
            build_up=BuildUp(laminae=4, adhesive="epoxy", press="band"),
            form=FormChoice(kind="ring", side="inner", depth_mm=80),
        ),
        ("shape",),
    ),
    Example(
        Job(
            name="Scrolls over the orchard gate",
            notes="Two mirrored scrolls, tightening inwards.",
            shape=Polycurve(
                kind="polycurve",
                face="outer",
                stretches=(
                    Stretch(kind="straight", length_mm=220),
                    Stretch(kind="easing", length_mm=260, to_radius_mm=420),
                    Stretch(kind="arc", radius_mm=420, angle_deg=50),
                    Stretch(kind="easing", length_mm=240, from_radius_mm=420, to_radius_mm=210),
                    Stretch(kind="arc", radius_mm=210, angle_deg=55),
                ),
            ),
            part=Part(thickness_mm=16, width_mm=34, count=2, spares=1, trim_mm=30, copies="pairs"),
            stock=Stock(species="oak_white", dryness="air_dried", grain_slope=0.05, moisture_pct=12, lot=LOTS[2]),
            build_up=BuildUp(laminae=8, adhesive="resorcinol"),
            form=FormChoice(side="inner", depth_mm=70),
        ),
        ("shape", "stock"),
    ),
    Example(
        Job(
            name="Bail for the windfall basket",
            notes="Its legs lean in: a plain two-part form cannot close on it.",
            shape=UBend(
                kind="u",
                face="inner",
                left_leg_mm=190,
                left_radius_mm=150,
                left_lean_deg=9,
                flat_mm=80,
                right_radius_mm=150,
                right_lean_deg=9,
                right_leg_mm=190,
            ),
            part=Part(thickness_mm=14, width_mm=32, count=4, spares=1, trim_mm=25),
            stock=Stock(species="ash_white", dryness="air_dried"),
            build_up=BuildUp(laminae=8, adhesive="epoxy"),
            form=FormChoice(kind="two_part", depth_mm=80),
        ),
        ("shape", "stock", "build_up"),
    ),
    Example(
        Job(
            name="Trellis bow, the north wall",
            notes="Nearly the bow of the south wall: its form may do, with veneer on its face.",
            shape=ArcByRadius(kind="arc_by_radius", face="inner", radius_mm=621, angle_deg=127),
            part=Part(thickness_mm=21, width_mm=34, count=4, spares=1, trim_mm=30),
            stock=Stock(species="larch_european", dryness="air_dried", grain_slope=0.04),
            build_up=BuildUp(laminae=6, adhesive="pva_crosslinking"),
        ),
        ("shape", "stock", "build_up"),
    ),
    Example(
        Job(
            name="Snowshoe frames for the winter pruning",
            notes="Bent in matched pairs round the toe; the tails are drawn together later.",
            way="steam_strap",
            shape=UBend(
                kind="u",
                face="inner",
                left_leg_mm=620,
                left_radius_mm=115,
                left_lean_deg=0,
                flat_mm=20,
                right_radius_mm=115,
                right_lean_deg=0,
                right_leg_mm=620,
            ),
            part=Part(
                thickness_mm=19, width_mm=24, count=4, spares=3, trim_mm=150, copies="pairs", mate_tolerance_mm=4
            ),
            stock=Stock(species="ash_white", dryness="air_dried", moisture_pct=20, grain_slope=0.03),
            form=FormChoice(kind="one_sided", build="solid", goods="solid", depth_mm=60),
            heat=Heat(at_once=2, lever_mm=620, stop="clamps", stop_clamp="g_clamp", stop_clamps=3, power_kw=4.0),
        ),
        ("shape", "way", "stock"),
        (Came(0.86, _day(10, 5)), Came(1.02, _day(10, 6)), Came(0.93, _day(10, 8))),
        True,
    ),
    Example(
        Job(
            name="Crook handles for gathering sticks",
            way="steam_strap",
            shape=Hook(kind="hook", face="inner", start_mm=620, radius_mm=52, angle_deg=175, end_mm=60),
            part=Part(thickness_mm=21, width_mm=21, count=6, spares=1, trim_mm=150),
            stock=Stock(species="oak_white", dryness="air_dried", moisture_pct=18),
            form=FormChoice(kind="one_sided", build="solid", goods="solid", depth_mm=60),
            heat=Heat(school="hour_per_inch", at_once=1, strap_mm=1.2, lever_mm=500, climate="damp"),
        ),
        ("shape", "way"),
    ),
    Example(
        Job(
            name="Rims for the berry trays",
            notes="Four corners, one after another over a hot iron; the ends are scarfed.",
            way="dry_heat",
            shape=Polycurve(
                kind="polycurve",
                face="outer",
                stretches=(
                    Stretch(kind="straight", length_mm=100),
                    Stretch(kind="arc", radius_mm=70, angle_deg=90),
                    Stretch(kind="straight", length_mm=150),
                    Stretch(kind="arc", radius_mm=70, angle_deg=90),
                    Stretch(kind="straight", length_mm=220),
                    Stretch(kind="arc", radius_mm=70, angle_deg=90),
                    Stretch(kind="straight", length_mm=150),
                    Stretch(kind="arc", radius_mm=70, angle_deg=82),
                    Stretch(kind="straight", length_mm=100),
                ),
            ),
            part=Part(thickness_mm=1.8, width_mm=45, count=6, spares=2, trim_mm=30),
            stock=Stock(species="maple_hard", dryness="air_dried", moisture_pct=12),
            form=FormChoice(kind="in_place"),
        ),
        ("shape", "way"),
    ),
    Example(
        Job(
            name="Rake handle, bowed in the shed",
            way="straighten",
            shape=ArcByChord(kind="arc_by_chord", face="mid", chord_mm=1500, rise_mm=18),
            part=Part(thickness_mm=30, width_mm=30, count=1, spares=0, trim_mm=0),
            stock=Stock(species="ash_white", dryness="air_dried", moisture_pct=13),
            heat=Heat(span_mm=700, moves=1),
        ),
        ("shape",),
    ),
    Example(
        Job(
            name="Brace for the picking shelter",
            notes="Five thick laminae steamed, dried in shape and then glued.",
            way="steam_laminae",
            shape=ArcByRadius(kind="arc_by_radius", face="inner", radius_mm=420, angle_deg=80),
            part=Part(thickness_mm=35, width_mm=50, count=4, spares=1, trim_mm=60),
            stock=Stock(species="ash_white", dryness="air_dried", moisture_pct=11, grain_slope=0.03),
            build_up=BuildUp(laminae=5, adhesive="resorcinol"),
            form=FormChoice(depth_mm=100),
        ),
        ("shape", "way"),
    ),
)


def fill(store: Store) -> None:
    """Put the sample shop into an empty store. Needs a connection."""
    store.save_shop(SHOP)
    for lot in LOTS:
        store.keep_lot(lot)
    for example in EXAMPLES:
        job_id = store.add_job(example.job)
        for stage in example.settled:
            store.settle(job_id, stage)
        if example.form_built:
            built = BuiltForm.of(sketch(example.job, SHOP, store.learnt()))
            form_id = store.keep_form(job_id, built)
            for number, came in enumerate(example.came, 1):
                _piece(store, form_id, example.job, built, number, came)


def _piece(store: Store, form_id: int, job: Job, built: BuiltForm, number: int, came: Came) -> None:
    """A piece measured with a rule: to half a millimetre."""

    def measured(bent: Curve) -> tuple[float, float]:
        chord, rise, _ = built.on_face(bent, job.shape.face)
        return round(chord * 2) / 2, round(rise * 2) / 2

    released = built.bent_by(came.over_mechanics)
    chord, rise = measured(released)
    piece = store.add_piece(
        form_id,
        label=str(number),
        day=came.day,
        chord_mm=chord,
        rise_mm=rise,
        face=job.shape.face,
        error_mm=SHOP.measuring_error_mm,
        mishap=came.mishap,
        left_out=came.mishap == "early_release",
        note=came.note,
    )
    if came.later:
        chord, rise = measured(released.with_curvature(released.curvature * 0.994))
        store.measure_again(
            piece, day=came.later, chord_mm=chord, rise_mm=rise, face=job.shape.face, error_mm=SHOP.measuring_error_mm
        )
