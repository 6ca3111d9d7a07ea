"""Whatever is asked for, of whatever shape, way and form: a plan that can be drawn, or a sentence. Never a surprise."""

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from bright_willow.core.common.errors import PlanError
from bright_willow.core.form.kinds import BUILDS
from bright_willow.core.form.kinds import KINDS as FORM_KINDS
from bright_willow.core.job.faults import JobFaulty
from bright_willow.core.methods.method_registry import WAYS as REGISTRY
from bright_willow.core.plan.compare import compare_ways, offered_apart, turned_to
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.read_job import read_job
from bright_willow.core.shape.handle_drag import handles
from bright_willow.core.shop.shop import Shop
from bright_willow.drawing.board import board_svg
from bright_willow.drawing.export import EXPORTS
from tests.core.methods.jobs import data_for
from tests.core.shape.test_shapes import EXAMPLES
from tests.searching import examples

WAYS = list(REGISTRY)


def scaled(value, by):
    if isinstance(value, dict):
        return {k: scaled(v, by) for k, v in value.items()}
    if isinstance(value, list):
        return [scaled(v, by) for v in value]
    return value * by if isinstance(value, int | float) else value


@st.composite
def jobs(draw):
    kind = draw(st.sampled_from(sorted(EXAMPLES)))
    size = draw(st.floats(0.2, 4))
    face = draw(st.sampled_from(["inner", "mid", "outer"]))
    return {
        "name": "any",
        "way": draw(st.sampled_from(WAYS)),
        "shape": {"kind": kind, "face": face, **scaled(EXAMPLES[kind], size)},
        "part": {
            "thickness_mm": draw(st.floats(0.5, 120)),
            "width_mm": draw(st.floats(2, 1500)),
            "count": draw(st.sampled_from([1, 2, 30])),
            "trim_mm": draw(st.sampled_from([0, 30, 400])),
            "copies": draw(st.sampled_from(["alike", "pairs"])),
            "hand": draw(st.sampled_from(["left", "right"])),
        },
        "stock": {
            "species": draw(st.sampled_from(["ash_white", "alder_red", "teak"])),
            "dryness": draw(st.sampled_from(["green", "air_dried", "kiln_dried"])),
            "moisture_pct": draw(st.sampled_from([None, 0, 18, 200])),
        },
        "build_up": {
            "laminae": draw(st.sampled_from([2, 8, 60])),
            "press": draw(st.sampled_from(["clamps", "vacuum", "band"])),
        },
        "form": {
            "kind": draw(st.sampled_from(sorted(FORM_KINDS))),
            "build": draw(st.sampled_from(sorted(BUILDS))),
            "close_deg": draw(st.floats(-84, 84)),
            "splits_mm": draw(st.sampled_from([[], [0], [-80, 60], [-300, 0, 300]])),
            "side": draw(st.sampled_from(["inner", "outer"])),
            "depth_mm": draw(st.floats(20, 400)),
            "school": draw(st.sampled_from(["computed", "to_size", "by_angle", "by_distance"])),
        },
        "heat": {
            "start_share": draw(st.sampled_from([0, 0.6, 1.2])),
            "at_once": draw(st.sampled_from([1, 6])),
            "power_kw": draw(st.floats(0.05, 30)),
            "early": draw(st.booleans()),
        },
    }


@given(
    jobs(), st.sampled_from(["mm", "in"]), st.sampled_from([-200, 0, 3000]), st.sampled_from(["board", "ways", "svg"])
)
@settings(max_examples=examples(90), deadline=None, suppress_health_check=[HealthCheck.too_slow])
def test_any_job_is_planned_and_drawn_or_refused_in_a_sentence(data, units, altitude_m, what):
    shop = Shop(units=units, altitude_m=altitude_m)
    try:
        job = read_job(data, units)
        made = plan(job, shop)
        handles(job.shape, job.part.thickness_mm, mirrored=job.is_right)
        if what == "ways":
            assert len(compare_ways(job, shop)) + len(offered_apart(job)) == len(WAYS)
        elif what == "svg":
            EXPORTS["svg"].make(job, made, units, "a4", None)
        for stage in ("shape", "build_up", "form") if what == "board" else ():
            assert "nan" not in board_svg(job, made, stage=stage, unit=units)
    except JobFaulty as error:
        assert all(f.message.endswith((".", "?")) and f.field for f in error.faults)
    except PlanError as error:
        assert error.message(units).endswith(".")
    else:
        assert all(f.message.endswith(".") for f in made.findings)


@given(jobs(), st.sampled_from([-200, 0, 3000]))
@settings(max_examples=examples(50), deadline=None, suppress_health_check=[HealthCheck.too_slow])
def test_what_a_plan_works_out_later_is_never_refused(data, altitude_m):
    try:
        made = plan(read_job(data), Shop(altitude_m=altitude_m))
    except (JobFaulty, PlanError):
        return
    assert made.operations and made.elapsed.attended_h > 0
    assert all(row.laminae >= 2 for row in made.ladder)
    heights = [o.height_mm for o in made.offsets]
    assert all(h == h for h in heights)


def test_a_way_is_judged_by_the_gravest_thing_said_of_it():
    job = read_job(data_for("steam_free", part={"thickness_mm": 55, "trim_mm": 165}, stock={"dryness": "kiln_dried"}))
    row = {r.key: r for r in compare_ways(job)}["steam_free"]
    own = [f for f in plan(job).findings if f.stage in ("build_up", "bend", "steam", "dry", "stock")]
    assert len({f.level for f in own}) > 1  # there is something to choose from
    assert row.level == "stop"
    assert row.reason in [f.message for f in own if f.level == "stop"]


def test_each_way_is_told_by_a_thing_as_grave_as_its_level():
    """Of a part an inch and a quarter thick: what stands beside a level is what made it."""
    shape = {"kind": "arc_by_chord", "face": "inner", "chord_mm": 1270, "rise_mm": 292}
    job = read_job(data_for("cold_lamination", shape=shape, part={"thickness_mm": 31.75}, build_up={"laminae": 10}))
    rows = compare_ways(job)
    assert {row.level for row in rows} >= {"fit", "watch", "stop"}
    for row in rows:
        if row.made is None:
            continue
        told = [f.level for f in plan(turned_to(job, row.key)).findings if f.message == row.reason]
        assert row.level in told or (row.level == "fit" and not told), row.key
    assert {r.key: r.level for r in rows}["dry_heat"] == "stop"  # so thick, nothing is bent over a pipe
