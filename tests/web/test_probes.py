"""Readings over HTTP: taken with a key, refused with a sentence, shown with their age, driving what is hot through."""

from __future__ import annotations

import json
import re

import pytest

from tests.web.test_runs import STEAMED, Shop


@pytest.fixture
def shop(store):
    made = Shop(store)
    yield made
    made.app.state.reader.stop()
    made.app.state.gatherer.stop()


def register(shop, name="steam box", kind="chamber") -> str:
    page = shop.client.post("/probes", data={"name": name, "kind": kind})
    assert page.status_code == 200
    return re.search(r'class="probe-key">([^<]+)<', page.text)[1]


def send(shop, key: str, body) -> tuple[int, dict]:
    answer = shop.client.post("/api/readings", json=body, headers={"authorization": f"Bearer {key}"})
    return answer.status_code, answer.json()


def test_a_probe_is_named_keyed_and_taken_away(shop):
    key = register(shop)
    assert key not in shop.client.get("/bench").text  # shown once
    assert send(shop, key, {"value": 98.4}) == (202, {"taken": 1, "says": []})
    page = shop.client.get("/bench").text
    assert "98 °C" in page and "0 s ago" in page
    shop.later(300)
    assert "5 min ago, silent" in shop.client.get("/bench").text
    shop.client.post("/probes/1/remove")
    assert send(shop, key, {"value": 98.4})[0] == 401
    assert "/probes/1/remove" not in shop.client.get("/bench").text


@pytest.mark.parametrize(
    ("data", "field"),
    [
        ({"name": "", "kind": "chamber"}, "name"),
        ({"name": "x" * 41, "kind": "wood"}, "name"),
        ({"name": "a", "kind": "sonar"}, "kind"),
    ],
)
def test_bad_names_and_kinds_are_said_beside_the_field(shop, data, field):
    page = shop.client.post("/probes", data=data)
    assert page.status_code == 422 and f'id="probe-{field}-fault"' in page.text
    register(shop, "box")
    assert shop.client.post("/probes", data={"name": "box", "kind": "wood"}).status_code == 422


@pytest.mark.parametrize(
    ("body", "status", "message"),
    [
        ({"value": 9999}, 422, "outside that"),
        ({"value": -200}, 422, "outside that"),
        ({"value": "warm"}, 422, "A reading is"),
        ({"value": 50, "unit": "K"}, 422, " sends "),
        ([], 202, None),
        ([{"value": 50}] * 601, 422, "At most 600"),
        ({"value": 50, "probe": "the other box"}, 403, "does not belong to"),
        ({"value": 50, "extra": 1}, 422, "A reading is"),
        ("nonsense", 422, "A reading is"),
    ],
)
def test_readings_that_cannot_be(shop, body, status, message):
    key = register(shop)
    got, answer = send(shop, key, body)
    assert got == status
    if message:
        assert message in answer["faults"][0]["says"]


def test_another_probes_key_and_no_key(shop):
    register(shop)
    assert send(shop, "guessed", {"value": 50})[0] == 401
    assert shop.client.post("/api/readings", json={"value": 50}).status_code == 401
    assert shop.client.post("/api/readings", content=b"\xff", headers={"authorization": "Bearer x"}).status_code == 401


def test_units_and_clocks_of_their_own(shop):
    key, gauge = register(shop), register(shop, "dial", "vacuum")
    now = shop.now.timestamp()
    assert send(shop, key, {"value": 212, "unit": "F", "at": now - 5})[0] == 202
    for off in (now + 1e6, now - 1e8, -1.0):
        status, answer = send(shop, key, {"value": 90, "at": off})
        assert status == 202 and "clock is wrong" in answer["says"][0]
    assert send(shop, gauge, {"value": 25, "unit": "inHg"})[0] == 202
    shop.app.state.gatherer.write()
    with shop.store.connected():
        rows = shop.store.probes.readings(1, 0, 2e9)
        assert rows[0] == (now - 5, 100.0) and all(at <= now + 1 for at, _ in rows)
        assert shop.store.probes.last_reading(2)[1] == pytest.approx(84.66, abs=0.01)


