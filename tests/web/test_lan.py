"""The shop's network: nobody in without the passphrase, sessions that end, attempts limited, put out; never off the
machine unasked."""

from __future__ import annotations

import datetime as dt
import re
import ssl
import time

import pytest
from starlette.testclient import TestClient

from bright_willow.store.tables import GuestRow
from bright_willow.web.app import create_app
from bright_willow.web.lan import (
    COOKIE,
    LASTS_S,
    PASSPHRASE,
    TRIES,
    TRIES_WITHIN_S,
    Gate,
    Lan,
    Tries,
    certificate,
    set_passphrase,
    too_weak,
)

WORDS = "four plain apple words"
HOST = "192.168.7.20"
PAGE = {"accept": "text/html"}


@pytest.fixture
def inside(store):
    with store.connected():
        set_passphrase(store, WORDS)
    app = create_app(store)
    app.state.lan = Lan(store, HOST, 8766, "AA:BB")
    yield app
    app.state.reader.stop()


@pytest.fixture
def tablet(inside):
    gate = Gate(inside, inside.state.lan, inside.state.planners)
    return TestClient(gate, base_url=f"https://{HOST}:8766", follow_redirects=False)


def join(tablet, words=WORDS, name="by the box"):
    return tablet.post("/join", data={"passphrase": words, "name": name}, headers=PAGE)


def test_nothing_is_shown_before_joining(tablet):
    for path in ("/", "/jobs/1/shape", "/bench", "/api/schema/job", "/shop/backup", "/openapi.json"):
        page = tablet.get(path, headers=PAGE)
        assert (page.status_code, page.headers.get("location")) == (303, "/join"), path
        assert tablet.get(path).status_code == 401
    assert tablet.post("/jobs", data={}).status_code == 401
    assert tablet.post("/api/plan", json={}).status_code == 401
    assert tablet.get("/static/css/willow.css").status_code == 200
    page = tablet.get("/join")
    assert "Passphrase" in page.text and "default-src 'none'" in page.headers["content-security-policy"]


def test_joined_it_sees_the_shop_and_is_listed(inside, tablet):
    answer = join(tablet)
    assert answer.status_code == 303
    cookie = answer.headers["set-cookie"]
    assert all(word in cookie for word in ("HttpOnly", "Secure", "SameSite=strict"))
    assert tablet.get("/", headers=PAGE).status_code == 200
    assert tablet.get("/bench", headers=PAGE).status_code == 200
    own = TestClient(inside, base_url="http://127.0.0.1")
    page = own.get("/bench").text
    assert "by the box" in page and f"https://{HOST}:8766/" in page and "<svg" in page and "AA:BB" in page
    guest = re.search(r"/bench/guests/(\d+)/out", page)[1]
    assert own.post(f"/bench/guests/{guest}/out", follow_redirects=False).status_code == 303
    assert tablet.get("/", headers=PAGE).headers["location"] == "/join"
    assert "by the box" not in own.get("/bench").text


def test_wrong_passphrases_are_counted(tablet):
    for _ in range(TRIES):
        answer = join(tablet, "not it at all")
        assert answer.status_code == 422 and "not the passphrase" in answer.text and "Passphrase" in answer.text
    answer = join(tablet)  # right, but too late
    assert answer.status_code == 429 and "Too many attempts" in answer.text and answer.headers["retry-after"]
    assert COOKIE not in tablet.cookies


def test_attempts_are_limited_for_one_and_for_all():
    tries = Tries()
    for n in range(TRIES):
        assert tries.wait_s("a", 100.0 + n) == 0
        tries.failed("a", 100.0 + n)
    assert tries.wait_s("a", 105.0) == pytest.approx(100 + TRIES_WITHIN_S - 105)
    assert tries.wait_s("b", 105.0) == 0
    assert tries.wait_s("a", 100.0 + TRIES_WITHIN_S + 0.1) == 0
    for n in range(40):
        tries.failed(f"one {n}", 200.0)
    assert tries.wait_s("another", 201.0) > 0
    tries.worked("one 39")
    assert tries.wait_s("another", 201.0) == 0


