"""Lay-ups custom plies: unequal, mixed, of sheets, and bent beforehand."""

import numpy as np
import pytest

from bright_willow.core.job.faults import JobFaulty
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.shape.curve_figures import CurveFigures
from bright_willow.core.wood.sheets import sheet_table
from tests.conftest import RIB


def layered(*layers, thickness, species="ash_white", **more):
    rows = [dict(zip(("thickness_mm", "material", "bent_radius_mm"), layer, strict=False)) for layer in layers]
    part = {"thickness_mm": thickness, "width_mm": 50, "count": 2, "spares": 1, "trim_mm": 30}
    build_up = {"lay_up": "layers", "layers": rows, "adhesive": "epoxy"}
    return read_job({**RIB, "part": part, "stock": {"species": species}, "build_up": build_up, **more})


def test_equal_layers_are_the_equal_lay_up():
    by_layer = plan(layered(*[(5, "ash_white")] * 6, thickness=30))
    equal = plan(
        read_job(
            {
                **RIB,
                "part": {"thickness_mm": 30, "width_mm": 50, "count": 2, "spares": 1, "trim_mm": 30},
                "build_up": {"laminae": 6, "adhesive": "epoxy"},
            }
        )
    )
    for name in ("target", "on_form", "likely", "settled"):
        assert np.allclose(getattr(by_layer.bend, name).curvature, getattr(equal.bend, name).curvature, rtol=1e-12)
    assert by_layer.make.use.worst == equal.make.use.worst
    assert by_layer.quantities.stock.volume_m3 == pytest.approx(equal.quantities.stock.volume_m3)
    assert by_layer.quantities.stock.strips == equal.quantities.stock.strips == 18
    assert by_layer.way.group == equal.way.group and by_layer.ladder == ()


def test_a_thinner_last_lamina_springs_back_less_than_five_and_more_than_six():
    def lost(*layers):
        return plan(layered(*layers, thickness=30)).bend.opens.loss_share.likely

    five = lost(*[(6, "ash_white")] * 5)
    six = lost(*[(5, "ash_white")] * 6)
    assert six < lost(*[(5.5, "ash_white")] * 5, (2.5, "ash_white")) < five


def test_a_layer_across_hardly_stiffens():
    """Three layers of 8, 4, 8 mm; across, the middle one counts with 7 % of its stiffness. Loss = Σ E t³ / 12 (EI)."""
    job = layered((8, "ash_white"), (4, "ash_white"), (8, "ash_white"), thickness=20)
    data = job.model_dump()
    data["build_up"]["layers"][1]["grain"] = "across"
    across = read_job(data)
    for j, middle in ((job, 1.0), (across, 0.07)):
        own = (2 * 8**3 + middle * 4**3) / 12
        whole = own + 2 * 8 * 6**2
        assert plan(j).bend.opens.loss_share.likely == pytest.approx(own / whole, rel=3e-3)
    assert plan(across).laid_up.laminae[1].use_of_strain > plan(job).laid_up.laminae[1].use_of_strain


def test_layers_bent_beforehand_hardly_spring_back():
    flat = plan(layered(*[(10, "ash_white")] * 3, thickness=30))
    bent = plan(layered(*[(10, "ash_white", 1100)] * 3, thickness=30))
    assert bent.bend.opens.loss_share.likely < 0.2 * flat.bend.opens.loss_share.likely
    assert bent.make.use.worst.value < 0.2 * flat.make.use.worst.value


def test_sheets_between_veneers():
    made = plan(
        layered((0.6, "walnut_black"), (5, "flex_ply_5"), (5, "flex_ply_5"), (0.6, "walnut_black"), thickness=11.2)
    )
    assert [x.material for x in made.laid_up.laminae] == [
        "Black walnut",
        *["Flexible plywood 5 mm"] * 2,
        "Black walnut",
    ]
    assert made.way.group == "sheets|rigid"
    assert made.quantities.stock.strips == 0  # nothing to saw: veneers and sheets are bought
    assert made.laid_up.sheet_m2 == pytest.approx(4 * 3 * 0.056 * made.bend.blank.length_mm / 1000)
    sheet = sheet_table()["flex_ply_5"]
    radius = CurveFigures(made.bend.on_form).least_radius_mm
    assert made.laid_up.laminae[1].use_of_strain == pytest.approx(sheet.min_radius_mm / (radius - 2.5), rel=0.02)
    assert "sheet.direction" in {f.code for f in made.findings}


def test_a_sheet_bent_past_its_least_radius_is_stopped():
    tight = {"shape": {"kind": "arc_by_radius", "face": "inner", "radius_mm": 92, "angle_deg": 90}}
    made = plan(layered((5, "flex_ply_5"), (5, "flex_ply_5"), thickness=10, **tight))
    assert made.make.use.worst.value > 1.3
    assert "strain.breaks" in {f.code for f in made.findings}


@pytest.mark.parametrize(
    ("layers", "message"),
    [
        ([(5, "ash_white")], "two plies or more"),
        ([(5, "ash_white"), (5, "ash_white")], "add up to 10 mm"),
        ([(15, "ash_white"), (15, "balsa")], "Ply 2"),
        ([(25, "ash_white"), (5.5, "flex_ply_5")], "is 5 mm thick"),
        ([(15, "ash_white"), (15, "ash_white", 10)], "tighter than it is thick"),
    ],
)
def test_layers_that_cannot_be(layers, message):
    with pytest.raises(JobFaulty) as caught:
        layered(*layers, thickness=30)
    assert caught.value.faults[0].field == "build_up.layers" and message in caught.value.faults[0].message


def test_every_sheet_has_grade_and_source():
    for sheet in sheet_table().values():
        assert sheet.grade == "allowance" and sheet.source
        assert 0 < sheet.least_bend_strain < 0.05
