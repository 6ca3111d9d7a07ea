"""The work of making a form, from its template to closing it empty, and what to buy for it."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

from ...checks import cautions as caution
from ...common.amounts import BOLT, format_area, format_glue, format_run
from ...common.estimate import Estimate, Grade
from ...common.fineness import format_sold
from ...common.operation import NO_TIME, After, Operation, in_order
from ...common.units import format_force, format_length
from ...form.carcase import nest_of
from ...form.construction import FormBuild
from ...form.drum_stand import AXLE_MM
from ...form.kinds import KINDS
from ...form.parts import FormPart, length_mm
from ...shop.times import Times
from .shared_steps import HOUR_S

PREFIX = "form_"  # of the keys of all operations of making a form
READY = frozenset({"dry_run", "set_up"})  # operations that need the form beside those that take it
OUTSIDE_MM = 3.0  # of the line, that the first piece is sawn. Grade: allowance.
STACK_CURES_H, SKIN_CURES_H, SEALER_DRIES_H = 2.0, 4.0, 1.0  # Grade: allowance.
SCREWS_PER_SPACER, SCREWS_PER_EDGE = 4, 2  # two at either end; at each rib along the platform. Grade: allowance.
SCREWS_PER_BRACKET = 4
TAPE_WIDE_MM = 48.0
AXLE_BEYOND_MM = 120.0  # of an axle beyond the drum at each side: upright, handle and play
GLUE_G_M2 = 180.0  # of wood glue between two layers of a stack. Grade: allowance.


@dataclass(frozen=True, slots=True)
class FormMaterial:
    """Something to buy for a form: what it is, and how much of it in the words of the shop's unit."""

    name: str
    amount: str
    grade: Grade = "allowance"


@dataclass(frozen=True)
class FormWork:
    """Making the forms of a job. operations: in order, each once for the job; none where no form is made."""

    operations: tuple[Operation, ...] = ()
    materials: tuple[FormMaterial, ...] = ()

    @property
    def attended_s(self) -> float:
        """Seconds with hands on it, likely."""
        return sum(o.attended_s.likely for o in self.operations)

    @property
    def lasts_s(self) -> float:
        """Seconds from the first cut to the form that is ready, glue and sealer included, likely."""
        return sum(o.lasts_s for o in self.operations)


def is_form_work(key: str) -> bool:
    """Whether an operation makes the form."""
    return key.startswith(PREFIX)


def form_work(build: FormBuild, forms: int) -> FormWork:
    """Return the work of making so many forms. forms: 1 or more; the template is laid on once for all of them.

    Grade: allowance, the shop's own times where it has some.
    """
    site = build.sketch.site
    if site.kind == "in_place" or build.problem:
        return FormWork()
    if site.kind == "posts":
        return FormWork(in_order(_chained(_brackets(build, forms))), _bracket_materials(build, forms))
    if not build.parts:
        return FormWork()
    return FormWork(in_order(_chained(_built(build, forms))), tuple(_materials(build, forms)))


def after_form(operations: tuple[Operation, ...], work: FormWork) -> tuple[Operation, ...]:
    """Return a job's operations with the work of its form before the first that needs it.

    What prepares the wood waits for nothing: it is done while glue cures or by somebody else.
    """
    if not work.operations:
        return operations
    made = After(work.operations[-1].key)
    needs = [o.key in READY or any(hold.what == "form" for hold in o.takes) for o in operations]
    waiting = (replace(o, after=(*o.after, made)) if n else o for o, n in zip(operations, needs, strict=True))
    return in_order((*work.operations, *waiting))


def _chained(operations: Iterator[Operation]) -> tuple[Operation, ...]:
    """Each after the one before it."""
    chained: list[Operation] = []
    for one in operations:
        chained.append(replace(one, after=(After(chained[-1].key),) if chained else ()))
    return tuple(chained)


