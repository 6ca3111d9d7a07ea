"""Trials and *why did it fail* over HTTP: laid out, graded, taken over; bad input said beside its field; answers kept."""

from __future__ import annotations

import re

import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.plan.plan import plan
from bright_willow.core.trials.design import laid_out
from tests.core.methods.jobs import job_for
from tests.web.test_runs import GLUED, STEAMED, Shop

LAID = {"asks": "minutes", "settings": "6, 8; 10,13", "repeats": "2", "name": "Minutes"}


@pytest.fixture
def shop(store):
    made = Shop(store)
    yield made
    made.app.state.reader.stop()


def lay(shop, job=STEAMED, **changes) -> str:
    page = shop.client.post(f"/jobs/{job}/trials", data=LAID | changes)
    assert page.status_code == 200, page.text[:200]
    return page.url.path


def trial(shop, number=1):
    with shop.store.connected():
        return shop.store.trials.get(number).trial


def test_a_trial_from_its_question_to_the_next_plan(shop):
    at = lay(shop)
    assert sorted(p.setting for p in trial(shop).pieces) == [6, 6, 8, 8, 10, 10, 13, 13]
    page = shop.client.get(at).text
    assert "no piece graded yet" in page and "Into the steam and out" in page and "Use this on the job" not in page
    for n, piece in enumerate(trial(shop).pieces, 1):
        grade = "0" if piece.setting >= 10 else "5"  # splintered
        answer = {"grade": grade, "springback": "", "note": f"n{n}", "stiffness": "firm"}
        shop.client.post(f"{at}/piece/{n}", data=answer)
    page = shop.client.get(at).text
    assert "best at" in page and "half would break short" in page and "Into the steam" not in page
    assert {p.stiffness for p in trial(shop).pieces} == {"firm"}
    minutes = int(re.search(r"Steam it (\d+) min", page)[1])
    assert 10 <= minutes <= 25  # between the splinters at eight and where it would grow brittle
    sets = re.search(r'name="sets" value="([^"]+)"', page)[1].replace("&#34;", '"')
    shop.client.post(f"/jobs/{STEAMED}/steam/apply", data={"sets": sets})
    with shop.store.connected():
        heat = shop.store.jobs.get(STEAMED).job.heat
    assert (heat.school, heat.own_min) == ("own_trials", minutes)
    assert "Use this on the job" not in shop.client.get(at).text
    assert "Minutes" in shop.client.get(f"/jobs/{STEAMED}/trials").text
    shop.client.post(f"{at}/remove")
    assert shop.client.get(at).status_code == 404


def test_one_at_a_time_goes_longer_after_splinters_and_shorter_after_a_brittle_break(shop):
    at = lay(shop, settings="20", design="one_at_a_time")
    assert [p.setting for p in trial(shop).pieces] == [20]
    assert "One more piece" not in shop.client.get(at).text  # the first waits
    shop.client.post(f"{at}/more")
    assert len(trial(shop).pieces) == 1
    for n, (grade, then) in enumerate([("5", 25.0), ("5", 31.0), ("6", 25.0)], 1):
        shop.client.post(f"{at}/piece/{n}", data={"grade": grade})
        assert f"One more piece, at {then:.3g} min" in shop.client.get(at).text
        shop.client.post(f"{at}/more")
        shop.client.post(f"{at}/more")  # a second press adds none
        assert [len(trial(shop).pieces), trial(shop).pieces[-1].setting] == [n + 1, then]


def test_a_shop_in_inches_types_and_reads_its_thicknesses_in_inches(shop):
    with shop.store.connected():
        shop.store.shop_settings.save(shop.store.shop_settings.get().model_copy(update={"units": "in"}))
    at = lay(shop, asks="thickness", settings="1/2, 3/4, 1 in, 30 mm", repeats="1")
    assert sorted(p.setting for p in trial(shop).pieces) == pytest.approx([12.7, 19.05, 25.4, 30.0])
    for n, piece in enumerate(trial(shop).pieces, 1):
        shop.client.post(f"{at}/piece/{n}", data={"grade": "0" if piece.setting < 20 else "3"})
    page = shop.client.get(at).text
    assert "<td>3/4</td>" in page and re.search(r"9 of 10 whole at [\d/ ]+ in,", page)
    said = re.sub("<[^>]+>", " ", page[page.index("<main") : page.index("</main>")])
    assert " mm" not in said


