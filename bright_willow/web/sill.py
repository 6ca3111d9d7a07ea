"""The figures of the sill: what matters at a glance, whatever is made."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.bend.bend import Springback, Straight
from ..core.bend.makes import HotBlank, LaidUp, SteamedLaminae, Straightened
from ..core.ground.estimate import Grade
from ..core.ground.findings import Level, worst
from ..core.heat.steaming import SteamHeat
from ..core.job.job import Job
from ..core.plan.result import Sketch
from ..core.shape.arc import FACES
from ..store.records import KeptForm
from .figures import Words

ABOUT_USE = ("strain.", "heat.breaks", "heat.some_break", "heat.tight")  # findings about how much of its limit it takes


@dataclass(frozen=True)
class Quantity:
    """A number of the sill, with its grade and what it is made of."""

    label: str
    value: str
    grade: Grade
    note: str = ""
    level: Level = "fit"


def expected(form: KeptForm, job: Job, w: Words) -> list[Quantity]:
    """Chord and rise to expect off a built form, on the face the maker stated."""
    face = FACES[job.shape.face]
    chord, rise = form.built.expected_on(job.shape.face)
    return [
        Quantity(
            f"{name} to expect",
            w.estimate(e),
            e.grade,
            f"{w.most_likely(e)} · {face}",
        )
        for name, e in (("Chord", chord), ("Rise", rise))
    ]


def quantities(drawn: Sketch, w: Words) -> list[Quantity]:
    """The figures of a bend."""
    stock = drawn.quantities.stock
    bought = f"{w.number(stock.times_finished)} × the finished wood" if stock.strips else "nothing to saw"
    return [
        _use(drawn),
        _opens(drawn, w),
        _face(drawn, w),
        _to_cut(drawn, w),
        Quantity("Wood", w.wood(stock.volume_m3), "allowance", bought),
        _last(drawn, w),
    ]


def _use(drawn: Sketch) -> Quantity:
    make, use = drawn.make, drawn.make.use
    level = worst([f.level for f in drawn.findings if f.code.startswith(ABOUT_USE)])
    if use.of == "strain":
        return Quantity("Use of strain", f"{use.worst.value:.0%}", use.worst.grade, use.feel, level)
    says = "bent back a little"
    if isinstance(make, HotBlank):
        says = f"R/T {make.limits.ratio:.1f}, wants {make.limits.needed:.1f}"
    return Quantity("Use of the limit", f"{use.worst.value:.0%}", use.worst.grade, says, level)


def _opens(drawn: Sketch, w: Words) -> Quantity:
    opens = drawn.bend.opens
    if isinstance(opens, Straight):
        return Quantity("Expect", "straight", "allowance", "once it is off the block and cold")
    if not isinstance(opens, Springback):
        return Quantity("Tips spring back", "not at all", "physics", "a ring glued all round")
    tip = opens.tip_mm
    return Quantity("Tips spring back", w.estimate(tip), tip.grade, w.most_likely(tip))


def _face(drawn: Sketch, w: Words) -> Quantity:
    if isinstance(drawn.make, Straightened):
        block = drawn.make.block.block_mm
        return Quantity("Block height", w.estimate(block), block.grade, w.most_likely(block))
    face = drawn.face_figures
    name = "Form face radius" if drawn.is_one_arc else "Tightest on form"
    says = f"sweeps {face.sweep_deg:.1f}°" if drawn.is_one_arc else f"over {w.length(face.length_mm)}"
    return Quantity(name, w.length(face.least_radius_mm or 0.0), drawn.form_grade, says)


def _to_cut(drawn: Sketch, w: Words) -> Quantity:
    """Strips to saw, or the sheets and veneers where nothing is sawn, or blanks."""
    q, laid_up = drawn.quantities, drawn.laid_up
    pieces, long = q.pieces + q.spares, w.length(q.stock.strip_length_mm)
    if laid_up is None:
        return Quantity("Blanks", f"{pieces}", "allowance", f"{long} long each")
    says = f"for {pieces} piece{'s' if pieces > 1 else ''}, {long} long"
    if not q.stock.strips:
        return Quantity("Sheets and veneer", f"{laid_up.sheet_m2:.1f} m²", "allowance", says)
    if laid_up.sheet_m2:
        says += f"; and {laid_up.sheet_m2:.1f} m² of sheets"
    return Quantity("Strips to cut", f"{q.stock.strips}", "allowance", says)


def _last(drawn: Sketch, w: Words) -> Quantity:
    """Glue, or time in the steam, or the bends over an iron."""
    make = drawn.make
    if isinstance(make, LaidUp | SteamedLaminae):
        laid_up = make if isinstance(make, LaidUp) else make.laid_up
        lines = len(laid_up.laminae) - 1
        return Quantity("Glue", f"{laid_up.glue_g.value:.0f} g", "allowance", f"{lines} lines a piece")
    return _heat(make, w)


def _heat(make: HotBlank | Straightened, w: Words) -> Quantity:
    if not isinstance(make.heat, SteamHeat):
        return Quantity("Bends", f"{len(make.heat.bends)}", "physics", "tightest first")
    steam = make.heat.steam
    says = f"hot through after {steam.time.earliest_min:.0f} min at {w.temperature(steam.chamber_c)}"
    return Quantity("In the steam", w.minutes(steam.time.planned_min), "allowance", says)