def test_a_reading_that_came_late_does_not_show_as_the_latest(shop):
    key, now = register(shop), shop.now.timestamp()
    send(shop, key, {"value": 97, "at": now - 1})
    send(shop, key, [{"value": 60, "at": now - 100}, {"value": 55, "at": now - 200}])
    assert "97 °C" in shop.client.get("/bench").text
    shop.app.state.gatherer.write()
    with shop.store.connected():
        assert [v for _, v in shop.store.probes.readings(1, 0, 2e9)] == [55.0, 60.0, 97.0]


def in_steam(shop) -> int:
    run = shop.start(STEAMED)
    shop.prepared(run, "load")
    shop.tap(run, "done", "load", 0)
    return run


def piece(shop, run: int) -> str:
    return re.sub("<[^>]+>|\\s+", " ", shop.client.get(f"/runs/{run}").text).replace("  ", " ")


def test_hot_through_moves_with_the_thermometer_and_says_when_it_is_lost(shop):
    key, run = register(shop), in_steam(shop)
    plan = re.search(r"heated through *(\d\d:\d\d) *\(by the plan\)", piece(shop, run))[1]
    for _ in range(60):
        send(shop, key, {"value": 90.0})
        shop.later(10)
    text = piece(shop, run)
    live = re.search(r"heated through *(\d\d:\d\d) *\(measured\)", text)[1]
    assert live > plan and "silent" not in text and "90 °C" in text
    shop.later(60)
    lost = piece(shop, run)
    assert "silent: “heated through” follows the plan" in lost and "No reading for 70 s" in lost
    shop.tap(run, "probe", of="1", text="leave")
    left = piece(shop, run)
    assert "“heated through” follows the plan" not in left and f"heated through {plan}" in re.sub(" +", " ", left)
    shop.tap(run, "probe", of="1", text="use")
    assert "silent: “heated through” follows the plan" in piece(shop, run)


def test_absurd_readings_stand_beside_the_probe_and_drive_nothing(shop):
    key, run = register(shop), in_steam(shop)
    send(shop, key, {"value": 98.0})
    send(shop, key, {"value": 9999})
    text = piece(shop, run)
    assert "1 refused: A steam box thermometer reads" in text and "98 °C" in text and "9999" not in text


def test_the_documented_sender_works(shop, tmp_path):
    """The twenty lines of docs/devices.md, run as they stand against the program."""
    import subprocess
    import sys
    from pathlib import Path

    from tools.running import PATIENCE_S, running_app

    text = (Path(__file__).parents[2] / "docs" / "devices.md").read_text("utf-8")
    code = re.search(r"```python\n(.*?)```", text, re.S)[1]
    assert len(code.strip().splitlines()) <= 20
    key = register(shop)
    with running_app(shop.store) as address:
        script = tmp_path / "send.py"
        script.write_text(code)
        out = subprocess.run(
            [sys.executable, script, address, key, "3"], capture_output=True, text=True, timeout=PATIENCE_S, check=True
        ).stdout
    assert out.count("taken") == 3
    with shop.store.connected():
        assert len(shop.store.probes.readings(1, 0, 3e9)) == 3


def test_the_schema_of_a_message_is_served(shop):
    paths = shop.client.get("/openapi.json").json()["paths"]
    assert "/api/readings" in json.dumps(paths)


def test_more_readings_than_can_wait_are_refused_and_none_that_was_taken_is_lost(shop, monkeypatch):
    key = register(shop)
    gatherer, now = shop.app.state.gatherer, shop.now.timestamp()
    gatherer.stop()  # nothing is written down meanwhile, as on a full disk
    monkeypatch.setattr("bright_willow.services.readings.MOST_WAITING", 5)
    rows = [{"value": 90 + n, "at": now - 60 + n} for n in range(4)]
    assert send(shop, key, rows)[0] == 202
    answer = shop.client.post("/api/readings", json=rows[:2], headers={"authorization": f"Bearer {key}"})
    assert answer.status_code == 503 and int(answer.headers["retry-after"]) >= 1
    assert "send these again" in answer.json()["faults"][0]["says"]
    gatherer.write()
    assert send(shop, key, [{"value": 97, "at": now - 50}])[0] == 202
    gatherer.write()
    with shop.store.connected():
        kept = shop.store.db.execute_sql("select value from reading order by at").fetchall()
    assert [v for (v,) in kept] == [90, 91, 92, 93, 97]
