"""What is done, way by way: times by hand, what is held and given back, what may not wait, who must be by."""

import math

import numpy as np
import pytest

from bright_willow.core.common.operation import After, Operation, in_order
from bright_willow.core.common.units import format_length
from bright_willow.core.heat.springback_measures import leg_turns_deg
from bright_willow.core.methods.method_registry import WAYS
from bright_willow.core.plan.plan import plan
from bright_willow.core.shop.shop import LearntTimeOf, OwnTime, Shop
from bright_willow.core.shop.times import QUICK, SLOW, Times, time_table
from tests.core.methods.jobs import job_for

EVERY = sorted(WAYS)
STEAMED = ["steam_laminae", "steam_free", "steam_strap", "straighten"]
GLUED = ["cold_lamination", "sheet_layup", "steam_laminae"]
S = {key: row.seconds for key, row in time_table().items()}


def done(way: str, shop: Shop | None = None, **changes) -> dict[str, Operation]:
    return {o.key: o for o in plan(job_for(way, **changes), shop).operations}


def hand_s(made: dict[str, Operation], *keys: str) -> list[float]:
    return [made[k].attended_s.likely for k in keys]


# -- what holds for every way ---------------------------------------------------------------------------------------
@pytest.mark.parametrize("way", EVERY)
def test_what_is_taken_is_given_back_and_never_taken_twice(way):
    """Walked in order, nothing is held at the end, and nothing is taken while it is held."""
    held: dict[str, str] = {}
    for one in done(way).values():
        for taken in one.takes:
            assert taken.what not in held, (one.key, taken.what)
            held[taken.what] = one.key
            assert taken.count >= 1
        for what in one.frees:
            held.pop(what, None)
    assert not held


@pytest.mark.parametrize("way", EVERY)
def test_somebody_is_by_where_there_is_heat_or_something_runs_out(way):
    """Nothing hot may be left: only curing, setting, soaking and drying run alone."""
    made = done(way, heat={"soaked": "days"}) if way in ("steam_free", "steam_strap") else done(way)
    alone = {k for k, o in made.items() if o.may_run_alone}
    assert alone <= {"cure", "set", "dry", "soak"} and (alone or way in ("dry_heat", "blanket"))
    for one in made.values():
        if one.kind in ("cool", "steam", "cure", "dry", "set"):
            assert one.attended_s.likely == 0  # somebody near takes nobody's hands
        for wait in one.after:
            assert wait.least_s == 0 or wait.most_s is None, one.key  # what may not wait need not either
        if one.unattended_s.likely and not one.may_run_alone:
            assert one.kind in ("warm_up", "steam", "cool", "heat_up"), one.key
        if one.window:
            assert one.window.seconds > 0 and not one.may_run_alone
            since = made[one.window.since]
            chain = [one.key]
            while chain[-1] != since.key:  # nothing from there to here may wait
                (before,) = made[chain[-1]].after
                assert before.most_s == 0, (one.key, chain)
                chain.append(before.key)
        if one.kind in ("warm_up", "steam", "bend", "heat_up", "load"):
            assert one.cautions, one.key


@pytest.mark.parametrize("way", EVERY)
def test_every_way_ends_measured_and_measured_again_after_a_week(way):
    made = done(way)
    *_, measure, again = made.values()
    assert (measure.key, again.key) == ("measure", "measure_again")
    assert again.after == (After("measure", 7 * 86_400.0),)
    assert {"chord", "rise"} <= set(measure.record) and all("None" not in s for o in made.values() for s in o.steps)
    kinds = [o.kind for o in made.values()]
    assert (
        kinds.index("dry_run") < min(kinds.index(k) for k in ("bend", "close") if k in kinds) or way == "steam_laminae"
    )


