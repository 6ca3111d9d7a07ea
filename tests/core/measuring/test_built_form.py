"""A built form as it was frozen, by this version and by the one before."""

import gzip
import json
import sqlite3
from contextlib import closing
from pathlib import Path

import numpy as np
import pytest
from starlette.testclient import TestClient

from bright_willow.core.common.errors import PlanError
from bright_willow.core.measuring.built_form import BuiltForm, compare
from bright_willow.core.measuring.reuse import candidates
from bright_willow.core.plan.plan import plan, sketch
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.shape.curve import tip_distance_mm
from bright_willow.store.store import Store
from bright_willow.web.app import create_app
from tests.core.methods.jobs import job_for
from tests.core.shape.test_shapes import job_of

FILES = Path(__file__).parents[2] / "files"
NEW_CHOICES = {
    "part.marks": [],
    "heat.dry_jig": False,
    "form.skin_of": "plain",
    "build_up.bands": 1,
    "build_up.band_clamps": 0,
    "heat.preload_mm": 0.0,
    "heat.blanks_mm": [],
    "form.start_hold": "clamps",
    "form.start_end": "left",
    "form.matched_cauls": "none",
    "form.end_radius_mm": 0.0,
    "form.clamp_holes": "where_needed",
    "form.drum_stand": False,
    "heat.banded": True,
    "heat.clamps_h": 3.0,
    "build_up.cauls": 0,
    "build_up.tape_after": 0,
    "heat.held_by": "frame",
    "heat.in_bag": False,
    "heat.backing": "none",
    "build_up.band_pull": "one_end",
    "build_up.band_on": "wood",
    "part.right_trim_mm": None,
    "part.left_cut": "square",
    "part.right_cut": "square",
    "part.left_mitre_deg": 45.0,
    "part.right_mitre_deg": 45.0,
}  # what later versions ask besides, and what it is for a job that does not say
LATER_FIELDS = {"jig_curvature", "stated_curvature", "right_trim_mm", "jig_keeps", "law"}
RING = job_of("ring", "outer", part={"thickness_mm": 18, "width_mm": 30})


@pytest.fixture
def old_folder(tmp_path):
    """A shop's folder as version 0.1.0 left it, a ring with NaN in its frozen form among its forms."""
    packed = (FILES / "marrow-lane-0.1.0.sqlite3.gz").read_bytes()
    (tmp_path / "bright-willow.sqlite3").write_bytes(gzip.decompress(packed))
    return tmp_path


def test_a_closed_ring_is_built_and_every_page_goes_on(client):
    store = client.app.state.store
    with store.connected():
        job_id = store.jobs.add(RING)
    assert client.post(f"/jobs/{job_id}/built").status_code == 200
    with store.connected():
        (form,) = store.forms.find(job_id)
    assert form.built.predicted_curvature == form.built.form_curvature and not form.built.can_open
    for path in ("/", "/rack", "/book", f"/jobs/{job_id}/form", f"/jobs/{job_id}/measure"):
        assert client.get(path).status_code == 200, path
    piece = {"label": "1", "day": "2026-05-21", "face": "outer", "mishap": ""}
    assert "Not measured" in client.post(f"/jobs/{job_id}/pieces", data=piece).text
    with store.connected():
        assert store.training.learned().made[form.built.way, form.built.group] == (1, 0)


def test_a_database_that_holds_such_a_ring_opens_again(old_folder):
    client = TestClient(create_app(Store(old_folder)), base_url="http://127.0.0.1")
    store = client.app.state.store
    with store.connected():
        ring = next(f for f in store.forms.find() if f.built.kind == "ring")
        others = [f.built for f in store.forms.find() if f.built.kind != "ring"]
        jobs = store.jobs.find()
    assert ring.built.predicted_curvature == ring.built.form_curvature and len(others) == 4
    for path in ("/", "/rack", "/book", *(f"/jobs/{s.id}/measure" for s in jobs)):
        assert client.get(path).status_code == 200, path
    for stage in ("shape", "build_up", "form"):
        assert client.get(f"/jobs/{ring.job_id}/{stage}").status_code == 200


