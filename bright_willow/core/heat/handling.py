"""The moves between the heat and the last clamp: who does what, and how long each takes."""

from __future__ import annotations

from collections.abc import Sequence

from ..common.operation import Move
from ..job.heat_choice import Heat

Row = tuple[str, str, float, str, float]


def moves_of(heat: Heat, *, strap_s: float | None) -> tuple[Move, ...]:
    """Every move from the door to the last clamp: so many seconds to the form, strap_s into the strap, where there is
    one, and so many clamps, shared by the hands there are. Source: docs/model.md#steam. Grade: allowance.

    >>> [m.to_s for m in moves_of(Heat(hands=2, carry_s=5, clamp_s=8, moves=3), strap_s=10.0)]
    [5.0, 15.0, 19.0, 23.0, 27.0]
    """
    helped = heat.hands > 1
    opens, holds = ("you; helper opens and closes", "you; helper holds it") if helped else ("you", "you")
    made: list[Row] = [("Out of the box and over to the form", opens, heat.carry_s, "heat.carry_s", 1.0)]
    if strap_s is not None:
        made.append(("Into the strap, tight against both stops", holds, strap_s, "times.into_strap", 1.0))
    for i in range(heat.moves):
        message = (
            f"Bend around the form and clamp, {i + 1} of {heat.moves}"
            if heat.moves > 1
            else "Bend around the form and clamp"
        )
        made.append(
            (
                message,
                "you pull, helper clamps" if helped else "you",
                heat.clamp_s / heat.hands,
                "heat.clamp_s",
                heat.hands,
            )
        )
    return one_after_another(made)


def timed(rows: Sequence[tuple[str, float]]) -> tuple[Move, ...]:
    """Moves of one pair of hands, one after another: what is done, and how long it takes, s."""
    return one_after_another([(message, "you", lasts, "", 1.0) for message, lasts in rows])


def one_after_another(rows: Sequence[Row]) -> tuple[Move, ...]:
    """Moves from what is said, who, seconds, the figure it gives when timed, and how much of that a second is."""
    at, moves = 0.0, list[Move]()
    for message, who, lasts, sets, times in rows:
        moves.append(Move(message, who, at, at + lasts, sets, times))
        at += lasts
    return tuple(moves)