@pytest.mark.parametrize("way", EVERY)
def test_moves_follow_one_another_and_end_where_the_plan_text(way):
    """Every move begins where the one before ends, and each says which figure it would time."""
    for one in done(way).values():
        for a, b in zip(one.moves, one.moves[1:], strict=False):
            assert b.from_s == pytest.approx(a.to_s), (one.key, b.message)
        if one.moves:
            assert one.moves[0].from_s == 0 and all(m.to_s > m.from_s for m in one.moves)
    for key in ("bend", "close", "spread"):
        one = done(way).get(key)
        if one and one.window and one.moves:
            assert one.moves[-1].to_s <= one.window.seconds


@pytest.mark.parametrize("way", EVERY)
def test_hours_with_hands_are_the_sum_of_the_operations(way):
    """Everybody's, once for the job, for each batch, for each piece; measuring again is none of the work, nor is heat
    that is still there."""
    made = plan(job_for(way))
    pieces = made.job.part.count + made.job.part.spares
    loads = math.ceil(pieces / made.way.batches.at_once)
    often = {"job": 1, "batch": loads, "piece": pieces}
    hours = [(o, o.attended_s.likely * o.hands / 3600) for o in made.operations if o.kind != "measure_again"]
    total = sum(one * often[o.scope] for o, one in hours)
    kept = sum(one * (often[o.scope] - 1) for o, one in hours if o.keeps_s)
    assert total - kept - 1e-9 <= made.elapsed.attended_h <= total + 1e-9


def test_an_order_that_cannot_be_is_refused():
    first, second = (Operation(k, k, k, "job", Times(Shop()).of(mix=1)) for k in ("a", "b"))
    assert in_order((first, second)) == (first, second)
    with pytest.raises(ValueError, match="two operations are called a"):
        in_order((first, first))
    late = Operation("c", "c", "c", "job", Times(Shop()).of(mix=1), after=(After("d"),))
    with pytest.raises(ValueError, match="c waits for d"):
        in_order((first, late))


# -- gluing ---------------------------------------------------------------------------------------------------------
def test_a_glue_up_by_hand():
    """Ten laminae, four pieces and a spare: fifty strips, nine lines a piece, clamps in hand.

    A board 150 × 2400 mm gives 20 strips of 6.4 mm beside 20 mm that are held, twice over its length: two boards."""
    made, of = done("cold_lamination"), plan(job_for("cold_lamination"))
    long = max(x.cut_length_mm for x in of.laid_up.laminae) / 1000
    area = 0.046 * of.bend.blank.length_mm / 1000  # 40 wide and 6 to clean up
    assert hand_s(made, "look_over", "rip", "plane", "number") == pytest.approx(
        [2 * S["look_over"], 50 * S["rip_strip"] + 50 * long * S["rip_metre"], 100 * long * S["plane_metre"], 500]
    )
    assert hand_s(made, "mix", "spread", "close") == pytest.approx(
        [S["mix"], 9 * (area * S["spread_m2"] / 2 + S["lay_on"]), S["set_stack"] + of.form.clamps * S["clamp"] / 2],
        rel=2e-3,
    )
    assert made["rip"].takes[0].what == "saw" == made["rip"].frees[0]
    cure = made["cure"].unattended_s.likely
    assert cure == pytest.approx(of.laid_up.press_h * 3600)
    off, rest = made["clean_up"].after
    assert (off.key, off.least_s, rest.key) == ("release", 0.0, "cure")
    assert rest.least_s == pytest.approx((of.laid_up.planed_h - of.laid_up.press_h) * 3600)  # from closing, as on Press
    race = of.glued_up.race
    assert made["spread"].attended_s.likely == pytest.approx(race.bars[-1].covered_s)
    assert made["spread"].attended_s.likely + made["close"].attended_s.likely == pytest.approx(race.lasts_s)
    assert made["close"].window.since == "spread"
    assert made["close"].window.seconds == pytest.approx(of.glued_up.race.press_by_s)
    assert "9 glue lines" in made["spread"].steps[0] and made["close"].takes[1].count == of.form.clamps
    strips = format_length(3.4, "mm")  # 2.4 and a millimetre to plane
    assert made["rip"].steps == (f"50 strips, {strips} × 46 mm × {long * 1000:.1f} mm, rough.",)
    assert made["mix"].steps[0].startswith(f"{of.laid_up.glue_g.value / 5:.0f} g of ")


