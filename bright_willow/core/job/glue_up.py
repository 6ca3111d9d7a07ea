"""What the maker decides about the glue-up: hands, spreader, in how many goes. Part of the Job document."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ..ground.document import Document


class GlueUp(Document):
    """People at the glue-up, what the glue is spread with, and in how many goes the stack is glued."""

    hands: int = Field(default=2, ge=1, le=8)
    spread_by: Literal["roller", "brush"] = "roller"
    goes: int = Field(default=1, ge=1, le=6)
