"""Sheets that bend: flexible plywood yields, a shop's own stand beside the table's, and as a skin they have a radius."""

import numpy as np
import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.job.faults import JobFaulty
from bright_willow.core.job.job import Layer
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.shop.shop import Shop
from bright_willow.core.springback.layup import Layup
from bright_willow.core.wood.sheets import OwnSheet, is_sheet, sheet_table
from tests.core.methods.jobs import data_for, job_for

BARREL = OwnSheet(key="own_sheet_barrel_ply", name="Barrel ply", thickness_mm=7, min_radius_mm=180, sheet_long_mm=2500)
OWN = Shop(sheets=(BARREL,))
ARC = {"kind": "arc_by_radius", "face": "inner", "radius_mm": 220, "angle_deg": 90}


def flexible(count: int, thickness: float) -> Layup:
    own = np.full(count, thickness)
    yields, left = np.full(count, 0.006), np.full(count, 0.4)
    return Layup(own, np.full(count, 500.0), np.zeros(count), 0, yields, left)


def test_two_flexible_sheets_lose_a_twentieth_not_a_quarter():
    """By hand: 0.4 m/Δκ of a quarter; 5 mm at 1/135 yields at 0.0024, m = 0.0024 (1.5 − 0.5/3.09²)."""
    form = np.array([1 / 135])
    lost = 1 - float(flexible(2, 5.0).release(form)[0]) * 135
    limit = 2 * 0.006 / 5
    by_hand = 0.4 * limit * (1.5 - 0.5 * (limit * 135) ** 2) * 135 / 4
    assert lost == pytest.approx(by_hand, rel=0.01) and 0.045 < lost < 0.05
    elastic = Layup(np.full(2, 5.0), np.full(2, 500.0), np.zeros(2))
    assert 1 - float(elastic.release(form)[0]) * 135 == pytest.approx(0.25, rel=0.01)


def test_the_moment_of_a_sheet_against_its_section_cut_in_layers():
    y = (np.arange(4001) + 0.5) / 4001 * 5.0 - 2.5
    for radius in (90.0, 400.0, 2000.0):
        stress = 500.0 * np.clip(y / radius, -0.006, 0.006)
        moment = float((stress * y).sum() * 5.0 / 4001)
        assert float(flexible(1, 5.0).holding_moment(np.array([1 / radius]))[0]) == pytest.approx(moment, rel=2e-3)


@pytest.mark.parametrize("radius", [80.0, 200.0, 900.0, 5000.0])
def test_the_form_of_flexible_sheets_releases_to_the_target(radius):
    layup, target = flexible(3, 5.0), np.array([1 / radius, 0.0, -1 / radius])
    form = layup.form_curvature_for(target, loss_ratio=1.3)
    assert layup.release(form, loss_ratio=1.3) == pytest.approx(target, rel=1e-9, abs=1e-15)
    assert abs(form[0]) > abs(target[0]) and form[1] == 0
    tighter = layup.release(np.linspace(0, 1 / 60, 300))
    assert (np.diff(tighter) > 0).all()


def test_wood_between_sheets_stays_elastic():
    mixed = plan(job_for("sheet_layup"))
    layup = mixed.way.law.layup
    assert np.isinf(layup.yields[[0, -1]]).all() and (layup.yields[1:-1] == 0.006).all()
    assert (layup.left[[0, -1]] == 1).all() and (layup.left[1:-1] == 0.4).all()
    only_wood = plan(job_for("cold_lamination")).way.law.layup
    assert only_wood.yields is None
    across = {"thickness_mm": 5.0, "material": "flex_ply_5", "grain": "across"}
    layers = [{"thickness_mm": 8.1, "material": "ash_white"}, across, {"thickness_mm": 8.1, "material": "ash_white"}]
    turned = plan(job_for("sheet_layup", build_up={"layers": layers})).way.law.layup
    assert turned.yields is None  # the way it does not roll it is stiff, and does not yield


def test_a_shop_s_own_sheet_is_planned_with_and_unknown_ones_are_said():
    table = sheet_table(OWN.sheets)
    row = table["own_sheet_barrel_ply"]
    assert (row.thickness_mm, row.min_radius_mm, row.yield_strain) == (7.0, 180.0, 0.006) and row.grade == "allowance"
    assert row.least_bend_strain == pytest.approx(7 / 360) and "own_sheet_barrel_ply" not in sheet_table()
    assert is_sheet("own_sheet_anything") and not is_sheet("ash_white")
    data = data_for("sheet_layup", shape=ARC, part={"thickness_mm": 14.0}, build_up={
        "layers": [{"thickness_mm": 7.0, "material": "own_sheet_barrel_ply"}] * 2})  # fmt: skip
    job = read_job(data)
    made = plan(job, OWN)
    assert [c.sheet.name for c in made.laid_up.sheets] == ["Barrel ply"] and made.laid_up.sheets[
        0
    ].sheet.sheet_long_mm == 2500
    assert {x.material for x in made.laid_up.laminae} == {"Barrel ply"}
    with pytest.raises(PlanError, match="no wood or sheet called “own_sheet_barrel_ply”"):
        plan(job, Shop())
    thin = [{"thickness_mm": 6.5, "material": "own_sheet_barrel_ply"}] * 2
    layup = job.build_up.model_copy(update={"layers": tuple(map(Layer.model_validate, thin))})
    with pytest.raises(PlanError, match="Barrel ply is"):
        plan(job.model_copy(update={"build_up": layup}), OWN)
    with pytest.raises(JobFaulty):
        read_job(data_for("sheet_layup", build_up={"layers": [{"thickness_mm": 9.0, "material": "no_such"}] * 2}))


def test_a_skin_is_judged_by_the_least_radius_of_its_sheet():
    common = {"part": {"width_mm": 300}, "shape": {**ARC, "radius_mm": 290}}

    def made(**form):
        drawn = plan(job_for("cold_lamination", form={"build": "ribs", "depth_mm": 120, **form}, **common), OWN)
        return drawn, {f.code: f for f in drawn.findings}

    plain, said = made(skin_mm=6.5)  # 390 at least
    assert said["form.skin_tight"].fix.sets == {"form.skin_of": "flex_ply_8"}  # the thickest that bends to 300
    flex, said = made(skin_of="flex_ply_5", skin_mm=6.5)
    assert "form.skin_tight" not in said and flex.job.form.skin_mm == 5.0  # it has its sheet's thickness
    skin = next(p for p in flex.build.parts if "skin" in p.name)
    assert skin.thickness_mm == 5.0 and "Flexible plywood 5 mm" in skin.note
    edge = {p.name: p for p in flex.build.parts}
    assert edge.keys() == {p.name for p in plain.build.parts}
    own, said = made(skin_of="own_sheet_barrel_ply")
    assert "form.skin_tight" not in said and own.job.form.skin_mm == 7.0
    said = made(skin_of="flex_ply_9_5")[1]
    assert "form.skin_tight" in said and "300 mm" in said["form.skin_tight"].reason
    with pytest.raises(PlanError, match="No sheet called"):
        made(skin_of="no_such")


@pytest.mark.parametrize(
    ("change", "field"),
    [({"thickness_mm": 0.0}, "thickness_mm"), ({"min_radius_mm": 1.0}, "min_radius_mm"), ({"name": " "}, "name"),
     ({"key": "flex_ply_5"}, "key"), ({"kind": "board"}, "kind")],
)  # fmt: skip
def test_a_sheet_that_cannot_be_is_refused(change, field):
    with pytest.raises(ValueError, match=field):
        OwnSheet.model_validate(BARREL.model_dump() | change)