def _step(
    build: FormBuild,
    key: str,
    name: str,
    *steps: str,
    cures_h: float = 0.0,
    lay_out: tuple[str, ...] = (),
    record: tuple[str, ...] = (),
    cautions: tuple[str, ...] = (),
    **moves: float,
) -> Operation:
    """One operation of making the form.

    Args:
        build: the form.
        key, name: of the operation.
        steps: what is done, in sentences.
        cures_h: how long it is left after that, hours.
        lay_out, record, cautions: as of any operation.
        moves: how many of each move of the table of times.
    """
    left = Estimate(cures_h * HOUR_S, cures_h * HOUR_S, 1.5 * cures_h * HOUR_S, "allowance") if cures_h else NO_TIME
    return Operation(
        key=f"{PREFIX}{key}",
        kind="make_form",
        name=name,
        scope="job",
        attended_s=Times(build.sketch.site.shop).of(**moves),
        unattended_s=left,
        may_run_alone=bool(cures_h),
        steps=tuple(s for s in steps if s),
        lay_out=lay_out,
        record=record,
        cautions=cautions,
        meanwhile="the form cures" if cures_h else "",
    )


def _carrying(build: FormBuild) -> list[FormPart]:
    """The parts that carry a face."""
    return [p for p in build.parts if p.end_mm > 0]


def _built(build: FormBuild, forms: int) -> Iterator[Operation]:
    """A form of sheets or of a block: cut, faired, copied, put together, closed empty."""
    yield from _cut(build, forms)
    yield from _joined(build, forms)
    yield from _held_down(build, forms)
    yield from _finished(build, forms)


def _cut(build: FormBuild, forms: int) -> Iterator[Operation]:
    """The first piece to the line, and its copies."""
    unit, own = build.sketch.site.shop.rule, _carrying(build)
    outline_m = sum(length_mm(p.outline) + sum(map(length_mm, p.hollows)) for p in own) / 1000
    copies, holes = sum(p.count * forms - 1 for p in own), sum(len(p.holes) for p in own)
    yield _step(
        build,
        "template",
        "Lay the template on",
        "Print the full-size sheets, check the 100 mm bar, and join them by their marks.",
        f"Fix them to the first piece of the {' and of the '.join(p.name for p in own)}.",
        lay_out=("full-size sheets, tape, spray glue or pins",),
        lay_template=sum(not p.is_hold_down for p in own) + any(p.is_hold_down for p in own),
    )
    yield _step(
        build,
        "first",
        "Cut the first piece of the form",
        f"Saw {format_length(OUTSIDE_MM, unit)} outside the line.",
        f"Drill the {holes} holes." if holes else "",
        cautions=(caution.FORM_AT_SAW,),
        saw_curve_metre=outline_m,
        drill_hole=holes,
    )
    yield _step(
        build,
        "fair",
        "Fair it to the line",
        "Plane or sand to the line, square to the face. Bend a batten along it and feel for bumps.",
        "It is the pattern for all the others: every bump in it goes into every piece.",
        lay_out=("thin batten, sanding block, square",),
        fair_metre=_face_m(build),
    )
    if copies:
        yield _step(
            build,
            "copy",
            "Make the copy" if copies == 1 else f"Make the {copies} copies",
            "Draw around the pattern, saw close to the line, fix it on, and run a router with a bearing along it.",
            "Mark one side of all of them, so that they are stacked the same way around.",
            "Drill the holes through those of the pattern." if holes else "",
            lay_out=("router with a bearing-guided bit, double-sided tape",),
            cautions=(caution.ROUTER,),
            saw_curve_metre=copies * outline_m / len(own),
            route_metre=copies * outline_m / len(own),
            drill_hole=copies * holes / len(own),
        )


def _face_m(build: FormBuild) -> float:
    """Length of all faces of one form, m."""
    return sum(length_mm(p.face_edge) for p in _carrying(build)) / 1000


def _held_down(build: FormBuild, forms: int) -> Iterator[Operation]:
    """The cleat that holds the start of a bend, and the stand a round form turns on."""
    sketch, unit = build.sketch, build.sketch.site.shop.rule
    start, stand = sketch.start_hold, sketch.stand
    if start and start.kind == "cleat":
        yield _step(
            build,
            "cleat",
            "Bolt form and cleat to the base board",
            f"Leave {format_length(start.slot_mm, unit)} between face and cleat: strip, strap, and a thin wedge.",
            f"{start.bolts} bolts through the cleat. Ease its edge where the strip comes out.",
            lay_out=("base board, bolts, a piece of the strip to set the slot by",),
            drill_hole=2 * start.bolts * forms,
            set_bracket=forms,
        )
    if stand:
        yield _step(
            build,
            "stand",
            "Set it on its axle",
            f"Axle {format_length(stand.axle_mm, unit)} above the base; the drum must turn without rubbing.",
            f"Fix the handle: {format_length(stand.handle_mm, unit)} from axle to grip.",
            f"About {format_force(stand.hand_n, sketch.site.shop.units)} at the grip turns it.",
            lay_out=("round bar for the axle, two pins or collars", "clamps to hold the base down"),
            cautions=(caution.DRUM,),
            drill_hole=4 * forms,
            set_bracket=2 * forms,
            screw=8 * forms,
        )


