"""A job exported with its records: what comes back is what went; files that lie, unfold without end or are damaged."""

from __future__ import annotations

import io
import json
import shutil
import zipfile
from pathlib import Path

import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.execution.run_state import state_of
from bright_willow.core.job.schedule_choice import Days
from bright_willow.drawing.picture_files import sized
from bright_willow.services.bench_runs import EVENTS
from bright_willow.store.bundle import brought, bundled
from bright_willow.store.bundle_file import MOST_BYTES
from bright_willow.store.store import Store
from tests.web.test_runs import STEAMED, Shop, plain, steam_a_load

JOB = 1


@pytest.fixture(scope="module")
def recorded(tmp_path_factory) -> tuple[Path, bytes]:
    """A shop with a steamed job, and the job exported: a form, a run with a photo, pieces, one broken, and a trial."""
    shop = Shop(Store(tmp_path_factory.mktemp("recorded")))
    run = shop.start(STEAMED)
    shop.prepared(run, "load")
    steam_a_load(shop, run)
    shop.tap(run, "broke", number=1, text="splintered")
    shop.client.post(f"/runs/{run}/photo?client=pic-one&piece=0", files={"photo": ("x.png", plain((90, 60)))})
    shop.client.post(f"/jobs/{STEAMED}/built")
    with shop.store.connected():
        built = shop.store.forms.find(STEAMED)[-1].built
        chord, rise = built.expected_on("inner")
    own = {"label": "a", "day": "2026-11-24", "face": "inner", "mishap": "", "note": "mine"}
    shop.client.post(
        f"/jobs/{STEAMED}/pieces",
        data=own | {"chord": f"{chord.likely:.2f}", "rise": f"{rise.likely:.2f}", "of_run": f"{run}.0"},
    )
    shop.client.post(f"/jobs/{STEAMED}/pieces", data=own | {"label": "b", "chord": "", "rise": "", "mishap": "broke"})
    shop.client.post(f"/jobs/{STEAMED}/trials", data={"asks": "minutes", "settings": "8, 12", "repeats": "1"})
    raw = shop.client.get(f"/jobs/{STEAMED}/take/bundle").content
    shop.app.state.reader.stop()
    shop.app.state.gatherer.stop()
    return shop.store.path.parent, raw


@pytest.fixture
def taken(recorded) -> bytes:
    return recorded[1]


@pytest.fixture
def shop(recorded, tmp_path):
    shutil.copytree(recorded[0], tmp_path, dirs_exist_ok=True)
    made = Shop(Store(tmp_path), is_filled=True)
    yield made
    made.app.state.reader.stop()
    made.app.state.gatherer.stop()


