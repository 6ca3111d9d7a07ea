"""Why did it fail? Each cause, made to happen, comes first or second for what it brings; figures come from plan and run."""

from __future__ import annotations

from dataclasses import replace

import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.common.findings import Finding
from bright_willow.core.diagnosis.causes import (
    CHANGES,
    Fact,
    causes_of,
    change_for,
    facts_of,
    symptoms_of,
    table,
)
from bright_willow.core.execution.run_records import PieceRecord
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.read_job import read_job
from bright_willow.drawing.symptom_drawing import MARKS, symptom_svg
from tests.core.methods.jobs import data_for, job_for

SEEN, CAUSES = table()
HOT = plan(job_for("steam_strap", heat={"stop": "clamps"}))
FREE = plan(job_for("steam_free"))
GLUED = plan(job_for("cold_lamination"))
BOTH = plan(job_for("steam_laminae"))
MATCHED = plan(job_for("cold_lamination", form={"kind": "two_part"}))
BAGGED = plan(job_for("cold_lamination", build_up={"press": "vacuum"}))
MAIN = [(c.key, s) for c in CAUSES.values() for s, often in c.brings.items() if often == max(c.brings.values())]


def where(ranked, key: str) -> int:
    return [r.cause.key for r in ranked].index(key) + 1


def stage_for(cause, symptom: str):
    """A plan on which that can be seen and that cause can be."""
    if cause.of_trait:
        return {"strap": HOT, "free": FREE, "bag": BAGGED}[cause.of_trait]
    return {"hot": HOT, "laid_up": GLUED, "both": BOTH, "matched": MATCHED}[SEEN[symptom].of]


def made_to_happen(cause, made):
    """That plan with everything well clear but this cause: its figures bad, its findings said, its sign seen."""
    clear = {row.fact: Fact(row.clear, "clear") for c in CAUSES.values() for row in c.facts}
    bad = {row.fact: Fact(row.from_, "bad") for row in cause.facts}
    level = [Finding(code, "watch", "bend", "It is so.", "") for code in cause.findings]
    return replace(made, findings=tuple(level)), clear | bad


def test_the_table_is_whole():
    assert len(SEEN) >= 30 and len(CAUSES) >= 45
    for cause in CAUSES.values():
        assert cause.brings and set(cause.brings) <= set(SEEN), cause.key
        assert cause.look and cause.next and cause.name
        assert cause.facts or cause.findings or cause.said, cause.key  # something must be able to speak for it
        assert not cause.change or cause.change in CHANGES, cause.key
        assert all(row.from_ != row.clear and (row.from_ > row.clear) is row.is_above for row in cause.facts), cause.key
    for key, seen in SEEN.items():
        assert sum(key in c.brings for c in CAUSES.values()) >= 2, key
        assert seen.drawing in MARKS and seen.of in ("hot", "laid_up", "both", "matched")


def test_every_finding_it_speaks_of_is_one_of_the_plan():
    from tests.test_docs import FORMAT

    for cause in CAUSES.values():
        assert all(f"`{code}`" in FORMAT for code in cause.findings), cause.key


@pytest.mark.parametrize(("key", "symptom"), MAIN, ids=[f"{k}-{s}" for k, s in MAIN])
def test_each_cause_made_to_happen_comes_first_or_second(key, symptom):
    cause = CAUSES[key]
    made, facts = made_to_happen(cause, stage_for(cause, symptom))
    said = {key: True} if cause.said else {}
    ranked = causes_of(symptom, made, said=said, facts=facts)
    assert where(ranked, key) <= 2, [(r.cause.key, round(r.share, 2)) for r in ranked[:4]]
    assert sum(r.share for r in ranked) == pytest.approx(1.0)
    calm = causes_of(
        symptom, replace(made, findings=()), facts={**facts, **{r.fact: Fact(r.clear, "") for r in cause.facts}}
    )
    assert where(calm, key) >= where(ranked, key)


