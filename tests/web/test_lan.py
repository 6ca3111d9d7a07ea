"""The shop's network: nobody in without the passphrase, sessions that end, attempts limited, put out; never off the
machine unasked."""

from __future__ import annotations

import asyncio
import datetime as dt
import re
import sqlite3
import ssl
import time
from concurrent.futures import ThreadPoolExecutor
from types import SimpleNamespace

import pytest
from starlette.testclient import TestClient

from bright_willow.store.backup import copied, restored_live
from bright_willow.store.network_access import NetworkAccess
from bright_willow.store.open_folder import FILE
from bright_willow.store.store import Store
from bright_willow.web.addresses import route_of
from bright_willow.web.app import create_app
from bright_willow.web.lan import (
    COOKIE,
    LASTS_S,
    LONGEST_WAIT_S,
    TRIES,
    TRIES_IN_ALL,
    TRIES_WITHIN_S,
    Lan,
    LoginAttempts,
    NetworkGate,
    certificate,
    set_passphrase,
    too_weak,
)
from bright_willow.web.pages.runs import _sent
from bright_willow.web.tablet_rights import open_to_tablets
from tests.core.execution.runs import brief
from tools.hostile import routes_of

WORDS = "four plain apple words"
HOST = "192.168.7.20"
PAGE = {"accept": "text/html"}


@pytest.fixture
def inside(store):
    yield from _inside(store)


@pytest.fixture
def demo_inside(demo_store):
    """The sample shop, on its own machine and on a tablet."""
    for app in _inside(demo_store):
        gate = NetworkGate(app, app.state.lan, app.state.planners)
        tablet = TestClient(gate, base_url=f"https://{HOST}:8766", follow_redirects=False)
        yield TestClient(app, base_url="http://127.0.0.1"), tablet


def _inside(store):
    access = NetworkAccess(store.path.parent)
    set_passphrase(access, WORDS)
    app = create_app(store)
    app.state.lan = Lan(access, HOST, 8766, "AA:BB")
    yield app
    app.state.reader.stop()


@pytest.fixture
def tablet(inside):
    gate = NetworkGate(inside, inside.state.lan, inside.state.planners)
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


def test_wrong_passphrases_are_counted(tablet, monkeypatch):
    monkeypatch.setattr("bright_willow.web.lan.time", SimpleNamespace(monotonic=lambda: 100.0))  # all at one moment
    for _ in range(TRIES):
        answer = join(tablet, "not it at all")
        assert answer.status_code == 422 and "not the passphrase" in answer.text and "Passphrase" in answer.text
    answer = join(tablet)  # right, but too late
    assert answer.status_code == 429 and "Too many attempts" in answer.text and answer.headers["retry-after"]
    assert COOKIE not in tablet.cookies


def test_who_tries_on_waits_and_nobody_else_does():
    tries = LoginAttempts()
    for n in range(TRIES):
        assert tries.wait_s("a", 100.0 + n) == 0
        tries.failed("a", 100.0 + n)
    waits = []
    at = 100.0 + TRIES - 1
    for _ in range(7):
        waits.append(tries.wait_s("a", at))
        at += waits[-1]
        assert tries.wait_s("a", at) == pytest.approx(0)
        tries.failed("a", at)
    assert waits == pytest.approx([2, 4, 8, 16, 32, LONGEST_WAIT_S, LONGEST_WAIT_S])
    assert tries.wait_s("a", at + TRIES_WITHIN_S + 0.1) == 0
    for n in range(TRIES_IN_ALL):
        tries.failed(f"one {n}", 200.0)
    assert tries.wait_s("another", 201.0) == 0 and tries.pause_s(201.0) == 1.0  # slowed down, not shut out
    tries.worked("one 39")
    assert tries.pause_s(200.0 + TRIES_WITHIN_S + 1) == 0


def test_many_wrong_words_from_everywhere_shut_nobody_out(inside, tablet):
    for n in range(TRIES_IN_ALL + 10):
        inside.state.lan.tries.failed(f"10.0.0.{n}", time.monotonic())
    started = time.monotonic()
    assert join(tablet).status_code == 303 and 0.9 < time.monotonic() - started < LONGEST_WAIT_S


def test_sessions_end_and_cannot_be_made_up(inside, tablet, monkeypatch):
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
    assert lan.guest(token)
    access = lan.access
    for days in (-365, 365, LASTS_S / 86400 + 0.01):  # by the row's own age, whatever the cookie's signature says
        kept = access._kept.tablets[0]
        kept.at -= dt.timedelta(days=days)
        assert lan.guest(token) is None, days
        kept.at += dt.timedelta(days=days)
    assert lan.guest(token)
    set_passphrase(access, "another set of words")
    assert lan.guest(token) is None  # with a new passphrase whoever had joined must join again


