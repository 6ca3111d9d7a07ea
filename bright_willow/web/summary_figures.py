"""Figures that several stages show at a glance, whatever is made: at most four on each stage."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.common.estimate import Grade
from ..core.common.findings import Level, worst
from ..core.job.job import Job
from ..core.plan.result import Sketch
from ..core.shape.arc import FACES, SIDES
from ..core.workpiece.bend import Springback, Straight
from ..core.workpiece.workpiece import HotBlank, StraightenedPiece
from ..store.records import KeptForm
from .formatting import Formatter

ABOUT_USE = ("strain.", "heat.breaks", "heat.some_break", "heat.tight")  # findings about how much of its limit it takes
LEAST_SHOWN_MM = 0.05  # an overbend below it is none


@dataclass(frozen=True)
class Quantity:
    """A figure of a stage, with its grade and what it is made of."""

    label: str
    value: str
    grade: Grade
    note: str = ""
    level: Level = "fit"


def expected(form: KeptForm, job: Job, w: Formatter) -> list[Quantity]:
    """Chord and rise to expect off a built form, on the face the maker stated."""
    face = FACES[job.shape.face]
    chord, rise = form.built.expected_on(job.shape.face)
    return [
        Quantity(f"{name} to expect", w.estimate(e), e.grade, f"{w.most_likely(e)} · {face}")
        for name, e in (("Chord", chord), ("Rise", rise))
    ]


def use_of(drawn: Sketch) -> Quantity:
    """How near the wood is to its limit."""
    make, use = drawn.make, drawn.make.use
    level = worst([f.level for f in drawn.findings if f.code.startswith(ABOUT_USE)])
    if use.of == "strain":
        return Quantity("% of breaking strain", f"{use.worst.value:.0%}", use.worst.grade, use.feel, level)
    message = "bent back a little"
    if isinstance(make, HotBlank):
        message = f"radius ÷ thickness {make.limits.ratio:.1f} (needs {make.limits.needed:.1f})"
    return Quantity("% of the bending limit", f"{use.worst.value:.0%}", use.worst.grade, message, level)


def springback_of(drawn: Sketch, w: Formatter) -> Quantity:
    """How far each end springs back off the form."""
    opens = drawn.bend.opens
    if isinstance(opens, Straight):
        return Quantity("Expect", "straight", "allowance", "off the block and cold")
    if not isinstance(opens, Springback):
        return Quantity("Springback", "none", "physics", "a ring glued all around")
    tip = opens.tip_mm
    return Quantity("Springback, each end", w.estimate(tip), tip.grade, w.most_likely(tip))


def overbend_of(drawn: Sketch, w: Formatter) -> Quantity:
    """How much further in each end is on the form."""
    further = drawn.overbend_mm
    if further.likely < LEAST_SHOWN_MM:
        return Quantity("Overbend", "none", further.grade, "the form has the finished shape")
    return Quantity("Overbend, each end", w.estimate(further), further.grade, f"further in; {w.most_likely(further)}")


def face_of(drawn: Sketch, w: Formatter) -> Quantity:
    """The radius of the form, or the block that straightens."""
    if isinstance(drawn.make, StraightenedPiece):
        block = drawn.make.block.block_mm
        return Quantity("Block height", w.estimate(block), block.grade, w.most_likely(block))
    name = "Form radius" if drawn.is_one_arc else "Tightest form radius"
    message = f"finished {w.length(drawn.finished_radius_mm)}, {SIDES[drawn.face.side]}"
    return Quantity(name, w.length(drawn.face_figures.least_radius_mm or 0.0), drawn.form_grade, message)


def to_cut(drawn: Sketch, w: Formatter) -> Quantity:
    """Strips to saw, or the sheets and veneers where nothing is sawn, or blanks."""
    q, laid_up = drawn.quantities, drawn.laid_up
    pieces, long = q.pieces + q.spares, w.length(q.stock.strip_length_mm)
    if laid_up is None:
        return Quantity("Blanks", f"{pieces}", "allowance", f"{long} long each")
    message = f"for {pieces} piece{'s' if pieces > 1 else ''}, {long} long"
    if not q.stock.strips:
        return Quantity("Sheets and veneer", w.area(laid_up.sheet_m2), "allowance", message)
    if laid_up.sheet_m2:
        message += f"; and {w.area(laid_up.sheet_m2)} of sheets"
    strips, waste = q.stock.strips, q.stock.waste_strips
    if waste:
        strips += waste * q.stock.sets
        message += f", {'a waste strip' if waste == 1 else f'{waste} waste strips'} each"
    return Quantity("Strips", f"{strips}", "allowance", message)


def wood_of(drawn: Sketch, w: Formatter) -> Quantity:
    """How much wood to buy."""
    stock = drawn.quantities.stock
    bought = f"{w.number(stock.times_finished)} × the finished wood" if stock.strips else "nothing to saw"
    return Quantity("Wood to buy", w.wood(stock.volume_m3), "allowance", bought)


def glue_of(drawn: Sketch, w: Formatter) -> list[Quantity]:
    """How much glue, of what is glued."""
    laid_up = drawn.laid_up
    if laid_up is None:
        return []
    lines = len(laid_up.laminae) - 1
    return [Quantity("Glue", w.glue(laid_up.glue_g.value), "allowance", f"{lines} glue lines per piece")]
