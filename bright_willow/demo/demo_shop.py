"""The made-up shop of the demo and the lots on its rack."""

from __future__ import annotations

from ..core.shop.shop import OwnClamps, Shop
from ..core.wood.lot import Lot
from ..core.wood.species import OwnWood

SHOP = Shop(
    name="Marrow Lane",
    kerf_mm=2.6,
    planing_mm=0.8,
    thinnest_mm=2.0,
    temperature_c=21.0,
    thicknesses_mm=(3.0,),
    clamps=(
        OwnClamps(kind="f_clamp", count=24, opening_mm=300),
        OwnClamps(kind="g_clamp", count=8, opening_mm=150),
        OwnClamps(kind="pipe", count=10, opening_mm=900),
    ),
    woods=(
        OwnWood(
            key="ash_black",
            moe_gpa=10.4,
            note="Our black ash is a little softer than the table: a stick loaded and measured in March.",
        ),
        OwnWood(
            key="marrow_pear",
            name="Marrow Lane pear",
            sg12=0.7,
            moe_gpa=9.8,
            mor_mpa=88,
            crush_mpa=48,
            note="From the old espaliers; sticks broken over a bench.",
        ),
    ),
)
LOTS = (
    Lot(
        name="Ash, north stack",
        species="ash_white",
        thickness_mm=70,
        width_mm=210,
        length_mm=2400,
        count=7,
        dryness="air_dried",
        moisture_pct=11,
        rise_mm=9,
        run_mm=300,
    ),
    Lot(
        name="Walnut offcuts",
        species="walnut_black",
        thickness_mm=38,
        width_mm=140,
        length_mm=900,
        count=3,
        moisture_pct=8.5,
        flaws="small_knots",
    ),
    Lot(
        name="White oak, gate post side",
        species="oak_white",
        thickness_mm=80,
        width_mm=180,
        length_mm=2100,
        count=4,
        dryness="air_dried",
        moisture_pct=12,
        rise_mm=15,
    ),
    Lot(
        name="Larch with shakes",
        species="larch_european",
        thickness_mm=45,
        width_mm=160,
        length_mm=3000,
        count=5,
        dryness="air_dried",
        rise_mm=40,
        run_mm=400,
        flaws="checks",
    ),
)
