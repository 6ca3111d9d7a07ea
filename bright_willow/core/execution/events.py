"""What happens in a run, one event each: never changed, never removed; taking back is another event."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

KINDS: dict[str, str] = {
    "begin": "begun",
    "done": "done",
    "not": "marked not done",
    "back": "undone",
    "note": "note",
    "count": "counted",
    "broke": "it broke",
    "ease": "checked",
    "photo": "photo",
    "move": "move",
    "again": "started again",
    "speed": "speed",
    "handle": "handled",
    "probe": "a sensor used or not used here",
    "plan": "changed to the current plan",
    "end": "archived",
    "open": "reopened",
}


@dataclass(frozen=True, slots=True)
class Event:
    """at_s: when it happened, by the run's clock; client: its own name, given by whoever saw it: the same twice is one
    event. key, number: which operation of which piece or load (of “broke” the piece). of: the client name of what is
    undone, or what is handled. text, where: words; value: how many, or how fast. source: who told it; wall_s:
    when it was taken in, by the clock on the wall."""

    at_s: float
    kind: str
    client: str
    key: str = ""
    number: int = -1
    text: str = ""
    where: str = ""
    value: float = 0.0
    of: str = ""
    source: str = ""
    wall_s: float = 0.0


def in_order(events: Iterable[Event], from_s: float, to_s: float) -> tuple[list[Event], set[str]]:
    """Events that stand, in the order they happened, each once, and the names of those that were undone.

    What is said to have happened before the start or after now (a clock that jumped) counts as then. Taking back what
    was itself a taking back lets the first stand again.
    """
    once: dict[str, Event] = {}
    for one in events:
        known = once.get(one.client)
        if one.kind in KINDS and (known is None or _rank(one) < _rank(known)):
            once[one.client] = one
    ordered = sorted(once.values(), key=lambda e: (min(max(e.at_s, from_s), to_s), *_rank(e)))
    gone: set[str] = set()
    for one in reversed(ordered):
        if one.kind == "back" and one.client not in gone and one.of != one.client:
            gone.add(one.of)
    stand = (e for e in ordered if e.client not in gone and e.kind != "back")
    return [e if from_s <= e.at_s <= to_s else replace(e, at_s=min(max(e.at_s, from_s), to_s)) for e in stand], gone


def _rank(e: Event) -> tuple[object, ...]:
    """An order of events that does not rest on how they came in."""
    return e.at_s, e.client, e.kind, e.key, e.number, e.text, e.where, e.value, e.of, e.source, e.wall_s
