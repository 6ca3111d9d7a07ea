"""The plan as a whole: hand-computed values, laws, findings, faults."""

import json
import math

import numpy as np
import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.job.faults import JobFaulty
from bright_willow.core.learning.belief import NOTHING_LEARNT, Belief, LearnedFigures
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.plan_file import plan_json
from bright_willow.core.plan.read_job import read_job, with_shape
from bright_willow.core.shape.curve_figures import CurveFigures
from bright_willow.core.shop.shop import OwnClamps, Shop
from bright_willow.core.wood.grain import grain_factor
from bright_willow.core.wood.species import species, species_table
from bright_willow.web.forms.typed import put_at
from tests.conftest import RIB
from tests.core.methods.jobs import job_for


def changed(**places):
    data = {
        **RIB,
        **{k: {**RIB[k], **v} if isinstance(v, dict) and k in RIB and k != "shape" else v for k, v in places.items()},
    }
    return read_job(data)


def test_the_rib_by_hand(rib):
    """The numbers written out in docs/model.md."""
    made = plan(rib)
    assert made.geometry.inner.least_radius_mm == pytest.approx(1060)
    assert made.geometry.mid.least_radius_mm == pytest.approx(1080)
    assert made.geometry.mid.length_mm == pytest.approx(1080 * 4 * math.atan2(1000, 1800), rel=1e-9)
    assert made.bend.opens.loss_share.likely == pytest.approx(1 / 64, rel=2e-3)
    assert made.make.use.worst.value == pytest.approx(5 / 2 / 1043 / (103 / 12_000), rel=5e-3)
    released = CurveFigures(made.bend.likely)
    assert released.chord_mm == pytest.approx(CurveFigures(made.bend.target).chord_mm, abs=1e-6)
    assert made.face_figures.least_radius_mm == pytest.approx(1080 * (1 - 1 / 64) - 20, rel=1e-3)
    assert made.face_figures.sweep_deg > made.geometry.mid.sweep_deg
    assert made.quantities.stock.strips == 56
    assert made.make.forces.lever_pull_n.value == pytest.approx(
        made.make.forces.holding_moment_nmm.value / (CurveFigures(made.bend.on_form).length_mm / 2 + 40), rel=1e-9
    )


def test_lamina_lengths_grow_outwards(rib):
    cuts = [lamina.cut_length_mm for lamina in plan(rib).laid_up.laminae]
    assert all(b > a for a, b in zip(cuts, cuts[1:], strict=False))
    form = CurveFigures(plan(rib).bend.on_form)
    per_lamina = math.radians(form.sweep_deg) * 5 * (form.length_mm + 80) / form.length_mm
    assert cuts[-1] - cuts[0] == pytest.approx(7 * per_lamina, rel=1e-6)


def test_the_ladder_agrees_with_planning_each_rung(rib):
    ladder = plan(rib).ladder
    for rung in ladder[1:12:3]:
        alone = plan(changed(build_up={"laminae": rung.laminae}))
        assert rung.use_of_strain == pytest.approx(alone.make.use.worst.value, rel=1e-4)
        assert rung.tip_mm == pytest.approx(alone.bend.opens.tip_mm.likely, rel=1e-4)
        assert rung.stock_m3 == pytest.approx(alone.quantities.stock.volume_m3, rel=2e-2)
    assert [r.laminae for r in ladder if r.chosen] == [8]


@pytest.mark.parametrize("face", ["inner", "mid", "outer"])
def test_the_same_piece_stated_on_any_face(face):
    thickness, radius = 40, {"inner": 980.0, "mid": 1000.0, "outer": 1020.0}[face]
    job = changed(shape={"kind": "arc_by_radius", "face": face, "radius_mm": radius, "angle_deg": 90})
    assert plan(job).geometry.mid.least_radius_mm == pytest.approx(1000)
    assert plan(job).geometry.outer.length_mm == pytest.approx((1000 + thickness / 2) * math.pi / 2)


