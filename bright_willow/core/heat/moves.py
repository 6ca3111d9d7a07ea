"""The moves between the heat and the last clamp: who does what, and how long each takes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..job.heat_choice import Heat

INTO_STRAP_S = 10.0  # a hot piece between the stops of its strap. Grade: allowance.


@dataclass(frozen=True, slots=True)
class Move:
    """One move: an imperative, whose it is, seconds from the door opening to its beginning and its end.

    Grade: allowance; a rehearsal gives this shop's own.
    """

    says: str
    who: str
    from_s: float
    to_s: float


def moves_of(heat: Heat, *, has_strap: bool) -> tuple[Move, ...]:
    """Every move from the door to the last clamp: so many seconds to the form, into the strap, and so many clamps,
    shared by the hands there are. Source: docs/model.md#steam. Grade: allowance.

    >>> [m.to_s for m in moves_of(Heat(hands=2, carry_s=5, clamp_s=8, moves=3), has_strap=True)]
    [5.0, 15.0, 19.0, 23.0, 27.0]
    """
    helped = heat.hands > 1
    opens, holds = ("you; helper opens and closes", "you; helper holds it") if helped else ("you", "you")
    made = [("Out of the heat and over to the form", opens, heat.carry_s)]
    if has_strap:
        made.append(("Into the strap, hard against both stops", holds, INTO_STRAP_S))
    for i in range(heat.moves):
        says = f"Pull it round and clamp, {i + 1} of {heat.moves}" if heat.moves > 1 else "Pull it round and clamp"
        made.append((says, "you pull, helper clamps" if helped else "you", heat.clamp_s / heat.hands))
    return _one_after_another(made)


def timed(rows: Sequence[tuple[str, float]]) -> tuple[Move, ...]:
    """Moves of one pair of hands, one after another: what is done, and how long it takes, s."""
    return _one_after_another([(says, "you", lasts) for says, lasts in rows])


def _one_after_another(rows: Sequence[tuple[str, str, float]]) -> tuple[Move, ...]:
    at, moves = 0.0, list[Move]()
    for says, who, lasts in rows:
        moves.append(Move(says, who, at, at + lasts))
        at += lasts
    return tuple(moves)
