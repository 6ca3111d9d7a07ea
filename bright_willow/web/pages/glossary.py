"""The glossary: every trade term on one page, to be searched."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response

from ...core.common.glossary import terms_with
from ..common import page, store_of
from ..forms.fields import Field
from ..forms.form_spec import FieldView

router = APIRouter(include_in_schema=False)
FIND = Field("find", "Find a term", "search", example="find a term")


@router.get("/glossary")
def show(request: Request, find: Annotated[str, Query(max_length=100)] = "") -> Response:
    """Show the terms that hold what is looked for."""
    store = store_of(request)
    with store.connected():
        unit = store.shop_settings.get().rule
    return page(
        "glossary.html", request, terms=terms_with(find), find=find, finding=FieldView(FIND, find), unit=unit, here=""
    )
