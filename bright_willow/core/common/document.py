"""The base of every stored document."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

# What the code calls a message, a reason and a fix. Files, the database and the API have called them "says", "because"
# and "try_" since the first version, and go on doing so.
Message = Annotated[str, Field(alias="says")]
Reason = Annotated[str, Field(alias="because")]
BY_FIX = Field(alias="try_")
Length = Annotated[float, Field(allow_inf_nan=False)]


class Document(BaseModel):
    """Nothing unknown in it, nothing half valid, nothing changed in place."""

    model_config = ConfigDict(extra="forbid", frozen=True, strict=True, allow_inf_nan=False)