def test_the_form_face_is_a_true_parallel_with_its_liner():
    for side, offset in (("inner", -(20 + 1.5)), ("outer", 20 + 1.5)):
        made = plan(changed(form={"side": side, "liner_mm": 1.5}))
        on_form = 1 / CurveFigures(made.bend.on_form).curve.curvature[0]
        assert made.face_figures.least_radius_mm == pytest.approx(on_form + offset)


def test_offsets_lie_on_the_face(rib):
    made = plan(rib)
    R, c, h = made.face_figures.least_radius_mm, made.face_figures.chord_mm, made.face_figures.rise_mm
    for row in made.offsets:
        assert row.height_mm == pytest.approx(math.sqrt(R**2 - row.station_mm**2) - (R - h), abs=1e-4)
    assert made.offsets[0].station_mm == pytest.approx(-c / 2)
    assert made.offsets[-1].height_mm == pytest.approx(0, abs=1e-6)
    steps = np.diff([o.station_mm for o in made.offsets[1:-1]])
    assert steps == pytest.approx(np.full(len(steps), 100.0))


def test_offsets_of_a_face_past_the_upright_go_along_it():
    made = plan(
        changed(
            shape={"kind": "arc_by_radius", "face": "mid", "radius_mm": 300, "angle_deg": 250},
            part={"thickness_mm": 12, "trim_mm": 20},
        )
    )
    R = made.face_figures.least_radius_mm
    centre = made.face_figures.rise_mm - R
    for row in made.offsets:
        assert math.hypot(row.station_mm, row.height_mm - centre) == pytest.approx(R, abs=1e-4)


def test_form_marks_and_stick_agree(rib):
    made = plan(rib)
    ends = [m for m in made.stick if m.kind == "part_end"]
    assert ends[1].inner_mm == pytest.approx(made.face.part_end_mm - made.face.middle_mm)
    assert made.stick[-1].outer_mm > made.stick[-1].inner_mm


def test_a_body_too_deep_for_its_bend_gets_a_straight_base():
    tight = changed(
        shape={"kind": "arc_by_radius", "face": "inner", "radius_mm": 60, "angle_deg": 120},
        part={"thickness_mm": 6},
        form={"depth_mm": 90},
    )
    assert plan(tight).face.back is None
    assert plan(tight).face.outline_points()[:, 1].min() < 0


def test_what_was_learnt_moves_the_form_and_narrows_the_band(rib):
    learnt = LearnedFigures({}, {("cold_lamination", "ash_white|rigid"): Belief(math.log(1.4), 0.004, 9)}, 9, 0)
    plain, wise = plan(rib), plan(rib, Shop(), learnt)
    assert wise.bend.opens.tip_mm.likely == pytest.approx(1.4 * plain.bend.opens.tip_mm.likely, rel=0.01)
    assert wise.bend.opens.tip_mm.grade == "learned"
    assert "9 of your measured bends" in wise.bend.opens.basis
    spread = wise.bend.opens.tip_mm.high / wise.bend.opens.tip_mm.low
    assert spread < plain.bend.opens.tip_mm.high / plain.bend.opens.tip_mm.low
    assert CurveFigures(wise.bend.likely).rise_mm == pytest.approx(CurveFigures(plain.bend.target).rise_mm, abs=1e-6)


