"""Jobs of the demo that are laid up and glued. Every one is made up."""

from __future__ import annotations

from ..core.job.glue_up_choice import GlueUp
from ..core.job.job import (
    BuildUp,
    FormChoice,
    Job,
    Layer,
    Part,
    Stock,
)
from ..core.job.stock_choice import Prepare, Profile
from ..core.shape.kinds.arc_by_chord import ArcByChord
from ..core.shape.kinds.arc_by_radius import ArcByRadius
from ..core.shape.kinds.eased_arc import EasedArc
from ..core.shape.kinds.hoop import Hoop
from ..core.shape.kinds.outline import Outline
from ..core.shape.kinds.polycurve import Polycurve, Stretch
from ..core.shape.kinds.ring import Ring
from ..core.shape.kinds.s import SBend
from ..core.shape.kinds.u import UBend
from .demo_shop import LOTS
from .examples import Example, ExampleOutcome, day_of

LAID_UP: tuple[Example, ...] = (
    Example(
        Job(
            name="Trellis bow for the espaliers",
            tags=("garden",),
            notes="Bows over the south wall; the espaliers are tied to them.",
            shape=ArcByRadius(kind="arc_by_radius", face="inner", radius_mm=620, angle_deg=128),
            part=Part(thickness_mm=21, width_mm=34, count=5, spares=1, trim_mm=30),
            stock=Stock(species="larch_european", dryness="air_dried", grain_slope=0.04),
            build_up=BuildUp(laminae=6, adhesive="pva_crosslinking"),
        ),
        ("shape", "stock", "build_up", "form"),
        (
            ExampleOutcome(1.12, day_of(3, 9)),
            ExampleOutcome(1.31, day_of(3, 11), later=day_of(4, 2)),
            ExampleOutcome(1.22, day_of(3, 13)),
            ExampleOutcome(2.05, day_of(3, 15), "early_release", "Needed the clamps: taken off after five hours."),
            ExampleOutcome(1.05, day_of(3, 18)),
            ExampleOutcome(1.27, day_of(3, 20)),
        ),
        True,
    ),
    Example(
        Job(
            name="Lantern bracket for the picking path",
            tags=("garden", "lanterns"),
            shape=ArcByRadius(kind="arc_by_radius", face="outer", radius_mm=240, angle_deg=150),
            part=Part(thickness_mm=15, width_mm=24, count=4, spares=1, trim_mm=25),
            stock=Stock(species="cherry_black", dryness="kiln_dried"),
            build_up=BuildUp(laminae=6, adhesive="uf_liquid"),
            glue_up=GlueUp(by_weight=25),
            form=FormChoice(side="inner", liner_mm=0.5, depth_mm=60),
        ),
        ("shape", "stock", "build_up", "form"),
        (
            ExampleOutcome(1.41, day_of(5, 4)),
            ExampleOutcome(1.18, day_of(5, 6)),
            ExampleOutcome(1.29, day_of(5, 7), later=day_of(5, 21)),
            ExampleOutcome(1.36, day_of(5, 9)),
        ),
        True,
    ),
    Example(
        Job(
            name="Shelter rib, test pair",
            notes="Two short ribs to learn how this ash behaves before the six long ones are cut.",
            shape=ArcByChord(kind="arc_by_chord", face="inner", chord_mm=1200, rise_mm=300),
            part=Part(thickness_mm=32, width_mm=45, count=2, spares=1, trim_mm=40),
            stock=Stock(species="ash_white", dryness="air_dried"),
            build_up=BuildUp(laminae=6, adhesive="uf_liquid"),
            glue_up=GlueUp(by_weight=25),
        ),
        ("shape", "stock", "build_up", "form"),
        (
            ExampleOutcome(1.24, day_of(9, 14), later=day_of(9, 22)),
            ExampleOutcome(1.33, day_of(9, 16)),
            ExampleOutcome(1.15, day_of(9, 17)),
        ),
        True,
    ),
    Example(
        Job(
            name="Orchard gate arch",
            tags=("gates",),
            shape=ArcByChord(kind="arc_by_chord", face="outer", chord_mm=1240, rise_mm=410),
            part=Part(thickness_mm=45, width_mm=70, count=1, spares=1, trim_mm=50),
            stock=Stock(species="oak_white", dryness="air_dried", grain_slope=0.05),
            build_up=BuildUp(laminae=7, adhesive="resorcinol"),
            glue_up=GlueUp(by_weight=20, tent="blankets", tent_c=32, cold_c=9),
            prepare=Prepare(profile=Profile(kind="round_over", size_mm=22)),
            form=FormChoice(kind="two_part", side="inner", liner_mm=1.0, depth_mm=110, goods="plywood"),
        ),
        ("shape", "stock"),
    ),
    Example(
        Job(
            name="Orchard shelter rib",
            tags=("shelter",),
            notes="Six ribs carry the roof of the picking shelter.",
            shape=ArcByChord(kind="arc_by_chord", face="inner", chord_mm=1800, rise_mm=500),
            part=Part(thickness_mm=40, width_mm=60, count=6, spares=1, trim_mm=40),
            stock=Stock(species="ash_white", dryness="air_dried", moisture_pct=11, grain_slope=0.03, lot=LOTS[0]),
            build_up=BuildUp(laminae=8, adhesive="uf_liquid"),
            glue_up=GlueUp(by_weight=25),
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
            glue_up=GlueUp(by_weight=25),
        ),
        ("shape", "stock"),
    ),
    Example(
        Job(
            name="Hoops for lantern frames",
            tags=("lanterns",),
            notes="Open hoops; the gap takes the latch.",
            shape=Hoop(kind="hoop", face="outer", diameter_mm=340, gap_mm=150),
            part=Part(thickness_mm=8, width_mm=20, count=6, spares=2, trim_mm=10),
            stock=Stock(species="ash_white", dryness="air_dried"),
            build_up=BuildUp(laminae=4, adhesive="pva_crosslinking"),
            prepare=Prepare(abreast=4, abreast_as="wide"),
            form=FormChoice(side="inner", depth_mm=60),
        ),
        ("shape",),
    ),
    Example(
        Job(
            name="Old gate arch, measured in place",
            tags=("gates",),
            notes="Heights above a straightedge across the old arch, every 100 mm, to its outside face.",
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
            glue_up=GlueUp(by_weight=25),
            prepare=Prepare(leaf_mm=320, show="outer"),
            form=FormChoice(build="ribs", goods="plywood", skin_mm=6.5, side="outer", liner_mm=1.0, depth_mm=100),
        ),
        ("shape", "stock"),
    ),
    Example(
        Job(
            name="Rim for the pomace sieve",
            notes="A closed ring: four plies, joints staggered.",
            shape=Ring(kind="ring", face="inner", diameter_mm=360),
            part=Part(thickness_mm=8, width_mm=70, count=1, spares=1, trim_mm=0),
            stock=Stock(species="ash_white", dryness="air_dried"),
            build_up=BuildUp(laminae=4, adhesive="epoxy", press="band"),
            glue_up=GlueUp(by_weight=42, by_volume=50),
            form=FormChoice(kind="ring", side="inner", depth_mm=80),
        ),
        ("shape",),
    ),
    Example(
        Job(
            name="Scrolls over the orchard gate",
            tags=("gates",),
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
            glue_up=GlueUp(by_weight=20),
            form=FormChoice(side="inner", depth_mm=70),
        ),
        ("shape", "stock"),
    ),
    Example(
        Job(
            name="Bail for the windfall basket",
            notes="Its legs lean in: a plain matched form cannot close on it.",
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
            glue_up=GlueUp(by_weight=42, by_volume=50),
            form=FormChoice(kind="two_part", depth_mm=80),
        ),
        ("shape", "stock", "build_up"),
    ),
    Example(
        Job(
            name="Trellis bow, the north wall",
            tags=("garden",),
            notes="Almost the bow of the south wall: its form may work, with veneer on the face.",
            shape=ArcByRadius(kind="arc_by_radius", face="inner", radius_mm=621, angle_deg=127),
            part=Part(thickness_mm=21, width_mm=34, count=4, spares=1, trim_mm=30),
            stock=Stock(species="larch_european", dryness="air_dried", grain_slope=0.04),
            build_up=BuildUp(laminae=6, adhesive="pva_crosslinking"),
        ),
        ("shape", "stock", "build_up"),
    ),
)
