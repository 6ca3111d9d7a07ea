"""Making the form is work: its steps with times by hand, what to buy, and its place before the first bend."""

import pytest

from bright_willow.core.common.amounts import format_glue
from bright_willow.core.common.operation import in_order
from bright_willow.core.form.parts import length_mm
from bright_willow.core.methods.method_registry import WAYS
from bright_willow.core.methods.steps.making_form import STACK_CURES_H, after_form, form_work, is_form_work
from bright_willow.core.plan.plan import plan
from bright_willow.core.scheduling.job_tasks import JobTasks, ShopCapacity
from bright_willow.core.scheduling.timetable import timetable
from bright_willow.core.shop.shop import Shop

from ..scheduling.rules import week
from .jobs import job_for


def steps_of(made):
    return {o.key: o for o in made.form_work.operations}


def test_a_stack_by_hand():
    """Three layers of one part: one pattern and two copies; its outline and face are measured off the part."""
    made = plan(job_for("cold_lamination"))
    (part,) = [p for p in made.build.parts if p.end_mm > 0]
    assert part.count == 3
    steps, outline_m, face_m = steps_of(made), length_mm(part.outline) / 1000, length_mm(part.face_edge) / 1000
    assert list(steps) == [f"form_{k}" for k in ("template", "first", "fair", "copy", "stack", "seal")]
    holes = len(part.holes)
    by_hand = {
        "form_template": 900,
        "form_first": 120 * outline_m + 60 * holes,
        "form_fair": 600 * face_m,
        "form_copy": 2 * ((120 + 60) * outline_m + 60 * holes),
        "form_stack": 2 * 300,
        "form_seal": 3600 * face_m * made.site.stack_mm / 1000,
    }
    assert {k: o.attended_s.likely for k, o in steps.items()} == pytest.approx(by_hand)
    assert steps["form_stack"].unattended_s.likely == STACK_CURES_H * 3600 and steps["form_stack"].may_run_alone
    assert made.form_work.attended_s == pytest.approx(sum(by_hand.values()))
    assert made.form_work.lasts_s == pytest.approx(sum(by_hand.values()) + 3 * 3600)  # two of glue, one of sealer
    assert steps["form_copy"].name == "Make the 2 copies" and steps["form_copy"].cautions


def test_more_forms_are_more_copies_of_one_pattern():
    made = plan(job_for("cold_lamination"))
    one, three = form_work(made.build, 1), form_work(made.build, 3)
    of_one, of_three = ({o.key: o.attended_s.likely for o in w.operations} for w in (one, three))
    assert of_three["form_template"] == of_one["form_template"] and of_three["form_fair"] == of_one["form_fair"]
    assert of_three["form_copy"] == pytest.approx(4 * of_one["form_copy"])  # 8 copies, not 2
    assert of_three["form_stack"] == pytest.approx(3 * of_one["form_stack"])
    bolts = [next(m.amount for m in w.materials if m.name.startswith("bolts")).split(",")[0] for w in (one, three)]
    assert int(bolts[1]) == 3 * int(bolts[0])


@pytest.mark.parametrize("unit", ["mm", "in"])
def test_ribs_with_a_skin_and_a_matched_form(unit):
    shop = Shop(units=unit)
    ribs = plan(job_for("cold_lamination", form={"build": "ribs"}), shop)
    keys = list(steps_of(ribs))
    assert keys[3:] == [f"form_{k}" for k in ("copy", "carcase", "skin", "trim", "seal")]
    spacers = sum(p.count for p in ribs.build.parts if p.name.startswith("spacers"))
    carrying = sum(p.count for p in ribs.build.parts if p.end_mm > 0)
    screws = 4 * spacers + 2 * carrying
    bought = {m.name: m.amount for m in ribs.form_work.materials}
    assert bought["pocket screws"] == str(screws)
    on_edges = sum(p.count * length_mm(p.face_edge) * p.thickness_mm for p in ribs.build.parts if p.end_mm > 0) * 1e-6
    assert bought["wood glue"] == format_glue(180 * on_edges, unit)  # the skin lies on the edge of every rib
    assert sum(name.startswith("sheet ") for name in bought) == 2  # ribs and skin are not of one sheet
    assert steps_of(ribs)["form_carcase"].attended_s.likely == pytest.approx(15 * screws + 60 * spacers)
    sides = plan(job_for("cold_lamination", form={"build": "sawn_sides"}), shop)
    count = {word: sum(p.count for p in sides.build.parts if p.name.startswith(word)) for word in ("spacers", "slats")}
    screws = 4 * count["spacers"] + 2 * count["slats"] + 2 * sum(p.count for p in sides.build.parts if p.end_mm > 0)
    assert {m.name: m.amount for m in sides.form_work.materials}["pocket screws"] == str(screws) and count["slats"] > 4
    driven = sum(n for o in sides.form_work.operations for move, n, _ in o.attended_s.made_of if move == "screw")
    assert driven == screws  # each is driven once: with the spacers and the platform, or with the slats
    matched = plan(job_for("cold_lamination", form={"kind": "two_part", "liner_mm": 1.5}), shop)
    last = matched.form_work.operations[-1]
    assert last.key == "form_test_close" and last.record == ("where it pinches",)
    thick = matched.job.part.thickness_mm + 2 * matched.site.choice.liner_mm + matched.site.caul_mm
    from bright_willow.core.common.units import format_length

    assert format_length(thick, shop.rule) in last.steps[0]


def test_no_form_no_work():
    straight = plan(job_for("straighten"))
    assert straight.form_work.operations == () and straight.operations_with_form == straight.operations
    table = plan(job_for("cold_lamination", form={"kind": "posts"}))
    assert [o.key for o in table.form_work.operations] == ["form_template", "form_brackets"]
    posts = len(table.form.posts)
    assert table.form_work.operations[1].attended_s.likely == 240 * posts
    assert [m.amount for m in table.form_work.materials] == [str(posts), str(4 * posts)]


@pytest.mark.parametrize("way", WAYS)
def test_the_form_is_ready_before_the_first_bend_and_wood_is_prepared_meanwhile(way):
    made = plan(job_for(way))
    operations = made.operations_with_form
    assert in_order(operations) == operations
    assert len(operations) == len(made.operations) + len(made.form_work.operations)
    if not made.form_work.operations:
        return
    forms = made.way.batches.forms
    work = JobTasks(1, made.job.name, operations, made.way.batches, {"form": forms, "strap": forms})
    owned = {"chamber": 1, "frame": 9, "saw": 1, "clamps": 60}
    table = timetable([work], ShopCapacity(week(60), 2, owned))
    ready = max(d.to_s for d in table.doings if is_form_work(d.operation.key))
    needs = [
        d
        for d in table.doings
        if any(h.what == "form" for h in d.operation.takes) or d.operation.key in ("dry_run", "set_up")
    ]
    assert needs and all(d.from_s >= ready - 1 for d in needs)
    first = min(d.from_s for d in table.doings if d.operation.key == "look_over")
    assert first < ready  # boards are inspected before the form is ready
    assert after_form(made.operations, form_work(made.build, forms))[-1] == operations[-1]