LOT = {"name": "Ash", "species": "ash_white", "thickness_mm": 70, "width_mm": 200, "length_mm": 2400, "count": 6}
LEANING = {
    "kind": "u",
    "face": "inner",
    "left_leg_mm": 190,
    "left_radius_mm": 110,
    "left_lean_deg": 9,
    "flat_mm": 120,
    "right_radius_mm": 110,
    "right_lean_deg": 9,
    "right_leg_mm": 190,
}
FINDINGS = {
    "strain.breaks": changed(build_up={"laminae": 2}),
    "strain.risky": changed(build_up={"laminae": 3}),
    "strain.fit": changed(),
    "laminae.few": changed(build_up={"laminae": 3}),
    "laminae.thin": changed(build_up={"laminae": 30}),
    "glue.settles": changed(build_up={"adhesive": "pva"}),
    "stock.green": changed(stock={"dryness": "green"}),
    "stock.run_out": changed(stock={"grain_slope": 0.1}),
    "part.no_spare": changed(part={"spares": 0}),
    "press.race": changed(glue_up={"hands": 1, "spread_by": "brush"}, build_up={"laminae": 18, "adhesive": "pva"}),
    "prepare.short": changed(prepare={"boards": 1, "thickness_mm": 27, "length_mm": 2600}),
    "prepare.no_strips": changed(prepare={"boards": 3, "length_mm": 900}),
    "prepare.joined": changed(prepare={"boards": 60, "thickness_mm": 35, "width_mm": 60, "length_mm": 2600}),
    "part.short_trim": changed(part={"trim_mm": 4}),
    "shape.flat_end": changed(
        part={"left_cut": "on_line"}, shape={"kind": "arc_by_chord", "face": "inner", "chord_mm": 1810, "rise_mm": 60}
    ),
    "shape.mark_off": changed(part={"marks": [{"name": "tail", "at_mm": 9000}]}),
    "shape.mitre_short": changed(part={"right_trim_mm": 6, "right_cut": "mitred", "right_mitre_deg": 60}),
    "form.crosses": changed(shape={"kind": "arc_by_radius", "face": "inner", "radius_mm": 500, "angle_deg": 338}),
    "sheet.direction": changed(
        build_up={
            "lay_up": "layers",
            "layers": [
                {"thickness_mm": 0.6, "material": "walnut_black"},
                *[{"thickness_mm": 5, "material": "flex_ply_5"}] * 2,
                {"thickness_mm": 0.6, "material": "walnut_black"},
            ],
        },
        part={"thickness_mm": 11.2},
    ),
    "sheet.turned": changed(
        build_up={
            "lay_up": "layers",
            "layers": [
                {"thickness_mm": 5, "material": "flex_ply_5"},
                {"thickness_mm": 5, "material": "flex_ply_5", "grain": "across"},
            ],
        },
        part={"thickness_mm": 10},
    ),
    "press.open_ends": changed(build_up={"press": "vacuum", "gauge_kpa": 80, "laminae": 6}),
    "press.cannot_close": changed(build_up={"press": "vacuum", "gauge_kpa": 1, "laminae": 4}),
    "form.clamps_weak": changed(part={"width_mm": 240}, build_up={"adhesive": "uf_powder"}),
    "press.weak": changed(build_up={"press": "vacuum", "gauge_kpa": 60, "adhesive": "pva", "laminae": 14}),
    "press.band_straight": changed(
        shape={"kind": "hook", "face": "inner", "start_mm": 400, "radius_mm": 500, "angle_deg": 90, "end_mm": 300},
        build_up={"press": "band"},
    ),
    "press.band_lifts": changed(
        shape={
            "kind": "s",
            "face": "mid",
            "first_radius_mm": 700,
            "first_angle_deg": 70,
            "second_radius_mm": 700,
            "second_angle_deg": 50,
            "straight_mm": 60,
        },
        build_up={"press": "band"},
    ),
    "press.gauge_cut": changed(build_up={"press": "vacuum", "gauge_kpa": 110, "laminae": 14}),
    "press.light": changed(build_up={"press": "vacuum", "gauge_kpa": 88, "adhesive": "uf_powder", "laminae": 14}),
    "press.band_pull": changed(build_up={"press": "band", "band_kn": 0.05, "laminae": 4}),
    "strain.try_first": changed(shape={"kind": "arc_by_radius", "face": "inner", "radius_mm": 320, "angle_deg": 90}),
    "form.misses": changed(form={"school": "to_size"}),
    "springback.unknown": changed(build_up={"laminae": 4}),
    "part.few_spares": changed(part={"count": 40}),
    "pairs.alike": changed(part={"copies": "pairs"}),
    "pairs.turned": changed(
        part={"copies": "pairs"},
        shape={"kind": "hook", "face": "mid", "start_mm": 300, "radius_mm": 900, "angle_deg": 40, "end_mm": 50},
    ),
    "stock.figured": changed(stock={"figured": True}),
    "stock.moist": changed(stock={"moisture_pct": 17.0}),
    "stock.reject": changed(stock={"lot": {**LOT, "flaws": "knots"}}),
    "stock.short": changed(stock={"lot": {**LOT, "count": 1}}),
    "glue.cold": changed(build_up={"adhesive": "resorcinol"}),
    "form.closes": changed(form={"kind": "two_part"}),
    "form.starved": changed(
        shape={"kind": "arc_by_radius", "face": "mid", "radius_mm": 900, "angle_deg": 165}, form={"kind": "two_part"}
    ),
    "form.wedge": changed(
        shape={"kind": "arc_by_radius", "face": "mid", "radius_mm": 900, "angle_deg": 132}, form={"kind": "two_part"}
    ),
    "form.undercut": changed(shape=LEANING, part={"thickness_mm": 14}, form={"kind": "two_part"}),
    "form.holds_on": changed(shape=LEANING, part={"thickness_mm": 14}, form={"kind": "three_part"}),
    "form.gives": changed(part={"width_mm": 600}, form={"build": "sawn_sides", "skin_mm": 6}),
    "form.cannot_be_cut": changed(),
    "form.no_bolts": changed(form={"depth_mm": 21}),
    "form.clamps_short": changed(),
    "heat.blank_long": job_for("steam_strap", heat={"blanks_mm": [2000]}),
    "form.start_lifts": job_for("steam_strap", part={"thickness_mm": 50, "width_mm": 60}, heat={"hands": 1}),
    "form.skin_tight": changed(shape=LEANING, part={"thickness_mm": 14}, form={"build": "ribs"}),
    "ring.closed": changed(shape={"kind": "ring", "face": "inner", "diameter_mm": 900}),
}
SHOPS = {
    "glue.cold": Shop(temperature_c=15),
    "form.cannot_be_cut": Shop(sheet_long_mm=400, sheet_short_mm=300),
    "form.clamps_short": Shop(clamps=(OwnClamps(kind="f_clamp", count=2, opening_mm=300),)),
}


