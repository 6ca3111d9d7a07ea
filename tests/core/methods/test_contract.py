"""What holds for every way of bending, whichever it is; and that a ninth is one class and one line."""

import json
import re
from pathlib import Path

import numpy as np
import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.common.stages import STAGES, stages_of
from bright_willow.core.measuring.built_form import BuiltForm
from bright_willow.core.measuring.reuse import candidates
from bright_willow.core.methods.method_registry import WAYS
from bright_willow.core.plan.compare import compare_ways, turned_to
from bright_willow.core.plan.plan import plan, sketch
from bright_willow.core.plan.plan_file import plan_json
from bright_willow.core.plan.read_job import cross_faults, read_job
from bright_willow.core.shop.shop import Shop
from bright_willow.core.workpiece.bend import Springback
from bright_willow.drawing.board import board_svg
from bright_willow.drawing.export import EXPORTS
from bright_willow.web.forms.typed import put_at
from tests.core.methods.jobs import JOBS, data_for, job_for

ROOT = Path(__file__).parents[3]
EVERY = sorted(WAYS)
SCHOOLS = [
    {"school": "computed"},
    {"school": "by_angle", "left_deg": 2, "right_deg": 5},
    {"school": "by_distance", "left_mm": 4, "right_mm": 9},
]
LIES_IN_A_FRAME = [w for w in EVERY if w != "straighten"]


def same_form(a: BuiltForm, b: BuiltForm) -> bool:
    return a.model_dump_json() == b.model_dump_json()


@pytest.mark.parametrize("way", EVERY)
def test_a_built_form_comes_back_from_its_file_as_it_was(way):
    built = BuiltForm.of(sketch(job_for(way)))
    again = BuiltForm.model_validate_json(built.model_dump_json())
    assert again == built and same_form(again, built)
    assert again.matches(job_for(way)) and again.way == way
    assert np.isfinite([*again.predicted_curvature, *again.expected_low, *again.expected_high]).all()
    assert again.can_open
    opens = sketch(job_for(way)).bend.opens
    if isinstance(opens, Springback):  # the jig of a computed form has the shape the piece is released to
        assert again.expected_tip_mm == pytest.approx(opens.tip_mm.likely)


@pytest.mark.parametrize("way", EVERY)
@pytest.mark.parametrize("form", SCHOOLS, ids=lambda f: f["school"])
def test_the_right_hand_is_the_mirror_of_the_left(way, form):
    pair = {"copies": "pairs", "mate_tolerance_mm": 2, "trim_mm": 170, "right_trim_mm": 210}
    pair |= {"left_cut": "mitred", "left_mitre_deg": 30, "right_cut": "on_line"}
    closing = {"kind": "two_part", "close_deg": 7, "splits_mm": [-60, 25]}
    left, right = (
        sketch(job_for(way, part={**pair, "hand": hand}, form={**form, **closing})) for hand in ("left", "right")
    )
    for name in ("target", "on_form", "likely", "settled", "by_mechanics", "blank"):
        a, b = getattr(left.bend, name), getattr(right.bend, name)
        assert a.lengths_mm == pytest.approx(b.lengths_mm[::-1]), name
        assert a.curvature == pytest.approx(b.curvature[::-1], abs=1e-15), name
    ends, others = left.face.curve.points_mm, right.face.curve.points_mm
    assert np.ptp(ends, axis=0) == pytest.approx(np.ptp(others, axis=0))
    assert [m.inner_mm for m in left.stick] == pytest.approx([-m.inner_mm for m in right.stick[::-1]], abs=1e-9)
    assert [c.kind for c in left.ends] == [c.kind for c in right.ends[::-1]] == ["mitred", "on_line"]
    assert [c.inner_mm for c in left.ends] == pytest.approx([-c.inner_mm for c in right.ends[::-1]], abs=1e-9)
    assert left.witness_mm + right.witness_mm == pytest.approx(left.bend.target.length_mm)
    if left.form.closing and right.form.closing:
        here, there = left.form.closing.pressers, right.form.closing.pressers
        length = left.face.curve.length_mm
        assert [p.start_mm for p in here] == pytest.approx([length - p.end_mm for p in there[::-1]], abs=1e-6)
        assert [p.direction_deg for p in here] == pytest.approx([-p.direction_deg for p in there[::-1]], abs=1e-6)
        assert left.form.closing.least_share == pytest.approx(right.form.closing.least_share, abs=1e-9)


