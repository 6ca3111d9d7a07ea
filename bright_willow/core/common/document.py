"""The base of every stored document."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

Length = Annotated[float, Field(allow_inf_nan=False)]


class Document(BaseModel):
    """Nothing unknown in it, nothing half valid, nothing changed in place."""

    model_config = ConfigDict(extra="forbid", frozen=True, strict=True, allow_inf_nan=False)