def test_settings_left_empty_are_those_proposed(shop):
    page = shop.client.get(f"/jobs/{STEAMED}/trials").text
    proposed = re.search(r"How long in the steam\? In min: ([\d., ]+)\.", page)[1]
    lay(shop, settings=" ", repeats="1")
    assert sorted(p.setting for p in trial(shop).pieces) == pytest.approx([float(p) for p in proposed.split(",")])


def test_the_chart_shows_each_piece_as_it_was_graded(shop):
    at = lay(shop, settings="9", repeats="3")
    for n, grade in enumerate("012", 1):
        shop.client.post(f"{at}/piece/{n}", data={"grade": grade})
    said = re.findall(r"piece (\d), 9 min: (whole|not whole)", shop.client.get(at).text)
    assert said == [("1", "whole"), ("2", "whole"), ("3", "not whole")]  # raised fibres can be used
    assert [t.is_whole for t in trial(shop).tried] == [True, True, False]


def test_one_more_of_a_grid_is_offered_while_it_is_worth_it(shop):
    at = lay(shop, asks="radius", settings="4, 6", repeats="1")
    for n, piece in enumerate(trial(shop).pieces, 1):
        shop.client.post(f"{at}/piece/{n}", data={"grade": "0" if piece.setting > 5 else "3"})
    made = trial(shop).answer()
    assert made.is_one_more_worth_it and trial(shop).one_more() == float(f"{made.one_more:.3g}")
    shop.client.post(f"{at}/more")
    assert len(trial(shop).pieces) == 3 and trial(shop).one_more() is None


@pytest.mark.parametrize(
    ("changes", "field"),
    [
        ({"settings": "ten"}, "settings"),
        ({"settings": "0, 5"}, "settings"),
        ({"settings": ",".join(map(str, range(1, 20)))}, "settings"),
        ({"repeats": "0"}, "repeats"),
        ({"repeats": "1.5"}, "repeats"),
        ({"repeats": "20"}, "repeats"),
        ({"asks": "luck"}, "asks"),
        ({"design": "by feel"}, "design"),
        ({"design": "one_at_a_time", "asks": "hours"}, "design"),
    ],
)
def test_what_cannot_be_laid_out_is_said_and_nothing_is_lost(shop, changes, field):
    page = shop.client.post(f"/jobs/{STEAMED}/trials", data=LAID | changes)
    assert page.status_code == 422 and f'id="t-{field}-fault"' in page.text
    typed = (LAID | changes)["settings"]
    assert f'value="{typed}"' in page.text
    with shop.store.connected():
        assert shop.store.trials.find() == []


def test_a_piece_is_graded_beside_its_fault(shop):
    at = lay(shop)
    page = shop.client.post(f"{at}/piece/2", data={"grade": "1", "springback": "much", "note": "kept"})
    assert page.status_code == 422 and 'id="piece-2-springback-fault"' in page.text and 'value="kept"' in page.text
    assert shop.client.post(f"{at}/piece/2", data={"grade": "9"}).status_code == 422
    assert shop.client.post(f"{at}/piece/99", data={"grade": "1"}).status_code == 422
    assert trial(shop).done == 0
    shop.client.post(f"{at}/piece/2", data={"grade": "1", "springback": "1 1/2 in"})
    assert trial(shop).pieces[1].springback_mm == pytest.approx(38.1) and trial(shop).done == 1
    shop.client.post(f"{at}/piece/2", data={"grade": ""})
    assert trial(shop).done == 0


