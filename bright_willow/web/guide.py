"""The guided first bend: what each stage decides, and what good looks like, in two sentences."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.ground.stages import StageRow
from ..core.job.job import BuildUp, Job, Part, Stock
from ..core.shape.kinds.arc_by_chord import ArcByChord

FACT = "guided"  # the job that is being led through, among the facts of the store
SAYS: dict[str, tuple[str, str]] = {
    "shape": (
        "Say what curve you want and how big the finished piece is; drag the handles or type.",
        "Good: the face you measured is the one chosen, and the drawing looks like the thing in your head.",
    ),
    "way": (
        "Choose how it is bent: glued up of thin strips, steamed, or over a hot iron.",
        "Good: the chosen line says fit, and what it takes is what you have or can borrow.",
    ),
    "stock": (
        "Say which wood you have and how dry it is; both decide how far it bends and how far it springs back.",
        "Good: straight grain along the whole strip, no knots in the bend, and a spare or two.",
    ),
    "build_up": (
        "Choose how many strips, and so how thin: thin bends easily and springs back little, thick saves sawing.",
        "Good: a green rung of the ladder, and a glue that leaves you time to spread it all.",
    ),
    "bend": (
        "See whether this stock takes the curve, and how it is pulled round.",
        "Good: use of the limit well under 100 %, tight stops where there is a strap, and a pull you can hold.",
    ),
    "steam": (
        "Set how long it is steamed and in what chamber; nothing is ever sealed, the vent stays open.",
        "Good: hot through before it comes out, water for the whole load, and less time to the form than it leaves.",
    ),
    "form": (
        "Build the form: springback is in its face already, so it is bent further than the piece you want.",
        "Good: stiff, square, waxed, and the printed sheets measure true by their check bar.",
    ),
    "prepare": (
        "Saw the strips and number them in the order they come off the saw.",
        "Good: straight strips of one thickness, one in reserve for each piece, and their order kept.",
    ),
    "press": (
        "Rehearse the glue-up: every line must be under pressure before the glue skins.",
        "Good: well inside what the glue stands, clamps snug from the middle out, squeeze-out all along.",
    ),
    "dry": (
        "Keep it in shape until it is dry; off too early it goes on opening for days.",
        "Good: both ends held, air on all sides, and patience.",
    ),
    "days": (
        "See when each thing happens; put the job in the shop's week and say what is done as you go.",
        "Good: glue and heat begun early in the day, nothing left alone that may not be, clamps free when wanted.",
    ),
    "moves": (
        "Go through what is done between the heat and the last clamp, cold, until it fits the time there is.",
        "Good: well inside the window, and whoever helps can say what comes next.",
    ),
    "bench": (
        "Rehearse it or play the day once, then start: the page says what to do now, and writes down what happened.",
        "Good: everything laid out, gloves on, the tablet where you can read it.",
    ),
    "measure": (
        "Take the piece off, let it rest, and write down its chord and rise: the next plan will know.",
        "Good: measured on the face that is named, to half a millimetre, and again a week later.",
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


def first_bend() -> Job:
    """What the guided bend starts from: a gentle bow that forgives much, and is soon glued up."""
    return Job(
        name="My first bend",
        shape=ArcByChord(kind="arc_by_chord", face="inner", chord_mm=600, rise_mm=120),
        part=Part(thickness_mm=15, width_mm=30, count=1, spares=1, trim_mm=40),
        stock=Stock(species="ash_white", dryness="kiln_dried"),
        build_up=BuildUp(laminae=5, adhesive="uf_liquid"),
    )