def test_host_origin_and_path_are_checked_there_too(tablet):
    join(tablet)
    assert tablet.get("/bench", headers={"host": "evil.example"}).status_code == 400
    assert tablet.get("/join", headers={"host": "evil.example"}).status_code == 400
    assert tablet.get("/bench", headers={"host": "127.0.0.1"}).status_code == 400
    evil = {"origin": "https://evil.example"}
    assert tablet.post("/jobs", headers=evil).status_code == 403
    assert tablet.post("/join", data={"passphrase": WORDS}, headers=evil).status_code == 403
    assert tablet.post("/join", data={"passphrase": WORDS}, headers={"origin": "https://["}).status_code == 403
    crossed = {"sec-fetch-site": "cross-site"}
    assert tablet.post("/join", data={"passphrase": WORDS}, headers=crossed).status_code == 403
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
        job = store.jobs.add(rib)
    join(tablet)
    run = tablet.post(f"/jobs/{job}/bench/start?kind=run").headers["location"]
    event = {"client": "tap-1", "kind": "note", "text": "hello"}
    assert tablet.post(f"{run}/events", json={"events": [event]}).status_code == 200
    assert "by the box" in tablet.get(run).text


def test_probes_need_their_key_and_no_passphrase(store, tablet):
    with store.connected():
        _, key = store.probes.add("box", "chamber")
    told = {"authorization": f"Bearer {key}"}
    assert tablet.post("/api/readings", json={"value": 97}, headers=told).status_code == 202
    assert tablet.post("/api/readings", json={"value": 97}).status_code == 401


def test_secrets_lie_beside_the_shop_hashed_and_in_no_copy(store, inside, tablet, tmp_path):
    join(tablet)
    folder = store.path.parent
    kept = folder / "network-access.json"
    assert (
        oct(kept.stat().st_mode)[-3:] == "600" and "$argon2id$" in kept.read_text() and "apple" not in kept.read_text()
    )
    token = inside.state.lan.signer().loads(tablet.cookies[COOKIE])
    copied(store.path, tmp_path / "copy.sqlite3")
    secrets = [token, inside.state.lan.access.secret, "$argon2id$"]
    for path in (store.path, store.path.with_name(FILE + "-wal"), tmp_path / "copy.sqlite3"):
        raw = path.read_bytes() if path.exists() else b""
        assert not [s for s in secrets if s.encode() in raw], path
    assert token not in kept.read_text()
    assert too_weak("short") and too_weak("aaaaaaaaaaaa") and too_weak("x" * 201 + "abcd") and not too_weak(WORDS)


def test_what_an_earlier_version_kept_in_the_shop_is_taken_out_of_it(tmp_path):
    """The passphrase goes on, tablets join again, and neither the file nor a copy made before holds a trace."""
    folder = tmp_path / "shop"
    with Store(folder).connected():
        pass
    mark, phrase = "TOKEN-" + "q" * 40, "$argon2id$" + "p" * 60
    with sqlite3.connect(folder / FILE) as db:
        for name in ("0010_one_run",):
            db.execute("delete from schema_migration where name = ?", (name,))
        db.execute("drop index run_open")
        db.execute(
            "create table guest (id integer primary key, token varchar(255) not null unique, name varchar(255) not "
            "null,"
            " at datetime not null, seen datetime not null, put_out datetime)"
        )
        db.execute("insert into guest values (1, ?, 'old', '2026-01-01', '2026-01-01', null)", (mark,))
        db.execute("insert into meta values ('lan passphrase', ?), ('lan secret', ?)", (phrase, mark))
    db.close()
    copied(folder / FILE, tmp_path / "copy.sqlite3")
    Store(folder)
    access = NetworkAccess(folder)
    assert access.passphrase_hash == phrase and access.secret != mark and access.tablets() == []
    for path in (tmp_path / "copy.sqlite3", *folder.glob(f"{FILE}*"), *folder.glob("copies/*")):
        assert mark.encode() not in path.read_bytes() and phrase.encode() not in path.read_bytes(), path


def test_a_restored_shop_brings_no_passphrase(store, inside, tablet, tmp_path):
    other = Store(tmp_path / "other")
    set_passphrase(NetworkAccess(other.path.parent), "the strangers own words")
    copied(other.path, tmp_path / "theirs.sqlite3")
    restored_live(store.path, tmp_path / "theirs.sqlite3")
    assert join(tablet, "the strangers own words").status_code == 422
    assert join(tablet).status_code == 303


def test_a_certificate_is_made_once_and_again_for_another_address(tmp_path):
    first, print_ = certificate(tmp_path, [HOST])
    ca = (tmp_path / "lan-ca.pem").read_bytes()
    assert re.fullmatch(r"([0-9A-F]{2}:){31}[0-9A-F]{2}", print_)
    assert oct(first.stat().st_mode)[-3:] == "600" == oct((tmp_path / "lan-ca.key").stat().st_mode)[-3:]
    second, other = certificate(tmp_path, ["10.0.0.9"])
    assert (tmp_path / "lan-ca.pem").read_bytes() == ca and other != print_  # whoever trusts it need not trust anew
    ssl.create_default_context(ssl.Purpose.CLIENT_AUTH).load_cert_chain(second)


def test_a_tablet_of_yesterday_is_not_listed_as_joined(inside):
    lan = inside.state.lan
    lan.access.let_in("old one")
    assert [t["name"] for t in lan.view(dt.UTC, "mm")["joined"]] == ["old one"]
    lan.access._kept.tablets[0].at = dt.datetime(2020, 1, 1)
    assert lan.view(dt.UTC, "mm")["joined"] == []


