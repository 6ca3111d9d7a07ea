"""What the maker decides about heat: steam, chamber, strap, iron, and the way to the form. Part of the Job document."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from ..common.document import Document, Length

EARLY_H = 2.0  # what "taken off early" of earlier versions stands for
BlankLength = Annotated[Length, Field(ge=50, le=20_000)]
SchoolName = Literal["hour_per_inch", "heat_through", "own_trials"]


class Heat(Document):
    """Choices for bending hot. Lengths mm, times minutes or hours, temperatures °C.

    start_share: how much of the bend the piece has already (a bend that missed and is steamed again), 0 for straight.
    backing: of thin stock bent by hand, a belt or sheet-metal strip pulled tight on its outside, without stops.
    in_bag: bent little by little inside a steam bag, where the chamber is one.
    own_inside_*: the steam box there is; all three or none. strap_length_mm: of a strap there is already.
    on_form_h: hours a steamed piece stays on the form; clamps_h: hours a straightened one stays in its clamps.
    held_by: what holds a steamed piece in shape while it dries; dry_jig: whether one bent over dry heat is held too.
    preload_mm: how much longer than the strap a blank is, so that it is arched in tight; blanks_mm: as measured.
    banded: strips that are steamed before they are glued go in as one pack, not one by one.
    """

    chamber_c: float = Field(default=98.0, ge=85, le=102, allow_inf_nan=False)
    school: SchoolName = "heat_through"
    soak_min: float = Field(default=10.0, ge=0, le=600, allow_inf_nan=False)
    own_min: float = Field(default=60.0, ge=1, le=1_440, allow_inf_nan=False)
    soaked: Literal["none", "overnight", "days"] = "none"
    held_by: Literal["frame", "tie", "strip", "disc", "none"] = "frame"
    dry_jig: bool = False
    banded: bool = True
    start_share: float = Field(default=0.0, ge=0, le=3, allow_inf_nan=False)
    at_once: int = Field(default=1, ge=1, le=50)
    hands: int = Field(default=2, ge=1, le=8)
    carry_s: float = Field(default=5.0, ge=0, le=600, allow_inf_nan=False)
    clamp_s: float = Field(default=8.0, ge=0, le=600, allow_inf_nan=False)
    moves: int = Field(default=3, ge=1, le=40)
    forms: int = Field(default=1, ge=1, le=50)
    on_form_h: float = Field(default=24.0, gt=0, le=2_000, allow_inf_nan=False)
    clamps_h: float = Field(default=3.0, gt=0, le=2_000, allow_inf_nan=False)
    climate: Literal["warm", "ordinary", "damp"] = "ordinary"
    wall: str = Field(default="plywood", max_length=40)
    power_kw: float = Field(default=2.0, gt=0, le=60, allow_inf_nan=False)
    reservoir_l: float = Field(default=5.0, gt=0, le=500, allow_inf_nan=False)
    own_inside_high_mm: Length | None = Field(default=None, ge=10, le=3_000)
    own_inside_wide_mm: Length | None = Field(default=None, ge=10, le=3_000)
    own_inside_long_mm: Length | None = Field(default=None, ge=50, le=20_000)
    backing: Literal["none", "by_hand"] = "none"
    in_bag: bool = False
    strap_mm: Length = Field(default=1.5, ge=0.3, le=10)
    strap_width_mm: Length | None = Field(default=None, ge=5, le=1_000)
    strap_length_mm: Length | None = Field(default=None, ge=50, le=20_000)
    preload_mm: Length = Field(default=0.0, ge=0, le=20)
    blanks_mm: tuple[BlankLength, ...] = Field(default=(), max_length=60, strict=False)
    strap_of: Literal["mild_steel", "stainless", "taped"] = "mild_steel"
    stop: Literal["welded", "bolted", "clamps"] = "welded"
    stop_clamp: Literal["f_clamp", "parallel", "g_clamp", "pipe"] = "g_clamp"
    stop_clamps: int = Field(default=2, ge=1, le=20)
    lever_mm: Length = Field(default=600.0, ge=50, le=10_000)
    ratio: float = Field(default=1.0, ge=1, le=2_000, allow_inf_nan=False)
    iron_c: float = Field(default=165.0, ge=100, le=260, allow_inf_nan=False)
    span_mm: Length = Field(default=600.0, ge=50, le=10_000)

    @model_validator(mode="before")
    @classmethod
    def early_means_two_hours(cls, data: Any) -> Any:
        """Jobs of earlier versions said only that a piece came off early; that means two hours on the form."""
        if not isinstance(data, dict) or "early" not in data:
            return data
        rest = {key: value for key, value in data.items() if key != "early"}
        return rest | {"on_form_h": EARLY_H} if data["early"] is True else rest