def test_a_limit_becomes_the_shops_own_for_its_wood(shop):
    at = lay(shop, asks="radius", settings="3, 4, 5, 6, 8", name="")
    for n, piece in enumerate(trial(shop).pieces, 1):
        shop.client.post(f"{at}/piece/{n}", data={"grade": "0" if piece.setting >= 4 else "4"})
    limit = float(re.search(r"Make radius ÷ thickness ([\d.]+) this shop", shop.client.get(at).text)[1])
    shop.client.post(f"{at}/own-limit")
    with shop.store.connected():
        job, own = shop.store.jobs.get(STEAMED).job, shop.store.shop_settings.get()
        wood = next(w for w in own.woods if w.key == job.stock.species)
        assert wood.rt_strap == limit
        assert plan(job, own).hot.limits.table == pytest.approx(limit)


def test_hours_against_springback_is_a_line(shop):
    at = lay(shop, asks="hours", settings="4, 12, 24")
    for n, piece in enumerate(trial(shop).pieces, 1):
        shop.client.post(f"{at}/piece/{n}", data={"grade": "0", "springback": f"{40 - piece.setting + n % 2} mm"})
    page = shop.client.get(at).text
    assert re.search(r"-(0\.9|1(\.0)?)\d* mm for each h", page.replace("−", "-")) and "trial-band" in page


def test_what_a_way_has_not_cannot_be_asked():
    glued = plan(job_for("cold_lamination"))
    with pytest.raises(PlanError):
        laid_out(glued, name="x", asks="minutes", settings=(3.0,), repeats=1, seed=1)
    assert laid_out(glued, name="x", asks="thickness", settings=(3.0,), repeats=2, seed=1).pieces[1].setting == 3.0


def test_why_ranks_and_answers_move_it(shop):
    page = shop.client.get(f"/jobs/{STEAMED}/why").text
    assert page.count('class="symptom"') >= 18 and "Choose what you see" in page
    page = shop.client.get(f"/jobs/{STEAMED}/why?seen=outer_splintered").text
    assert "<b>For it:</b>" in page and "<b>Look:</b>" in page and "<b>Next time:</b>" in page
    first = re.search(r'<span class="cause-word">[^<]+</span> ([^<]+) <meter', page)[1]
    yes = shop.client.get(f"/jobs/{STEAMED}/why?seen=outer_splintered&yes=strap_loose,nonsense").text
    now = re.search(r'<span class="cause-word">([^<]+)</span> ([^<]+) <meter', yes)
    assert "The strap had play" in now[2] and now[1] == "likely" and "The strap had play" not in first
    for odd in ("seen=sulking", "seen=outer_splintered&piece=9.9", "seen=outer_splintered&yes=,,,&no=x"):
        assert shop.client.get(f"/jobs/{STEAMED}/why?{odd}").status_code == 200


def test_why_knows_the_run_of_a_piece(shop):
    run = shop.start(STEAMED)
    shop.prepared(run, "load")
    shop.tap(run, "begin", "load", 0)
    shop.tap(run, "done", "load", 0)
    shop.later(240)
    shop.tap(run, "begin", "bend", 0)
    shop.later(200)
    shop.tap(run, "done", "bend", 0)
    page = shop.client.get(f"/jobs/{STEAMED}/why?seen=too_stiff&piece={run}.0").text
    assert "4 min in the steam" in page and "200 s from the box to the last clamp" in page
    ranked = re.findall(r'<span class="cause-word">[^<]+</span> ([^<]+) <meter', page)[:2]
    assert {"Not heated through when it came out", "Too slow from box to last clamp"} == set(ranked)