def test_tablets_run_the_bench_look_and_measure_and_nothing_else(inside, tablet):
    """Every door of the program: what is not named for tablets is shut to them, whatever is added later."""
    join(tablet)
    looks = {"/book/bends.csv", "/book/bends.json", "/book/experience.json", "/book/whole.zip", "/shop/backup"}
    looks |= {
        "/raw/{kind}/{row_id}",
        "/openapi.json",
        "/health",
        "/docs",
        "/jobs/{job_id}/share.html",
    }  # the last needs no session
    open_to_them, shut = set(), set()
    for method, template in routes_of(inside):
        path = re.sub(r"\{(\w+)\}", lambda m: {"kind": "pdf", "stage": "form"}.get(m[1], "1"), template)
        (open_to_them if open_to_tablets(method, path) else shut).add((method, template.removeprefix("/api")))
    assert {p for m, p in shut if m == "GET"} == looks
    assert {p for m, p in open_to_them if m == "POST"} == {
        "/jobs/{job_id}/bench/start",
        "/runs/{run_id}/ease/{piece}",
        "/runs/{run_id}/events",
        "/runs/{run_id}/tap",
        "/runs/{run_id}/pace",
        "/runs/{run_id}/go-over",
        "/runs/{run_id}/photo",
        "/jobs/{job_id}/days/done",
        "/jobs/{job_id}/{stage}/try",
        "/jobs/{job_id}/built",
        "/jobs/{job_id}/pieces",
        "/jobs/{job_id}/photo",
        "/pieces/{piece_id}/again",
        "/pieces/{piece_id}/verdict",
        "/pictures/{picture_id}/look",
        "/pictures/{picture_id}/mark",
        "/pictures/{picture_id}/unmark",
        "/pictures/{picture_id}/size",
        "/pictures/{picture_id}/piece",
        "/trials/{trial_id}/piece/{number}",
        "/trials/{trial_id}/bench",
        "/trials/{trial_id}/from-bench",
    }
    assert (
        not open_to_tablets("GET", "/jobs/1/take/bundle")
        and not open_to_tablets("DELETE", "/")
        and open_to_tablets("GET", "/jobs/1/take/pdf")
    )
    for path in ("/shop", "/probes", "/probes/1/remove", "/pieces/1/remove", "/jobs/bring", "/units", "/jobs/1/away"):
        page = tablet.post(path, headers=PAGE)
        assert page.status_code == 403 and "own machine" in page.text, path
    assert "own machine" in tablet.get("/book/whole.zip").json()["faults"][0]["says"]


def test_a_tablet_put_out_is_sent_nothing_more(store, inside, rib):
    """Its page looked on when it was sent away: the stream ends with the next thing that happens."""
    with store.connected():
        run = store.runs.start(store.jobs.add(rib), "run", 1, brief())
    tablet_in = [True]
    scope = {"is_still_in": lambda: tablet_in[0]}
    request = Looking(inside, scope)

    async def looked() -> list[dict]:
        told, first = [], {"at": 0.0, "rate": 1.0, "mark": "", "html": "x"}
        async for one in _sent(request, run, first):
            told.append(one)
            if len(told) == 2:
                tablet_in[0] = False
            inside.state.hub.changed(run)
            assert len(told) < 5
        return told

    with ThreadPoolExecutor(1) as beside:  # this thread may have a loop of its own
        assert len(beside.submit(asyncio.run, looked()).result(60)) == 2


class Looking:
    """A request of a page that looks on."""

    def __init__(self, app, scope) -> None:
        self.app, self.scope = app, scope

    async def is_disconnected(self) -> bool:
        return False


@pytest.mark.parametrize(
    "path", ["/", "/bench", "/rack", "/jobs/5/shape", "/jobs/5/form", "/jobs/1/measure", "/jobs/14/bench"]
)
def test_a_tablet_is_offered_only_what_it_may_use(demo_inside, path):
    """Every form that is left is open to it, and every link leads to a page."""
    own, tablet = demo_inside
    join(tablet)
    page, whole = (
        tablet.get(path, headers=PAGE, follow_redirects=True).text,
        own.get(path, headers=PAGE, follow_redirects=True).text,
    )
    forms = [
        f for f in re.findall(r"<form[^>]*>", page) if 'method="post"' in f and " hidden" not in f and " inert" not in f
    ]
    for form in forms:
        action = route_of(re.search(r'action="([^"?]*)', form)[1])
        assert open_to_tablets("POST", action), form
    links = {m[2] for m in re.finditer(r'<a([^>]*)href="(/[^"#]*)"[^>]*?( hidden)?>', page) if not m[3]}
    assert links and [link for link in links if not open_to_tablets("GET", route_of(link.partition("?")[0]))] == []
    assert len(re.findall(r" hidden>| inert>", page)) > len(re.findall(r" hidden>| inert>", whole))
    assert "on the shop's computer" in page and "on the shop's computer" not in whole