def test_how_a_glue_up_is_pressed():
    for press, held, moved in (("vacuum", "bag", S["bag"]), ("band", "clamps", S["band"])):
        made = done("cold_lamination", build_up={"press": press, "adhesive": "epoxy"})
        close = made["close"]
        assert {t.what for t in close.takes} == {"form", held} and "presses with" in close.steps[1]
        assert close.attended_s.likely == pytest.approx(S["set_stack"] + moved / 2)
        assert "with the press and" in made["dry_run"].steps[0]
    clamped = done("cold_lamination")["dry_run"].steps[0]
    assert "every clamp in hand" in clamped
    more = done("cold_lamination", glue_up={"hands": 3})
    one = done("cold_lamination", glue_up={"hands": 1})
    assert more["close"].moves[-1].to_s == pytest.approx(
        S["set_stack"] + (one["close"].moves[-1].to_s - S["set_stack"]) / 3
    )


def test_people_and_brushes_count_in_the_operations_too():
    """What the page says from spreading to clamped is what the operations take, whoever spreads, and with what."""
    for choice in ({"hands": 1}, {"hands": 4}, {"spread_by": "brush"}, {"hands": 3, "spread_by": "brush"}):
        job = job_for("cold_lamination", glue_up=choice)
        made, race = done("cold_lamination", glue_up=choice), plan(job).glued_up.race
        took = made["spread"].attended_s.likely + made["close"].attended_s.likely
        assert took == pytest.approx(race.lasts_s), choice
        people = choice.get("hands", 2)
        assert made["spread"].hands == made["close"].hands == people
        assert made["dry_run"].hands == 1  # 42 min of closed time: one alone is done in 11


def test_several_batches_of_strips_are_pressed_one_after_another():
    """Nine lines in two batches: five and four, each mixed, spread, pressed and cured; the form is held all along."""
    choice = {"goes": 2}
    made, of = done("cold_lamination", glue_up=choice), plan(job_for("cold_lamination", glue_up=choice))
    keys = list(made)
    order = ["mix", "spread", "close", "cure", "open", "mix_2", "spread_2", "close_2", "cure_2", "release"]
    assert [k for k in keys if k in order] == order
    assert made["cure_2"].unattended_s == made["cure"].unattended_s
    lines = [int(made[k].steps[0].split()[0]) for k in ("spread", "spread_2")]
    assert lines == [5, 4] == list(of.glued_up.lines)
    grams = [float(made[k].steps[0].split()[0]) for k in ("mix", "mix_2")]
    assert sum(grams) == pytest.approx(of.laid_up.glue_g.value / 5, abs=1.0) and grams[0] > grams[1]
    assert of.glued_up.mix.mass_g == pytest.approx(grams[0], abs=0.6)
    assert "form" in {t.what for t in made["close"].takes} and "form" not in {t.what for t in made["close_2"].takes}
    assert made["open"].frees == ("clamps", "bag") and "form" in made["release"].frees
    assert made["close_2"].window.since == "spread_2"
    one = plan(job_for("cold_lamination"))
    assert of.elapsed.done_days > one.elapsed.done_days + 0.9 * of.laid_up.press_h / 24  # one more cure for each piece


def test_in_place_it_is_glue_pin_next_and_one_cure():
    made, of = (
        done("cold_lamination", form={"kind": "in_place"}),
        plan(job_for("cold_lamination", form={"kind": "in_place"})),
    )
    assert [k for k in made if k in ("mix", "spread", "close", "cure", "release")] == [
        "mix",
        "spread",
        "cure",
        "release",
    ]
    race, lines = of.glued_up.race, of.job.build_up.glue_lines
    assert len(race.bars) == 1 and of.glued_up.strip_by_strip  # one line is open at a time
    took = lines * (race.lasts_s - S["set_stack"]) + S["set_stack"]
    assert made["spread"].attended_s.likely == pytest.approx(took)
    said = " ".join(made["spread"].steps)
    assert "The next goes on at once" in said and "until its glue has set" not in said
    assert f"{race.lasts_s / 60:.0f} planned" in said


