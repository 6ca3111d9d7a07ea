"""Presets: common parts, and the shop's own jobs, to begin from."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import APIRouter, Request
from fastapi.responses import Response
from markupsafe import Markup

from ...core.common.errors import PlanError
from ...core.job.common_parts import common_parts
from ...core.job.job import Job
from ...core.methods.method_registry import WAYS
from ...core.shop.shop import Shop
from ...core.wood.species import wood_table
from ...store.repositories.presets import MOST_PRESETS
from ..common import Id, go_to, page, planned, store_of, typed_in
from ..formatting import Formatter
from ..forms.fields import Field
from ..forms.form_spec import FieldView, FormSpec
from ..quick_view import query_of, shape_icon

router = APIRouter(include_in_schema=False)
LONGEST_NAME = 120


@dataclass(frozen=True)
class Tile:
    """A preset as it is shown. says: size, wood and method; href: where a common part opens; id: of the shop's own."""

    name: str
    drawn: Markup
    message: str
    href: str = ""
    id: int = 0


@router.get("/presets")
def presets(request: Request) -> Response:
    """Show every preset as a tile with its drawing."""
    return _page(request)


def _page(
    request: Request, status: int = 200, fault: str = "", *, renamed: int = 0, typed: str = "", name_fault: str = ""
) -> Response:
    """renamed, typed, name_fault: the preset whose new name was refused, that name, and why."""
    store = store_of(request)
    with store.connected():
        shop, own = store.shop_settings.get(), store.presets.find()
    tiles = [
        Tile(p.name, shape_icon(p.job.shape), _text(p.job, shop, ""), f"/quick?{query_of(p.job, p.how, shop)}")
        for p in common_parts(shop.units)
    ]
    mine = [
        Tile(p.name, _drawn(p.job), _text(p.job, shop, WAYS[p.job.way].name), id=p.id)
        if p.job
        else Tile(p.name, Markup(""), "This preset can no longer be read.", id=p.id)
        for p in own
    ]
    refused = {"renamed": renamed, "names": {t.id: _rename_input(t, renamed, typed, name_fault) for t in mine}}
    shown = {"tiles": tiles, "mine": mine, "fault": fault, "unit": shop.rule, "here": "jobs"}
    return page("presets.html", request, status, **shown, **refused)


def _rename_input(tile: Tile, renamed: int, typed: str, fault: str) -> FieldView:
    form = FormSpec((Field("name", f"New name of {tile.name}", "text", longest=200),), f"preset-{tile.id}")
    is_mine = tile.id == renamed
    inputs = form.inputs(
        "mm", {"name": tile.name}, {"name": typed} if is_mine else {}, {"name": fault} if is_mine else {}
    )
    return inputs["name"]


def _drawn(job: Job) -> Markup:
    try:
        return shape_icon(job.shape)
    except PlanError:
        return Markup("")


def _text(job: Job, shop: Shop, method: str) -> str:
    w = Formatter(shop.rule)
    wood = wood_table(shop.woods).get(job.stock.species)
    size = w.size(job.part.thickness_mm, job.part.width_mm)
    return ", ".join(x for x in (size, wood.name if wood else job.stock.species, method) if x)


@router.post("/jobs/{job_id}/preset")
def save_as_preset(request: Request, job_id: Id) -> Response:
    """Save a job as a preset of the shop."""
    store = store_of(request)
    with store.connected():
        saved = store.presets.add(store.jobs.get(job_id).job)
    if not saved:
        return _page(request, 422, f"There are {MOST_PRESETS} presets already. Remove one first.")
    return go_to("/presets#own")


@router.post("/presets/{preset_id}/job")
def begin(request: Request, preset_id: Id) -> Response:
    """Begin a job from a preset of the shop, with everything that was decided in it."""
    store = store_of(request)
    with store.connected():
        preset = store.presets.get(preset_id)
        if preset.job is None:
            return _page(request, 422, f"{preset.name} can no longer be read.")
        job_id = store.jobs.add(preset.job, f"from the preset {preset.name}"[:200])
    return go_to(f"/jobs/{job_id}/shape")


@router.post("/presets/{preset_id}/rename")
async def rename(request: Request, preset_id: Id) -> Response:
    """Give a preset of the shop another name."""
    return await planned(request, _rename, request, preset_id, (await typed_in(request)).get("name", ""))


def _rename(request: Request, preset_id: int, typed: str) -> Response:
    store, name = store_of(request), " ".join(typed.split())
    if not 1 <= len(name) <= LONGEST_NAME:
        fault = f"Enter a name of 1 to {LONGEST_NAME} letters."
        return _page(request, 422, renamed=preset_id, typed=typed, name_fault=fault)
    with store.connected():
        store.presets.rename(preset_id, name)
    return go_to("/presets#own")


@router.post("/presets/{preset_id}/remove")
def remove(request: Request, preset_id: Id) -> Response:
    """Remove a preset of the shop; jobs begun from it stay."""
    store = store_of(request)
    with store.connected():
        store.presets.remove(preset_id)
    return go_to("/presets#own")
