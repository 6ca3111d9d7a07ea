"""The shop's own figures."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import ValidationError

from ...core.ground.errors import OutOfRange
from ...core.job.faults import faults_of
from ...core.shop.shop import Shop
from ...core.shop.times import time_table
from ..common import go_to, page, planned, store_of, typed_in
from ..forms.fields import Field, of
from ..forms.typed import by_field, read_text, shown
from ..views import Input

router = APIRouter(include_in_schema=False)
LONGEST_S = 86_400.0
FIELDS = (
    of(Shop, "name", "Name of the shop"),
    of(Shop, "kerf_mm", "Saw kerf", "what one cut turns to dust"),
    of(Shop, "planing_mm", "Planing", "taken off each lamina, both faces together"),
    of(Shop, "clean_up_mm", "Clean-up of the width", "extra width, planed off after gluing"),
    of(Shop, "thinnest_mm", "Thinnest lamina", "that this shop cuts well"),
    of(Shop, "glue_waste_pct", "Glue left behind, %", "in pot, roller and squeeze-out"),
    of(Shop, "temperature_c", "Temperature where glue cures", "glue cures slower in the cold, or not at all"),
    of(Shop, "thicknesses_mm", "Laminae made or bought ready", "thicknesses, parted by ; (the ladder tries them too)"),
    Field("clamps", "Clamps", "clamps", "how many, which, how wide they open: 12 F-clamp 300; 6 G-clamp 200"),
    of(Shop, "sheet_long_mm", "Sheets for forms, long side"),
    of(Shop, "sheet_short_mm", "Sheets for forms, short side"),
    of(Shop, "altitude_m", "Altitude, m", "above the sea: a vacuum loses with it"),
    of(Shop, "measuring_error_mm", "Measuring error", "of a chord or a rise: how far off one reading may be"),
)
TIMES = tuple(
    Field(f"times.{t.key}", f"{t.name}, s", "number", f"{t.seconds:g} s in the table", may_be_empty=True)
    for t in time_table().values()
)


def _inputs(shop: Shop, typed: dict[str, str], faults: dict[str, str]) -> list[Input]:
    values = shop.model_dump() | {f"times.{t.key}": t.seconds for t in shop.times}
    return [
        Input(f, typed.get(f.name, "") if faults else shown(f, values.get(f.name), shop.units), faults.get(f.name, ""))
        for f in (*FIELDS, *TIMES)
    ]


def _times(shop: Shop, typed: dict[str, str], faults: dict[str, str]) -> list[dict[str, Any]]:
    """The shop's own times: those that are typed; a field left empty goes by the table again."""
    before, made = {f"times.{t.key}": t.seconds for t in shop.times}, []
    for field in TIMES:
        text = typed.get(field.name, shown(field, before.get(field.name), shop.units)).strip()
        if not text:
            continue
        try:
            seconds = float(read_text(field, text, shop.units))
        except OutOfRange as error:
            faults[field.name] = error.says(shop.units)
            continue
        if not 0 <= seconds <= LONGEST_S:
            faults[field.name] = f"From 0 to {LONGEST_S:.0f} seconds, please."
        else:
            made.append({"key": field.name.removeprefix("times."), "seconds": seconds})
    return made


@router.get("/shop")
def show_shop(request: Request, kept: int = 0, brought: int = 0) -> Response:
    return shop_page(request, kept=bool(kept), brought=bool(brought))


def shop_page(
    request: Request, status: int = 200, copy_fault: str = "", *, kept: bool = False, brought: bool = False
) -> Response:
    """The shop's figures, and its copies."""
    store = store_of(request)
    with store.connected():
        shop, damaged = store.shop(), store.shop_damaged()
    return page(
        "shop.html",
        request,
        status,
        inputs=_inputs(shop, {}, {}),
        kept=kept,
        brought=brought,
        copy_fault=copy_fault,
        folder=str(store.path.parent),
        damaged=damaged,
        times_open=bool(shop.times),
        unit=shop.units,
        here="shop",
    )


@router.post("/shop")
async def keep_shop(request: Request) -> Response:
    return await planned(request, _keep_shop, request, await typed_in(request))


def _keep_shop(request: Request, typed: dict[str, str]) -> Response:
    store = store_of(request)
    with store.connected():
        shop = store.shop()
        before, data, faults = shop.model_dump(), shop.model_dump(), {}
        for field in FIELDS:
            text = typed.get(field.name, "")
            if text == shown(field, before[field.name], shop.units):
                continue
            try:
                data[field.name] = read_text(field, text, shop.units)
            except OutOfRange as error:
                faults[field.name] = error.says(shop.units)
        data["times"] = _times(shop, typed, faults)
        try:
            made = Shop.model_validate(data)
        except ValidationError as error:
            for name, says in by_field(faults_of(error, shop.units)).items():
                faults.setdefault(name, says)
        if faults:
            return page(
                "shop.html",
                request,
                422,
                inputs=_inputs(shop, typed, faults),
                kept=False,
                brought=False,
                copy_fault="",
                folder=str(store.path.parent),
                damaged=None,
                times_open=True,
                unit=shop.units,
                here="shop",
            )
        store.save_shop(made)
    return go_to("/shop?kept=1")
