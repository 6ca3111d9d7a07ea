"""Build-up: the lay-up, its glue and its press."""

from __future__ import annotations

from typing import Any

from markupsafe import Markup

from ...core.common.estimate import OWN_FIGURE
from ...core.gluing.adhesive import adhesive_table
from ...core.job.job import Job, Layer
from ...core.plan.result import Sketch
from ...core.shop.shop import Shop
from ...core.wood.sheets import sheet_table
from ...core.workpiece.bend import Springback
from ...core.workpiece.strip_options import strip_options
from ...core.workpiece.workpiece import GluedLayup
from ...drawing.sheet_drawing import sheet_svg
from ..formatting import (
    Drawing,
    FigureGroup,
    FigureRow,
    Formatter,
    Item,
    Note,
    grid,
)
from ..forms.fields import Choices, Field, of, of_job, wood_choices
from ..summary_figures import Quantity, glue_of, springback_of, to_cut, use_of
from .base import BoardView, StageContext, StagePage, cautions

PULLS: Choices = (("one_end", "from one end"), ("both_ends", "from both ends"))
RUNS_ON: Choices = (("wood", "dry wood"), ("film", "film or wax"))
PRESSES: Choices = (("clamps", "clamps"), ("vacuum", "vacuum"), ("band", "a band"))
FIELDS = (
    of_job(
        "build_up.lay_up",
        "Layup",
        choices=(("equal", "equal strips"), ("layers", "custom plies")),
        look="pills",
    ),
    of_job("build_up.press", "Clamping method", choices=PRESSES, look="pills"),
    of_job("build_up.gauge_kpa", "Gauge reads", "as on its dial: inHg, kPa, mbar or bar"),
    of_job("build_up.band_kn", "Band tension", "of each; a ratchet band holds about 560 lbf (2.5 kN)"),
    of_job("build_up.bands", "Number of bands", "next to one another, each with that tension"),
    of_job("build_up.band_clamps", "Clamps besides", "where a band does not press: on straight stretches"),
    of_job("build_up.band_pull", "The band is pulled", choices=PULLS, look="pills"),
    of_job("build_up.band_on", "Between band and wood", choices=RUNS_ON, look="pills"),
    Field("build_up.laminae", "Strips", "rung", look="ladder"),
    of_job("build_up.adhesive", "Glue", choices=tuple((a.key, a.name) for a in adhesive_table().values())),
)


def _fields(job: Job, shop: Shop) -> tuple[Field, ...]:
    if job.build_up.lay_up != "layers":
        return FIELDS
    made_of = (*((s.key, s.name) for s in sheet_table(shop.sheets).values()), *wood_choices(shop.woods))
    return (*FIELDS, *(f for i in range(len(job.build_up.layers)) for f in layer_fields(i, made_of)))


def layer_fields(i: int, made_of: Choices) -> tuple[Field, ...]:
    """The inputs of one layer, counted from the inner face."""
    n = i + 1
    along = (("along", "along"), ("across", "across"))
    made = (
        of(Layer, "thickness_mm", f"Thickness of ply {n}", "thick"),
        of(Layer, "material", f"Material of ply {n}", choices=made_of),
        of(Layer, "grain", f"Grain of ply {n}", choices=along),
        of(Layer, "bent_radius_mm", f"Ply {n} pre-bent to", "flat"),
    )
    at = f"build_up.layers.{i}."
    return tuple(Field(at + f.name, f.label, f.kind, f.hint, f.choices, f.look, f.may_be_empty) for f in made)


def _items(look: StageContext) -> list[Item]:
    if look.drawn is None or look.drawn.laid_up is None:
        return []
    w, laid_up = look.words, look.drawn.laid_up
    made: list[Item] = [_springback(look.drawn, laid_up, w)]
    opens = look.drawn.bend.opens
    if isinstance(opens, Springback):
        made.append(Note(f"Springback: {opens.basis}."))
    return made


def _notes(look: StageContext) -> list[Item]:
    if look.drawn is None or look.job.build_up.lay_up == "layers":
        return cautions(look)
    message = "Green rows bend safely, hold their shape, and can be cut in this shop. Wood: board used ÷ finished part."
    return [Note(message, "hint"), *cautions(look)]


def _views(look: StageContext) -> list[BoardView]:
    """The layup on its form; its layers one by one, the layers of a ring, the sheets they come out of."""
    plan, w = look.plan, look.words
    made = [BoardView("board", "The layup")]
    if plan is None or plan.laid_up is None:
        return made
    laid_up = plan.laid_up
    if look.job.build_up.lay_up == "layers":
        rows = [
            (x.material, w.length(x.thickness_mm), w.percent(x.use_of_strain), w.length(x.cut_length_mm))
            for x in laid_up.laminae
        ]
        layers = grid("Plies, from the inside out", ("ply", "thickness", "% of limit", "cut to"), rows)
        made.append(BoardView("layers", "The plies", Markup(""), (layers,)))
    if laid_up.ring:
        made.append(BoardView("ring", "Plies of the ring", Markup(""), tuple(_ring(laid_up, w))))
    if laid_up.sheets:
        drawn = tuple(Drawing(Markup(sheet_svg(c, look.unit))) for c in laid_up.sheets)
        made.append(BoardView("sheets", "From sheets", Markup(""), drawn))
    return made


