"""What there is to say about the glue-up: whether every line is under pressure in time."""

from __future__ import annotations

from ..bend.glue_up import glued_up
from ..bend.makes import LaidUp
from ..ground.findings import Finding
from .at import At

LOST = 1.0


def race_is_won(at: At[LaidUp]) -> Finding | None:
    """Whether the glue waits longer than it stands."""
    made = glued_up(at.job, at.shop, at.bend, at.make, at.form)
    if not made.is_tight:
        return None
    race = made.race
    return Finding(
        "press.race",
        "stop" if race.share > LOST else "watch",
        "press",
        f"The glue waits {race.share:.0%} of what it stands before there is pressure on it.",
        f"It takes {race.lasts_s / 60:.0f} min to pressure; covered it stands {race.closed_s / 60:.0f} min at "
        f"{at.temperature(made.temperature_c)}.",
        made.clears[0].change if made.clears else None,
    )
