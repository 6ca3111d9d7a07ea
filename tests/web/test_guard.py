"""Closed by default; nothing typed makes a 500."""

import errno
import shutil

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from starlette.testclient import TestClient

from bright_willow.store.records import NotKept
from bright_willow.store.store import Store
from bright_willow.web.app import create_app
from bright_willow.web.stages import PAGES
from tests.conftest import RIB
from tests.searching import examples


def test_headers_of_every_answer(client):
    for path in ("/", "/api/health", "/static/css/willow.css", "/nothing"):
        headers = client.get(path).headers
        policy = headers["content-security-policy"]
        assert "default-src 'none'" in policy and "unsafe" not in policy
        assert headers["x-content-type-options"] == "nosniff" and "camera=()" in headers["permissions-policy"]
        assert headers["cross-origin-resource-policy"] == "same-origin"
        assert ("no-store" in headers["cache-control"]) != path.startswith("/static")  # Back asks for a page anew


@pytest.mark.parametrize("host", ["evil.example", "127.0.0.1.evil.example", "", "[::1", "localhost@evil.example:80"])
def test_other_host_names_are_refused(client, host):
    assert client.get("/", headers={"host": host}).status_code == 400


@pytest.mark.parametrize("host", ["127.0.0.1:8765", "localhost:1", "[::1]:80", "LOCALHOST:80"])
def test_its_own_names_are_served(client, host):
    assert client.get("/", headers={"host": host}).status_code == 200


def test_changes_only_from_its_own_pages(client):
    assert client.post("/jobs", headers={"origin": "http://evil.example"}).status_code == 403
    assert client.post("/jobs", headers={"origin": "null"}).status_code == 403
    assert client.post("/jobs", headers={"origin": "http://["}).status_code == 403
    assert client.post("/jobs", headers={"sec-fetch-site": "cross-site"}).status_code == 403
    assert (
        client.post("/jobs", headers={"origin": "http://127.0.0.1", "sec-fetch-site": "same-origin"}).status_code == 200
    )


@pytest.mark.parametrize(
    ("path", "most"),
    [
        ("/api/readings", 100_000),
        ("/runs/1/events", 2_000_000),
        ("/api/plan", 2_000_000),
        ("/jobs/1/shape/keep", 1_000_000),
        ("/shop", 1_000_000),
        ("/jobs/1/outline", 4_000_000),
    ],
)
def test_each_door_takes_in_so_much(client, path, most):
    """Told before anything of it is read, so that nobody waits for it to be looked through."""
    assert client.post(path, content=b"x" * (most + 1)).status_code == 413
    assert client.post(path, content=b"x" * 100).status_code != 413


def test_a_full_disk_and_a_folder_that_is_gone_are_said(demo_client, demo_store, monkeypatch):
    """Wherever something is sent: to be looked through it is written to the disk first."""

    async def full(request):
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr("bright_willow.web.pages.pictures.sent_picture", full)
    monkeypatch.setattr("bright_willow.web.pages.runs.sent_picture", full)
    for path in ("/jobs/5/photo", "/runs/1/photo"):
        answer = demo_client.post(path, content=b"x")
        assert answer.status_code == 503 and "disk is full" in answer.json()["faults"][0]["says"], path
    away = demo_store.path.parent.rename(demo_store.path.parent.with_name("taken away"))
    try:
        for method, path in (("POST", "/jobs/5/away"), ("GET", "/"), ("GET", "/jobs/5/shape"), ("POST", "/jobs")):
            answer = demo_client.request(method, path)
            assert answer.status_code == 503 and "is gone, so this was not saved" in answer.text, (method, path)
        (lost := demo_store.path.parent).mkdir()
        with demo_store.connected(), pytest.raises(NotKept, match="is gone, so this was not saved"):
            demo_store.jobs.archive(5)  # into another file of that name: nowhere
    finally:
        shutil.rmtree(lost, ignore_errors=True)
        away.rename(demo_store.path.parent)
    assert demo_client.post("/jobs/5/away").status_code == 200


def test_too_much_is_refused(client):
    assert client.post("/api/plan", content=b"x" * 5_000_000).status_code == 413

    def drip():
        for _ in range(6):
            yield b"x" * 1_000_000

    assert client.post("/api/plan", content=drip()).status_code == 413
    assert client.post("/api/plan", headers={"content-length": "many"}, content=b"{}").status_code == 413