def _ring(laid_up: GluedLayup, w: Formatter) -> list[Item]:
    rows = [
        (str(x.number), w.length(x.cut_length_mm), w.angle(x.joint_deg), w.length(x.opens_mm)) for x in laid_up.ring
    ]
    message = (
        "Last column: gap of an open hoop of the plies so far. Cut each ply a little long and fit its joint on the "
        "round form."
    )
    return [
        grid("Plies of the ring", ("ply", "cut to", "joint at", "gap if left open"), rows),
        Note(message, "hint"),
    ]


def _springback(drawn: Sketch, laid_up: GluedLayup, w: Formatter) -> FigureGroup:
    opens, forces, press = drawn.bend.opens, laid_up.forces, laid_up.press
    rows: list[FigureRow] = []
    if isinstance(opens, Springback):
        rows += [
            w.row("share of the bend lost", opens.loss_share, w.percent(opens.loss_share.likely)),
            w.row("your results ÷ calculated", opens.loss_ratio, w.band(opens.loss_ratio, 2)),
            w.row("later creep at the ends", opens.settling_tip_mm, w.about(opens.settling_tip_mm.value)),
        ]
    else:
        rows.append(FigureRow("glued all around", "no springback", "physics"))
    rows += [
        w.row("bending moment on the form", forces.holding_moment_nmm, w.moment(forces.holding_moment_nmm.value)),
        w.row("pull at each end", forces.lever_pull_n, w.force(forces.lever_pull_n.value)),
    ]
    if press.pressure_mpa:
        rows.append(w.row("pressure, at least", press.pressure_mpa, w.pressure(press.pressure_mpa.value)))
    if press.left_kn:
        left = f"{w.force(press.left_kn.value * 1000)} after {press.turns_deg:.0f}°"
        rows.append(w.row("pull at the far end of the band", press.left_kn, left))
    if press.open_end_mm and press.open_end_gap_mm:
        rows.append(w.row("not pressed at each end", press.open_end_mm, w.about(press.open_end_mm.value)))
        rows.append(w.row("gap to the form at the ends", press.open_end_gap_mm, w.about(press.open_end_gap_mm.value)))
    return FigureGroup("Springback", tuple(rows))


def _extra(look: StageContext) -> dict[str, Any]:
    w = look.words
    options = strip_options(look.plan.ladder if look.plan else (), thinnest_mm=look.shop.thinnest_mm)
    rungs = [
        {
            "rung": r,
            "recommended": r is options.recommended,
            "first": r in options.first,
            "value": f"{r.laminae}{f'@{r.lamina_mm:g}' if r.lamina_mm else ''}",
            "count": r.laminae - 1 if r.lamina_mm else r.laminae,
            "thick": w.thin_bare(r.thickness_mm),
            "last": w.thin_bare(r.last_mm) if r.lamina_mm else "",
            "use": w.percent(r.use_of_strain),
            "tip": w.about(r.tip_mm).rsplit(" ", 1)[0],
            "stock": f"{w.number(r.stock_times)} ×",
        }
        for r in options.rows
    ]
    return {"rungs": rungs, "glue_grade": OWN_FIGURE, "reason": options.reason if options.rows else ""}


def _answer(look: StageContext) -> str:
    """How many strips of which size."""
    drawn = look.drawn
    if drawn is None or drawn.laid_up is None:
        return ""
    w, laminae, part = look.words, drawn.laid_up.laminae, look.job.part
    thick = sorted({round(x.thickness_mm, 3) for x in laminae}, reverse=True)
    rest = w.size(part.width_mm, drawn.quantities.stock.strip_length_mm or drawn.bend.blank.length_mm)
    if len({x.material for x in laminae}) > 1 or len(thick) > 2:
        return f"{len(laminae)} plies, {w.length(part.thickness_mm)} together, each {rest}."
    if len(thick) == 1:
        return f"{len(laminae)} strips of {w.thin(thick[0])} × {rest}."
    first = sum(1 for x in laminae if round(x.thickness_mm, 3) == thick[0])
    return f"{first} strips of {w.thin(thick[0])} and {len(laminae) - first} of {w.thin(thick[1])} × {rest}."


def _figures(look: StageContext) -> list[Quantity]:
    d, w = look.drawn, look.words
    return [use_of(d), springback_of(d, w), *glue_of(d, w), to_cut(d, w)] if d else []


PAGE = StagePage(
    fields=_fields, items=_items, notes=_notes, extra=_extra, views=_views, answer=_answer, figures=_figures
)
