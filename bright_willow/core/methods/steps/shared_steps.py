"""Operations that several ways share, made the same for all of them."""

from __future__ import annotations

from dataclasses import replace

from ...checks import cautions as caution
from ...common.estimate import Estimate
from ...common.fineness import format_estimate
from ...common.operation import After, AttendedTime, CheckedOn, Operation
from ...common.units import format_length
from ...job.job import Job
from ...shop.shop import Shop
from ...shop.times import Times
from ...workpiece.bend import Bend, Springback
from .after_clamps import edge_work

HOUR_S, DAY_S, MINUTE_S = 3600.0, 86_400.0, 60.0
KEPT_HOT_S = 3600.0  # a chamber or iron is kept hot for what comes within it, rather than let out. Grade: allowance.
AGAIN_AFTER_DAYS = 7.0  # that a piece is measured once more. Grade: allowance.


def exactly(seconds: float) -> AttendedTime:
    """A time that is waited, not worked."""
    return AttendedTime(seconds, seconds, seconds, "allowance")


def cooling(name: str, hours: float, *steps: str, after: str = "bend") -> Operation:
    """Hot wood cools where it is held, with somebody by."""
    return Operation(
        key="cool",
        kind="cool",
        name=name,
        scope="batch",
        attended_s=exactly(0.0),
        unattended_s=exactly(hours * HOUR_S),
        after=(After(after, 0.0, 0.0),),
        steps=steps,
        cautions=(caution.BENT,),
        meanwhile="cooling on the form",
    )


CHECKED_ON: dict[CheckedOn, str] = {
    "sheet": "Lay it on the full-size sheet, center mark on center mark.",
    "straightedge": "Lay it along a straightedge or a taut string, middle to middle.",
    "form": "Hold it against the form, center mark on center mark.",
}


WORDS_ON: dict[CheckedOn, str] = {
    "sheet": "the full-size sheet",
    "straightedge": "the straightedge",
    "form": "the form",
}


def check_and_ease(shop: Shop, *, on: CheckedOn, after: After, cautions: tuple[str, ...] = ()) -> Operation:
    """Checked while it can still be changed, and eased or tightened until it is within what is allowed."""
    return Operation(
        key="ease",
        kind="ease",
        name="Check the bend and ease it",
        scope="batch",
        attended_s=Times(shop).of(ease=1),
        after=(after,),
        steps=(
            CHECKED_ON[on],
            "Enter the gaps on the bench page: it says where to ease or tighten, and how far.",
            "Check again, until every gap is within what you allow.",
        ),
        lay_out=("rule",) if on == "form" else (f"{WORDS_ON[on]}, rule",),
        record=("gaps at four places",),
        cautions=cautions,
        checked_on=on,
    )


def look_over(job: Job, shop: Shop) -> Operation:
    """Boards are inspected one by one before any is cut."""
    lot = f"Lot: {job.stock.lot.name}." if job.stock.lot else "Choose straight-grained boards."
    return Operation(
        key="look_over",
        kind="look_over",
        name="Inspect the boards",
        scope="job",
        attended_s=Times(shop).of(look_over=1),
        steps=(
            lot,
            "Reject knots, checks and pith in the bend, and run-out steeper than 1 in 12.",
            *_rejected(job),
        ),
        record=("boards rejected, and why",),
    )


def _rejected(job: Job) -> tuple[str, ...]:
    """Which boards were rejected already, in a sentence."""
    numbers = sorted(b.board for b in job.prepare.inspected if b.verdict == "reject")
    return (f"Rejected: board{'s' if len(numbers) > 1 else ''} {', '.join(map(str, numbers))}.",) if numbers else ()


def inspecting(boards: int, operations: tuple[Operation, ...], shop: Shop) -> tuple[Operation, ...]:
    """Operations with the time it takes to inspect so many boards."""
    takes = Times(shop).of(look_over=boards)
    return tuple(replace(o, attended_s=takes) if o.key == "look_over" else o for o in operations)


