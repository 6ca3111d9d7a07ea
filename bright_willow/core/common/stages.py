"""The one table of stages: what each is called, where it leads, and which ways of bending have it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

# Of a bending method: glued up of layers, bent with heat, that heat steam, bent to a form, dried in shape afterwards.
Trait = Literal["laid_up", "hot", "steamed", "to_form", "dries"]
EVERY: frozenset[Trait] = frozenset(("laid_up", "hot", "steamed", "to_form", "dries"))


@dataclass(frozen=True, slots=True)
class StageRow:
    """A stage: its key in files, its name, its name in addresses, what to do in it, which methods have it.

    is_done_by: what settles it besides being settled by hand: a form that is built, pieces that are measured.
    """

    key: str
    name: str
    path: str
    next_text: str
    of: frozenset[Trait] = EVERY
    is_done_by: Literal["hand", "form", "pieces"] = "hand"


STAGES: dict[str, StageRow] = {
    s.key: s
    for s in (
        StageRow("shape", "Shape", "shape", "set the shape"),
        StageRow("way", "Method", "method", "choose the method"),
        StageRow("stock", "Wood", "wood", "choose the wood"),
        StageRow("build_up", "Layup", "layup", "choose the strips", frozenset(("laid_up",))),
        StageRow("bend", "Bend", "bend", "check the bend", frozenset(("hot",))),
        StageRow("steam", "Steam", "steam", "set the steam time", frozenset(("steamed",))),
        StageRow("form", "Form", "form", "print the form", frozenset(("to_form",)), is_done_by="form"),
        StageRow("prepare", "Cut list", "cut-list", "cut the wood"),
        StageRow("moves", "Bending steps", "bending-steps", "practice the steps", frozenset(("hot",))),
        StageRow("press", "Glue-up", "glue-up", "do a dry run", frozenset(("laid_up",))),
        StageRow("dry", "Drying", "drying", "plan the drying", frozenset(("dries",))),
        StageRow("days", "Schedule", "schedule", "put it on the schedule"),
        StageRow("bench", "Bench", "bench", "go to the bench"),
        StageRow("measure", "Measure", "measure", "measure the parts", is_done_by="pieces"),
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
