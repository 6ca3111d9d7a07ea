"""What a new job, a first bend and a new shop begin with: round figures in the unit of the shop."""

from __future__ import annotations

from ..common.units import MM_PER_INCH, Unit
from ..shape.kinds.arc_by_chord import ArcByChord
from ..shop.shop import Shop
from .heat_choice import Heat
from .job import BuildUp, FormChoice, Job, Part, Stock
from .stock_choice import Prepare

INCH = MM_PER_INCH
GLUE = "pva"  # what most shops have; the mix ratio is asked for only with a two-part glue


def starting_job(unit: Unit) -> Job:
    """Return what a new job holds until its maker says otherwise."""
    if unit == "mm":
        shape, part = (
            ArcByChord(kind="arc_by_chord", chord_mm=1000, rise_mm=200),
            Part(thickness_mm=24, width_mm=40, trim_mm=50),
        )
    else:
        shape, part = (
            ArcByChord(kind="arc_by_chord", chord_mm=40 * INCH, rise_mm=8 * INCH),
            Part(thickness_mm=INCH, width_mm=1.5 * INCH, trim_mm=2 * INCH),
        )
    build_up = BuildUp(laminae=5, adhesive=GLUE)
    return _in_unit(Job(name="New bend", shape=shape, part=part, build_up=build_up), unit)


def first_bend(unit: Unit) -> Job:
    """Return what the guided bend starts from: a gentle bow that forgives much, and is soon glued up."""
    size = 1.0 if unit == "mm" else INCH
    chord, rise, thick, wide, trim = (600, 120, 15, 30, 40) if unit == "mm" else (24, 5, 0.625, 1.25, 1.5)
    job = Job(
        name="My first bend",
        shape=ArcByChord(kind="arc_by_chord", face="inner", chord_mm=chord * size, rise_mm=rise * size),
        part=Part(thickness_mm=thick * size, width_mm=wide * size, count=1, spares=1, trim_mm=trim * size),
        stock=Stock(species="ash_white", dryness="kiln_dried"),
        build_up=BuildUp(laminae=5, adhesive=GLUE),
    )
    return _in_unit(job, unit)


def _in_unit(job: Job, unit: Unit) -> Job:
    """The rest of a new job in round inches; its own figures are round in mm."""
    if unit == "mm":
        return job
    heat = Heat(strap_mm=INCH / 16, lever_mm=48 * INCH, span_mm=24 * INCH)
    form = FormChoice(
        sheet_mm=0.75 * INCH,
        skin_mm=0.25 * INCH,
        depth_mm=3.5 * INCH,
        post_mm=6 * INCH,
        left_mm=0.5 * INCH,
        right_mm=0.5 * INCH,
    )
    boards = Prepare(thickness_mm=2 * INCH, width_mm=6 * INCH, length_mm=96 * INCH)
    return job.model_copy(update={"heat": heat, "form": form, "prepare": boards})


def starting_shop(unit: Unit) -> Shop:
    """Return a new shop with round figures in its unit."""
    if unit == "mm":
        return Shop()
    return Shop(
        units="in",
        kerf_mm=INCH / 8,
        planing_mm=INCH / 32,
        clean_up_mm=INCH / 4,
        thinnest_mm=INCH / 12,
        sheet_long_mm=96 * INCH,
        sheet_short_mm=48 * INCH,
        label_paper="letter",
        measuring_error_mm=INCH / 32,
    )