def test_jobs_and_forms_of_the_version_before_open_unchanged(old_folder):
    kept = json.loads((FILES / "jobs-0.1.0.json").read_text())
    for data in kept:
        job = read_job(data)
        again = json.loads(job.model_dump_json())
        assert again.pop("prepare")["boards"] == 0 and again.pop("glue_up")["goes"] == 1  # rooms of later versions
        assert again.pop("days")["in_week"] is False and again.pop("tags") == []
        assert data["heat"].pop("early") is False  # hours on the form since
        for new, stands in NEW_CHOICES.items():
            room, name = new.split(".")
            assert again[room].pop(name) == stands
        assert again == data
        plan(job)
    with closing(sqlite3.connect(old_folder / "bright-willow.sqlite3")) as plain:
        before = dict(plain.execute("select id, body from built_form").fetchall())
    store = Store(old_folder)
    with store.connected():
        names = {s.job.name: s for s in store.jobs.find()}
        assert {d["name"] for d in kept} == set(names)
        for form in store.forms.find():
            again = json.loads(form.built.model_dump_json(exclude=LATER_FIELDS))
            raw = json.loads(before[form.id])
            raw["predicted_curvature"] = again["predicted_curvature"]  # by the present law
            assert again == raw
        assert store.training.learned().used == 15


@pytest.mark.parametrize("way", ["steam_free", "steam_strap", "steam_laminae", "dry_heat"])
def test_a_hot_form_freezes_what_mechanics_predicts_even_where_the_law_is_clipped(way):
    """A gentle bend keeps nothing at a high ratio: the line through the likely one is not what mechanics says."""
    gentle = {"kind": "arc_by_radius", "face": "mid", "radius_mm": 1500, "angle_deg": 30}
    drawn = sketch(job_for(way, shape=gentle, form={"school": "to_size"}))
    built = BuiltForm.of(drawn)
    direct = drawn.way.law.release(np.array(built.form_curvature), loss_ratio=1.0)
    assert built.predicted_curvature == pytest.approx(direct, abs=1e-15)


def test_a_steamed_job_s_own_form_is_not_judged_by_the_cold_law():
    job = job_for("steam_strap")
    built = BuiltForm.of(sketch(job))
    (own,) = candidates(job, [(1, built)])
    assert own.fit.off_mm < 0.01
    (cold,) = candidates(
        job_for("cold_lamination", shape=job.shape.model_dump(), part={"thickness_mm": 16}), [(1, built)]
    )
    assert cold.fit.off_mm > 5  # the same form for a lay-up is off by what hot wood would have lost


def test_both_ends_of_a_fitted_curve_count_for_its_error():
    """The error of a fitted ratio: by moving the readings and fitting again, each by its own error."""
    job = job_for("cold_lamination")
    built = BuiltForm.of(sketch(job))
    chord, rise, _ = built.on_face(built.bent_by(1.3), "inner")
    seen = built.fitted_ratio(chord_mm=chord, rise_mm=rise, face="inner", error_mm=0.5)
    assert seen.ratio == pytest.approx(1.3, abs=1e-6)
    rng = np.random.default_rng(4)
    tries = [
        built.fitted_ratio(chord_mm=chord + dc, rise_mm=rise + dr, face="inner", error_mm=0.5).ratio
        for dc, dr in rng.normal(0, 0.5, (60, 2))
    ]
    assert seen.error == pytest.approx(np.std(tries), rel=0.3)


def test_the_gap_at_the_other_end_counts_too():
    """Tip distance is the larger of both ends where they differ: a hook opens at its hooked end."""
    drawn = sketch(job_for("cold_lamination"))
    k, released = drawn.bend.on_form.curvature, drawn.bend.likely.curvature
    lengths = drawn.bend.target.lengths_mm
    one = float(tip_distance_mm(lengths, k, released))
    other = float(tip_distance_mm(lengths[::-1], k[::-1], released[::-1]))
    assert one == pytest.approx(other)
    bent_only_right = np.where(np.arange(k.size) == k.size - 1, 0.002, 0.0)
    assert (
        tip_distance_mm(lengths, bent_only_right, 0 * k) > 0
        and tip_distance_mm(lengths, bent_only_right[::-1], 0 * k) > 0
    )


def test_a_ring_is_compared_with_nothing():
    with pytest.raises(PlanError, match="springback is zero"):
        compare(BuiltForm.of(sketch(RING)), chord_mm=400, rise_mm=200, face="outer", error_mm=0.5)


def test_what_opened_and_what_closed_is_told_by_its_sign():
    """A piece as wide again as expected stands outwards, one narrower inwards, by how far its tips are off."""
    built = BuiltForm.of(sketch(job_for("cold_lamination")))
    wanted = built.mid_line(built.wanted_curvature)
    for more, sign in ((0.97, 1), (1.03, -1)):
        came = wanted.with_curvature(wanted.curvature * more)
        chord, rise = came.chord_and_rise_mm()
        seen = compare(built, chord_mm=chord, rise_mm=rise, face="mid", error_mm=0.5)
        off = float(tip_distance_mm(wanted.lengths_mm, came.curvature, wanted.curvature))
        assert seen.opened_mm == pytest.approx(sign * off, rel=0.02) and seen.opens == (sign > 0)