def _finished(build: FormBuild, forms: int) -> Iterator[Operation]:
    """What makes the body a form that glue lets go of, and that is known to close."""
    site, unit = build.sketch.site, build.sketch.site.shop.rule
    yield _step(
        build,
        "seal",
        "Seal the face and tape it",
        "Seal every face the glue can reach, let it dry, then wax it or cover it with tape or film.",
        cures_h=SEALER_DRIES_H,
        lay_out=("sealer, wax, tape or film",),
        cautions=(caution.SEALER,),
        seal_m2=forms * _face_m(build) * site.stack_mm / 1000,
    )
    if KINDS[site.kind].has_opposite:
        stack = site.part.thickness_mm + 2 * site.choice.liner_mm + site.caul_mm
        yield _step(
            build,
            "test_close",
            "Close it empty on spacers",
            f"Set spacers {format_length(stack, unit)} thick between the halves at five places and close it.",
            "Every gap must be that wide. Where it pinches, plane the outer half.",
            lay_out=(f"five spacers {format_length(stack, unit)} thick, feeler strips",),
            record=("where it pinches",),
            test_close=forms,
        )


def _joined(build: FormBuild, forms: int) -> Iterator[Operation]:
    """How the cut pieces become one body."""
    sketch, site = build.sketch, build.sketch.site
    own, kind = _carrying(build), sketch.build
    if kind == "stack" and sketch.layers > 1:
        layers = forms * sum(p.count - 1 for p in own)
        bolts = f"Put its {build.bolts} bolts through and tighten them." if build.bolts else "Clamp it all over."
        yield _step(
            build,
            "stack",
            "Glue up the stack",
            "Glue layer on layer against a flat face, marked sides up, the joints of pieced layers apart.",
            bolts,
            "Square the face across the stack once it is hard.",
            cures_h=STACK_CURES_H,
            lay_out=("wood glue, roller, clamps",),
            glue_layer=layers,
        )
    if kind in ("ribs", "sawn_sides"):
        spacers, slats = (forms * _count(build, word) for word in ("spacers", "slats"))
        yield _step(
            build,
            "carcase",
            "Screw ribs, spacers and platform together",
            "Pocket screws through the spacers into the ribs; a straight strip across all ribs keeps them square.",
            lay_out=("pocket screws, square, straight strip",),
            screw=forms * _screws(build) - 2 * slats,
            set_spacer=spacers,
        )
        if kind == "sawn_sides":
            yield _step(
                build,
                "slats",
                "Fix the slats",
                "Side by side over both sides, square to them, screwed or glued.",
                screw=2 * slats,
                set_spacer=slats,
            )
        else:
            in_bag = site.shop.owned.get("bag", 0) > 0
            yield _step(
                build,
                "skin",
                "Glue the skin on in the bag" if in_bag else "Glue the skin on",
                "From the middle outward, glue on every rib; "
                + ("close the bag over it." if in_bag else "straps or bands over it, screws at the ends."),
                cures_h=SKIN_CURES_H,
                lay_out=("wood glue", "bag" if in_bag else "straps or bands"),
                skin_m2=forms * _face_m(build) * site.stack_mm / 1000,
            )
            yield _step(
                build,
                "trim",
                "Trim the skin",
                "Flush with the outer ribs and square at both ends.",
                cautions=(caution.ROUTER,),
                route_metre=2 * forms * _face_m(build),
            )


def _count(build: FormBuild, word: str) -> int:
    """How many parts of one form are called so: spacers, slats."""
    return sum(p.count for p in build.parts if p.name.startswith(word))