@pytest.mark.parametrize("way", EVERY)
def test_an_uneven_pair_is_never_called_alike(way):
    pair = {"copies": "pairs"}
    codes = {f.code for f in plan(job_for(way, part=pair)).findings}
    even = {f.code for f in plan(job_for(way, part=pair, shape=JOBS["straighten"]["shape"])).findings}
    if way == "straighten":  # told as straightening: a straight piece has no hand
        assert not {c for c in codes | even if c.startswith("pairs.")}
        return
    assert "pairs.alike" in even
    assert "pairs.turned" in codes  # a bow is even; a hook with unequal straights is not


@pytest.mark.parametrize("way", EVERY)
def test_its_own_form_fits_itself(way):
    job = job_for(way)
    (own,) = candidates(job, [(1, BuiltForm.of(sketch(job)))], tolerance_mm=0.05)
    assert own.problem == "" and own.fit.off_mm < 0.01 and own.fit.too_short_mm < 1e-6
    assert own.does(0.05) and not own.fit.shims


@pytest.mark.parametrize("way", EVERY)
@pytest.mark.parametrize(
    "changes",
    [
        {},
        {"part": {"spares": 0, "trim_mm": 5}},
        {"stock": {"dryness": "kiln_dried", "moisture_pct": 9, "grain_slope": 0.1, "figured": True}},
        {
            "form": {"kind": "two_part", "school": "to_size"},
            "heat": {"held_by": "none", "on_form_h": 2.0, "moves": 20, "power_kw": 0.4},
        },
        {"form": {"kind": "two_part", "close_deg": 40}, "part": {"copies": "pairs", "hand": "right"}},
        {"heat": {"stop": "clamps", "stop_clamps": 1, "strap_mm": 0.4, "strap_of": "mild_steel", "wall": "pvc"}},
        {"build_up": {"press": "vacuum", "gauge_kpa": 60, "adhesive": "pva"}},
    ],
    ids=str,
)
def test_advice_taken_clears_what_it_was_for(way, changes):
    if way == "sheet_layup" and "laminae" in changes.get("build_up", {}):
        pytest.skip("layers are not counted")
    job = job_for(way, **changes)
    for finding in plan(job).findings:
        if finding.fix is None or finding.level == "fit":
            continue
        data = job.model_dump()
        for name, value in finding.fix.sets.items():
            put_at(data, name, value)
        after = read_job(data)
        if after.way != way and finding.code == "heat.breaks":
            continue  # another way may have its own limit; that it is planned is enough
        levels = {f.code: f.level for f in plan(after).findings}
        assert levels.get(finding.code) != finding.level, (finding.code, finding.fix)


@pytest.mark.parametrize("way", EVERY)
def test_a_plan_and_its_sketch_agree(way):
    job = job_for(way, form={"kind": "two_part"})
    whole, drawn = plan(job), sketch(job)
    assert whole.make.use == drawn.make.use and whole.make.forces == drawn.make.forces
    assert whole.bend.opens == drawn.bend.opens and whole.quantities == drawn.quantities
    assert whole.stick == drawn.stick and whole.form.closing == drawn.form.closing
    for name in ("clamps", "clamp_opening_mm", "deflection", "outlines", "posts", "needs"):
        assert getattr(whole.form, name) == getattr(drawn.form, name), name
    assert np.array_equal(whole.face.curve.curvature, drawn.face.curve.curvature)
    assert all(f in whole.findings for f in drawn.findings)
    for stage in ("shape", "stock", "build_up", "bend"):
        assert board_svg(job, whole, stage=stage, unit="mm") == board_svg(job, drawn, stage=stage, unit="mm")


@pytest.mark.parametrize("way", EVERY)
def test_it_is_pure_and_its_file_is_whole(way):
    job = job_for(way)
    first, second = plan_json(plan(job)), plan_json(plan(job))
    assert first == second and b"NaN" not in first and b"Infinity" not in first
    made = json.loads(first)
    assert made["way"] == way and made["operations"] and made["days"]["done_days"] > 0
    assert made["build"]["parts"] == [] or json.loads(plan_json(plan(job), parts=False))["build"]["parts"] == []
    assert not cross_faults(job)


