"""What the maker decides about the glue-up: hands, spreader, goes, data sheet, warmth. Part of the Job document."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ..common.document import Document, Length


class GlueUp(Document):
    """People at the glue-up, what the glue is spread with, in how many goes the stack is glued, and on how many forms.

    temperature_c: where it is spread, none for the shop's. open_min, closed_min, pot_min: of the data sheet, at 20 °C,
    none where the kind's own stand; by_weight, by_volume: its parts of hardener to 100 of resin.
    tent: what keeps it warm while it cures; tent_c: in there; cold_c: wood and form when they go in, none for the
    shop's temperature.
    """

    hands: int = Field(default=2, ge=1, le=8)
    spread_by: Literal["roller", "brush"] = "roller"
    goes: int = Field(default=1, ge=1, le=6)
    forms: int = Field(default=1, ge=1, le=50)
    temperature_c: float | None = Field(default=None, ge=-20, le=50, allow_inf_nan=False)
    open_min: float | None = Field(default=None, gt=0, le=1_440, allow_inf_nan=False)
    closed_min: float | None = Field(default=None, gt=0, le=2_880, allow_inf_nan=False)
    pot_min: float | None = Field(default=None, gt=0, le=2_880, allow_inf_nan=False)
    by_weight: float | None = Field(default=None, gt=0, le=1_000, allow_inf_nan=False)
    by_volume: float | None = Field(default=None, gt=0, le=1_000, allow_inf_nan=False)
    tent: Literal["none", "film", "blankets"] = "none"
    tent_c: float = Field(default=30.0, ge=5, le=60, allow_inf_nan=False)
    cold_c: float | None = Field(default=None, ge=-20, le=50, allow_inf_nan=False)
    tent_mm: Length = Field(default=150.0, ge=20, le=2_000, description="room between work and tent, all around")