def people_needed(hands: int, *, lasts_s: float, may_last_s: float) -> int:
    """People a dry run takes: all who are planned where one alone could run out of time, else one.

    hands: people planned, who take lasts_s; may_last_s: the time there is. Source: docs/model.md#pressing (one
    alone takes at most as many times as long). Grade: allowance.

    >>> people_needed(2, lasts_s=40.0, may_last_s=60.0), people_needed(2, lasts_s=25.0, may_last_s=60.0)
    (2, 1)
    """
    return hands if hands * lasts_s > may_last_s else 1


def dry_run(shop: Shop, after: str, *, with_what: str, people: int) -> Operation:
    """Everything once, with nothing wet or hot, by as many people as it will take."""
    return Operation(
        key="dry_run",
        kind="dry_run",
        name="Dry run",
        scope="job",
        attended_s=Times(shop).of(dry_run=1),
        hands=people,
        after=(After(after),),
        steps=(f"Go through every step with {with_what} and time it.",),
        record=("seconds it took",),
    )


CUT_SAYS = {
    "square": " square",
    "on_line": " along the line through both ends",
    "mitred": " {mitre} off square, the {longer} face the longer",
    "long": "",
}


def finish(job: Job, shop: Shop, bend: Bend, *, after: tuple[After, ...], cleaned: bool) -> tuple[Operation, ...]:
    """Clean up, trim, measure, and measure again: the same at the end of every way."""
    made: list[Operation] = []
    if cleaned:
        edges = edge_work(job, shop, bend.blank)
        made.append(
            Operation(
                key="clean_up",
                kind="clean_up",
                name="Scrape and bring to width",
                scope="piece",
                attended_s=Times(shop).of(clean_up=1),
                after=after,
                steps=edges.steps,
                lay_out=edges.lay_out,
                cautions=edges.cautions,
            )
        )
        after = (After("clean_up"),)
    cuts = trimming(job, shop, bend)
    if cuts:
        made.append(
            Operation(
                key="trim",
                kind="trim",
                name="Trim the ends",
                scope="piece",
                attended_s=Times(shop).of(trim=1),
                after=after,
                steps=cuts,
            )
        )
        after = (After("trim"),)
    return (*made, *_measured(shop, bend, after))


def trimming(job: Job, shop: Shop, bend: Bend) -> tuple[str, ...]:
    """What is cut off each end, and how; nothing where both are left as they are."""
    part, (left, right) = job.part_as_drawn, bend.trims_mm
    ends = (("left", left, part.left_cut, part.left_mitre_deg), ("right", right, part.right_cut, part.right_mitre_deg))
    if left == right > 0 and part.left_cut == part.right_cut == "square":
        return (f"Cut {format_length(left, shop.rule)} off each end, at the marks of the story stick.",)
    message = []
    for side, trim, kind, mitre in ends:
        how = CUT_SAYS[kind].format(mitre=f"{abs(mitre):.0f}°", longer="outside" if mitre >= 0 else "inside")
        if kind == "long":
            message.append(f"Leave the {side} end long; cut it to fit.")
        elif trim > 0 or kind != "square":
            message.append(f"Cut the {side} end{how}, at the marks of the story stick.")
    return tuple(message)


def _measured(shop: Shop, bend: Bend, after: tuple[After, ...]) -> tuple[Operation, ...]:
    """Against what is expected, and again a week later."""
    expected: tuple[str, ...] = ()
    if isinstance(bend.opens, Springback):
        ends = [sorted(v) for v in zip(*(c.chord_and_rise_mm() for c in bend.dried), strict=True)]
        chord, rise = (format_estimate(Estimate.around(v, bend.opens.tip_mm.grade), shop.rule) for v in ends)
        expected = (f"On the centerline expect a chord of {chord} and a rise of {rise}.",)
    return (
        Operation(
            key="measure",
            kind="measure",
            name="Measure it and write it down",
            scope="piece",
            attended_s=Times(shop).of(measure=1),
            after=after,
            steps=expected,
            lay_out=("straightedge or string, rule",),
            record=("chord", "rise", "what went wrong"),
        ),
        Operation(
            key="measure_again",
            kind="measure_again",
            name="Measure again",
            scope="piece",
            attended_s=Times(shop).of(measure=1),
            after=(After("measure", AGAIN_AFTER_DAYS * DAY_S),),
            steps=("A week later shows how much it creeps.",),
            record=("chord", "rise"),
        ),
    )
