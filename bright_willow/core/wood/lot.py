"""A lot of boards on the rack: what it is, whether it is fit to bend, and how far its grain runs out."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from pydantic import Field

from ..common.document import Document, Length
from ..common.findings import Level

Dryness = Literal["green", "air_dried", "kiln_dried"]
Flaws = Literal["clear", "small_knots", "knots", "checks"]
DRYNESS: dict[str, str] = {"kiln_dried": "kiln-dried", "air_dried": "air-dried", "green": "green"}
FLAWS: dict[str, str] = {
    "clear": "clear",
    "small_knots": "small knots outside the bend",
    "knots": "knots in the bend",
    "checks": "checks or pith",
}
STEEP = 1 / 12  # run-out that steam benders turn away. Grade: allowance. Source: docs/model.md#wood-quality.
STEEPEST = 1 / 5  # beyond it there is no figure
GLUE_DRY_PCT = 14.0  # wetter wood shrinks away from its glue. Grade: allowance.


class Lot(Document):
    """Boards of one kind, bought or sawn together. Run-out is a rise measured over a run along the grain."""

    name: str = Field(min_length=1, max_length=60, pattern=r"\S")
    species: str = Field(max_length=60)
    thickness_mm: Length = Field(ge=0.3, le=500)
    width_mm: Length = Field(ge=5, le=2_000)
    length_mm: Length = Field(ge=50, le=20_000)
    count: int = Field(default=1, ge=0, le=10_000)
    dryness: Dryness = "kiln_dried"
    moisture_pct: float | None = Field(default=None, ge=0, le=200, allow_inf_nan=False)
    rise_mm: Length = Field(default=0.0, ge=0, le=1_000)
    run_mm: Length = Field(default=300.0, ge=10, le=10_000)
    figured: bool = False
    flaws: Flaws = "clear"
    note: str = Field(default="", max_length=1_000)

    @property
    def grain_slope(self) -> float:
        """Rise of the grain in a run of one. Source: geometry."""
        return self.rise_mm / self.run_mm


@dataclass(frozen=True, slots=True)
class Verdict:
    """Keep, watch or reject, and why."""

    level: Level
    word: Literal["keep", "look twice", "reject"]
    reasons: tuple[str, ...]


def judged(lot: Lot) -> Verdict:
    """Whether a lot should be bent at all. Grade: allowance. Source: docs/model.md#wood-quality."""
    reject, watch = [], []
    if lot.flaws in ("knots", "checks"):
        reject.append({"knots": "Knots in the bend break.", "checks": "Checks and pith open in a bend."}[lot.flaws])
    if lot.grain_slope > STEEPEST:
        reject.append("Its grain run-out is steeper than 1 in 5.")
    elif lot.grain_slope > STEEP:
        watch.append(
            f"Grain run-out 1 in {1 / lot.grain_slope:.0f}: weaker in any bend, and too steep (over 1 in 12) to "
            "steam without a strap."
        )
    if lot.flaws == "small_knots":
        watch.append("Put its small knots where the piece stays straight.")
    if lot.figured:
        watch.append("Figured wood breaks sooner: it is taken as 0.7 of straight grain.")
    if lot.dryness == "green":
        watch.append("Green: good for steam, not for glue.")
    elif lot.moisture_pct is not None and lot.moisture_pct > GLUE_DRY_PCT:
        watch.append(f"At {lot.moisture_pct:g} % it is too wet to glue; 8 to 12 % is right.")
    if reject:
        return Verdict("stop", "reject", tuple(reject + watch))
    return (
        Verdict("watch", "look twice", tuple(watch)) if watch else Verdict("fit", "keep", ("OK: nothing against it.",))
    )
