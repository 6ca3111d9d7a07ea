"""The commands, run as a user runs them."""

import errno
import json
import logging
import re
import socket
import stat

import pytest
import typer
from starlette.testclient import TestClient

from bright_willow import serving
from bright_willow.core.plan.read_job import read_job
from bright_willow.log import log_to
from bright_willow.store.repositories.shop_settings import ShopRepository
from bright_willow.store.store import Store
from bright_willow.web.app import create_app
from tests.conftest import RIB
from tools.running import Program
from tools.running import run_command as run


@pytest.fixture
def job_file(tmp_path):
    path = tmp_path / "rib.json"
    path.write_text(json.dumps(RIB))
    return path


def test_plan_prints_the_whole_plan(job_file, tmp_path):
    done = run("plan", job_file)
    assert done.returncode == 0, done.stderr
    made = json.loads(done.stdout)
    assert made["format"] == "bright-willow-plan"
    assert made["springback"]["loss_share"]["likely"] == pytest.approx(1 / 64, rel=2e-3)
    shop = tmp_path / "shop.json"
    shop.write_text(json.dumps({"units": "in", "kerf_mm": 2}))
    learnt = tmp_path / "book.json"
    bend = {
        "group": "ash_white|rigid",
        "form_curvature": 1e-3,
        "predicted_curvature": 9.8e-4,
        "thickness_mm": 40,
        "chord_mm": 1650,
        "rise_mm": 400,
        "face": "mid",
    }
    learnt.write_text(json.dumps({"format": "bright-willow-experience", "version": 1, "bends": [bend]}))
    wiser = run("plan", job_file, "--shop", shop, "--experience", learnt)
    assert json.loads(wiser.stdout)["springback"]["loss_ratio"]["grade"] == "learned", wiser.stderr


def test_faulty_jobs_get_a_sentence_and_a_non_zero_exit(tmp_path):
    path = tmp_path / "bad.json"
    for content, message in [
        ("{", "is not JSON"),
        (json.dumps({**RIB, "part": {"thickness_mm": -4, "width_mm": 60}}), "part.thickness_mm: At least"),
        (json.dumps({**RIB, "way": "magic"}), "way: There is no bending method"),
    ]:
        path.write_text(content)
        done = run("plan", path)
        assert done.returncode == 2 and message in done.stderr and "Traceback" not in done.stderr
    assert run("plan", tmp_path / "none.json").returncode == 2


@pytest.mark.parametrize("ending", ["pdf", "svg", "dxf", "csv"])
def test_export(job_file, tmp_path, ending):
    target = tmp_path / f"form.{ending}"
    assert run("export", job_file, "--to", target).returncode == 0
    assert target.stat().st_size > 200


def test_export_refuses_what_it_cannot_write(job_file, tmp_path):
    assert "should end in" in run("export", job_file, "--to", tmp_path / "form.doc").stderr
    assert "Paper is one of" in run("export", job_file, "--to", tmp_path / "f.pdf", "--paper", "b5").stderr
    assert "cannot be written" in run("export", job_file, "--to", tmp_path / "no" / "f.svg").stderr


def test_schema(tmp_path):
    assert json.loads(run("schema").stdout)["title"] == "Job"
    assert run("schema", "--of", "soup").returncode == 2


def test_demo_opens_stays_and_starts_anew(tmp_path):
    folder = tmp_path / "demo"

    def opened(*extra):
        with Program(folder, "demo", more=extra, often=True).start() as program:
            return program.ask("GET", "/", accept="text/html")[1].decode()

    assert "Orchard shelter rib" in opened()
    assert opened().count("Orchard shelter rib</a>") == 1
    assert "Marrow Lane" in opened("--fresh")
    (tmp_path / "mine").mkdir()
    (tmp_path / "mine" / "thesis.txt").write_text("keep me")
    refused = run("demo", "--fresh", "--data", tmp_path / "mine")
    assert refused.returncode == 2 and (tmp_path / "mine" / "thesis.txt").exists()


def test_a_job_of_the_shop_s_own_wood_is_planned(job_file, tmp_path):
    own = {"key": "plum_own", "name": "Plum", "sg12": 0.7, "moe_gpa": 10, "mor_mpa": 90, "crush_mpa": 50}
    shop = tmp_path / "shop.json"
    shop.write_text(json.dumps({"woods": [own]}))
    job_file.write_text(json.dumps({**RIB, "stock": {"species": "plum_own"}}))
    assert run("plan", job_file).returncode == 2
    done = run("plan", job_file, "--shop", shop)
    assert done.returncode == 0 and json.loads(done.stdout)["species_name"] == "Plum", done.stderr
    assert run("export", job_file, "--shop", shop, "--to", tmp_path / "form.pdf").returncode == 0