# what really is so in a plan or a run, from its job, its record, or both: symptom, cause
REAL = {
    "run_out": ("split_along", {"stock": {"grain_slope": 0.14}}, {}),
    "kiln_dried": ("checked_drying", {"stock": {"dryness": "kiln_dried", "moisture_pct": None}}, {}),
    "too_tight": ("broken_across", {"shape": {"kind": "hook", "face": "inner", "start_mm": 420, "radius_mm": 70, "angle_deg": 110, "end_mm": 190}}, {}),
    "too_wet": ("mouldy", {"stock": {"dryness": "green", "moisture_pct": 55}}, {}),
    "figured": ("broken_across", {"stock": {"figured": True}}, {}),
    "cold_middle": ("too_stiff", {}, {"steamed_s": 240.0}),
    "too_slow": ("outer_splintered", {}, {"to_form_s": 140.0}),
    "cool_chamber": ("too_stiff", {}, {"steamed_s": 3000.0, "chamber_c": 84.0}),
    "boiled_dry": ("too_stiff", {}, {"steamed_s": 3000.0, "chamber_c": 97.0, "chamber_low_c": 82.0}),
    "too_long_steamed": ("broken_across", {}, {"steamed_s": 4 * 3600.0}),
    "early_off": ("opens_too_much", {}, {"on_form_s": 2 * 3600.0}),
    "stop_weak": ("stop_slid", {"heat": {"stop": "clamps", "stop_clamps": 1}, "part": {"width_mm": 80}}, {}),
}  # fmt: skip


@pytest.mark.parametrize("key", REAL)
def test_from_a_real_plan_and_run(key):
    symptom, changes, record = REAL[key]
    data = data_for("steam_strap", **changes)
    made = plan(read_job(data))
    own = PieceRecord(0, **record) if record else None
    ranked = causes_of(symptom, made, own)
    assert where(ranked, key) <= 2, [
        (r.cause.key, round(r.share, 2), [s.message for s in r.speaks]) for r in ranked[:4]
    ]
    speaks = next(r for r in ranked if r.cause.key == key).speaks
    assert any(s.weight > 0 and s.message for s in speaks)  # and it is said what speaks for it


GLUE_REAL = {
    "glue_late": ("delaminated", {}, {"open_s": 3 * 3600.0}),
    "glue_cold": ("delaminated", {"glue_up": {"temperature_c": 6.0}}, {}),
    "early_off": ("delaminated", {}, {"on_form_s": 1800.0}),
    "wet_for_glue": ("delaminated_later", {"stock": {"dryness": "air_dried", "moisture_pct": 19}}, {}),
    "creeping_glue": ("opens_for_days", {"build_up": {"adhesive": "pva"}}, {}),
    "few_laminae": ("opens_too_much", {"build_up": {"laminae": 3}}, {}),
    "light_pressure": ("gaps_middle", {"build_up": {"press": "vacuum", "gauge_kpa": 30.0}}, {"pressure_kpa": 30.0}),
    "corner_in_curve": ("kink", {"shape": {"kind": "hook", "face": "inner", "start_mm": 300, "radius_mm": 220, "angle_deg": 85, "end_mm": 120}}, {}),
}  # fmt: skip


@pytest.mark.parametrize("key", GLUE_REAL)
def test_from_a_real_glue_up(key):
    symptom, changes, record = GLUE_REAL[key]
    made = plan(read_job(data_for("cold_lamination", **changes)))
    ranked = causes_of(symptom, made, PieceRecord(0, **record) if record else None)
    assert where(ranked, key) <= 2, [
        (r.cause.key, round(r.share, 2), [s.message for s in r.speaks]) for r in ranked[:5]
    ]


def test_an_answer_moves_a_cause_up_and_down():
    plain = causes_of("outer_splintered", HOT)
    yes = causes_of("outer_splintered", HOT, said={"strap_loose": True})
    no = causes_of("outer_splintered", HOT, said={"strap_loose": False})
    share = [next(r.share for r in rs if r.cause.key == "strap_loose") for rs in (no, plain, yes)]
    assert share[0] < share[1] < share[2] and where(yes, "strap_loose") <= 2
    assert next(r for r in yes if r.cause.key == "strap_loose").said is True


