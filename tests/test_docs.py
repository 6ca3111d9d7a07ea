"""What the docs promise is there, and what is there is in the docs."""

import json
import re
from pathlib import Path

import pytest

from bright_willow.core.job.job import Job
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.shape.curve_figures import CurveFigures
from bright_willow.core.shape.shape_registry import SHAPES
from bright_willow.core.shop.shop import Shop
from bright_willow.drawing.export import EXPORTS
from bright_willow.web.app import create_app
from tests.core.heat.test_heat import HEAT_FINDINGS
from tests.core.plan.test_plan import FINDINGS
from tests.core.stock.test_boards import IN_THE_WAY

ROOT = Path(__file__).parent.parent
FORMAT = (ROOT / "docs" / "job-format.md").read_text()


def test_the_worked_example_is_what_was_worked():
    made = plan(read_job(json.loads((ROOT / "docs/examples/worked.json").read_text())))
    assert made.bend.opens.loss_share.likely == pytest.approx(1 / 36, rel=1e-3)
    assert CurveFigures(made.bend.on_form).least_radius_mm == pytest.approx(972.2, abs=0.1)
    assert CurveFigures(made.bend.on_form).sweep_deg == pytest.approx(92.57, abs=0.01)
    assert made.face_figures.least_radius_mm == pytest.approx(957.2, abs=0.1)
    assert made.laid_up.laminae[0].strain == pytest.approx(0.00260, abs=1e-5)
    assert made.make.use.worst.value == pytest.approx(0.303, abs=1e-3)
    assert made.make.forces.holding_moment_nmm.value == pytest.approx(38_570, abs=20)
    assert made.make.forces.lever_pull_n.value == pytest.approx(49.1, abs=0.1)
    assert made.quantities.stock.board_width_per_piece_mm == pytest.approx(54)


def test_every_finding_code_is_documented_and_tested():
    source = "".join(p.read_text() for p in (ROOT / "bright_willow/core").glob("checks/*.py"))
    codes = set(re.findall(r'Finding\(\s*"([a-z_]+\.[a-z_]+)"', source))
    elsewhere = {
        "heat.high_up",
        "shape.rough_points",
        "part.poor_record",
    }  # in a shop high up, and of points: by tests of their own
    assert codes == set(FINDINGS) | set(HEAT_FINDINGS) | set(IN_THE_WAY) | elsewhere
    assert all(f"`{code}`" in FORMAT for code in codes)


def test_every_field_of_a_job_and_shop_is_documented():
    for name, model in {**{n: f.annotation for n, f in Job.model_fields.items()}, "shop": Shop}.items():
        for field in getattr(model, "model_fields", {}):
            assert field in FORMAT, (name, field)


def test_every_shape_and_its_fields_are_documented():
    for kind, model in SHAPES.items():
        assert f"| `{kind}` |" in FORMAT
        for field in model.model_fields:
            assert f"`{field}`" in FORMAT or field in ("kind", "face"), (kind, field)


def test_every_api_route_and_export_is_documented(store):
    text = FORMAT + "".join((ROOT / p).read_text() for p in ("README.md", "docs/architecture.md", "docs/devices.md"))
    for path in create_app(store).openapi()["paths"]:
        if path != "/api/health":
            assert path in text, path
    assert all(f".{ending}" in text for ending in EXPORTS)


def test_links_and_pictures_lead_somewhere():
    for page in [ROOT / "README.md", *ROOT.glob("docs/*.md")]:
        for target in re.findall(r"\]\(([^)#]+)\)", page.read_text()):
            assert (page.parent / target).exists(), (page.name, target)


def test_makefile_and_readme_agree():
    makefile = (ROOT / "Makefile").read_text()
    for command in re.findall(r"`make (\w+)", (ROOT / "README.md").read_text()):
        assert f"\n{command}:" in makefile, command