def _screws(build: FormBuild) -> int:
    """Screws of one form: at both ends of every spacer, along the platform, two at each end of a slat."""
    ribs = sum(p.count for p in _carrying(build) if not p.is_hold_down)
    on_platform = SCREWS_PER_EDGE * ribs if any(p.name.startswith("platform") for p in build.parts) else 0
    return SCREWS_PER_SPACER * _count(build, "spacers") + 2 * _count(build, "slats") + on_platform


def _materials(build: FormBuild, forms: int) -> Iterator[FormMaterial]:
    """What to buy, thickness by thickness; screws and bolts; glue, sealer and tape."""
    sketch, site = build.sketch, build.sketch.site
    unit, own = site.shop.rule, _carrying(build)
    if sketch.build == "solid":
        for part in build.parts:
            size = " × ".join(format_length(v, unit) for v in (part.width_mm, part.height_mm, part.thickness_mm))
            name = part.name if part.role == "stand" else f"block for the {part.name}"
            yield FormMaterial(name, f"{part.count * forms} of {size}", "physics")
    for thick in sorted({p.thickness_mm for p in build.parts}, reverse=True):
        parts = tuple(replace(p, count=p.count * forms) for p in build.parts if p.thickness_mm == thick)
        nest = nest_of(site, parts)
        if nest:
            long, short = (format_sold(v, unit) for v in (nest.sheet_long_mm, nest.sheet_short_mm))
            name = f"sheet {format_sold(thick, unit)} thick"
            yield FormMaterial(name, f"{nest.sheets} of {long} × {short}", "physics")
    if build.bolts:
        amount = (
            f"{build.bolts * forms}, at least {format_length(build.bolt_length_mm, unit)} long, with nuts and washers"
        )
        yield FormMaterial(f"bolts {BOLT[unit]}", amount)
    if sketch.stand:
        bar = site.stack_mm + 2 * (site.choice.sheet_mm + AXLE_BEYOND_MM)
        yield FormMaterial(f"round bar {format_sold(AXLE_MM, unit)} thick", f"{forms} of {format_length(bar, unit)}")
    if screws := _screws(build) if sketch.build in ("ribs", "sawn_sides") else 0:
        yield FormMaterial("pocket screws", str(screws * forms))
    face_m = forms * _face_m(build)
    if sketch.build == "stack" and sketch.layers > 1:
        glued_m2 = forms * sum((p.count - 1) * p.wood_mm2 for p in own) * 1e-6
        yield FormMaterial("wood glue", format_glue(glued_m2 * GLUE_G_M2, unit))
    if sketch.build == "ribs":  # the skin lies on the edge of every rib
        edges_m2 = forms * sum(p.count * length_mm(p.face_edge) * p.thickness_mm for p in own) * 1e-6
        yield FormMaterial("wood glue", format_glue(edges_m2 * GLUE_G_M2, unit))
    tape_m = face_m * math.ceil(site.stack_mm / TAPE_WIDE_MM)
    yield FormMaterial(f"release tape {format_length(TAPE_WIDE_MM, unit)} wide, or film", format_run(tape_m, unit))
    yield FormMaterial("sealer and wax", f"for {format_area(max(0.1, face_m * site.stack_mm / 1000), unit)}")


def _brackets(build: FormBuild, forms: int) -> Iterator[Operation]:
    posts = len(build.sketch.posts) * forms
    yield _step(
        build,
        "template",
        "Lay the full-size sheet on the table",
        "Print the full-size sheets, check the 100 mm bar, and join them by their marks.",
        lay_out=("full-size sheets, tape, film over them",),
        lay_template=forms,
    )
    yield _step(
        build,
        "brackets",
        f"Fix {posts} brackets along the line",
        "Each at its number, square to the table, its face on the line. Lay a batten along all of them and look.",
        lay_out=("brackets, screws, square, batten",),
        set_bracket=posts,
    )


def _bracket_materials(build: FormBuild, forms: int) -> tuple[FormMaterial, ...]:
    posts = len(build.sketch.posts) * forms
    return (
        FormMaterial("brackets", str(posts), "physics"),
        FormMaterial("screws", str(SCREWS_PER_BRACKET * posts)),
    )
