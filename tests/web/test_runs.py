"""Runs over HTTP: tapped once and twice, bad taps, what flows on to the days, the book and the plan; games; pictures."""

from __future__ import annotations

import datetime as dt
import io
import json
import re
import threading

import pytest
from PIL import Image
from starlette.testclient import TestClient

from bright_willow.core.execution.events import Event
from bright_willow.core.execution.run_state import state_of
from bright_willow.drawing.picture_files import KEPT_BYTES, sized
from bright_willow.web.app import create_app
from tests.sample import fill
from tools.yardstick import Measured

NOW = dt.datetime(2026, 11, 24, 9, 40, tzinfo=dt.UTC)
STEAMED, GLUED = 14, 5


class Shop:
    """The sample shop with a clock that is set by hand."""

    def __init__(self, store, *, is_filled: bool = False) -> None:
        self.store, self.now = store, NOW
        with store.connected():
            if not is_filled:
                fill(store, NOW.date())
            for key in ("look_over", "rip", "plane", "number"):
                store.progress.remove(GLUED, key, -1)
            week = store.shop_settings.get().week.model_copy(update={"zone": "UTC"})
            store.shop_settings.save(store.shop_settings.get().model_copy(update={"week": week}))
        self.app = create_app(store, lambda: self.now)
        self.client = TestClient(self.app, base_url="http://127.0.0.1", follow_redirects=True)

    def later(self, seconds: float) -> None:
        self.now += dt.timedelta(seconds=seconds)

    def start(self, job: int, kind: str = "run") -> int:
        page = self.client.post(f"/jobs/{job}/bench/start?kind={kind}")
        assert page.status_code == 200, page.text[:300]
        return int(page.url.path.split("/")[-1])

    def tap(self, run: int, kind: str, key: str = "", number: int = -1, **more):
        self.n = getattr(self, "n", 0) + 1
        event = {"client": f"tap-{self.n:05}", "kind": kind, "key": key, "number": number, **more}
        answer = self.client.post(f"/runs/{run}/events", json={"events": [event]})
        assert answer.status_code == 200, answer.text
        return answer.json()

    def state(self, run: int):
        return self.client.get(f"/runs/{run}/state").json()

    def prepared(self, run: int, until: str) -> None:
        """All that is done once is done."""
        with self.store.connected():
            operations = self.store.runs.get(run).brief.operations
        for o in operations:
            if o.key == until:
                return
            if o.attended_s.likely:
                self.tap(run, "done", o.key, -1 if o.scope == "job" else 0)


@pytest.fixture
def shop(store):
    made = Shop(store)
    yield made
    made.app.state.reader.stop()
    made.app.state.gatherer.stop()


def test_a_run_is_begun_tapped_and_seen_by_another_page(shop):
    run = shop.start(STEAMED)
    assert shop.start(STEAMED) == run  # pressed again: the same
    page = shop.client.get(f"/runs/{run}")
    assert "Inspect the boards" in page.text and 'data-rate="1.0"' in page.text
    answer = shop.tap(run, "done", "look_over")
    assert answer["taken"] == ["tap-00001"] and "Mill the blanks" in answer["html"]
    other = shop.client.get(f"/runs/{run}/now").json()
    assert other["mark"] == answer["mark"] and other["at"] == NOW.timestamp()
    assert "html" not in shop.client.post(f"/runs/{run}/events?seen={other['mark']}", json={"events": []}).json()
    listed = shop.client.get("/bench").text
    assert "Mill the blanks" in listed and "1 of 58" in listed


def test_the_same_tap_sent_again_is_one(shop):
    run = shop.start(GLUED)
    one = {"client": "tap-again", "kind": "count", "text": "water", "value": 1}
    for _ in range(3):
        assert shop.client.post(f"/runs/{run}/events", json={"events": [one, one]}).json()["taken"]
    assert shop.state(run)["events"] == 1