@pytest.mark.parametrize("way", EVERY)
@pytest.mark.parametrize("unit", ["mm", "in"])
def test_every_page_picture_and_file_answers(way, unit, client):
    store = client.app.state.store
    with store.connected():
        store.shop_settings.save(Shop(units=unit))
        job_id = store.jobs.add(job_for(way))
    own = {s.key for s in stages_of(WAYS[way].traits)}
    for stage, row in STAGES.items():
        answer = client.get(f"/jobs/{job_id}/{row.path}", follow_redirects=False)
        assert answer.status_code == (200 if stage in own else 303), stage
    assert client.get(f"/jobs/{job_id}/form/steps").status_code == 200
    assert client.get(f"/jobs/{job_id}/form/mine").status_code == 200
    buys_all = "nothing is sawn" in client.get(f"/jobs/{job_id}/prepare").text.lower()
    sawn = ("strips", "cutlist", "labels", "layout_svg", "layout_dxf")
    for kind in sawn:
        assert client.get(f"/jobs/{job_id}/take/{kind}").status_code == (422 if buys_all else 200), kind
    for kind in (*EXPORTS, "stick", "sheet", "sheet_short", "job"):
        answer = client.get(f"/jobs/{job_id}/take/{kind}")
        too_large = kind in ("stl", "3mf") and "Solids are for small forms" in answer.text
        none_drawn = kind in ("stl", "3mf") and way == "straighten"
        assert answer.status_code == (422 if too_large or none_drawn else 200), kind
    frame = client.get(f"/jobs/{job_id}/take/frame").status_code
    assert frame == (200 if "steamed" in WAYS[way].traits and way != "straighten" else 422)
    assert client.post(f"/jobs/{job_id}/built").status_code == 200
    for path in ("/", "/rack", "/book", f"/jobs/{job_id}/measure"):
        assert client.get(path).status_code == 200, path


def test_nothing_outside_the_ways_asks_which_way_it_is():
    names = "|".join(WAYS)
    asks = re.compile(
        rf"""\bway\b\s*(?:==|!=|in [(\[{{]|not in\b)|isinstance\([^)]*(?:BentHot|Laminated)|["'](?:{names})["']"""
    )
    allowed = {"methods", "demo", "migrations"}
    found = []
    for path in [
        *(ROOT / "bright_willow").rglob("*.py"),
        *(ROOT / "bright_willow").rglob("*.html"),
        *(ROOT / "bright_willow").rglob("*.js"),
    ]:
        if allowed & set(path.relative_to(ROOT / "bright_willow").parts) or "vendor" in path.parts:
            continue
        for number, line in enumerate(path.read_text("utf-8").splitlines(), 1):
            if asks.search(line) and "default=" not in line:
                found.append(f"{path.relative_to(ROOT)}:{number}: {line.strip()}")
    known = (
        "way.key == job.way",
        "if job.way not in WAYS",
        "key not in WAYS",
        "if way not in",
        "== sought.way",
        "sought.way ==",
    )
    assert [f for f in found if not any(k in f for k in known)] == []


class TestANinthWay:
    """A way of bending that is one class and one line in the registry: here, one that does not exist."""

    @pytest.fixture
    def frozen(self, monkeypatch):
        from bright_willow.core.common.stages import EVERY as BOTH
        from bright_willow.core.methods.cold_lamination import ColdLamination

        class Frozen(ColdLamination):
            key, name, message = "frozen", "Frozen and laminated", "Laminae bent in the cold of winter."

        assert Frozen.traits <= BOTH
        monkeypatch.setitem(WAYS, "frozen", Frozen)  # the line in the registry
        return read_job(data_for("cold_lamination") | {"way": "frozen", "name": "frost"})

    def test_it_is_planned_compared_and_turned_to(self, frozen):
        made = plan(frozen)
        assert made.way.name == "Frozen and laminated" and isinstance(made.bend.opens, Springback)
        row = next(r for r in compare_ways(frozen) if r.key == "frozen")
        assert row.chosen and row.made and row.made.days > 0
        assert turned_to(job_for("steam_free"), "frozen").build_up.lay_up == "equal"

    def test_its_pages_its_form_and_what_it_teaches(self, frozen, client):
        store = client.app.state.store
        with store.connected():
            job_id = store.jobs.add(frozen)
        for stage in ("shape", "way", "stock", "build_up", "form"):
            assert client.get(f"/jobs/{job_id}/{stage}").status_code == 200
        assert "Frozen and laminated" in client.get(f"/jobs/{job_id}/way").text
        assert client.get(f"/jobs/{job_id}/take/pdf").content[:4] == b"%PDF"
        client.post(f"/jobs/{job_id}/built")
        with store.connected():
            built = store.forms.find(job_id)[0].built
        chord, rise = (e.likely for e in built.expected_on("inner"))
        piece = {"label": "1", "day": "2026-05-21", "face": "inner", "chord": f"{chord + 1:.1f}", "rise": f"{rise:.1f}"}
        assert client.post(f"/jobs/{job_id}/pieces", data=piece).status_code == 200
        with store.connected():
            assert store.training.learned().about(way="frozen", group=built.group).bends == 1

    def test_taken_out_again_its_jobs_are_refused_in_a_sentence(self, frozen, monkeypatch):
        monkeypatch.delitem(WAYS, "frozen")
        with pytest.raises(PlanError, match="There is no bending method called “frozen”"):
            plan(frozen)
