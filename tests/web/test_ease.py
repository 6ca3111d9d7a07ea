"""Checking and easing at the bench over HTTP: passes are events, what they show is used, slips lose nothing."""

import json
import re

import pytest

from bright_willow.core.measuring.easing import Gap, curve_check, turns_for
from bright_willow.core.plan.plan import plan
from bright_willow.web.tablet_rights import open_to_tablets
from tests.core.methods.jobs import job_for
from tests.web.test_runs import shop  # noqa: F401


@pytest.fixture
def bent(shop):  # noqa: F811
    """A run of an iron bend whose first piece is bent."""
    with shop.store.connected():
        job = shop.store.jobs.add(job_for("dry_heat"))
    run = shop.start(job)
    shop.prepared(run, "cool")
    shop.later(600)
    return shop, job, run


def passed(shop, run: int, piece: int = 0, **typed):  # noqa: F811
    shop.later(60)
    fields = {"allowed": "2 mm"} | typed
    return shop.client.post(f"/runs/{run}/ease/{piece}", data=fields)


def check_of(shop, job: int):  # noqa: F811
    with shop.store.connected():
        known = shop.store.jobs.get(job).job
        return curve_check(
            plan(known, shop.store.shop_settings.get(), shop.store.training.learned()), shop.store.observed.eased()
        )


def test_eased_twice_until_it_is_within_what_is_allowed(bent):
    shop, job, run = bent  # noqa: F811
    assert f'href="/runs/{run}/ease/0"' in shop.client.get(f"/runs/{run}").text
    check = check_of(shop, job)
    ends = {"at0": "0", "at1": f"{check.curve.length_mm:.1f}"}
    page = passed(shop, run, gap0="30", side0="outside", gap1="9", side1="inside", **ends)
    wanted = turns_for(check.curve, [Gap(0.0, 30.0), Gap(round(check.curve.length_mm, 1), -9.0)])
    told = [re.sub(r"\s+", " ", line) for line in re.findall(r"<li>(.*?)</li>", page.text)]
    assert page.status_code == 200 and len(wanted) == 2
    for turn, line in zip(wanted, told, strict=False):
        assert f"{round(turn.degrees * 2) / 2:g}°" in line, (turn, line)
    page = passed(shop, run, gap0="14", side0="outside", gap1="0", **ends)
    assert "What to do now" in page.text and "Passes so far" in page.text
    page = passed(shop, run, gap0="1", gap1="0", **ends)
    assert "This piece is done" in page.text and "Ease" not in page.text.split("Passes so far")[0].split("<h1")[1]
    with shop.store.connected():
        events = [e for _, e in shop.store.runs.events(run) if e.kind == "ease"]
        samples = shop.store.observed.eased()
    assert [json.loads(e.text)["gaps"][0][1] for e in events] == [30.0, 14.0, 1.0]
    assert len(samples) == 3 and all(0 < s.stayed_deg <= s.pushed_deg for s in samples)
    assert check_of(shop, job).kept.grade == "learned" != check.kept.grade
    assert "largest gap 14 mm" in shop.client.get(f"/runs/{run}").text  # what happened


def test_an_undone_pass_no_longer_counts(bent):
    shop, _, run = bent  # noqa: F811
    ends = {"at0": "0"}
    passed(shop, run, gap0="12", **ends)
    passed(shop, run, gap0="4", **ends)
    with shop.store.connected():
        last = [e for _, e in shop.store.runs.events(run) if e.kind == "ease"][-1]
        assert len(shop.store.observed.eased()) == 1
    shop.tap(run, "back", of=last.client)
    with shop.store.connected():
        assert shop.store.observed.eased() == []
    assert "Passes so far" not in shop.client.get(f"/runs/{run}/ease/0").text


@pytest.mark.parametrize(
    ("typed", "field", "message"),
    [
        ({"at0": "0", "gap0": "a lot"}, "gap0", "For example"),
        ({"at0": "", "gap0": "3"}, "at0", "For example"),
        ({"at0": "90000", "gap0": "3"}, "gaps", "beyond the end"),
        ({"at0": "0", "gap0": "900"}, "gaps", "500"),
        ({}, "gaps", "at one place at least"),
        ({"at0": "0", "gap0": "3", "allowed": "0"}, "allowed", "0.1"),
        ({"at0": "0", "gap0": "3", "allowed": "x"}, "allowed", "For example"),
        ({"at0": "0", "gap0": "3", "at1": "0.1", "gap1": "2"}, "gaps", "too close together"),
    ],
)
def test_a_slip_gets_its_sentence_and_loses_nothing(bent, typed, field, message):
    shop, _, run = bent  # noqa: F811
    page = passed(shop, run, side0="inside", gap3="1.25", at3="300", **typed)
    fault = re.search(rf'class="fault" id="(?:ease-)?{field}-fault">(.*?)</', page.text)
    if not typed:  # one gap was typed after all
        assert page.status_code == 200
        page = passed(shop, run)
        fault = re.search(rf'class="fault" id="(?:ease-)?{field}-fault">(.*?)</', page.text)
    else:
        assert 'value="1.25"' in page.text and '<option value="inside" selected>' in page.text
    assert page.status_code == 422 and fault and message in fault.group(1), page.text[:300]
    with shop.store.connected():
        assert len([e for _, e in shop.store.runs.events(run) if e.kind == "ease"]) == (0 if typed else 1)


def test_only_pieces_of_a_real_run_that_can_still_be_changed_are_checked(bent):
    shop, _, run = bent  # noqa: F811
    assert shop.client.get(f"/runs/{run}/ease/999").url.path == f"/runs/{run}"
    with shop.store.connected():
        glued = shop.store.jobs.add(job_for("cold_lamination"))
    other = shop.start(glued)
    assert shop.client.get(f"/runs/{other}/ease/0").url.path == f"/runs/{other}"
    assert passed(shop, other, at0="0", gap0="3").url.path == f"/runs/{other}"
    shop.tap(run, "end")
    assert passed(shop, run, at0="0", gap0="3").url.path == f"/runs/{run}"
    with shop.store.connected():
        assert not [e for r in (run, other) for _, e in shop.store.runs.events(r) if e.kind == "ease"]
    assert open_to_tablets("POST", f"/runs/{run}/ease/0") and open_to_tablets("GET", f"/runs/{run}/ease/12")


def test_a_breakdown_says_what_to_do_and_what_to_save_first(shop):  # noqa: F811
    run = shop.start(14)
    page = shop.client.get(f"/runs/{run}")
    assert f'href="/runs/{run}/breakdown"' in page.text
    offered = shop.client.get(f"/runs/{run}/breakdown").text
    assert "The boiler is dry" in offered and "browns" not in offered and "Save first" not in offered
    shop.prepared(run, "steam")
    shop.later(3 * 3600)
    dry = shop.client.get(f"/runs/{run}/breakdown?what=dry").text
    assert "Keep the door shut" in dry and "Save first" in dry and re.search(r"until \d\d:\d\d, \d+ min", dry)
    note = re.search(r'name="client" value="(\w+)"', dry)[1]
    shop.client.post(f"/runs/{run}/tap", data={"client": note, "kind": "note", "text": "The boiler is dry"})
    assert "note: The boiler is dry" in shop.client.get(f"/runs/{run}").text
    assert shop.client.get(f"/runs/{run}/breakdown?what=iron").url.path == f"/runs/{run}"
    assert open_to_tablets("GET", f"/runs/{run}/breakdown")
    shop.tap(run, "end")
    assert shop.client.get(f"/runs/{run}/breakdown?what=dry").url.path == f"/runs/{run}"
