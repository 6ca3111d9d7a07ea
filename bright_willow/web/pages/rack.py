"""The rack: boards in lots, and the woods of the shop with its own figures for them."""

from __future__ import annotations

import re
from dataclasses import replace

from fastapi import APIRouter, Request
from fastapi.responses import Response
from markupsafe import Markup

from ...core.wood.lot import DRYNESS, FLAWS, Lot
from ...core.wood.sheets import SHEET_KINDS
from ...core.wood.species import OWN_FIGURES, OwnWood, species_table, wood_table
from ...drawing.run_out import run_out_svg
from ...services.rack_lists import form_lines, lot_lines, lot_record
from ...services.summaries import refresh_for_page
from ...store.records import Page
from ...store.store import Store
from ..common import (
    Id,
    IdOrNew,
    Number,
    go_to,
    page,
    planned,
    store_of,
    typed_in,
)
from ..forms.fields import GROUP, Field, wood_choices
from ..forms.form_spec import FieldView, FormSpec

router = APIRouter(include_in_schema=False)
LOT_FIELDS = (
    Field("name", "Name of the lot", "text", "as written on the boards"),
    Field("species", "Species", "choice"),
    Field("thickness_mm", "Thickness", "length"),
    Field("width_mm", "Width", "length"),
    Field("length_mm", "Length", "length"),
    Field("count", "Boards", "count"),
    Field("dryness", "Dryness", "choice", choices=tuple(DRYNESS.items())),
    Field("moisture_pct", "Moisture, %", "number", "if measured", may_be_empty=True),
    Field("rise_mm", "Grain run-out: rise", "length"),
    Field("run_mm", "in a run of", "length"),
    Field("figured", "Figured", "yes_no"),
    Field("flaws", "Knots, checks", "choice", choices=tuple(FLAWS.items())),
    Field("note", "Note", "text"),
)
STARTING_LOT = Lot(name="New lot", species="ash_white", thickness_mm=52, width_mm=180, length_mm=2400)
FIGURE_WORDS = {
    "sg12": ("Specific gravity at 12 %", ""),
    "moe_gpa": ("Stiffness along the grain, GPa", "bend a stick and measure it, or use a table"),
    "mor_mpa": ("Bending strength, MPa", ""),
    "crush_mpa": ("Crushing strength, MPa", ""),
    "steam_unbroken_pct": ("Steamed pieces that did not break, %", ""),
    "rt_strap": ("Least radius ÷ thickness, with strap", ""),
    "rt_free": ("Least radius ÷ thickness, no strap", ""),
}
WOOD_FIELDS = (
    Field("name", "Name", "text"),
    Field("kind", "Kind", "choice", choices=(("hardwood", "hardwood"), ("softwood", "softwood"))),
    *(Field(key, label, "number", hint, may_be_empty=True) for key, (label, hint) in FIGURE_WORDS.items()),
    Field("note", "Note", "text"),
)


def _lot_fields(woods: tuple[OwnWood, ...]) -> tuple[Field, ...]:
    """The fields of a lot, with the woods it may be of."""
    return tuple(replace(f, choices=wood_choices(woods)) if f.name == "species" else f for f in LOT_FIELDS)


@router.get("/rack")
def rack(request: Request, at: Number = 1) -> Response:
    store = store_of(request)
    with store.connected():
        refresh_for_page(store)
        pages = Page(at, store.forms.count())
        shop, lines, forms = store.shop_settings.get(), lot_lines(store), form_lines(store, store.forms.page(pages))
        damaged, old = store.rack.damaged_lots(), store.summaries.outdated_count()
    woods = wood_table(shop.woods)
    own = [(w, woods[w.key], w.key in species_table()) for w in shop.woods]
    choices = tuple(
        (key, name)
        for key, name in wood_choices()
        if key not in {w.key for w in shop.woods} and not key.startswith(GROUP)
    )
    return page(
        "rack.html",
        request,
        lots=lines,
        forms=forms,
        pages=pages,
        damaged=damaged,
        old=old,
        own=own,
        sheets=shop.sheets,
        sheet_kinds=SHEET_KINDS,
        correct=FieldView(Field("key", "Correct", "choice", choices=choices), "", prefix="w"),
        words=FIGURE_WORDS,
        unit=shop.rule,
        here="rack",
    )


def _lot_page(
    request: Request, store: Store, lot: Lot, lot_id: int, typed: dict[str, str], faults: dict[str, str]
) -> Response:
    shop = store.shop_settings.get()
    inputs = FormSpec(_lot_fields(shop.woods)).inputs(shop.units, lot.model_dump(), typed, faults)
    drawing = Markup(run_out_svg(rise_mm=lot.rise_mm or 12.0, run_mm=lot.run_mm, unit=shop.rule))
    return page(
        "lot.html",
        request,
        422 if faults else 200,
        inputs=inputs,
        lot_id=lot_id,
        lot=lot,
        drawing=drawing,
        line=next((x for x in lot_lines(store) if x.id == lot_id), None),
        record=lot_record(store, lot).message if lot_id else "",
        unit=shop.rule,
        here="rack",
    )


