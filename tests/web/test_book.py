"""The book: found by words, way and outcome; taken along as a table and as records; drift told."""

from __future__ import annotations

import csv
import datetime as dt
import io
import re

import pytest

from tests.web.test_runs import Shop


@pytest.fixture
def shop(store):
    made = Shop(store)
    yield made
    made.app.state.reader.stop()


def rows(page: str) -> int:
    return len(re.findall(r"/leave-out\?out=", page))


def test_anything_is_found(shop):
    everything = rows(shop.client.get("/book").text)
    assert everything > 5
    with shop.store.connected():
        form = next(f for f in shop.store.forms.find() if f.pieces and f.built.can_open)
        name = shop.store.jobs.names({form.job_id})[form.job_id]
        own = sum(bool(p.measurements) for f in shop.store.forms.find(form.job_id) for p in f.pieces)
        shop.store.logbook.add_unmeasured(form.id, label="lost1", mishap="broke", note="splintered at the knot")
    assert rows(shop.client.get("/book", params={"q": name}).text) == own
    assert rows(shop.client.get("/book", params={"q": f"{name} nothing such"}).text) == 0
    failed = shop.client.get("/book", params={"outcome": "failed", "q": "knot"}).text
    assert "lost1" in failed and "broke on the form" in failed and rows(failed) == 1
    assert rows(shop.client.get("/book", params={"way": form.built.way}).text) > 0
    assert rows(shop.client.get("/book", params={"way": "nonsense", "outcome": "odd"}).text) == 0
    assert "Nothing in the logbook matches" in shop.client.get("/book", params={"q": "%_"}).text


def test_the_table_and_the_records_say_the_same(shop):
    with shop.store.connected():
        form = next(f for f in shop.store.forms.find() if f.pieces and f.built.can_open)
        shop.store.logbook.add_unmeasured(form.id, label="=1+1", mishap="broke", note="-formula, with a comma")
        count = sum(max(1, len(p.measurements)) for f in shop.store.forms.find() for p in f.pieces)
    table = list(csv.DictReader(io.StringIO(shop.client.get("/book/bends.csv").text)))
    records = shop.client.get("/book/bends.json").json()["bends"]
    assert len(table) == len(records) == count
    for a, b in zip(table, records):
        assert a["job_name"] == b["job_name"] and (a["chord_mm"] or None) == (b["chord_mm"] and str(b["chord_mm"]))
    odd = next(r for r in table if r["piece"].endswith("=1+1"))
    assert odd["piece"] == "'=1+1" and odd["note"] == "'-formula, with a comma" and odd["chord_mm"] == ""
    measured = next(r for r in records if r["chord_mm"])
    assert (
        measured["over_mechanics"] is not None and measured["tip_off_mm"] >= 0 and measured["left_out"] in (True, False)
    )


def test_a_change_in_the_shop_is_told_with_its_day(shop):
    with shop.store.connected():
        form = next(f for f in shop.store.forms.find() if f.built.can_open and f.built.way == "cold_lamination")
        built = form.built
        for n in range(16):
            chord, rise = built.expected_on("inner")
            off = 0.0 if n < 8 else 9.0
            day = dt.date(2026, 3, 1) + dt.timedelta(days=n)
            shop.store.logbook.add_piece(
                form.id,
                label=f"d{n}",
                day=day,
                chord_mm=chord.likely + off,
                rise_mm=rise.likely - off / 2,
                face="inner",
                error_mm=0.1,
            )
    page = shop.client.get("/book").text
    told = re.search(r"From (\d+ Mar 2026) on [^<]+ springs back ([\d.]+) ×", page)
    assert told and float(told[2]) > 1.2 and told[1] in ("8 Mar 2026", "9 Mar 2026", "10 Mar 2026")


def test_an_empty_book_and_one_without_measurements(store, client):
    assert "No bend is recorded yet" in client.get("/book").text
    assert client.get("/book/bends.csv").text.startswith("day,job,job_name")
    assert client.get("/book/bends.json").json()["bends"] == []


def test_what_is_found_by_day_is_charted_over_time(shop):
    with shop.store.connected():
        days = sorted(p.measurements[0].day for f in shop.store.forms.find() for p in f.pieces if p.measurements)
    whole = shop.client.get("/book").text
    assert whole.count('class="dot') >= len(days) and "book-chart" in whole
    middle = days[len(days) // 2]
    late = shop.client.get("/book", params={"since": middle.isoformat()}).text
    early = shop.client.get("/book", params={"until": (middle - dt.timedelta(1)).isoformat()}).text
    assert rows(late) + rows(early) == len(days) and rows(late) == sum(d >= middle for d in days)
    one = shop.client.get("/book", params={"since": middle.isoformat(), "until": middle.isoformat()}).text
    assert "book-chart" not in one  # a single day is no time
    wrong = shop.client.get("/book", params={"since": "last week"}).text
    assert "b-since-fault" in wrong and 'value="last week"' in wrong


def test_runs_and_trials_are_found_too(shop):
    run = shop.start(14)
    shop.client.post("/jobs/14/trials", data={"asks": "minutes", "settings": "8", "repeats": "1", "name": "Ash minutes"})  # fmt: skip
    with shop.store.connected():
        name = shop.store.jobs.get(14).job.name
    page = shop.client.get("/book", params={"q": name.split()[0]}).text
    assert f'href="/runs/{run}"' in page and "Ash minutes" in page
    assert f'href="/runs/{run}"' not in shop.client.get("/book", params={"q": "trellis"}).text
    only = shop.client.get("/book", params={"q": "Ash minutes"}).text
    assert "No piece matches" in only and 'href="/test-bends/1"' in only
    gone = shop.client.get("/book", params={"q": name.split()[0], "until": "2020-01-01"}).text
    assert f'href="/runs/{run}"' not in gone