def test_layers_out_of_sheets_are_cut_and_strips_sawn_only_where_there_are_any():
    made = done("sheet_layup")
    assert "rip" not in made and "plane" not in made
    assert hand_s(made, "cut_sheets", "number") == pytest.approx([30 * S["cut_sheet"], 30 * S["number_strip"]])
    both = done("sheet_layup", build_up={"layers": [
        {"thickness_mm": 3.1, "material": "ash_white"}, *[{"thickness_mm": 5.0, "material": "flex_ply_5"}] * 3,
        {"thickness_mm": 3.1, "material": "ash_white"}]})  # fmt: skip
    long = float(np.max([x.cut_length_mm for x in plan(job_for("sheet_layup")).laid_up.laminae])) / 1000
    assert both["rip"].attended_s.likely == pytest.approx(10 * (S["rip_strip"] + long * S["rip_metre"]), rel=0.01)
    assert both["cut_sheets"].attended_s.likely == pytest.approx(15 * S["cut_sheet"])
    assert both["cut_sheets"].after[0].key == "plane" and "3 of " in both["cut_sheets"].steps[0]


def test_what_lies_abreast_is_glued_in_one_go():
    """Five pieces from one wide blank: 5 × 40, four cuts of the saw and 6 to clean up; or each of its own strips."""
    wide = done("cold_lamination", prepare={"abreast": 5, "abreast_as": "wide"})
    assert wide["spread"].scope == wide["cure"].scope == wide["saw_apart"].scope == "batch"
    assert wide["saw_apart"].attended_s.likely == pytest.approx(4 * S["saw_apart"])
    assert wide["clean_up"].after[0].key == "saw_apart" and "5 pieces" in wide["saw_apart"].steps[0]
    across = 5 * 40 + 4 * Shop().kerf_mm
    long = plan(job_for("cold_lamination")).bend.blank.length_mm
    spread = 9 * (across * long * 1e-6 * S["spread_m2"] / 2 + S["lay_on"])
    assert wide["spread"].attended_s.likely == pytest.approx(spread, rel=0.05)
    assert wide["number"].attended_s.likely == pytest.approx(10 * S["number_strip"])
    side = done("cold_lamination", prepare={"abreast": 5, "abreast_as": "strips"})
    assert side["spread"].scope == "batch" and "saw_apart" not in side
    assert side["clean_up"].after[0].key == "release"
    assert side["number"].attended_s.likely == pytest.approx(50 * S["number_strip"])
    assert "5 pieces at once" in side["mix"].steps[0] and "one piece" in done("cold_lamination")["mix"].steps[0]


# -- heat -----------------------------------------------------------------------------------------------------------
@pytest.mark.parametrize("way", STEAMED)
def test_steam_runs_from_a_hot_chamber_to_the_form_without_a_wait(way):
    made, of = done(way), plan(job_for(way))
    steam = of.hot.heat.steam
    assert made["warm_up"].unattended_s.likely == pytest.approx(of.hot.heat.chamber.warm_up_min * 60)
    assert made["warm_up"].keeps_s == 3600 and made["warm_up"].attended_s.likely == 300
    assert made["steam"].unattended_s.likely == pytest.approx(steam.time.planned_min * 60)
    assert made["steam"].earliest_s == pytest.approx(steam.time.earliest_min * 60)
    for key, before in (("load", "warm_up"), ("steam", "load"), ("bend", "steam"), ("cool", "bend")):
        assert made[key].after == (After(before, 0.0, 0.0),), key
    assert made["bend"].window.seconds == pytest.approx(steam.window_s) and made["bend"].window.since == "bend"
    assert made["bend"].moves == steam.moves and "chamber" in made["bend"].frees
    assert made["cool"].unattended_s.likely == pytest.approx(of.hot.drying.cool_h * 3600)
    assert not made["cool"].may_run_alone and any("Never seal" in c for c in made["warm_up"].cautions)
    assert any("boiler run dry" in c for c in made["steam"].cautions)
    assert made["warm_up"].after[0].key == ("dry_run" if way != "steam_laminae" else "set_up")