@router.get("/rack/lots/{lot_id}")
def lot_page(request: Request, lot_id: IdOrNew) -> Response:
    """A lot to look at and change; 0 is a new one."""
    store = store_of(request)
    with store.connected():
        lot = store.rack.lot(lot_id).lot if lot_id else STARTING_LOT
        return _lot_page(request, store, lot, lot_id, {}, {})


@router.post("/rack/lots/{lot_id}")
async def keep_lot(request: Request, lot_id: IdOrNew) -> Response:
    return await planned(request, _keep_lot, request, lot_id, await typed_in(request))


def _keep_lot(request: Request, lot_id: int, typed: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        shop = store.shop_settings.get()
        lot = store.rack.lot(lot_id).lot if lot_id else STARTING_LOT
        made, faults = FormSpec(_lot_fields(shop.woods)).read_document(Lot, lot.model_dump(), typed, shop.units)
        if made is not None and store.rack.save(made, lot_id or None) is None:
            faults["name"] = "Another lot has that name; use a different one."
        if faults or made is None:
            return _lot_page(request, store, lot, lot_id, typed, faults)
    return go_to("/rack")


@router.post("/rack/lots/{lot_id}/remove")
def remove_lot(request: Request, lot_id: Id) -> Response:
    store = store_of(request)
    with store.connected():
        store.rack.remove(lot_id)
    return go_to("/rack")


def _wood_page(request: Request, store: Store, key: str, typed: dict[str, str], faults: dict[str, str]) -> Response:
    shop = store.shop_settings.get()
    own = next((w for w in shop.woods if w.key == key), None)
    published = species_table().get(key)
    values = own.model_dump() if own else dict.fromkeys((f.name for f in WOOD_FIELDS), None) | {"kind": "hardwood"}
    fields = tuple(f for f in WOOD_FIELDS if not (published and f.name in ("name", "kind")))
    return page(
        "wood.html",
        request,
        422 if faults else 200,
        inputs=FormSpec(fields).inputs(shop.units, values, typed, faults),
        published=published,
        figures={name: getattr(published, name) for name in OWN_FIGURES} if published else {},
        key=key,
        own=own,
        unit=shop.rule,
        here="rack",
    )


@router.get("/rack/woods")
def wood_page(request: Request, key: str = "") -> Response:
    """A wood of the table to correct, or a new one."""
    store = store_of(request)
    with store.connected():
        return _wood_page(request, store, key[:60], {}, {})


@router.post("/rack/woods")
async def keep_wood(request: Request, key: str = "") -> Response:
    """Keep the shop's own figures; all left empty takes them away again."""
    return await planned(request, _keep_wood, request, key[:60], await typed_in(request))


def _keep_wood(request: Request, key: str, typed: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        shop = store.shop_settings.get()
        own = next((w for w in shop.woods if w.key == key), None)
        name = typed.get("name", "").strip()
        made_key = key or re.sub(r"[^a-z0-9]+", "_", name.lower()).strip("_")[:60] or "wood"
        others = tuple(w for w in shop.woods if w.key != made_key)
        faults: dict[str, str] = {}
        if not key and (made_key in species_table() or any(w.key == made_key for w in shop.woods)):
            faults["name"] = "There is a wood of that name already: correct that one."
        empty = {**dict.fromkeys((f.name for f in WOOD_FIELDS), None), "name": "", "note": "", "kind": "hardwood"}
        before = {**empty, **(own.model_dump() if own else {}), "key": made_key}
        fields = tuple(f for f in WOOD_FIELDS if f.name in typed)
        made, found = FormSpec(fields).read_document(OwnWood, before, typed, shop.units)
        faults = {**found, **faults}
        if faults or made is None:
            return _wood_page(request, store, key, typed, faults)
        is_empty = made_key in species_table() and all(getattr(made, n) is None for n in OWN_FIGURES) and not made.note
        kept = others if is_empty else (*others, made)
        store.shop_settings.save(shop.model_copy(update={"woods": kept}))
    return go_to("/rack#woods")


@router.post("/rack/woods/remove")
def remove_wood(request: Request, key: str) -> Response:
    """Take the shop's own figures for a wood away; the published ones stand again."""
    store = store_of(request)
    with store.connected():
        shop = store.shop_settings.get()
        store.shop_settings.save(shop.model_copy(update={"woods": tuple(w for w in shop.woods if w.key != key)}))
    return go_to("/rack#woods")
