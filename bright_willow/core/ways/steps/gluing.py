"""What is done for a glue-up: from the boards to the measured piece."""

from __future__ import annotations

from dataclasses import replace

from ...bend.bend import Bend
from ...bend.glue_up import GluedUp, glued_up, moves_of
from ...bend.makes import LaidUp
from ...checks import cautions as caution
from ...form.construction import FormSketch
from ...ground.operation import After, Move, Operation, Taken, Window, in_order
from ...ground.units import format_length, format_pressure
from ...heat.moves import Row, one_after_another
from ...job.job import Job
from ...prepare.abreast import Abreast, abreast
from ...prepare.mix import parts_of
from ...shop.shop import Shop
from ...shop.times import Times
from .common import HOUR_S, dry_run, exactly, finish, look_over

SAWN_FACES = 2  # of every strip that are planed or sanded
VENEER_MM = 1.0  # thinner layers are bought, not sawn


def gluing(
    job: Job, shop: Shop, bend: Bend, make: LaidUp, form: FormSketch, *, before: tuple[Operation, ...] = ()
) -> tuple[Operation, ...]:
    """Every operation of a glue-up, in order; `before` stands between the numbered strips and the dry run."""
    strips = preparing(job, shop, bend, make) if not before else ()
    last = before[-1].key if before else strips[-1].key
    setting = dry_run(shop, last, with_what="every clamp in hand" if make.press.kind == "clamps" else "the press")
    return in_order(
        (
            *before,
            *strips,
            setting,
            *_glue_up(job, shop, bend, make, form),
            *finish(
                job,
                shop,
                bend,
                after=After(
                    "saw_apart" if abreast(job, shop).as_ == "wide" else "release",
                    max(0.0, make.glue.full_cure_h - make.press_h) * HOUR_S,
                ),
                cleaned=True,
            ),
        )
    )


def preparing(job: Job, shop: Shop, bend: Bend, make: LaidUp) -> tuple[Operation, ...]:
    """From boards and sheets to strips in their order."""
    lies, pieces = abreast(job, shop), job.part.count + job.part.spares
    sheets = {c.sheet.name for c in make.sheets}
    sawn = sum(
        1 for x in make.laminae if x.thickness_mm >= VENEER_MM and x.material.removesuffix(", across") not in sheets
    )
    strips, every = lies.strips(sawn, pieces), lies.strips(len(make.laminae), pieces)
    longest = max(lamina.cut_length_mm for lamina in make.laminae)
    long, wide = (format_length(v, shop.rule) for v in (longest, lies.strip_wide_mm))
    made = [look_over(job, shop, 1)]
    if strips:
        made += _sawing(shop, make, strips, longest, f"{wide} × {long}")
    if every > strips:
        kinds = "; ".join(f"{c.layers} of {c.sheet.name.lower()}" for c in make.sheets) or "as listed"
        made.append(
            Operation(
                key="cut_sheets",
                kind="cut_sheets",
                name="Cut the layers out of sheets",
                scope="job",
                attended_s=Times(shop).of(cut_sheet=every - strips),
                after=(After(made[-1].key),),
                steps=(f"For each piece {kinds}, {wide} × {long}.",),
            )
        )
    made.append(
        Operation(
            key="number",
            kind="number",
            name="Number them and keep their order",
            scope="job",
            attended_s=Times(shop).of(number_strip=every),
            after=(After(made[-1].key),),
            steps=(
                "From the inside out, in the order they were sawn, so that the grain stays matched.",
                "A V across their edges near the left end, as on the form: each goes on the same way round.",
            ),
        )
    )
    return tuple(made)


def _sawing(shop: Shop, make: LaidUp, strips: int, length_mm: float, size: str) -> tuple[Operation, ...]:
    """Ripped and planed. size: width and length as they are said."""
    times, metres = Times(shop), strips * length_mm / 1000
    rough = format_length(make.thinnest_sawn_mm + shop.planing_mm, shop.rule)
    return (
        Operation(
            key="rip",
            kind="rip",
            name="Rip the strips",
            scope="job",
            attended_s=times.of(rip_strip=strips, rip_metre=metres),
            takes=(Taken("saw"),),
            frees=("saw",),
            after=(After("look_over"),),
            steps=(f"{strips} strips, {rough} × {size}, rough.",),
            cautions=(caution.gluing(make.glue, make.thinnest_sawn_mm)[0],),
        ),
        Operation(
            key="plane",
            kind="plane",
            name="Plane or sand them",
            scope="job",
            attended_s=times.of(plane_metre=SAWN_FACES * metres),
            after=(After("rip"),),
            steps=(f"To {format_length(make.thinnest_sawn_mm, shop.rule)}, both faces.",),
        ),
    )


def _glue_up(job: Job, shop: Shop, bend: Bend, make: LaidUp, form: FormSketch) -> tuple[Operation, ...]:
    """Mix, spread, load, cure and release, piece by piece; from spreading to pressure nothing may wait."""
    times, glue, lies = Times(shop), make.glue, abreast(job, shop)
    lines, tape = job.build_up.glue_lines, job.build_up.tape_after
    area = lies.wood_mm * bend.blank.length_mm * 1e-6
    own = glued_up(job, shop, bend, make, form)
    made = (
        Operation(
            key="mix",
            kind="mix",
            name="Mix the glue",
            scope="piece",
            attended_s=times.of(mix=1),
            after=(After("dry_run"),),
            steps=mixing(job, make, lies),
            lay_out=("scale, pot, roller or brush", "film or wax on every face that glue can reach"),
            record=("temperature", "time"),
            cautions=(f"{glue.name}: {glue.caution}.", "Gloves with glue; mask with dust."),
        ),
        Operation(
            key="spread",
            kind="spread",
            name="Spread and stack",
            scope="piece",
            attended_s=times.of(spread_m2=lines * area, lay_on=len(make.laminae)),
            after=(After("mix", 0.0, 0.0),),
            steps=(
                f"{lines} glue lines, {glue.spread_g_m2:.0f} g on a square metre.",
                f"It may lie open {glue.open_min:.0f} min.",
                *((f"Tape, and no glue, between layer {tape} and {tape + 1}: two pieces that mate.",) if tape else ()),
            ),
            record=("time the first line was spread",),
            meanwhile="being spread and stacked",
            moves=tuple(
                Move(f"Spread line {b.line} and lay the next on", "all", b.spread_s, b.covered_s) for b in own.race.bars
            ),
        ),
        _close(job, shop, bend, make, form, own),
        *_under_pressure(shop, make),
    )
    if lies.pieces == 1:
        return made
    together = tuple(replace(o, scope="batch") for o in made)
    return (*together, _sawn_apart(shop, lies)) if lies.as_ == "wide" else together


