"""What is done for a glue-up: from the boards to the measured piece."""

from __future__ import annotations

from dataclasses import replace

from ...checks import cautions as caution
from ...common.amounts import format_glue, format_spread
from ...common.operation import After, Move, Operation, ResourceHold, in_order
from ...common.units import format_length
from ...form.construction import FormSketch
from ...gluing.glue_timing import GlueTiming
from ...gluing.mix import parts_of
from ...job.job import Job
from ...shop.shop import Shop
from ...shop.times import Times
from ...stock.side_by_side import SideBySide, abreast
from ...workpiece.bend import Bend
from ...workpiece.glue_up import GluedUp, glued_up
from ...workpiece.workpiece import GluedLayup
from ..layers import VENEER_MM
from .closing_steps import batch_key, close_form, closing_moves, holding, under_pressure
from .joining_leaves import join_leaves
from .shared_steps import HOUR_S, dry_run, finish, look_over, people_needed

SAWN_FACES = 2  # of every strip that are planed or sanded


def gluing(
    job: Job, shop: Shop, bend: Bend, make: GluedLayup, form: FormSketch, *, before: tuple[Operation, ...] = ()
) -> tuple[Operation, ...]:
    """Every operation of a glue-up, in order; `before` stands between the numbered strips and the dry run."""
    strips = preparing(job, shop, bend, make) if not before else ()
    last = before[-1].key if before else strips[-1].key
    with_what = "every clamp in hand" if make.press.kind == "clamps" else "the press"
    own = glued_up(job, shop, bend, make, form)
    glued = _glue_up(job, shop, own, make, form)
    cured = next(o.key for o in reversed(glued) if o.kind == "cure")  # what is left of the hours runs from there
    people = people_needed(own.hands, lasts_s=own.race.lasts_s, may_last_s=own.race.press_by_s)
    setting = dry_run(shop, last, with_what=with_what, people=people)
    return in_order(
        (
            *before,
            *strips,
            setting,
            *glued,
            *finish(
                job,
                shop,
                bend,
                after=(
                    After("saw_apart" if abreast(job, shop).as_ == "wide" else "release"),
                    After(cured, max(0.0, make.planed_h - make.press_h) * HOUR_S),
                ),
                cleaned=True,
            ),
        )
    )


def preparing(job: Job, shop: Shop, bend: Bend, make: GluedLayup) -> tuple[Operation, ...]:
    """From boards and sheets to strips in their order."""
    lies, pieces = abreast(job, shop), job.part.count + job.part.spares
    sheets = {c.sheet.name for c in make.sheets}
    sawn = sum(
        1 for x in make.laminae if x.thickness_mm >= VENEER_MM and x.material.removesuffix(", across") not in sheets
    )
    strips, every = lies.strips(sawn, pieces), lies.strips(len(make.laminae), pieces)
    longest = max(lamina.cut_length_mm for lamina in make.laminae)
    long, wide = (format_length(v, shop.rule) for v in (longest, lies.strip_wide_mm))
    made = [look_over(job, shop)]
    if strips:
        made += _sawing(shop, make, strips, longest, f"{wide} × {long}")
    if every > strips:
        kinds = "; ".join(f"{c.layers} of {c.sheet.name.lower()}" for c in make.sheets) or "as listed"
        made.append(
            Operation(
                key="cut_sheets",
                kind="cut_sheets",
                name="Cut the plies from sheets",
                scope="job",
                attended_s=Times(shop).of(cut_sheet=every - strips),
                after=(After(made[-1].key),),
                steps=(f"For each piece {kinds}, {wide} × {long}.",),
            )
        )
    if make.veneers:
        made.append(join_leaves(shop, make.veneers, after=made[-1].key))
    made.append(
        Operation(
            key="number",
            kind="number",
            name="Number them and keep their order",
            scope="job",
            attended_s=Times(shop).of(number_strip=every),
            after=(After(made[-1].key),),
            steps=(
                "From the inside out, in the order they were sawn, so the grain matches.",
                "Draw a V across their edges near the left end, as on the form, so each goes on the same way around.",
            ),
        )
    )
    return tuple(made)


def _sawing(shop: Shop, make: GluedLayup, strips: int, length_mm: float, size: str) -> tuple[Operation, ...]:
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
            takes=(ResourceHold("saw"),),
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


def _glue_up(job: Job, shop: Shop, own: GluedUp, make: GluedLayup, form: FormSketch) -> tuple[Operation, ...]:
    """Mix, spread, load, cure and release, piece by piece; from spreading to pressure nothing may wait.

    Glued up in several batches of strips, each is mixed, spread, pressed and cured before the next; in place every
    strip is glued and pinned before the next, and all cure together.
    """
    lies = abreast(job, shop)
    if own.strip_by_strip:
        made = _in_place(job, shop, make, form, lies, own)
    else:
        made, after = list[Operation](), "dry_run"
        for n, lines in enumerate(own.lines):
            made += _batch(job, shop, make, form, lies, own, lines=lines, n=n, after=after)
            after = made[-1].key
    if lies.pieces == 1:
        return tuple(made)
    together = tuple(replace(o, scope="batch") for o in made)
    return (*together, _sawn_apart(shop, lies)) if lies.as_ == "wide" else together


