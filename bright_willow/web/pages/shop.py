"""The shop's own figures."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import ValidationError

from ...core.ground.errors import OutOfRange
from ...core.job.faults import faults_of
from ...core.shop.shop import Shop
from ..common import go_to, page, store_of, typed_in
from ..forms.fields import Field
from ..forms.typed import by_field, read_text, shown
from ..views import Input

router = APIRouter(include_in_schema=False)
FIELDS = (
    Field("name", "Name of the shop", "text"),
    Field("kerf_mm", "Saw kerf", "length", "what one cut turns to dust"),
    Field("planing_mm", "Planing", "length", "taken off each lamina, both faces together"),
    Field("clean_up_mm", "Clean-up of the width", "length", "extra width, planed off after gluing"),
    Field("thinnest_mm", "Thinnest lamina", "length", "that this shop cuts well"),
    Field("glue_waste_pct", "Glue left behind, %", "angle", "in pot, roller and squeeze-out"),
    Field(
        "temperature_c", "Temperature where glue cures", "temperature", "glue cures slower in the cold, or not at all"
    ),
    Field(
        "thicknesses_mm",
        "Laminae made or bought ready",
        "lengths",
        "thicknesses, parted by ; (the ladder tries them too)",
    ),
    Field("clamps", "Clamps", "clamps", "how many, which, how wide they open: 12 F-clamp 300; 6 G-clamp 200"),
    Field("sheet_long_mm", "Sheets for forms, long side", "length"),
    Field("sheet_short_mm", "Sheets for forms, short side", "length"),
    Field("altitude_m", "Altitude, m", "number", "above the sea: a vacuum loses with it"),
    Field("measuring_error_mm", "Measuring error", "length", "of a chord or a rise: how far off one reading may be"),
)


def _inputs(shop: Shop, typed: dict[str, str], faults: dict[str, str]) -> list[Input]:
    values = shop.model_dump()
    return [
        Input(f, typed.get(f.name, "") if faults else shown(f, values[f.name], shop.units), faults.get(f.name, ""))
        for f in FIELDS
    ]


@router.get("/shop")
def show_shop(request: Request, kept: int = 0) -> Response:
    store = store_of(request)
    with store.connected():
        shop = store.shop()
    return page("shop.html", request, inputs=_inputs(shop, {}, {}), kept=bool(kept), unit=shop.units, here="shop")


@router.post("/shop")
async def keep_shop(request: Request) -> Response:
    typed = await typed_in(request)
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
        try:
            made = Shop.model_validate(data)
        except ValidationError as error:
            for name, says in by_field(faults_of(error, shop.units)).items():
                faults.setdefault(name, says)
        if faults:
            return page(
                "shop.html", request, 422, inputs=_inputs(shop, typed, faults), kept=False, unit=shop.units, here="shop"
            )
        store.save_shop(made)
    return go_to("/shop?kept=1")