@pytest.mark.parametrize("code", FINDINGS)
def test_each_finding_and_what_clears_it(code):
    job, shop = FINDINGS[code], SHOPS.get(code, Shop())
    found = {f.code: f for f in plan(job, shop).findings}
    assert code in found, list(found)
    finding = found[code]
    assert finding.message.endswith(".") and finding.reason.endswith(".")
    if finding.fix:
        data = job.model_dump()
        for name, value in finding.fix.sets.items():
            put_at(data, name, value)
        assert code not in {f.code for f in plan(read_job(data), shop).findings}


def test_no_finding_where_none_is_due(rib):
    rib = rib.model_copy(update={"glue_up": rib.glue_up.model_copy(update={"by_weight": 25.0})})
    assert {
        f.level
        for f in plan(
            rib, Shop(), LearnedFigures({}, {("cold_lamination", "ash_white|rigid"): Belief(0, 0.01, 9)}, 9, 0)
        ).findings
    } == {"fit"}


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"shape": {"kind": "arc_by_chord", "face": "inner", "chord_mm": 10, "rise_mm": 900}}, "shape.chord_mm"),
        ({"shape": {"kind": "arc_by_radius", "face": "outer", "radius_mm": 42, "angle_deg": 90}}, "shape.radius_mm"),
        ({"shape": {"kind": "arc_by_chord", "face": "inner", "chord_mm": 1000, "rise_mm": -3}}, "shape.rise_mm"),
        ({"shape": {"kind": "spiral"}}, "shape"),
        ({"part": {"thickness_mm": "thick", "width_mm": 60}}, "part.thickness_mm"),
        ({"part": {"thickness_mm": 40, "width_mm": float("inf")}}, "part.width_mm"),
        ({"stock": {"species": "kryptonite"}}, "stock.species"),
        ({"build_up": {"laminae": 8, "adhesive": "spit"}}, "build_up.adhesive"),
        ({"build_up": {"laminae": 2.5}}, "build_up.laminae"),
        ({"name": "   "}, "name"),
        ({"colour": "red"}, "colour"),
    ],
)
def test_faults_name_their_field_and_say_a_sentence(change, field):
    with pytest.raises(JobFaulty) as caught:
        read_job({**RIB, **change})
    assert field in {f.field for f in caught.value.faults}
    assert all(f.message.endswith(".") for f in caught.value.faults)