def test_what_cannot_be_is_not_named():
    keys = {r.cause.key for r in causes_of("outer_splintered", FREE)}
    assert "strap_loose" not in keys and "no_strap" in keys
    assert "no_strap" not in {r.cause.key for r in causes_of("outer_splintered", HOT)}
    assert {s.of for s in symptoms_of(GLUED)} == {"laid_up", "both"} and {s.of for s in symptoms_of(BOTH)} == {
        "laid_up",
        "hot",
        "both",
    }
    assert "matched" in {s.of for s in symptoms_of(MATCHED)}
    with pytest.raises(PlanError):
        causes_of("sulking", HOT)


def test_figures_of_a_run_stand_in_place_of_the_plans():
    own = facts_of(HOT, PieceRecord(0, steamed_s=600.0, to_form_s=33.0))
    planned = facts_of(HOT)
    assert "10 min in the steam" in own["steam_share"].message and "planned" in planned["steam_share"].message
    assert own["window_used"].value == pytest.approx(33.0 / HOT.hot.heat.steam.window_s)
    assert "on_form_share" not in planned and facts_of(GLUED).keys() & {"open_share", "glue_over_k", "loss"}
    half = facts_of(HOT, PieceRecord(0, on_form_s=HOT.hot.drying.on_form_h * 1800.0))
    assert half["on_form_share"].value == pytest.approx(0.5)


def test_what_one_press_changes_can_be_done():
    """Every change offered makes a job that can be read, and is another one."""
    for made in (HOT, FREE, GLUED, BOTH):
        for symptom in symptoms_of(made):
            for ranked in causes_of(symptom.key, made):
                if ranked.change:
                    data = made.job.model_dump()
                    for name, value in ranked.change.sets.items():
                        room, field = name.split(".", 1)
                        if "." not in field and room != "shop":
                            data[room][field] = value
                    assert read_job(data) != made.job or any(n.startswith("shop") for n in ranked.change.sets), (
                        ranked.cause.key
                    )
    longer = change_for(CAUSES["cold_middle"], HOT)
    assert longer.sets["heat.own_min"] > HOT.hot.heat.steam.time.planned_min


def test_every_symptom_has_its_drawing():
    drawn = {s.drawing: symptom_svg(s.drawing, s.name) for s in SEEN.values()}
    assert all(svg.count("<path") >= 3 and "<title>" in svg for svg in drawn.values())
    with pytest.raises(KeyError):
        symptom_svg("nothing", "nothing")


def test_a_clean_run_in_a_warm_shop_blames_neither_the_cold_nor_the_race():
    """Dry wood, 21 °C, a glue from 20 °C, a line that opened: what nothing measured can show comes first; and a form
    that flexes is among the first three for flat places before anybody has looked, the first once somebody has."""
    job = job_for("cold_lamination").model_dump()
    job["stock"] |= {"moisture_pct": 9.0, "dryness": "kiln_dried"}
    dry = plan(read_job(job))
    ranked = [r.cause.key for r in causes_of("delaminated", dry)]
    assert "bad_mix" in ranked[:2] and ranked.index("glue_cold") > 2
    cold = {**facts_of(dry), "glue_over_k": Fact(-2.0, "2 K too cold")}
    assert causes_of("delaminated", dry, facts=cold)[0].cause.key == "glue_cold"
    assert where(causes_of("flats", dry), "form_gives") <= 3 and where(causes_of("gaps_middle", dry), "form_gives") <= 3
    for seen in ("flats", "gaps_middle"):
        assert where(causes_of(seen, dry, said={"form_gives": True}), "form_gives") == 1
    assert "folds_in_bag" not in [r.cause.key for r in causes_of("flats", dry)]  # there is no bag