@pytest.mark.parametrize(
    "body",
    [
        b"",
        b"nonsense",
        b'{"events": 3}',
        json.dumps({"events": [{"client": "x", "kind": "done"}]}).encode(),
        json.dumps({"events": [{"client": "tap one", "kind": "done"}]}).encode(),
        json.dumps({"events": [{"client": "tap1", "kind": "explode"}]}).encode(),
        json.dumps({"events": [{"client": "tap1", "kind": "speed", "value": 9}]}).encode(),
        json.dumps({"events": [{"client": "tap1", "kind": "done", "number": -5}]}).encode(),
        b'{"events": [{"client": "tap1", "kind": "done", "at_s": NaN}]}',
        json.dumps({"events": [{"client": f"tap{n}", "kind": "note"} for n in range(501)]}).encode(),
    ],
)
def test_bad_taps_are_a_sentence_and_nothing_is_kept(shop, body):
    run = shop.start(GLUED)
    answer = shop.client.post(f"/runs/{run}/events", content=body)
    assert answer.status_code == 422 and answer.json()["faults"][0]["says"].endswith(".")
    assert shop.state(run)["events"] == 0


def test_taps_of_what_there_is_not_are_kept_and_change_nothing(shop):
    run = shop.start(GLUED)
    for key, number in (("steam", 0), ("spread", 999), ("", 5)):
        shop.tap(run, "done", key, number)
    shop.tap(run, "broke", number=777, text="odd")
    shop.tap(run, "back", of="nobody")
    state = shop.state(run)
    assert (
        state["events"] == 4 and state["done"] == [] and state["out"] == {}
    )  # a take-back is none of those that stand
    assert shop.client.get("/runs/77").status_code == 404
    assert shop.client.post("/runs/77/events", json={"events": []}).status_code == 404


def test_clocks_that_jump(shop):
    run = shop.start(GLUED)
    shop.later(100)
    shop.tap(run, "done", "look_over", at_s=0.0)
    shop.tap(run, "done", "rip", at_s=9e15)
    done = {d["key"]: d["to_s"] for d in shop.state(run)["done"]}
    assert done["look_over"] == NOW.timestamp() and done["rip"] == NOW.timestamp() + 100


def test_ten_thousand_taps_are_still_answered(shop):
    run, kinds = shop.start(GLUED), ("done", "not", "begin", "note")
    at = NOW.timestamp()
    many = [Event(at + n * 1e-3, kinds[n % 4], f"many-{n}", "rip") for n in range(10_000)]
    with shop.store.connected():
        shop.store.runs.add_events(run, many)
    shop.later(20)
    with Measured() as took:
        assert "Rip the strips" in shop.tap(run, "begin", "rip")["html"]
    assert took.seconds < 2.0
    with shop.store.connected():
        shop.store.runs.add_events(run, [Event(at, "note", f"more-{n}") for n in range(9_998)])
    events = [{"client": f"last-{n}", "kind": "note"} for n in range(2)]
    answer = shop.client.post(f"/runs/{run}/events", json={"events": events})
    assert answer.status_code == 422 and "20,000" in answer.json()["faults"][0]["says"]


def test_a_page_without_its_script_taps_too(shop):
    run = shop.start(GLUED)
    form = {"client": "plain-tap", "kind": "done", "key": "look_over", "number": "-1", "of": "", "text": ""}
    assert "Rip the strips" in shop.client.post(f"/runs/{run}/tap", data=form).text
    shop.client.post(f"/runs/{run}/tap", data={"kind": "explode", "client": "plain-two"})
    assert shop.state(run)["events"] == 1


def test_what_happens_is_what_the_days_know_and_the_other_way_round(shop):
    run = shop.start(STEAMED)
    shop.prepared(run, "warm_up")
    shop.tap(run, "begin", "warm_up", 0)
    with shop.store.connected():
        done = {d.key: d for d in shop.store.progress.done([STEAMED])[STEAMED]}
    assert done["dry_run"].to_at and done["warm_up"].to_at is None
    assert shop.store and "Under way" in shop.client.get(f"/jobs/{STEAMED}/days?bar={STEAMED}.warm_up.0").text
    shop.later(1000)
    shop.client.post(f"/jobs/{STEAMED}/days/done?bar={STEAMED}.warm_up.0", data={"do": "done"})
    marks = {d["key"]: d for d in shop.state(run)["done"]}
    assert 0 <= shop.now.timestamp() - marks["warm_up"]["to_s"] < 60  # the days go by the minute
    shop.client.post(f"/jobs/{STEAMED}/days/done?bar={STEAMED}.warm_up.0", data={"do": "back"})
    assert "warm_up" not in {d["key"] for d in shop.state(run)["done"]}
    with shop.store.connected():
        assert "warm_up" not in {d.key for d in shop.store.progress.done([STEAMED])[STEAMED]}
    back = shop.tap(run, "done", "warm_up", 0)
    shop.tap(run, "back", of=back["taken"][0])
    with shop.store.connected():
        assert "warm_up" not in {d.key for d in shop.store.progress.done([STEAMED])[STEAMED]}