def _batch(
    job: Job,
    shop: Shop,
    make: GluedLayup,
    form: FormSketch,
    lies: SideBySide,
    own: GluedUp,
    *,
    lines: int,
    n: int,
    after: str,
) -> list[Operation]:
    """One batch of strips, from mixing until it is off the form, or the press is open for the next.

    Args:
        job, shop, make, form: what is glued up, where, and on what.
        lies: how pieces lie on the form.
        own: the times of the glue-up.
        lines: glue lines in this batch.
        n: which batch it is, from 0.
        after: the operation it waits for.
    """
    race, last = own.race_of(lines), n == len(own.lines) - 1
    return [
        _mix(job, shop, make, lies, own.share_of(lines), key=batch_key("mix", n), after=after),
        _spread(job, shop, make, own, lines, race, key=batch_key("spread", n), after=batch_key("mix", n)),
        close_form(job, shop, make, form, own, race, n=n),
        *under_pressure(shop, make, n=n, is_last=last),
    ]


def _mix(job: Job, shop: Shop, make: GluedLayup, lies: SideBySide, share: float, *, key: str, after: str) -> Operation:
    glue = make.glue
    return Operation(
        key=key,
        kind="mix",
        name="Mix the glue",
        scope="piece",
        attended_s=Times(shop).of(mix=1),
        after=(After(after),),
        steps=mixing(job, shop, make, lies, share),
        lay_out=("scale, pot, roller or brush", "film or wax on every face that glue can reach"),
        record=("temperature", "time"),
        cautions=(f"{glue.name}: {glue.caution}.", "Gloves with glue; mask with dust."),
    )


def _spread(
    job: Job, shop: Shop, make: GluedLayup, own: GluedUp, lines: int, race: GlueTiming, *, key: str, after: str
) -> Operation:
    glue, tape = make.glue, job.build_up.tape_after
    return Operation(
        key=key,
        kind="spread",
        name="Spread and stack",
        scope="piece",
        attended_s=Times(shop).of(spread_m2=own.spread_m2(lines), lay_on=lines),
        hands=own.hands,
        after=(After(after, 0.0, 0.0),),
        steps=(
            f"{lines} glue lines, {format_spread(glue.spread_g_m2, shop.units)}.",
            f"Open time {glue.open_min:.0f} min.",
            *(
                (f"Tape and no glue between ply {tape} and {tape + 1}: two pieces that fit each other.",)
                if tape
                else ()
            ),
        ),
        record=("time the first line was spread",),
        meanwhile="being spread and stacked",
        moves=tuple(
            Move(f"Spread line {b.line} and lay the next on", "all", b.spread_s, b.covered_s) for b in race.bars
        ),
    )


def _in_place(
    job: Job, shop: Shop, make: GluedLayup, form: FormSketch, lies: SideBySide, own: GluedUp
) -> list[Operation]:
    """Against a finished part: each strip is glued and fixed before the next goes on; then all cure together."""
    lines = job.build_up.glue_lines
    fixes = "the press" if make.press.kind != "clamps" else f"{form.clamps} pins or clamps"
    strips = Operation(
        key="spread",
        kind="spread",
        name="Glue, pin, next strip",
        scope="piece",
        attended_s=Times(shop).of(
            spread_m2=own.spread_m2(lines), lay_on=lines, set_stack=1, **closing_moves(make, form, lines / own.hands)
        ),
        hands=own.hands,
        takes=(ResourceHold("form"), *holding(make, form)),
        after=(After("mix", 0.0, 0.0),),
        steps=(
            "Strip by strip from the finished part outward: glue it, lay it on, fix it, then the next.",
            f"Fix each strip with {fixes}, from the middle outward. The next goes on at once.",
            f"{own.race.closed_s / 60:.0f} min from glue to fixing; about {own.race.lasts_s / 60:.0f} planned.",
        ),
        record=("time the last strip was fixed",),
        meanwhile="going on strip by strip",
        cautions=("Bent strips store force: keep clear of the ends while you fix them.",),
    )
    cure, release = under_pressure(shop, make, n=0, is_last=True)
    return [
        _mix(job, shop, make, lies, 1.0, key="mix", after="dry_run"),
        strips,
        replace(cure, after=(After("spread", 0.0, 0.0),)),
        release,
    ]


def mixing(job: Job, shop: Shop, make: GluedLayup, lies: SideBySide, share: float) -> tuple[str, ...]:
    """What is mixed for one batch of strips, part by part where the data sheet's ratio is known. share: of the lines of
    a stack that are in this batch, above 0, up to 1."""
    mass, choice = share * make.glue_g.value / lies.goes, job.glue_up
    go = "one piece" if lies.pieces == 1 else f"{lies.pieces} pieces at once"
    message = [f"{format_glue(mass, shop.units)} of {make.glue.name.lower()} for {go}."]
    if make.glue.parts == 2 and choice.by_weight:
        resin, hardener = parts_of(mass, choice.by_weight)
        both = format_glue(resin, shop.units), format_glue(hardener, shop.units)
        message.append(f"{both[0]} of resin and {both[1]} of hardener, weighed.")
    return tuple(message)


def _sawn_apart(shop: Shop, lies: SideBySide) -> Operation:
    """One wide blank sawn into its pieces."""
    return Operation(
        key="saw_apart",
        kind="saw_apart",
        name="Saw the blank into its pieces",
        scope="batch",
        attended_s=Times(shop).of(saw_apart=lies.pieces - 1),
        takes=(ResourceHold("saw"),),
        frees=("saw",),
        after=(After("release"),),
        steps=(
            f"Joint one edge first, then rip {lies.pieces} pieces, one every "
            f"{format_length(lies.pitch_mm, shop.rule)}.",
        ),
        cautions=(
            "Push block and splitter. A bent piece rolls: hold it hollow side down in a jig, never by hand alone.",
        ),
    )
