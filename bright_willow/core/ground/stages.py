"""The one table of stages: what each is called, where it leads, and which ways of bending have it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

# Of a bending method: glued up of layers, bent with heat, that heat steam, bent to a form, dried in shape afterwards.
Trait = Literal["laid_up", "hot", "steamed", "to_form", "dries"]
EVERY: frozenset[Trait] = frozenset(("laid_up", "hot", "steamed", "to_form", "dries"))


@dataclass(frozen=True, slots=True)
class StageRow:
    """A stage: its key, its name on the stem, what "on to" says of it, what is said when it comes next, whose it is.

    is_done_by: what settles it besides being settled by hand: a form that is built, pieces that are measured.
    """

    key: str
    name: str
    on_to: str
    next_says: str
    of: frozenset[Trait] = EVERY
    is_done_by: Literal["hand", "form", "pieces"] = "hand"


STAGES: dict[str, StageRow] = {
    s.key: s
    for s in (
        StageRow("shape", "Shape", "the shape", "settle shape"),
        StageRow("way", "Way", "the way", "settle way"),
        StageRow("stock", "Stock", "the stock", "settle stock"),
        StageRow("build_up", "Build-up", "the build-up", "settle build-up", frozenset(("laid_up",))),
        StageRow("bend", "Bend", "the bend", "settle the bend", frozenset(("hot",))),
        StageRow("steam", "Steam", "the steam", "settle the steam", frozenset(("steamed",))),
        StageRow("form", "Form", "the form", "take away the form", frozenset(("to_form",)), is_done_by="form"),
        StageRow("prepare", "Prepare", "preparing", "saw the stock"),
        StageRow("moves", "Moves", "the moves", "go through the moves", frozenset(("hot",))),
        StageRow("press", "Press", "the press", "rehearse the press", frozenset(("laid_up",))),
        StageRow("dry", "Dry", "drying", "see it dry", frozenset(("dries",))),
        StageRow("days", "Days", "the days", "lay it into the days"),
        StageRow("bench", "Bench", "the bench", "go to the bench"),
        StageRow("measure", "Measure", "measuring", "measure what comes off", is_done_by="pieces"),
    )
}


def stages_of(traits: frozenset[Trait]) -> tuple[StageRow, ...]:
    """The stages a way with these traits has, in working order."""
    return tuple(s for s in STAGES.values() if s.of & traits)


def stage_shown(key: str, traits: frozenset[Trait]) -> str:
    """The stage to show when one is asked for: itself, or, where this way has none such, the one in its place.

    >>> stage_shown("build_up", frozenset(("hot",))), stage_shown("steam", frozenset(("laid_up", "to_form")))
    ('bend', 'form')
    """
    own = [s.key for s in stages_of(traits)]
    if key in own:
        return key
    order = list(STAGES)
    return next((k for k in order[order.index(key) :] if k in own), own[-1])