def test_missing_pages_speak_plainly(client):
    page = client.get("/jobs/77/shape", headers={"accept": "text/html"})
    assert page.status_code == 404 and "There is no such job." in page.text
    assert client.get("/jobs/77/shape").json() == {"faults": [{"field": "", "says": "There is no such job."}]}
    assert client.get("/jobs/1/nonsense").status_code == 404
    assert client.get("/static/../app.py").status_code == 404
    assert client.get("/jobs/99999999999999999999/shape").status_code in (404, 422)
    assert client.post("/units?to=furlong").status_code == 422


def test_units_never_lead_elsewhere(client):
    for back in ("https://evil.example", "//evil.example", "/\\evil.example"):
        assert (
            client.post("/units", params={"to": "mm", "back": back}, follow_redirects=False).headers["location"] == "/"
        )


def test_a_surprise_says_nothing_inside(store, caplog):
    app = create_app(store)

    @app.get("/surprise")
    def surprise():
        raise RuntimeError("a secret path")

    answer = TestClient(app, base_url="http://127.0.0.1", raise_server_exceptions=False).get("/surprise")
    assert answer.status_code == 500 and "Reference" in answer.text and "secret" not in answer.text
    assert "a secret path" in caplog.text


def test_api_plan_is_the_plan(client):
    answer = client.post("/api/plan", json={"job": RIB})
    assert answer.status_code == 200
    assert answer.json()["geometry"]["inner"]["least_radius_mm"] == pytest.approx(1060)
    bad = client.post("/api/plan", json={"job": {**RIB, "part": {"thickness_mm": 0, "width_mm": "wide"}}})
    assert bad.status_code == 422
    assert {f["field"] for f in bad.json()["faults"]} == {"part.thickness_mm", "part.width_mm"}
    crossed = client.post("/api/plan", json={"job": {**RIB, "stock": {"species": "x"}, "build_up": {"adhesive": "y"}}})
    assert [f["field"] for f in crossed.json()["faults"]] == ["stock.species", "build_up.adhesive"]
    assert client.get("/api/schema/job").json()["properties"]["version"]["const"] == 1
    assert "springback" in client.get("/api/schema/plan").json()["properties"]


@pytest.fixture(scope="module")
def open_client(tmp_path_factory):
    return TestClient(create_app(Store(tmp_path_factory.mktemp("shop"))), base_url="http://127.0.0.1")


nasty = st.one_of(
    st.text(max_size=40),
    st.from_regex(r"-?[0-9]{0,9}[ .,/'\"-]{0,3}[0-9]{0,9}( in|mm|cm|m)?", fullmatch=True),
    st.sampled_from(["nan", "inf", "1e999", "١٢", "1/0", "0", "-0", "9" * 300, "½", "\x00", "None", "<b>"]),
)


@settings(max_examples=examples(15), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(data=st.data())
def test_nothing_typed_makes_a_500(open_client, data):
    if open_client.get("/jobs/1/shape").status_code == 404:
        open_client.post("/jobs")
    store = open_client.app.state.store
    stage = data.draw(st.sampled_from(["shape", "stock", "build_up", "form"]))
    with store.connected():
        names = [f.name for f in PAGES[stage].fields(store.jobs.get(1).job, store.shop_settings.get())]
    typed = {name: data.draw(nasty) for name in data.draw(st.lists(st.sampled_from(names), unique=True))}
    for way in ("try", "keep"):
        answer = open_client.post(f"/jobs/1/{stage}/{way}", data=typed, headers={"x-parts": "yes"})
        assert answer.status_code in (200, 204, 422)
        assert open_client.get("/jobs/1/form").status_code == 200
    piece = {k: data.draw(nasty) for k in ("label", "day", "chord", "rise", "face", "mishap", "note")}
    open_client.post("/jobs/1/built")
    assert open_client.post("/jobs/1/pieces", data=piece).status_code in (200, 422)
    assert open_client.post("/shop", data={"kerf_mm": data.draw(nasty), "name": data.draw(nasty)}).status_code in (
        200,
        422,
    )
