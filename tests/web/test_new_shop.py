"""A new shop: its unit asked once, old addresses, what stands on a stage and what is only counted there."""

import re

import pytest

from bright_willow.core.common.stages import STAGES


@pytest.mark.parametrize(("language", "unit", "chord"), [("en-US,en;q=0.9", "in", "40"), ("en-GB,en", "mm", "1000")])
def test_the_unit_is_taken_from_the_browser_and_asked_once(client, store, language, unit, chord):
    asks = {"accept-language": language}
    page = client.get("/", headers=asks).text
    assert "asks-unit" in page and f"Keep {'inches' if unit == 'in' else 'mm'}" in page
    with store.connected():
        assert store.shop_settings.get().units == unit
    client.post(f"/units?to={unit}")
    assert "asks-unit" not in client.get("/", headers=asks).text
    assert f'value="{chord}"' in client.post("/jobs").text


def test_old_addresses_lead_to_the_new_ones(demo_client):
    for stage, row in STAGES.items():
        answer = demo_client.get(f"/jobs/14/{stage}", follow_redirects=False)
        if stage != row.path:
            assert (answer.status_code, answer.headers["location"]) == (308, f"/jobs/14/{row.path}"), stage
    for old, new in (("/days", "/schedule"), ("/book", "/logbook"), ("/book/learnt", "/logbook/what-it-shows")):
        assert demo_client.get(f"{old}?x=1", follow_redirects=False).headers["location"] == f"{new}?x=1"
        assert demo_client.get(new).status_code == 200
    page = demo_client.get("/jobs/14/method").text
    assert 'href="/jobs/14/layup"' not in page and 'href="/jobs/14/wood"' in page and "/stock" not in page


def test_checks_stand_on_their_own_stage_and_are_counted_elsewhere(demo_client, demo_store):
    from bright_willow.core.plan.plan import plan

    with demo_store.connected():
        job, shop, learnt = demo_store.jobs.get(12).job, demo_store.shop_settings.get(), demo_store.training.learned()
    open_ = [f for f in plan(job, shop, learnt).findings if f.level != "fit"]
    assert open_
    for stage, row in ((f.stage, STAGES[f.stage]) for f in open_):
        page = demo_client.get(f"/jobs/12/{row.path}").text
        own = [f for f in open_ if f.stage == stage]
        shown = re.search(r'<ul class="findings".*?</ul>', page, re.S)[0]
        assert shown.count("<li>") == len(own)
        rest = len(open_) - len(own)
        assert ("on other stages" in shown) == bool(rest)
        assert not rest or re.search(rf"\b{rest} checks? on other stages", shown)


def test_a_bare_fraction_is_refused_in_mm_and_read_in_inches(client, store):
    client.post("/units?to=mm")
    client.post("/jobs")
    kept = client.post("/jobs/1/shape/keep", data={"part.thickness_mm": "24 1/2"}, headers={"x-parts": "yes"})
    assert kept.status_code == 422 and 'value="24 1/2"' in kept.text and "Inches? Type 24 1/2" in kept.text
    assert client.post("/jobs/1/shape/keep", data={"part.thickness_mm": '1 1/2"'}).status_code == 200
    with store.connected():
        assert store.jobs.get(1).job.part.thickness_mm == pytest.approx(38.1)


def test_the_list_gives_a_bowed_piece_no_radius(demo_client):
    page = demo_client.get("/").text
    assert ", nearly straight" in page and "R 15619" not in page