def test_solid_stock_bent_hot_by_hand():
    """Seven blanks: edges, both ends sealed; a strap on the way adds its move."""
    free, strap = done("steam_free"), done("steam_strap")
    assert hand_s(free, "dimension", "seal_ends", "set_up", "dry_run") == pytest.approx(
        [7 * S["ease_edges"], 14 * S["seal_end"], S["set_up"], S["dry_run"]]
    )
    for way, made, more in (("steam_free", free, 0.0), ("steam_strap", strap, S["into_strap"])):
        quarters = 2 * leg_turns_deg(plan(job_for(way)).bend.on_form) / 90
        assert made["bend"].attended_s.likely == pytest.approx(
            S["door"] + S["round_form"] + quarters * S["round_quarter"] + more
        )
    assert [t.what for t in free["bend"].takes] == ["form"] and [t.what for t in strap["bend"].takes] == [
        "form",
        "strap",
    ]
    assert strap["to_frame"].frees == ("form", "strap")
    of = plan(job_for("steam_strap")).hot.drying
    assert strap["set"].unattended_s.likely == pytest.approx((of.on_form_h - of.cool_h) * 3600)
    assert strap["dry"].unattended_s.likely == pytest.approx(of.dry_days.likely * 86_400)
    short = done("steam_strap", heat={"on_form_h": 0.1})
    assert short["set"].unattended_s.likely == 0  # it cools longer than it was to stay
    tied = plan(job_for("steam_strap")).hot.heat.strap
    assert strap["bend"].steps[0] == "Into the strap, stops tight." and "on the lever" in strap["bend"].steps[2]
    assert format_length(tied.length_mm, "mm") in strap["set_up"].steps[1]
    assert any("blocks of" in x for x in strap["set_up"].steps) == (tied.blocks_mm > 0)
    assert len(strap["set_up"].steps) >= 2 and len(free["set_up"].steps) == 1 and not free["set_up"].cautions


def test_a_dry_run_takes_two_only_where_one_alone_could_run_out_of_time():
    """54 s from box to last clamp: 17 s with two are 34 s alone; with 30 s a clamp they are not enough."""
    for clamp_s, people in ((8, 1), (30, 2)):
        made = done("steam_free", heat={"clamp_s": clamp_s, "hands": 2})
        steam = plan(job_for("steam_free", heat={"clamp_s": clamp_s, "hands": 2})).hot.heat.steam
        assert (2 * steam.handling_s > steam.window_s, made["dry_run"].hands) == (people == 2, people)


def test_soaking_comes_before_anything_is_hot():
    days, overnight = (done("steam_free", heat={"soaked": s}) for s in ("days", "overnight"))
    assert overnight["soak"].unattended_s.likely == 12 * 3600 and overnight["soak"].may_run_alone
    assert days["soak"].unattended_s.likely % 86_400 == 0 < days["soak"].unattended_s.likely
    assert f"{days['soak'].unattended_s.likely / 86_400:.0f} days" in days["soak"].steps[0]
    assert days["set_up"].after[0].key == "soak" and done("steam_free")["set_up"].after[0].key == "seal_ends"


def test_dry_heat_by_hand():
    iron, blanket = done("dry_heat"), done("blanket")
    bends = plan(job_for("dry_heat")).hot.heat.bends
    assert iron["bend"].attended_s.likely == pytest.approx(sum(b.bent_deg for b in bends) / 90 * S["bend_dry"])
    steps = plan(job_for("blanket")).hot.heat.blanket
    assert blanket["bend"].attended_s.likely == pytest.approx(60 * sum(s.minutes for s in steps[:-1]))
    for made in (iron, blanket):
        assert made["heat_up"].unattended_s.likely == 20 * 60 and made["heat_up"].keeps_s == 3600
        assert made["bend"].after == (After("heat_up", 0.0, 0.0),) and made["bend"].frees == ("iron",)
        assert made["dimension"].attended_s.likely == pytest.approx(6 * S["ease_edges"])
    assert len(blanket["bend"].steps) == len(steps) and blanket["bend"].hands == 2
    assert iron["heat_up"].name != blanket["heat_up"].name


