"""The guided first bend: what each stage decides, and what good looks like, in two sentences."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.common.stages import StageRow

FACT = "guided"  # the job that is being led through, among the facts of the store
SAYS: dict[str, tuple[str, str]] = {
    "shape": (
        "Enter the curve you want and the size of the finished piece. Drag the handles or type.",
        "Good: the face you measured is the face chosen, and the drawing looks like the part you have in mind.",
    ),
    "way": (
        "Choose how to bend it: glued strips, steam, or a hot iron.",
        "Good: the chosen method says OK, and you have or can borrow what it needs.",
    ),
    "stock": (
        "Enter the wood you have and how dry it is. Both decide how far it bends and how much it springs back.",
        "Good: straight grain along the whole strip, no knots in the bend, and a spare or two.",
    ),
    "build_up": (
        "Choose the number of strips: thin strips bend easily and spring back little, thick strips save sawing.",
        "Good: a green row in the strip options, and a glue that leaves time to spread it all.",
    ),
    "bend": (
        "Check that this wood can make the bend, and how to bend it around the form.",
        "Good: well under 100 % of the bending limit, tight end stops on a strap, and a pull you can hold.",
    ),
    "steam": (
        "Set the steam time and the steam box. Never seal it; the vent stays open.",
        "Good: heated through before it comes out, water for the whole batch, and box to clamp within the working "
        "time.",
    ),
    "form": (
        "Build the form. Springback is already included, so it is bent tighter than the finished piece.",
        "Good: stiff, square, waxed, and the check bar on the printed sheets measures right.",
    ),
    "prepare": (
        "Rip the strips and number them in the order they come off the saw.",
        "Good: straight strips of one thickness, one spare for each piece, all in order.",
    ),
    "press": (
        "Do a dry run of the glue-up: every line must be clamped before the glue skins.",
        "Good: well inside the open time, clamps snug from the middle out, squeeze-out all along.",
    ),
    "dry": (
        "Keep it in shape until it is dry. Taken off too early it keeps springing back for days.",
        "Good: both ends held, air on all sides, and patience.",
    ),
    "days": (
        "See when each step happens. Put the job on the shop's schedule and mark steps done as you go.",
        "Good: glue and heat started early in the day, no heat left unattended, clamps free when you need them.",
    ),
    "moves": (
        "Practice the steps from box to last clamp with a cold piece, until they fit the working time.",
        "Good: well inside the working time, and your helper can say what comes next.",
    ),
    "bench": (
        "Do a dry run or a practice run once, then start. The page says what to do now and records what happened.",
        "Good: everything laid out, gloves on, the tablet where you can read it.",
    ),
    "measure": (
        "Take the piece off, let it rest an hour, and enter its chord and rise. The next prediction uses it.",
        "Good: measured on the face you chose, as exactly as you can, and again a week later.",
    ),
}


@dataclass(frozen=True)
class Guide:
    """Where a maker stands in the guided bend."""

    number: int
    count: int
    decides: str
    good: str
    is_last: bool


def guide_at(stage: str, rows: tuple[StageRow, ...]) -> Guide:
    """What is said at a stage of the guided job."""
    at = [row.key for row in rows].index(stage)
    decides, good = SAYS[stage]
    return Guide(at + 1, len(rows), decides, good, at + 1 == len(rows))