def test_sessions_end_and_cannot_be_made_up(store, inside, tablet, monkeypatch):
    join(tablet)
    token = tablet.cookies[COOKIE]
    lan = inside.state.lan
    assert lan.guest(token).name == "by the box"
    for forged in ("", "x", token[:-2] + "aa", token + "a", lan.signer().dumps({"a": 1}), lan.signer().dumps("nobody")):
        assert lan.guest(forged) is None, forged
    now = time.time
    monkeypatch.setattr("itsdangerous.timed.time.time", lambda: now() + LASTS_S + 60)
    assert lan.guest(token) is None
    monkeypatch.undo()
    with store.connected():
        set_passphrase(store, "another set of words")
    assert Lan(store, HOST, 1, "").guest(token) is None  # with a new passphrase whoever had joined must join anew


def test_host_origin_and_path_are_checked_there_too(tablet):
    join(tablet)
    assert tablet.get("/bench", headers={"host": "evil.example"}).status_code == 400
    assert tablet.get("/join", headers={"host": "evil.example"}).status_code == 400
    assert tablet.get("/bench", headers={"host": "127.0.0.1"}).status_code == 400
    evil = {"origin": "https://evil.example"}
    assert tablet.post("/jobs", headers=evil).status_code == 403
    assert tablet.post("/join", data={"passphrase": WORDS}, headers=evil).status_code == 403
    assert tablet.post("/join", data={"passphrase": WORDS}, headers={"origin": "https://["}).status_code == 403
    assert tablet.post("/join", content=b"x" * 5000).status_code == 413
    for path in (
        "//shop/restore",
        "/static/.%2e/",
        "/x\\y",
        "/shop/restore",
        "/shop/backup",
        "/raw/shop/1",
    ):
        assert tablet.get(path, headers={**PAGE}).status_code in (400, 403, 404), path
    assert tablet.post("/shop/restore").status_code == 403
    assert tablet.post("/bench/guests/1/out").status_code == 403


def test_a_tap_from_a_tablet_says_who_it_was(store, inside, tablet, rib):
    with store.connected():
        job = store.add_job(rib)
    join(tablet)
    run = tablet.post(f"/jobs/{job}/bench/start?kind=run").headers["location"]
    event = {"client": "tap-1", "kind": "note", "text": "hello"}
    assert tablet.post(f"{run}/events", json={"events": [event]}).status_code == 200
    assert "by the box" in tablet.get(run).text


def test_probes_need_their_key_and_no_passphrase(store, tablet):
    with store.connected():
        _, key = store.add_probe("box", "chamber")
    told = {"authorization": f"Bearer {key}"}
    assert tablet.post("/api/readings", json={"value": 97}, headers=told).status_code == 202
    assert tablet.post("/api/readings", json={"value": 97}).status_code == 401


def test_the_passphrase_is_hashed_and_weak_ones_are_refused(store):
    with store.connected():
        set_passphrase(store, WORDS)
        assert store.fact(PASSPHRASE).startswith("$argon2id$") and "apple" not in store.fact(PASSPHRASE)
    assert too_weak("short") and too_weak("aaaaaaaaaaaa") and too_weak("x" * 201 + "abcd") and not too_weak(WORDS)


def test_a_certificate_is_made_once_and_again_for_another_address(tmp_path):
    first, print_ = certificate(tmp_path, [HOST])
    ca = (tmp_path / "lan-ca.pem").read_bytes()
    assert re.fullmatch(r"([0-9A-F]{2}:){31}[0-9A-F]{2}", print_)
    assert oct(first.stat().st_mode)[-3:] == "600" == oct((tmp_path / "lan-ca.key").stat().st_mode)[-3:]
    second, other = certificate(tmp_path, ["10.0.0.9"])
    assert (tmp_path / "lan-ca.pem").read_bytes() == ca and other != print_  # whoever trusts it need not trust anew
    ssl.create_default_context(ssl.Purpose.CLIENT_AUTH).load_cert_chain(second)


def test_a_guest_of_yesterday_is_not_listed_as_joined(store, inside):
    lan = inside.state.lan
    with store.connected():
        store.let_in("old one")
        GuestRow.update(at=dt.datetime(2020, 1, 1)).execute()
        assert lan.view(store.guests(), dt.UTC)["joined"] == []