def test_straightening_and_steamed_laminae_by_hand():
    made, block = done("straighten"), plan(job_for("straighten")).hot.block
    assert made["bend"].attended_s.likely == pytest.approx(S["door"] + 2 * S["clamp"])
    assert made["bend"].takes[0].count == 2 and made["out"].frees == ("clamps",) and "dry" not in made
    assert made["cool"].unattended_s.likely + made["set"].unattended_s.likely == pytest.approx(3 * 3600)
    assert any("Only the 600 mm" in s for s in made["load"].steps)
    assert format_length(block.block_mm.likely, "mm") in made["set_up"].steps[0]
    assert format_length(block.bow_mm, "mm") in made["measure_bow"].steps[0] and "trim" not in made
    laminae, drying = done("steam_laminae"), plan(job_for("steam_laminae")).hot.drying
    lasts = (drying.on_form_h - drying.cool_h) * 3600
    assert laminae["dry"].unattended_s.likely == pytest.approx(lasts)
    order = list(laminae)
    assert order.index("number") < order.index("steam") < order.index("laminae_off") < order.index("mix")
    assert laminae["dry_run"].after[0].key == "laminae_off" and [t.what for t in laminae["bend"].takes] == ["form"]


# -- the shop's times and the ends ----------------------------------------------------------------------------------
def test_a_time_has_its_band_and_says_what_it_is_made_of():
    own = Shop(times=(OwnTime(key="door", seconds=20.0),))
    made = Times(own).of(door=2, clamp=3)
    assert made.likely == pytest.approx(40 + 3 * S["clamp"]) and made.made_of == (
        ("door", 2, 20.0),
        ("clamp", 3, S["clamp"]),
    )
    assert (made.low, made.high) == pytest.approx(
        (QUICK * made.likely, SLOW * made.likely)
    ) and made.grade == "allowance"
    taught = Shop(learnt_times=(LearntTimeOf(key="door", seconds=9.0), LearntTimeOf(key="mix", seconds=77.0)))
    assert Times(taught).of(door=1, mix=1).grade == "learned" and Times(taught).of(door=1, clamp=1).grade == "allowance"
    both = taught.model_copy(update={"times": own.times})
    assert Times(both).seconds("door") == 20 and not Times(both).is_learnt("door") and Times(both).is_learnt("mix")


@pytest.mark.parametrize(
    ("part", "message"),
    [
        ({"trim_mm": 30}, ("Cut 30 mm off each end, at the marks of the story stick.",)),
        ({"trim_mm": 30, "right_trim_mm": 50}, ("Cut the left end square", "Cut the right end square")),
        ({"trim_mm": 0, "right_trim_mm": 0}, ()),
        ({"trim_mm": 40, "left_cut": "on_line"}, ("Cut the left end along the line through both ends", "Cut the right end square")),
        ({"trim_mm": 40, "right_cut": "long"}, ("Cut the left end square", "Leave the right end long; cut it to fit.")),
        ({"trim_mm": 40, "left_cut": "mitred", "left_mitre_deg": -30}, ("Cut the left end 30° off square, the inside "
                                                                        "face the longer", "Cut the right")),
        ({"trim_mm": 40, "left_cut": "mitred", "left_mitre_deg": 30}, ("Cut the left end 30° off square, the outside "
                                                                       "face the longer", "Cut the right")),
        ({"trim_mm": 40, "right_trim_mm": 0}, ("Cut the left end square",)),
        ({"trim_mm": 40, "left_cut": "mitred", "left_mitre_deg": 0}, ("Cut the left end 0° off square, the outside", "Cut")),
    ],
)  # fmt: skip
def test_the_ends_are_cut_as_they_are_wanted(part, message):
    trim = done("cold_lamination", part=part).get("trim")
    steps = trim.steps if trim else ()
    assert len(steps) == len(message) and all(a.startswith(b) for a, b in zip(steps, message, strict=True)), steps