def test_a_trial_is_run_at_the_bench_and_what_it_saw_taken_over(shop):
    at = lay(shop, settings="6, 12", repeats="1")
    page = shop.client.get(at).text
    assert "Blanks to cut" in page and "2 of " in page and "hours of work" in page
    run = shop.client.post(f"{at}/bench")
    assert run.status_code == 200 and "test bends at the bench" in run.text
    number = int(run.url.path.split("/")[-1])
    assert shop.client.post(f"{at}/bench").url.path == f"/runs/{number}"  # pressed again: the same
    shop.prepared(number, "load")
    with shop.store.connected():
        brief = shop.store.runs.get(number).brief
    first = trial(shop).pieces[brief.numbers[0] - 1].setting
    shop.tap(number, "begin", "load", 0)
    shop.later(10)
    shop.tap(number, "done", "load", 0)
    shop.later((first + 3) * 60)  # it stayed in longer than it was to
    shop.tap(number, "begin", "bend", 0)
    shop.later(40)
    shop.tap(number, "done", "bend", 0)
    shop.tap(number, "broke", number=0, text="splintered")
    assert "Copy minutes and breaks from the bench" in shop.client.get(at).text
    page = shop.client.post(f"{at}/from-bench").text
    assert "Copy minutes and breaks from the bench" not in page
    piece = trial(shop).pieces[brief.numbers[0] - 1]
    assert piece.setting == pytest.approx(first + 3, abs=0.2) and (piece.grade, piece.note) == (3, "splintered")
    with shop.store.connected():
        assert not shop.store.progress.done([STEAMED])[STEAMED]  # the job's own days know nothing of it
        assert len(shop.store.observed.steamed()) == 1  # but how long it was steamed is learnt from
        assert shop.store.runs.open_of_job(STEAMED) is None
    assert "of run" not in shop.client.get(f"/jobs/{STEAMED}/measure").text  # nor are its pieces the job's
    assert shop.client.post(f"/runs/{number}/go-over").url.path == f"/runs/{number}"


def test_a_trial_whose_pieces_are_all_graded_is_not_run(shop):
    at = lay(shop, settings="6", repeats="1")
    shop.client.post(f"{at}/piece/1", data={"grade": "0", "springback": "", "note": ""})
    page = shop.client.get(at).text
    assert "Run it at the bench" not in page and "Blanks to cut" not in page
    refused = shop.client.post(f"{at}/bench")
    assert refused.status_code == 422 and "Every piece is graded" in refused.text


def test_one_glue_against_another_and_how_springback_grew(shop):
    at = lay(shop, GLUED, asks="hours", settings="6, 12", repeats="2", variants="urea, resorcinol")
    own = trial(shop)
    assert own.variants == ("urea", "resorcinol") and len(own.pieces) == 8
    for n, piece in enumerate(own.pieces, 1):
        sprung = 5 + 2 * piece.variant + 0.05 * n
        fields = {"grade": "0", "springback": f"{sprung:.2f}", "later": f"{sprung + 0.5 + 0.05 * n:.2f}", "note": ""}
        assert shop.client.post(f"{at}/piece/{n}", data=fields).status_code == 200
    page = shop.client.get(at).text
    assert "they differ" in page and "In the weeks after it grew by" in page and "resorcinol, " in page
    wrong = shop.client.post(f"{at}/piece/1", data={"grade": "0", "springback": "5", "later": "much", "note": ""})
    assert wrong.status_code == 422 and 'value="much"' in wrong.text and "piece-1-later-fault" in wrong.text
    bad = shop.client.post(f"/jobs/{GLUED}/trials", data=LAID | {"asks": "hours", "variants": "one, one"})
    assert bad.status_code == 422 and "t-variants-fault" in bad.text and 'value="one, one"' in bad.text


def test_a_trial_is_laid_into_the_shop_s_days(shop):
    at = lay(shop, settings="6, 12", repeats="2")
    answer = shop.client.post(f"{at}/days")
    assert answer.status_code == 200 and "/schedule" in answer.url.path
    job = int(answer.url.path.split("/")[2])
    with shop.store.connected():
        made = shop.store.jobs.get(job).job
    assert (made.part.count, made.part.spares, made.heat.at_once, made.heat.own_min) == (4, 0, 1, 12.0)
    assert made.days.in_week and made.name == "Test bends: Minutes" and made.heat.school == "own_trials"
    assert "Test bends: Minutes" in shop.client.get("/days").text
    assert shop.client.post(f"{at}/days").url.path == f"/jobs/{job}/schedule"  # pressed again: the same
    for n in range(1, 5):
        shop.client.post(f"{at}/piece/{n}", data={"grade": "0", "springback": "", "note": ""})
    at = lay(shop, settings="6", repeats="1")
    shop.client.post(f"{at}/piece/1", data={"grade": "0", "springback": "", "note": ""})
    refused = shop.client.post(f"{at}/days")
    assert refused.status_code == 422 and "Every piece is graded" in refused.text