def test_what_was_done_before_the_run_is_done_in_it(shop):
    shop.client.post(f"/jobs/{STEAMED}/days/done?bar={STEAMED}.dimension.-1", data={"do": "done"})
    run = shop.start(STEAMED)
    assert {"look_over", "dimension"} <= {d["key"] for d in shop.state(run)["done"]}


def test_what_was_under_way_before_the_run_and_ends_in_it_has_ended_for_the_days(shop):
    shop.client.post(f"/jobs/{STEAMED}/days/done?bar={STEAMED}.look_over.-1", data={"do": "begun"})
    with shop.store.connected():
        assert shop.store.progress.done([STEAMED])[STEAMED][0].to_at is None
    run = shop.start(STEAMED)
    shop.later(300)
    shop.tap(run, "done", "look_over")
    with shop.store.connected():
        done = {d.key: d for d in shop.store.progress.done([STEAMED])[STEAMED]}
    assert abs(done["look_over"].to_at.timestamp() - shop.now.timestamp()) < 60


def steam_a_load(shop, run: int, load: int = 0, *, late: float = 0.0) -> None:
    shop.tap(run, "begin", "load", load)
    shop.later(10)
    shop.tap(run, "done", "load", load)
    shop.later(1150 + late)
    shop.tap(run, "begin", "bend", load)
    shop.later(45)
    shop.tap(run, "done", "bend", load)
    shop.later(1)


def test_what_was_measured_goes_to_the_piece_and_to_the_next_plan(shop):
    run = shop.start(STEAMED)
    shop.prepared(run, "load")
    steam_a_load(shop, run)
    shop.tap(run, "broke", number=1, text="splintered", where="outer face")
    shop.tap(run, "note", number=0, text="a fine check")
    measure = shop.client.get(f"/jobs/{STEAMED}/measure").text
    assert "piece 1 of run 1" in measure and "piece 2 of run 1: splintered, outer face" in measure
    fields = {"label": "z1", "day": "2026-11-24", "chord": "254", "rise": "734", "face": "inner", "mishap": ""}
    with shop.store.connected():
        form = shop.store.forms.find(STEAMED)
    if not form:
        shop.client.post(f"/jobs/{STEAMED}/built")
    page = shop.client.post(
        f"/jobs/{STEAMED}/pieces", data={**fields, "mishap": "broke", "chord": "", "rise": "", "of_run": "1.1"}
    )
    assert page.status_code == 200
    page = shop.client.get(f"/jobs/{STEAMED}/measure").text
    assert "piece 2 of run 1" not in page and "piece 1 of run 1" in page  # that one is in the book
    with shop.store.connected():
        piece = next(p for p in shop.store.forms.find(STEAMED)[-1].pieces if p.label == "z1")
        assert (piece.run, piece.number) == (1, 1)
        steamed = shop.store.observed.steamed()
    assert [(round(s.minutes), s.is_whole) for s in steamed] == [(19, True), (19, False)]
    steam = shop.client.get(f"/jobs/{STEAMED}/steam").text
    assert "2 such pieces, 1 whole" in steam
    early = {**fields, "label": "early", "of_run": "1.0", "day": "2026-11-23"}
    page = shop.client.post(f"/jobs/{STEAMED}/pieces", data=early)
    assert page.status_code == 422 and "Its run began on 2026-11-24: it cannot have been measured before" in page.text
    shop.client.post(f"/jobs/{STEAMED}/pieces", data={**fields, "label": "z2", "of_run": "99.0"})  # of another shop
    with shop.store.connected():
        runs = {p.label: p.run for p in shop.store.forms.find(STEAMED)[-1].pieces}
    assert runs["z2"] is None and "early" not in runs


