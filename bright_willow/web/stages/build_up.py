"""Build-up: the lay-up, its glue and its press."""

from __future__ import annotations

from typing import Any

from markupsafe import Markup

from ...core.bend.bend import Springback
from ...core.bend.makes import LaidUp
from ...core.ground.estimate import OWN_FIGURE
from ...core.job.job import Job, Layer
from ...core.plan.result import Sketch
from ...core.shop.adhesive import adhesive_table
from ...core.shop.shop import Shop
from ...core.wood.sheets import sheet_table
from ...drawing.sheet_drawing import sheet_svg
from ..figures import Drawing, FigureRow, Figures, Item, Note, Words, grid
from ..forms.fields import Choices, Field, of, of_job, wood_choices
from .base import BoardView, Look, StagePage, cautions

PULLS: Choices = (("one_end", "from one end"), ("both_ends", "from both ends"))
RUNS_ON: Choices = (("wood", "dry wood"), ("film", "film or wax"))
PRESSES: Choices = (("clamps", "clamps"), ("vacuum", "vacuum"), ("band", "a band"))
FIELDS = (
    of_job(
        "build_up.lay_up",
        "Lay-up",
        choices=(("equal", "equal laminae"), ("layers", "layer by layer")),
        look="pills",
    ),
    of_job("build_up.press", "Pressed by", choices=PRESSES, look="pills"),
    of_job("build_up.gauge_kpa", "Gauge reads", "as its dial has it: kPa, inHg, mbar or bar"),
    of_job("build_up.band_kn", "Band tension", "a ratchet band holds about 2.5 kN, 560 lbf"),
    of_job("build_up.band_pull", "The band is pulled", choices=PULLS, look="pills"),
    of_job("build_up.band_on", "The band runs on", choices=RUNS_ON, look="pills"),
    Field("build_up.laminae", "Laminae", "rung", look="ladder"),
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
        of(Layer, "thickness_mm", f"Thickness of layer {n}", "thick"),
        of(Layer, "material", f"Layer {n} is", choices=made_of),
        of(Layer, "grain", f"Grain of layer {n}", choices=along),
        of(Layer, "bent_radius_mm", f"Layer {n} bent before to", "flat"),
    )
    at = f"build_up.layers.{i}."
    return tuple(Field(at + f.name, f.label, f.kind, f.hint, f.choices, f.look, f.may_be_empty) for f in made)


def _items(look: Look) -> list[Item]:
    if look.drawn is None or look.drawn.laid_up is None:
        return []
    w, laid_up = look.words, look.drawn.laid_up
    made: list[Item] = [_springback(look.drawn, laid_up, w)]
    opens = look.drawn.bend.opens
    if isinstance(opens, Springback):
        made.append(Note(f"Reckoned {opens.basis}."))
    return made


def _notes(look: Look) -> list[Item]:
    if look.drawn is None or look.job.build_up.lay_up == "layers":
        return cautions(look)
    says = (
        "Springback: how far each end opens. Stock: wood sawn over wood kept. "
        "The green rungs bend easily, keep their shape and can be cut here."
    )
    return [Note(says, "hint"), *cautions(look)]


def _views(look: Look) -> list[BoardView]:
    """The lay-up on its form; its layers one by one, the layers of a ring, the sheets they come out of."""
    plan, w = look.plan, look.words
    made = [BoardView("board", "The lay-up")]
    if plan is None or plan.laid_up is None:
        return made
    laid_up = plan.laid_up
    if look.job.build_up.lay_up == "layers":
        rows = [
            (x.material, w.length(x.thickness_mm), w.percent(x.use_of_strain), w.length(x.cut_length_mm))
            for x in laid_up.laminae
        ]
        layers = grid("Layers, from the inside out", ("layer", "thick", "uses", "cut to"), rows)
        made.append(BoardView("layers", "Its layers", Markup(""), (layers,)))
    if laid_up.ring:
        made.append(BoardView("ring", "Layers of the ring", Markup(""), tuple(_ring(laid_up, w))))
    if laid_up.sheets:
        drawn = tuple(Drawing(Markup(sheet_svg(c, look.unit))) for c in laid_up.sheets)
        made.append(BoardView("sheets", "Out of sheets", Markup(""), drawn))
    return made


def _ring(laid_up: LaidUp, w: Words) -> list[Item]:
    rows = [
        (str(x.number), w.length(x.cut_length_mm), w.angle(x.joint_deg), w.length(x.opens_mm)) for x in laid_up.ring
    ]
    says = (
        "The last column: a hoop of the layers so far, taken off before it is closed. "
        "Cut each layer a little long and fit its joint on the drum."
    )
    return [
        grid("Layers of the ring", ("layer", "cut to", "joint at", "open, its ends gape"), rows),
        Note(says, "hint"),
    ]


def _springback(drawn: Sketch, laid_up: LaidUp, w: Words) -> Figures:
    opens, forces, press = drawn.bend.opens, laid_up.forces, laid_up.press
    rows: list[FigureRow] = []
    if isinstance(opens, Springback):
        rows += [
            w.row("share of the bend lost", opens.loss_share, w.percent(opens.loss_share.likely)),
            w.row("your bends over mechanics", opens.loss_ratio, w.band(opens.loss_ratio, 2)),
            w.row("ends settle in weeks", opens.settling_tip_mm, w.about(opens.settling_tip_mm.value)),
        ]
    else:
        rows.append(FigureRow("glued all round", "cannot open", "physics"))
    rows += [
        w.row("bending moment on the form", forces.holding_moment_nmm, w.moment(forces.holding_moment_nmm.value)),
        w.row("pull at each end", forces.lever_pull_n, w.force(forces.lever_pull_n.value)),
    ]
    if press.pressure_mpa:
        rows.append(w.row("pressure, at the least", press.pressure_mpa, w.pressure(press.pressure_mpa.value)))
    if press.left_kn:
        left = f"{w.force(press.left_kn.value * 1000)} after {press.turns_deg:.0f}°"
        rows.append(w.row("pull at the far end of the band", press.left_kn, left))
    if press.open_end_mm and press.open_end_gap_mm:
        rows.append(w.row("not pressed at each end", press.open_end_mm, w.about(press.open_end_mm.value)))
        rows.append(
            w.row("the tip stands off the form by", press.open_end_gap_mm, w.about(press.open_end_gap_mm.value))
        )
    return Figures("Springback", tuple(rows))


def _extra(look: Look) -> dict[str, Any]:
    w = look.words
    rungs = [
        {
            "rung": r,
            "value": f"{r.laminae}{f'@{r.lamina_mm:g}' if r.lamina_mm else ''}",
            "count": r.laminae - 1 if r.lamina_mm else r.laminae,
            "thick": w.bare(r.thickness_mm),
            "last": w.bare(r.last_mm) if r.lamina_mm else "",
            "use": w.percent(r.use_of_strain),
            "tip": w.bare(r.tip_mm),
            "stock": f"{w.number(r.stock_times)} ×",
        }
        for r in (look.plan.ladder if look.plan else ())
    ]
    return {"rungs": rungs, "glue_grade": OWN_FIGURE}


PAGE = StagePage(fields=_fields, items=_items, notes=_notes, extra=_extra, views=_views)