def mixing(job: Job, make: LaidUp, lies: Abreast) -> tuple[str, ...]:
    """What is mixed for one go, part by part where the data sheet's ratio is known."""
    mass, choice = make.glue_g.value / lies.goes, job.glue_up
    go = "one piece" if lies.pieces == 1 else f"{lies.pieces} pieces at once"
    says = [f"{mass:.0f} g of {make.glue.name.lower()} for {go}."]
    if make.glue.parts == 2 and choice.by_weight:
        resin, hardener = parts_of(mass, choice.by_weight)
        says.append(f"{resin:.0f} g of resin and {hardener:.0f} g of hardener, weighed.")
    return tuple(says)


def _sawn_apart(shop: Shop, lies: Abreast) -> Operation:
    """One wide blank sawn into its pieces."""
    return Operation(
        key="saw_apart",
        kind="saw_apart",
        name="Saw the blank into its pieces",
        scope="batch",
        attended_s=Times(shop).of(saw_apart=lies.pieces - 1),
        takes=(Taken("saw"),),
        frees=("saw",),
        after=(After("release"),),
        steps=(
            f"One edge straight first, then {lies.pieces} pieces, one every {format_length(lies.pitch_mm, shop.rule)}.",
        ),
        cautions=("Push block and splitter; a bent piece rolls: hold it hollow side down, and never by hand alone.",),
    )


def _close(job: Job, shop: Shop, bend: Bend, make: LaidUp, form: FormSketch, own: GluedUp) -> Operation:
    """Into the form and under pressure, by the press that was chosen."""
    moves, holds, how = {
        "clamps": (
            {"clamp": form.clamps},
            Taken("clamps", form.clamps),
            f"{form.clamps} clamps from the middle out, all snug before any is tight.",
        ),
        "vacuum": ({"bag": 1}, Taken("bag"), "Bag it without folds, a breather to the port."),
        "band": (
            {"band": 1},
            Taken("clamps", 1, "band"),
            "Lay the band over all of it and tighten from the middle.",
        ),
    }[make.press.kind]
    if make.press.pressure_mpa:
        how += f" It presses with {format_pressure(make.press.pressure_mpa.value, shop.units)}."
    return Operation(
        key="close",
        kind="close",
        name="Into the form, and close it",
        scope="piece",
        attended_s=Times(shop).of(set_stack=1, **moves),
        hands=2,
        takes=(Taken("form"), holds),
        after=(After("spread", 0.0, 0.0),),
        steps=("Middle to the centre mark.", how),
        record=("time it was under pressure",),
        meanwhile="being closed in the form",
        cautions=("Bent strips store force: keep clear of the ends while clamping.",),
        window=Window("the glue stands", "spread", own.race.press_by_s, "allowance"),
        moves=_closing(job, shop, bend, make, form),
    )


def _closing(job: Job, shop: Shop, bend: Bend, make: LaidUp, form: FormSketch) -> tuple[Move, ...]:
    """Setting the stack and closing the press, move by move; hands share the closing."""
    plain, hands = moves_of(job, shop, bend, make, form), job.glue_up.hands
    count = form.clamps if make.press.kind == "clamps" else 1
    key, says = {
        "clamps": ("clamp", f"Close the {count} clamps, from the middle out"),
        "vacuum": ("bag", "Bag it, and draw the air"),
        "band": ("band", "Lay the band on and tighten it"),
    }[make.press.kind]
    rows: list[Row] = [
        ("Set the stack in the form, middle to the mark", "all", plain.set_s, "times.set_stack", 1.0),
        (says, "all", plain.close_s / hands, f"times.{key}", hands / max(1, count)),
    ]
    return one_after_another(rows)


def _under_pressure(shop: Shop, make: LaidUp) -> tuple[Operation, ...]:
    """The cure, and off the form."""
    return (
        Operation(
            key="cure",
            kind="cure",
            name="Leave it under pressure",
            scope="piece",
            attended_s=exactly(0.0),
            unattended_s=exactly((make.warm_h + make.press_h) * HOUR_S),
            may_run_alone=True,
            after=(After("close", 0.0, 0.0),),
            steps=(
                (f"{make.warm_h:.1f} h in the tent until its middle is warm, then {make.press_h:.0f} h.",)
                if make.warm_h
                else (f"{make.press_h:.0f} h at the shop's temperature or above.",)
            ),
            record=("lowest temperature",),
            meanwhile="under pressure",
        ),
        Operation(
            key="release",
            kind="release",
            name="Take it off the form",
            scope="piece",
            attended_s=Times(shop).of(release=1),
            frees=("form", "clamps", "bag"),
            after=(After("cure"),),
            steps=("Loosen from the ends inwards; look for open glue lines.",),
            record=("hours under pressure", "how far it opened"),
        ),
    )