def test_own_trials_are_taken_with_one_press(shop):
    run = shop.start(STEAMED)
    shop.prepared(run, "load")
    for load in range(2):
        steam_a_load(shop, run, load, late=300)
    page = shop.client.get(f"/jobs/{STEAMED}/steam").text
    assert "4 such pieces, 4 whole after 24 min" in page
    sets = re.search(r'name="sets" value="([^"]*own_trials[^"]*)"', page)[1].replace("&#34;", '"')
    shop.client.post(f"/jobs/{STEAMED}/steam/apply", data={"sets": sets})
    with shop.store.connected():
        heat = shop.store.jobs.get(STEAMED).job.heat
    assert (heat.school, heat.own_min) == ("own_trials", 24)
    assert "Steam it 24 min" not in shop.client.get(f"/jobs/{STEAMED}/steam").text


def test_times_seen_often_enough_are_the_next_plans(shop):
    run = shop.start(STEAMED)
    shop.prepared(run, "load")
    for load in range(4):
        shop.tap(run, "begin", "load", load)
        shop.later(16)  # the table has 8 s for the door
        shop.tap(run, "done", "load", load)
        shop.later(60)
        for piece in (0, 1):
            shop.tap(run, "broke", number=2 * load + piece)
    page = shop.client.get("/shop").text
    assert re.search(r"your runs 1[3-5](\.\d)? s, likely [\d.]+ to [\d.]+ \(4 times\); 8 s in the table", page)
    steps = shop.client.get(f"/jobs/{STEAMED}/steam/steps").text
    assert "grade-learned" in steps


def test_a_job_changed_meanwhile_is_said_and_gone_over_to(shop):
    run = shop.start(GLUED)
    shop.tap(run, "done", "look_over")
    assert "has changed since this run started" not in shop.client.get(f"/runs/{run}").text
    with shop.store.connected():
        job = shop.store.jobs.get(GLUED).job
        count = shop.store.runs.get(run).brief.pieces
        made = job.model_copy(update={"part": job.part.model_copy(update={"count": job.part.count + 2})})
        shop.store.jobs.save(GLUED, made, "more")
    page = shop.client.get(f"/runs/{run}").text
    assert "has changed since this run started" in page and f"Piece {count + 2}" not in page
    page = shop.client.post(f"/runs/{run}/go-over").text
    assert f"Piece {count + 2}" in page and "has changed since this run started" not in page
    assert {d["key"] for d in shop.state(run)["done"]} == {"look_over"}


def test_two_runs_of_one_chamber_are_told_of_each_other(shop):
    first = shop.start(STEAMED)
    shop.prepared(first, "load")
    shop.tap(first, "done", "load", 0)
    second = shop.start(15)
    page = shop.client.get(f"/runs/{second}").text
    assert f"The steam box is in use by run {first}" in page and "1 batch in it" in page
    assert "The chamber is in use" not in shop.client.get(f"/runs/{first}").text
    shop.tap(first, "end")
    assert "The chamber is in use" not in shop.client.get(f"/runs/{second}").text


def test_a_rehearsal_becomes_the_shops_own_seconds(shop):
    run = shop.start(STEAMED, "rehearsal")
    with shop.store.connected():
        moves = [m for o in shop.store.runs.get(run).brief.operations for m in o.moves]
    for carried in (5, 7):
        shop.tap(run, "again")
        for n in range(len(moves)):
            shop.later(carried if n == 0 else 12 if n == 1 else 5)
            shop.tap(run, "move")
    page = shop.client.get(f"/runs/{run}").text
    planned = [m.takes_s for m in moves]
    said = [
        [f"{s:.0f} s" for s in row]
        for row in ((planned[0], 7, 6), (sum(planned), *(12 + 5 * len(moves) - 10 + c for c in (7, 6))))
    ]
    rows = [re.findall(r"<td>([^<]*)</td>", row) for row in re.findall(r"<tr.*?</tr>", page.split("Step by step")[1])]
    assert [rows[1], rows[len(moves) + 1]] == said
    assert "2 takes to the end" in page and "time to spare" in page
    assert "are the shop" in re.sub("&#39;", "'", shop.client.post(f"/runs/{run}/keep-times").text)
    with shop.store.connected():
        heat, times = (
            shop.store.jobs.get(STEAMED).job.heat,
            {t.key: t.seconds for t in shop.store.shop_settings.get().times},
        )
    assert heat.carry_s == 6.0 and heat.clamp_s == 5.0 * heat.hands and times["into_strap"] == 12.0
    with shop.store.connected():
        assert shop.store.progress.done([STEAMED])[STEAMED] == []  # nothing of it was real


