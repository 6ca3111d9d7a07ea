"""Jobs of the demo that are bent hot, and one bent in place. Every one is made up."""

from __future__ import annotations

from ..core.job.heat_choice import Heat
from ..core.job.job import BuildUp, FormChoice, Job, Part, Stock
from ..core.shape.kinds.arc_by_chord import ArcByChord
from ..core.shape.kinds.arc_by_radius import ArcByRadius
from ..core.shape.kinds.hook import Hook
from ..core.shape.kinds.polycurve import Polycurve, Stretch
from ..core.shape.kinds.u import UBend
from .examples import Example, ExampleOutcome, day_of

HOT: tuple[Example, ...] = (
    Example(
        Job(
            name="Snowshoe frames for the winter pruning",
            notes="Bent in matched pairs around the toe; the tails are pulled together later.",
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
        (ExampleOutcome(1.35, day_of(10, 5)), ExampleOutcome(1.02, day_of(10, 6)), ExampleOutcome(0.93, day_of(10, 8))),
        True,
    ),
    Example(
        Job(
            name="Crook handles for gathering sticks",
            tags=("tools",),
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
            tags=("tools",),
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
            tags=("shelter",),
            notes="Five thick strips steamed, dried on the form and then glued.",
            way="steam_laminae",
            shape=ArcByRadius(kind="arc_by_radius", face="inner", radius_mm=420, angle_deg=80),
            part=Part(thickness_mm=35, width_mm=50, count=4, spares=1, trim_mm=60),
            stock=Stock(species="ash_white", dryness="air_dried", moisture_pct=11, grain_slope=0.03),
            build_up=BuildUp(laminae=5, adhesive="resorcinol"),
            form=FormChoice(depth_mm=100),
        ),
        ("shape", "way"),
    ),
    Example(
        Job(
            name="Capping around the ticket desk",
            notes="Bent right onto the desk, strip by strip.",
            way="cold_lamination",
            shape=ArcByRadius(kind="arc_by_radius", face="inner", radius_mm=640, angle_deg=95),
            part=Part(
                thickness_mm=16,
                width_mm=40,
                count=1,
                spares=1,
                trim_mm=35,
                right_trim_mm=90,
                left_cut="mitred",
                right_cut="long",
            ),
            stock=Stock(species="walnut_black", dryness="kiln_dried"),
            build_up=BuildUp(laminae=4, adhesive="epoxy"),
            form=FormChoice(kind="in_place"),
        ),
        ("shape", "way"),
    ),
)