def test_all_faults_come_at_once():
    with pytest.raises(JobFaulty) as caught:
        read_job({**RIB, "part": {"thickness_mm": -1, "width_mm": 0, "count": 0}}, "in")
    message = {f.field: f.message for f in caught.value.faults}
    assert set(message) == {"part.thickness_mm", "part.width_mm", "part.count"}
    assert message["part.width_mm"] == "At least 5/64 in, please."


def test_too_few_laminae_for_what_was_learnt_cannot_be_planned():
    learnt = LearnedFigures({}, {("cold_lamination", "ash_white|rigid"): Belief(math.log(4), 0.01, 5)}, 5, 0)
    with pytest.raises(PlanError, match="thinner strips"):
        plan(changed(build_up={"laminae": 2}), Shop(), learnt)
    assert plan(changed(build_up={"laminae": 9}), Shop(), learnt)
    assert NOTHING_LEARNT.used == 0


def test_every_row_of_the_tables_has_grade_and_source():
    for row in species_table().values():
        assert row.stiffness_grade in ("published", "allowance") and row.stiffness_source
        assert (row.rt_strap is None) or (row.bend_grade and row.bend_source)
        assert 0.004 < row.breaking_strain < 0.012
    assert species("ash_white").breaking_strain == pytest.approx(103 / 12_000)


def test_grain_factor_at_its_edges():
    assert [grain_factor(s) for s in (0, 1 / 25, 1 / 5)] == [1.0, 0.96, 0.55]
    assert 0.89 < grain_factor(1 / 17) < 0.93
    for bad in (-0.01, 0.21):
        with pytest.raises(PlanError):
            grain_factor(bad)


def test_a_form_of_the_size_wanted_is_geometry_alone():
    """Nothing learnt goes into a drum or a form made to size; into any other the springback does."""
    for change, grade in (
        ({"shape": {"kind": "ring", "face": "inner", "diameter_mm": 900}}, "physics"),
        ({"form": {"school": "to_size"}}, "physics"),
        ({}, "allowance"),
    ):
        assert plan(job_for("cold_lamination", **change)).form_grade == grade


def test_another_shape_for_a_job_is_read_as_with_all_of_it(rib):
    """The same job, or the same faults, as if everything were read anew."""
    wider = rib.shape.model_copy(update={"chord_mm": 1900.0})
    assert with_shape(rib, wider) == read_job({**rib.model_dump(), "shape": wider.model_dump()})
    for bad in ({"chord_mm": -4.0}, {"rise_mm": float("nan")}, {"chord_mm": 100.0, "rise_mm": 4000.0}):
        shape, said = rib.shape.model_copy(update=bad), []
        for read in (
            lambda s=shape: with_shape(rib, s),
            lambda s=shape: read_job({**rib.model_dump(), "shape": s.model_dump()}),
        ):
            try:
                said.append(read())
            except JobFaulty as error:
                said.append([(f.field, f.message) for f in error.faults])
        assert said[0] == said[1], bad
    with pytest.raises(JobFaulty):
        with_shape(rib, rib.shape.model_copy(update={"chord_mm": -4.0}))


def test_files_keep_the_keys_they_have_had_since_the_first_version():
    """The code says message, reason and fix; files say “says”, “because” and “try_”."""
    made = plan(job_for("steam_strap", heat={"strap_mm": 0.3}))
    own = next(f for f in made.findings if f.fix)
    kept = next(f for f in json.loads(plan_json(made))["findings"] if f["code"] == own.code)
    assert (kept["says"], kept["because"]) == (own.message, own.reason)
    assert kept["try_"] == {"says": own.fix.message, "sets": own.fix.sets}
    told = json.loads(plan_json(made))["operations"]
    assert [m["says"] for o in told for m in o["moves"]] == [m.message for o in made.operations for m in o.moves]