def test_a_game_goes_as_fast_as_it_is_told_and_stands_still_unwatched(shop):
    run = shop.start(STEAMED, "game")
    at = NOW.timestamp()
    shop.client.post(f"/runs/{run}/pace?rate=60", headers={"x-parts": "yes"})
    shop.later(10)
    assert shop.state(run)["at_s"] == pytest.approx(at + 600)
    shop.client.get(f"/runs/{run}")
    shop.later(5)
    shop.client.get(f"/runs/{run}")  # looked at
    shop.later(3600)  # a page was closed, or the machine
    assert shop.client.get(f"/runs/{run}/now").json()["at"] == pytest.approx(at + 900)
    assert shop.state(run)["rate"] == 60
    shop.client.post(f"/runs/{run}/pace?rate=0", headers={"x-parts": "yes"})
    shop.later(5)
    assert shop.state(run)["at_s"] == pytest.approx(at + 900)
    shop.tap(run, "begin", "warm_up", 0)
    nxt = shop.client.post(f"/runs/{run}/pace?on=1", headers={"x-parts": "yes"}).json()
    assert nxt["at"] > at + 900 + 60 and nxt["rate"] == 0
    assert shop.client.post(f"/runs/{run}/pace?rate=9999").status_code == 422
    real = shop.start(GLUED)
    shop.client.post(f"/runs/{real}/pace?rate=60")
    shop.later(10)
    assert shop.state(real)["at_s"] == shop.now.timestamp()  # what is real goes as it goes
    with shop.store.connected():
        assert shop.store.progress.done([STEAMED])[STEAMED] == [] and shop.store.observed.steamed() == []


def picture(size=(4000, 3000), kind="JPEG", **more) -> bytes:
    out = io.BytesIO()
    Image.effect_noise(size, 90).convert("RGB").save(out, kind, **more)
    return out.getvalue()


def plain(size) -> bytes:
    out = io.BytesIO()
    Image.new("1", size).save(out, "PNG")
    return out.getvalue()


def test_pictures_are_made_small_upright_and_tell_no_place(shop):
    exif = Image.Exif()
    exif[0x0112] = 6  # lies on its side
    exif.get_ifd(0x8825)[1] = "N"
    run = shop.start(GLUED)
    sent = picture(exif=exif)
    assert len(sent) > 2_500_000
    answer = shop.client.post(
        f"/runs/{run}/photo?client=pic-one&piece=0", files={"photo": ("x.jpg", sent)}, headers={"x-parts": "yes"}
    )
    assert answer.status_code == 200 and "/photo/pic-one" in answer.json()["html"]
    kept = shop.client.get(f"/runs/{run}/photo/pic-one")
    assert kept.headers["content-type"] == "image/jpeg" and len(kept.content) <= KEPT_BYTES
    with Image.open(io.BytesIO(kept.content)) as small:
        assert small.height > small.width and max(small.size) <= 2400 and not small.getexif()
    assert shop.client.get(f"/runs/{run}/photo/other").status_code == 404


@pytest.mark.parametrize(
    "body",
    [
        lambda: b"",
        lambda: b"GIF89a not one",
        lambda: b"<svg/>",
        lambda: picture((20, 20))[:300],
        lambda: picture((20, 20), "GIF"),
        lambda: plain((20_000, 4_000)),
    ],
    ids=["nothing", "words", "svg", "cut", "gif", "huge"],
)
def test_what_is_no_picture_is_said(shop, body):
    run = shop.start(GLUED)
    answer = shop.client.post(f"/runs/{run}/photo", files={"photo": ("x.jpg", body())}, headers={"x-parts": "yes"})
    assert answer.status_code == 422 and answer.json()["faults"][0]["says"].endswith(".")
    assert shop.state(run)["events"] == 0