def test_fresh_takes_away_only_what_the_demo_made(tmp_path):
    store = Store(tmp_path / "own")
    with store.connected():
        store.jobs.add(read_job(RIB))
    refused = run("demo", "--fresh", "--data", tmp_path / "own")
    assert refused.returncode == 2 and "not the sample shop; nothing was removed" in refused.stderr
    with store.connected():
        assert store.jobs.count() == 1 and not store.is_demo
    program = Program(
        tmp_path / "own", "demo", often=True
    ).start()  # without --fresh it is opened as it is, and stays its owner's
    program.end()
    with store.connected():
        assert store.jobs.count() == 1
    assert run("demo", "--fresh", "--data", tmp_path / "own").returncode == 2


def test_a_shop_is_taken_along_and_brought_back(tmp_path):
    program = Program(tmp_path / "demo", "demo", often=True).start()
    try:
        done = run("backup", tmp_path / "mine.sqlite3", "--data", tmp_path / "demo")
        assert done.returncode == 0, done.stderr
        busy = run("restore", tmp_path / "mine.sqlite3", "--data", tmp_path / "demo")
        assert busy.returncode == 2 and f"open already, at {program.address}" in busy.stderr
    finally:
        program.end()
    assert run("restore", tmp_path / "mine.sqlite3", "--data", tmp_path / "new").returncode == 0
    again = run("restore", tmp_path / "mine.sqlite3", "--data", tmp_path / "new")
    assert "saved in" in again.stdout and len(list((tmp_path / "new" / "copies").iterdir())) == 1
    with Program(tmp_path / "new", often=True).start() as moved:
        assert b"Orchard shelter rib" in moved.ask("GET", "/")[1]
    assert run("backup", tmp_path / "x.sqlite3", "--data", tmp_path / "none").returncode == 2
    assert "is damaged" in run("restore", _cut(tmp_path), "--data", tmp_path / "new").stderr


def _cut(folder):
    (folder / "cut.sqlite3").write_bytes((folder / "mine.sqlite3").read_bytes()[:30_000])
    return folder / "cut.sqlite3"


def test_a_port_that_is_taken_or_not_allowed_is_said(monkeypatch, capsys, tmp_path):
    with socket.create_server(("127.0.0.1", 0)) as taken:
        done = run("serve", "--port", taken.getsockname()[1], "--data", tmp_path)
        assert done.returncode == 2 and "is taken. Choose another: --port" in done.stderr

    def refuse(self, address):
        raise PermissionError(errno.EACCES, "no")

    monkeypatch.setattr(socket.socket, "bind", refuse)
    with pytest.raises(typer.Exit):
        serving._listening(80)
    assert "Port 80 may not be used by you. Choose another: --port 8123." in capsys.readouterr().err


def test_what_goes_wrong_is_in_the_log_under_its_reference(tmp_path, monkeypatch):
    log_to(tmp_path)
    log = logging.getLogger("bright_willow")
    try:
        app = create_app(Store(tmp_path))
        monkeypatch.setattr(ShopRepository, "get", lambda self: 1 / 0)
        answer = TestClient(app, base_url="http://127.0.0.1").get("/shop")
        reference = re.search(r"Reference (\w+)", answer.text)[1]
        assert answer.status_code == 500 and "lost" not in answer.text
        text = (tmp_path / "bright-willow.log").read_text()
        assert reference in text and "ZeroDivisionError" in text
        assert stat.S_IMODE((tmp_path / "bright-willow.log").stat().st_mode) == 0o600
    finally:
        for handler in list(log.handlers):
            handler.close()
            log.removeHandler(handler)
        log.propagate = True


def test_the_quick_answer_is_printed_and_read_back():
    asked = ("quick", "--radius", "24 in", "--angle", "90", "--thickness", "1", "--wood", "white oak", "--inches")
    printed = run(*asked)
    assert [line.split(":")[0] for line in printed.stdout.splitlines()] == [
        "Make", "Form", "Overbend", "Get", "Time", "Watch out",
    ]  # fmt: skip
    answer = json.loads(run(*asked, "--json").stdout)
    job = read_job(answer["job"])
    assert job.shape.radius_mm == pytest.approx(609.6) and job.stock.species == "oak_white"
    assert answer["answer"][1]["says"] in printed.stdout and " in" in answer["answer"][1]["says"]
    assert "Steam " in run(*asked, "--steam").stdout


@pytest.mark.parametrize(
    ("words", "message"),
    [
        (("--radius", "600", "--thickness", "20", "--wood", "oak_white"), "Give --radius with --angle"),
        (("--chord", "600", "--rise", "80", "--thickness", "soon", "--wood", "oak_white"), "--thickness: “soon”"),
        (("--chord", "600", "--rise", "80", "--thickness", "20", "--wood", "ash"), "“ash” is one of several woods: "),
        (("--chord", "600", "--rise", "400", "--thickness", "20", "--wood", "oak_white", "--face", "top"), "--face is"),
    ],
)
def test_a_quick_question_at_fault_is_said(words, message):
    made = run("quick", *words)
    assert made.returncode == 2 and message in made.stderr and not made.stdout
