"""Sheets of the shop's own on the rack: flexible and thin plywood with their least radius and size."""

from __future__ import annotations

import re

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core.wood.sheets import OWN_KEY, SHEET_KINDS, OwnSheet, sheet_table
from ...store.store import Store
from ..common import go_to, page, planned, store_of, typed_in
from ..forms.fields import Field
from ..forms.form_spec import FormSpec

router = APIRouter(include_in_schema=False)
SHEET_FORM = FormSpec(
    (
        Field("name", "Name", "text", "as it is sold or marked"),
        Field("kind", "Kind", "choice", choices=tuple(SHEET_KINDS.items())),
        Field("thickness_mm", "Thickness", "length"),
        Field("min_radius_mm", "Least radius", "length", "the maker's, on the inside of the bend"),
        Field("sheet_long_mm", "Sheet length", "length"),
        Field("sheet_short_mm", "Sheet width", "length"),
        Field("note", "Note", "text"),
    )
)
MOST_KEY = 60
STARTING = {
    "name": "",
    "kind": "flexible",
    "thickness_mm": 5.0,
    "min_radius_mm": 130.0,
    "sheet_long_mm": 2440.0,
    "sheet_short_mm": 1220.0,
    "note": "",
}


def _sheet_page(request: Request, store: Store, key: str, typed: dict[str, str], faults: dict[str, str]) -> Response:
    shop = store.shop_settings.get()
    own = next((s for s in shop.sheets if s.key == key), None)
    return page(
        "sheet_goods.html",
        request,
        422 if faults else 200,
        inputs=SHEET_FORM.inputs(shop.units, own.model_dump() if own else STARTING, typed, faults),
        key=key if own else "",
        own=own,
        unit=shop.rule,
        here="rack",
    )


@router.get("/rack/sheets")
def sheet_page(request: Request, key: str = "") -> Response:
    """A sheet of the shop's own to change, or a new one."""
    store = store_of(request)
    with store.connected():
        return _sheet_page(request, store, key[:MOST_KEY], {}, {})


@router.post("/rack/sheets")
async def save_sheet(request: Request, key: str = "") -> Response:
    return await planned(request, _save_sheet, request, key[:MOST_KEY], await typed_in(request))


def _save_sheet(request: Request, key: str, typed: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        shop = store.shop_settings.get()
        own = next((s for s in shop.sheets if s.key == key), None)
        slug = re.sub(r"[^a-z0-9]+", "_", typed.get("name", "").strip().lower()).strip("_")
        new_key = own.key if own else f"{OWN_KEY}{slug or 'sheet'}"[:MOST_KEY]
        before = {**(own.model_dump() if own else STARTING), "key": new_key}
        made, faults = SHEET_FORM.read_document(OwnSheet, before, typed, shop.units)
        if own is None and new_key in sheet_table(shop.sheets):
            faults["name"] = "There is a sheet of that name already: change that one."
        if made is not None and made.sheet_short_mm > made.sheet_long_mm:
            faults["sheet_short_mm"] = "The width of a sheet is its shorter side."
        if faults or made is None:
            return _sheet_page(request, store, key, typed, faults)
        others = tuple(s for s in shop.sheets if s.key != new_key)
        store.shop_settings.save(shop.model_copy(update={"sheets": (*others, made)}))
    return go_to("/rack#sheets")


@router.post("/rack/sheets/remove")
def remove_sheet(request: Request, key: str) -> Response:
    """Take a sheet of the shop's own away; jobs that name it say so."""
    store = store_of(request)
    with store.connected():
        shop = store.shop_settings.get()
        store.shop_settings.save(shop.model_copy(update={"sheets": tuple(s for s in shop.sheets if s.key != key)}))
    return go_to("/rack#sheets")