def changed(raw: bytes, **files: bytes | None) -> bytes:
    """The same file with some of its parts other, or missing."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(raw)) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        named = {k.replace("__", "/").replace("_json", ".json"): v for k, v in files.items()}
        for name in old.namelist():
            body = named.get(name, old.read(name))
            if body is not None:
                new.writestr(name, body)
    return out.getvalue()


def test_what_comes_back_is_what_went(shop, taken):
    store = shop.store
    with store.connected():
        own_job, own_forms = store.jobs.get(STEAMED).job, store.forms.find(STEAMED)
        run = store.runs.find(STEAMED)[0]
        was = state_of(run.brief, EVENTS.of(store, run.id), shop.now.timestamp())
        taught = [b for j, _, b in store.training.by_piece() if j == STEAMED]
        new = brought(store, taken, lambda body: (body, (90, 60)), ())
        assert store.jobs.get(new).job == own_job.model_copy(update={"days": Days()})
        forms = store.forms.find(new)
        assert [f.built for f in forms] == [f.built for f in own_forms]
        pieces, own = ([p for f in fs for p in f.pieces] for fs in (forms, own_forms))
        assert len(pieces) == len(own) >= 2
        for mine, theirs in zip(own, pieces):
            assert (mine.label, mine.mishap, mine.note, mine.left_out) == (
                theirs.label, theirs.mishap, theirs.note, theirs.left_out
            )  # fmt: skip
            assert [(m.day, m.chord_mm, m.rise_mm, m.error_mm) for m in mine.measurements] == [
                (m.day, m.chord_mm, m.rise_mm, m.error_mm) for m in theirs.measurements
            ]
        back = store.runs.find(new)[0]
        assert back.kind == "run" and back.ended is not None and store.runs.open_of_job(new) is None
        again = state_of(back.brief, [e for _, e in store.runs.events(back.id)], shop.now.timestamp())
        assert again.marks == was.marks and again.out == was.out
        assert store.runs.photos(back.id)[0][1] == "pic-one"
        piece = next(p for p in pieces if p.label == "a")
        assert (piece.run, piece.number) == (back.id, 0)  # it still knows which of the bench it was
        assert [t.trial for t in store.trials.find(new)] == [t.trial for t in store.trials.find(STEAMED)]
        assert [b for j, _, b in store.training.by_piece() if j == new] == taught  # and teaches the same
        assert "from Marrow Lane" in store.jobs.history(new)[-1].what
        twice = brought(store, taken, lambda body: (body, (90, 60)), ())
        assert twice != new and len(store.forms.find(twice)) == len(forms)


def test_it_can_be_told_to_teach_nothing(shop, taken):
    store = shop.store
    with store.connected():
        before = store.training.learned().used
        job = brought(store, taken, lambda body: (body, (90, 60)), (), teaches=False)
        pieces = [p for f in store.forms.find(job) for p in f.pieces]
        assert pieces and all(p.left_out for p in pieces) and store.training.learned().used == before
        brought(store, taken, lambda body: (body, (90, 60)), ())
        assert store.training.learned().used > before


def test_over_the_page_and_pictures_are_made_anew(shop, taken):
    page = shop.client.post("/jobs/bring", files={"file": ("book.zip", taken)}, data={"teaches": "no"})
    assert page.status_code == 200 and page.url.path.endswith("/shape")
    job = int(page.url.path.split("/")[2])
    with shop.store.connected():
        run = shop.store.runs.find(job)[0]
        assert shop.store.runs.photo(run.id, "pic-one")[:3] == b"\xff\xd8\xff"
        assert shop.store.runs.open_of_job(job) is None


def bomb() -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        file.writestr("manifest.json", b" " * (MOST_BYTES + 1))
    return out.getvalue()


def liar(taken: bytes) -> bytes:
    """A file that says of itself that it unfolds to little, and unfolds to much."""
    big = changed(taken, job_json=b" " * 12_000_000)
    return big.replace((12_000_000).to_bytes(4, "little"), (1_000).to_bytes(4, "little"))


@pytest.mark.parametrize(
    "spoil",
    [
        lambda t: b"PK\x03\x04 and no more",
        lambda t: t[: len(t) // 2],
        lambda t: bomb(),
        liar,
        lambda t: changed(t, manifest_json=None),
        lambda t: changed(t, manifest_json=b"{}"),
        lambda t: changed(
            t, manifest_json=json.dumps({"format": "bright-willow-bundle", "version": 1, "forms": 400}).encode()
        ),
        lambda t: changed(t, job_json=b"\xff\xfe not json"),
        lambda t: changed(t, job_json=b'{"name": "x"}'),
        lambda t: changed(t, forms__0_json=b"[]"),
        lambda t: changed(t, runs__0_json=b'{"kind": "run"}'),
        lambda t: changed(t, trials__0_json=b"null"),
        lambda t: changed(t, **{"photos__0__pic-one.jpg": b"<svg onload=alert(1)>"}),
        lambda t: changed(t, **{"photos__0__pic-one.jpg": None}),
    ],
)
def test_files_that_lie_or_unfold_without_end_are_a_sentence_and_nothing_is_kept(shop, taken, spoil):
    with shop.store.connected():
        before = (shop.store.jobs.count(), shop.store.forms.count(), len(shop.store.runs.find(most=500)))
    page = shop.client.post("/jobs/bring", files={"file": ("book.zip", spoil(taken))})
    assert page.status_code == 422 and 'role="alert"' in page.text
    with shop.store.connected():
        assert (shop.store.jobs.count(), shop.store.forms.count(), len(shop.store.runs.find(most=500))) == before


def test_every_job_of_the_demo_goes_and_comes_back(shop):
    with shop.store.connected():
        for number in range(1, 19):
            raw = bundled(shop.store, number)
            new = brought(shop.store, raw, lambda body: (body, (90, 60)), shop.store.shop_settings.get().woods)
            assert shop.store.jobs.get(new).job.name == shop.store.jobs.get(number).job.name
            assert len(shop.store.forms.find(new)) == len(shop.store.forms.find(number))


def test_a_run_of_a_trial_forgets_the_number_it_had_there(shop):
    at = shop.client.post(f"/jobs/{STEAMED}/trials", data={"asks": "minutes", "settings": "8", "repeats": "1"}).url.path
    shop.client.post(f"{at}/bench")
    with shop.store.connected():
        assert [r.brief.trial for r in shop.store.runs.find(STEAMED)] == [int(at.split("/")[-1]), 0]
        new = brought(shop.store, bundled(shop.store, STEAMED), sized, ())
        assert {(r.kind, r.brief.trial) for r in shop.store.runs.find(new)} == {("trial", 0), ("run", 0)}
        assert not any(shop.store.runs.of_trial(trial) for trial in shop.store.trials.find(new))


def test_pictures_readings_and_what_becomes_of_pieces_go_along(shop):
    from bright_willow.core.measuring.ends_and_heights import GapReadings
    from bright_willow.core.measuring.photo_measurement import PhotoMarks
    from bright_willow.core.measuring.profile_readings import KeptReading, written

    store, readings = shop.store, written(KeptReading(GapReadings(4.0, 5.0), 0.5))
    with store.connected():
        form = store.forms.find(JOB)[-1]
        piece, first = form.pieces[1], form.pieces[1].measurements[0]
        again = {"chord_mm": first.chord_mm, "rise_mm": first.rise_mm, "face": first.face, "error_mm": 0.5}
        store.logbook.measure_again(piece.id, day=first.day, readings=readings, **again)
        store.logbook.save_decision(piece.id, "keep", "draw_in")
        marks = PhotoMarks(corners=((1.0, 2.0),))
        shown = store.pictures.add(JOB, plain((90, 60)), (90, 60), piece_id=piece.id, note="seen")
        store.pictures.save_marks(shown, marks)
        store.pictures.add(JOB, plain((64, 64)), (64, 64))
        new = brought(store, bundled(store, JOB), sized, ())
        pictures = store.pictures.of_job(new)
        mine = next(p for f in store.forms.find(new) for p in f.pieces if p.label == piece.label)
    assert [(p.wide, p.high, p.note) for p in pictures] == [(64, 64, ""), (90, 60, "seen")]
    assert pictures[1].piece_id == mine.id and pictures[1].marks == marks and pictures[0].piece_id is None
    assert (mine.verdict, mine.correction) == ("keep", "draw_in")
    assert [m.readings for m in mine.measurements].count(readings) == 1
    with store.connected():
        assert bundled(store, new)[:2] == b"PK"
    with pytest.raises(PlanError), store.connected():  # a picture that is none
        brought(store, changed(bundled(store, new), **{"pictures/0.jpg": b"no picture"}), sized, ())


@pytest.mark.parametrize(
    ("name", "value"),
    [
        ("pieces", 10**9),
        ("pieces", 30_000),
        ("pieces", -5),
        ("started_s", 1e12),
        ("started_s", -1e18),
        ("places", 10**7),
    ],
)
def test_a_plan_of_a_run_with_numbers_that_cannot_be_is_refused_at_once(shop, taken, name, value):
    with zipfile.ZipFile(io.BytesIO(taken)) as file:
        run = json.loads(file.read("runs/0.json"))
    run["brief"][name] = value
    with pytest.raises(PlanError, match="runs/0.json"), shop.store.connected():
        brought(shop.store, changed(taken, runs__0_json=json.dumps(run).encode()), lambda body: (body, (90, 60)), ())


@pytest.mark.parametrize(
    ("name", "value"), [("at_s", 10**400), ("at_s", 1e12), ("number", 10**9), ("value", 1e300), ("wall_s", -1)]
)
def test_taps_with_numbers_that_cannot_be_are_refused(shop, taken, name, value):
    with zipfile.ZipFile(io.BytesIO(taken)) as file:
        run = json.loads(file.read("runs/0.json"))
    run["events"][0][name] = value
    with pytest.raises(PlanError, match="runs/0.json"), shop.store.connected():
        brought(shop.store, changed(taken, runs__0_json=json.dumps(run).encode()), lambda body: (body, (90, 60)), ())


def test_a_number_of_thousands_of_digits_in_the_job_is_a_sentence(shop, taken):
    with zipfile.ZipFile(io.BytesIO(taken)) as file:
        job = json.loads(file.read("job.json"))
    body = json.dumps(job).replace('"name":', '"odd": ' + "9" * 5_000 + ', "name":', 1).encode()
    with pytest.raises(ValueError, match=r"job\.json|spelling"), shop.store.connected():
        brought(shop.store, changed(taken, job_json=body), lambda b: (b, (90, 60)), ())