def test_a_small_picture_is_not_made_larger():
    with Image.open(io.BytesIO(sized(picture((60, 40), "PNG"))[0])) as small:
        assert small.size == (60, 40)


def test_every_job_of_the_demo_has_its_bench(shop):
    for job in range(1, 19):
        page = shop.client.get(f"/jobs/{job}/bench")
        assert page.status_code == 200, job
        if "kind=run" in page.text:
            for kind in ("run", "rehearsal", "game"):
                if f"kind={kind}" in page.text:
                    assert shop.client.get(f"/runs/{shop.start(job, kind)}").status_code == 200


def test_pages_that_fold_at_once_agree(shop):
    """Eight tablets tap at the same time: nothing is lost, and all see the same."""
    run, answers = shop.start(GLUED), []

    def tablet(n: int) -> None:
        for i in range(12):
            event = {"client": f"t{n}-{i:03}", "kind": "count", "text": "water", "value": 1}
            answers.append(shop.client.post(f"/runs/{run}/events", json={"events": [event]}).status_code)

    threads = [threading.Thread(target=tablet, args=(n,)) for n in range(8)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    assert answers.count(200) == 96
    with shop.store.connected():
        events = [e for _, e in shop.store.runs.events(run)]
        assert state_of(shop.store.runs.get(run).brief, events, shop.now.timestamp()).counts["water"] == 96


def test_a_run_gone_over_to_fewer_pieces_goes_on(shop):
    """A load begun that the new plan no longer has stands in the log, and does not stop the run."""
    run = shop.start(STEAMED)
    shop.tap(run, "begin", "load", 3)
    with shop.store.connected():
        job = shop.store.jobs.get(STEAMED).job
        fewer = job.model_copy(update={"part": job.part.model_copy(update={"count": 2, "spares": 0})})
        shop.store.jobs.save(STEAMED, fewer, "fewer")
    assert "batch 4, no longer planned" in shop.client.post(f"/runs/{run}/go-over").text
    assert shop.client.get(f"/runs/{run}").status_code == 200 == shop.client.get(f"/runs/{run}/now").status_code
    shop.tap(run, "begin", "load", 99_999)
    assert shop.client.get(f"/runs/{run}").status_code == 200
    assert shop.tap(run, "done", "look_over")["taken"]


def test_two_tablets_that_press_start_at_once_share_one_run(shop):
    answers = []
    threads = [threading.Thread(target=lambda: answers.append(shop.start(GLUED))) for _ in range(6)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    assert len(answers) == 6 and len(set(answers)) == 1
    with shop.store.connected():
        assert len([r for r in shop.store.runs.find(GLUED) if r.kind == "run"]) == 1
        run = shop.store.runs.get(answers[0])
        assert shop.store.runs.start(GLUED, "run", run.revision, run.brief) == run.id
        assert shop.store.runs.start(GLUED, "rehearsal", run.revision, run.brief) != run.id


def test_a_full_run_can_be_put_away_and_what_it_knows_sent_again(shop, monkeypatch):
    monkeypatch.setattr("bright_willow.web.pages.runs.MOST_EVENTS", 2)
    run = shop.start(GLUED)
    for n in (1, 2):
        shop.tap(run, "count", text=f"water {n}", value=1)
    known = {"client": "tap-00001", "kind": "count", "text": "water 1", "value": 1}
    assert shop.client.post(f"/runs/{run}/events", json={"events": [known]}).status_code == 200
    more = {"client": "tap-more", "kind": "count", "text": "water", "value": 1}
    refused = shop.client.post(f"/runs/{run}/events", json={"events": [more]})
    assert refused.status_code == 422 and "archive it" in refused.json()["faults"][0]["says"]
    typed = {"client": "tap-form1", "kind": "done", "key": "mix", "number": "0"}
    assert shop.client.post(f"/runs/{run}/tap", data=typed).status_code == 200
    assert shop.client.post(f"/jobs/{GLUED}/days/done?bar={GLUED}.mix.0", data={"do": "done"}).status_code < 500
    assert shop.tap(run, "end")["taken"]
    with shop.store.connected():
        assert shop.store.runs.open_of_job(GLUED) is None
