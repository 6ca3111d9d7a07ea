"""The pages of the days: pins, what is done, the shop's week, prints, the calendar file; what is typed wrong."""

from __future__ import annotations

import datetime as dt
import io
import re

import icalendar
import pdfplumber
import pytest
from fastapi.testclient import TestClient

from bright_willow.calendar.shop_work import DoneAt
from bright_willow.core.plan.plan import plan
from bright_willow.store.store import Store
from bright_willow.web.app import create_app
from bright_willow.web.pages.shop import days_off_say, read_days_off
from tests.sample import fill

TODAY = dt.date(2026, 11, 24)  # a Tuesday


class Shop:
    """The demo on a clock that can be set."""

    def __init__(self, folder):
        self.now = dt.datetime(2026, 11, 24, 9, 40, tzinfo=dt.UTC)
        self.store = Store(folder)
        with self.store.connected():
            fill(self.store, TODAY)
            week = self.store.shop_settings.get().week.model_copy(update={"zone": "UTC"})
            self.store.shop_settings.save(self.store.shop_settings.get().model_copy(update={"week": week}))
        self.client = TestClient(create_app(self.store, lambda: self.now), base_url="http://127.0.0.1")

    def get(self, path):
        answer = self.client.get(path)
        assert answer.status_code == 200, (path, answer.status_code)
        return answer.text

    def post(self, path, status=200, **typed):
        answer = self.client.post(path, data=typed, headers={"x-parts": "yes", "accept": "text/html"})
        assert answer.status_code == status, (path, answer.status_code, answer.text[:300])
        return answer.text

    def job(self, number):
        with self.store.connected():
            return self.store.jobs.get(number).job

    def done(self, number):
        with self.store.connected():
            return {(d.key, d.number): d for d in self.store.progress.done([number])[number]}


@pytest.fixture
def shop(tmp_path):
    return Shop(tmp_path)


def _begins(html):
    """When the bar that is chosen begins, and its state."""
    return re.search(r'id="pin-at"[^>]*value="([^"]*)"', html), re.search(r'days-bar-head">(\w+)<', html).group(1)


def test_pin_move_and_let_go(shop):
    page = shop.get("/jobs/14/days?bar=14.load.2")
    before, state = _begins(page)
    assert state == "Planned" and "Waiting" in page
    page = shop.post("/jobs/14/days/pin?bar=14.load.2", at="2026-12-02T10:00", do="pin")
    at, state = _begins(page)
    assert (at.group(1), state) == ("2026-12-02T10:00", "Locked") and at.group(1) != before.group(1)
    assert shop.job(14).days.pins[0].model_dump() == {"key": "load", "number": 2, "at": "2026-12-02T10:00"}
    page = shop.post("/jobs/14/days/pin?bar=14.load.2", at="2026-11-24T10:00", do="pin")
    assert "cannot start before" in page and "Unlock the start." in page
    page = shop.post("/jobs/14/days/pin?bar=14.load.2", do="let_go")
    assert _begins(page)[1] == "Planned" and shop.job(14).days.pins == ()
    assert "Enter a day and a time." in shop.post("/jobs/14/days/pin?bar=14.load.2", 422, at="soon", do="pin")
    shop.post("/jobs/14/days/pin?bar=5.load.2", 422, at="2026-12-02T10:00", do="pin")  # another job's bar
    page = shop.post("/jobs/14/days/undo")
    assert len(shop.job(14).days.pins) == 1


def test_a_bar_is_dragged_as_the_drawing_shows_it(shop):
    page = shop.get("/jobs/14/days")
    frame = re.search(r'data-frame="(\d{4}-\d\d-\d\d \d+)"', page).group(1)
    knobs = dict(re.findall(r'data-handle="(bar-14\.[\w.-]+)".*?cx="([\d.]+)"', page))
    name = next(k for k in knobs if k in ("bar-14.load.1", "bar-14.warm_up.1"))
    start = float(knobs[name])
    for keep in (0, 1):
        page = shop.post(f"/jobs/14/days/pull?handle={name}&x={start + 60}&y=0&frame={frame}&keep={keep}")
        moved = dict(re.findall(r'data-handle="(bar-14\.[\w.-]+)".*?cx="([\d.]+)"', page))
        assert abs(float(moved[name]) - start - 60) < 5 and len(shop.job(14).days.pins) == keep
    for bad in (
        "handle=bar-14.nothing.1&x=5",
        "handle=bar-15.load.1&x=5",
        "handle=knob&x=5",
        "handle=bar-14.load.1&x=1e9",
    ):
        shop.post(f"/jobs/14/days/pull?{bad}&y=0&frame={frame}", 422)
    shop.post("/jobs/14/days/pull?handle=bar-14.load.1&x=300&y=0&frame=nonsense", 422)
    page = shop.post(f"/days/pull?handle=bar-5.mix.2&x=400&y=0&frame={frame}&keep=1")
    assert shop.job(5).days.pins[0].key == "mix" and "bar-5.mix.2" in page


def test_what_is_begun_and_done_moves_the_rest(shop):
    first = shop.get("/jobs/5/days")
    assert "Number them" in first and "<td>done</td>" in first  # what the demo has done the day before
    shop.post("/jobs/5/days/done?bar=5.close.0", do="done", at="2026-11-24T09:30")
    done = shop.done(5)
    assert {("number", -1), ("dry_run", -1), ("mix", 0), ("spread", 0), ("close", 0)} <= set(
        done
    )  # all that came before
    assert (
        done["close", 0].to_at == dt.datetime(2026, 11, 24, 9, 30) and done["close", 0].from_at < done["close", 0].to_at
    )
    page = shop.get("/jobs/5/days?bar=5.cure.0")
    assert "09:30 to" in page and "8 h unattended" in page
    shop.post("/jobs/5/days/done?bar=5.mix.1", do="begun")
    assert shop.done(5)["mix", 1].to_at is None
    shop.now += dt.timedelta(hours=2)
    assert "over its planned time" in shop.get("/jobs/5/days")
    assert "in the future" in shop.post("/jobs/5/days/done?bar=5.mix.1", 422, do="done", at="2026-11-30T09:00")
    shop.post("/jobs/5/days/done?bar=5.mix.1", do="back")
    assert ("mix", 1) not in shop.done(5) and "over its planned time" not in shop.get("/jobs/5/days")
    shop.post("/jobs/5/days/done?bar=5.mix.1", 422, do="eaten")
    shop.post("/jobs/12/days/done?bar=12.look_over.-1", do="done")
    assert shop.job(12).days.in_week  # what is begun is on the schedule


def test_a_week_that_is_too_short_is_said_and_mended_by_a_press(shop):
    data = {
        "week.from_time": "09:00",
        "week.to_time": "10:00",
        "week.break_from_time": "",
        "week.break_to_time": "",
        "week.on": "1",
        "week.on.mon": "yes",
    }
    assert shop.client.post("/shop", data=data, follow_redirects=False).status_code == 303
    page = shop.get("/jobs/14/days")
    assert "the longest working stretch is 60 min" in page and "Work until" in page
    assert "Snowshoe" in shop.get("/days")  # the others are laid out, this one is named
    sets = re.search(r'value="(\{&#34;shop\.week[^"]*)"', page).group(1).replace("&#34;", '"')
    shop.post("/jobs/14/days/apply", sets=sets)
    with shop.store.connected():
        assert (
            shop.store.shop_settings.get().week.to_time > "10:00"
            and shop.store.shop_settings.get().week.working == ("mon",)
        )
    assert "the longest stretch" not in shop.get("/jobs/14/days")
    shop.post("/jobs/14/days/apply", 422, sets='{"shop.week.to_time": "nine"}')
    shop.post("/jobs/14/days/apply", 422, sets='{"shop.weak": 1}')


@pytest.mark.parametrize(
    ("typed", "message"),
    [
        ({"week.to_time": "07:00"}, "Work ends after it begins."),
        ({"week.break_to_time": ""}, "A break needs a start and an end, or neither."),
        ({"week.from_time": "8 o'clock"}, "Enter a time such as 08:30."),
        ({"week.days_off": "Christmas"}, "“Christmas” is not a date. Enter one such as 2026-12-24."),
        ({"week.days_off": "2026-12-27 to 2026-12-24"}, "the second date must be later"),
        ({"week.on": "1"}, "Choose a day on which somebody works."),
        ({"week.people": "0"}, "At least 1, please."),
    ],
)
def test_a_week_typed_wrong_is_said_beside_its_field(shop, typed, message):
    answer = shop.client.post("/shop", data=typed)
    assert answer.status_code == 422 and message.replace("'", "&#39;") in answer.text
    name = "week-working" if "week.on" in typed else next(iter(typed)).replace(".", "-")
    assert f'id="f-{name}-fault"' in answer.text
    for value in typed.values():
        assert not value or value == "1" or value.replace("'", "&#39;") in answer.text  # nothing is lost


def test_days_off_as_they_are_typed():
    days = read_days_off("2026-12-24, 2026-12-27 to 2026-12-29\n2027-01-01")
    assert days == ["2026-12-24", "2026-12-27", "2026-12-28", "2026-12-29", "2027-01-01"]
    assert read_days_off(days_off_say(days)) == days


def test_wrong_days_of_a_job_are_said_and_kept(shop):
    answer = shop.client.post("/jobs/14/days/keep", data={"days.due_day": "2026-02-30", "days.in_week": "yes"})
    assert answer.status_code == 422 and "Enter a date such as 2026-11-30." in answer.text
    assert 'value="2026-02-30"' in answer.text and shop.job(14).days.due_day is None


def test_one_more_form_is_taken(shop):
    page = shop.get("/jobs/14/days")
    row = re.search(r"<tr class=\" pays\"><th scope=\"row\">2 forms and straps</th>.*?</tr>", page, re.S).group(0)
    work = plan(shop.job(14)).form_work.attended_s
    hours = (work + 7200) / 3600  # the form as its steps add up, two hours a strap
    assert "sooner" in row and f"<td>{hours:.1f} h</td>" in row
    sets = re.search(r'value="([^"]*)"[^>]*aria-label="Use', row).group(1).replace("&#34;", '"')
    page = shop.post("/jobs/14/days/apply", sets=sets)
    assert shop.job(14).heat.forms == 2 and "form 2" in page


def test_the_form_is_made_first_until_it_is_built_or_was_bent_on(shop):
    """Brace for the picking shelter: no form is built; a piece bent on one before says that there is a form."""

    def keys():
        return set(re.findall(r"bar=18\.(\w+)\.-1", shop.get("/jobs/18/days") + shop.get("/days")))

    assert "form_template" in keys()
    bent = next(o for o in plan(shop.job(18)).operations if any(hold.what == "form" for hold in o.takes))
    now = dt.datetime(2026, 11, 23, 10)
    with shop.store.connected():
        shop.store.progress.add(18, [DoneAt(bent.key, 0, now, now + dt.timedelta(minutes=5))])
    assert not any(key.startswith("form_") for key in keys())


def test_marking_the_form_as_built_takes_its_work_off_the_schedule(shop):
    page = shop.get("/days")
    assert "Lay the template on" in page and "18.form_template" in page
    assert "the form, <strong>" in shop.get("/jobs/18/days?bar=18.form_template.-1")
    shop.client.post("/jobs/18/built")
    assert "18.form_template" not in shop.get("/days") and "5.form_template" in shop.get("/days")


def test_prints_are_read_back(shop):
    week = pdfplumber.open(io.BytesIO(shop.client.get("/days/week.pdf").content))
    text = "\n".join(p.extract_text() for p in week.pages)
    assert "Monday 23 November to Sunday 29 November 2026" in text and "Into the form, and close it" in text
    assert "Leave it under pressure" not in text and text.count("Orchard shelter rib") > 8
    day = pdfplumber.open(io.BytesIO(shop.client.get("/days/day.pdf?from=2026-11-25&paper=letter").content))
    assert (day.pages[0].width, day.pages[0].height) == (612, 792)
    text = "\n".join(p.extract_text() for p in day.pages)
    listed = dict(
        re.findall(
            r"^(\d\d:\d\d) \d\d:\d\d (Put it in the steam box|Take it out, bend it around the form,)",
            text,
            re.M,
        )
    )
    assert set(listed.values()) == {"Put it in the steam box", "Take it out, bend it around the form,"}
    assert "someone" in text and "Never seal a steam box" in text and "1 and 2" in text
    begins = re.findall(r"^(\d\d:\d\d) .*____$", text, re.M)
    assert begins == sorted(begins)
    ends = re.findall(r"^\d\d:\d\d (\w{3} \d+ \w{3}) .*____$", text, re.M)  # a week off or more: with the date
    assert ends and all(re.fullmatch(r"\w{3} \d+ Dec", end) for end in ends)
    with shop.store.connected():
        shop.store.shop_settings.save(
            shop.store.shop_settings.get().model_copy(
                update={"week": shop.store.shop_settings.get().week.model_copy(update={"begins": "sun"})}
            )
        )
    again = pdfplumber.open(io.BytesIO(shop.client.get("/days/week.pdf").content))
    assert "Sunday 22 November to Saturday 28 November 2026" in again.pages[0].extract_text()


def test_the_calendar_of_the_shop(shop):
    def events():
        answer = shop.client.get("/days/calendar.ics")
        assert answer.headers["content-type"].startswith("text/calendar")
        return {str(e["uid"]): e for e in icalendar.Calendar.from_ical(answer.content).walk("VEVENT")}

    first, again = events(), events()
    assert first.keys() == again.keys() and all(e["sequence"] == 0 for e in again.values())
    uid = next(u for u in first if u.startswith("14-load-1@"))
    shop.post("/jobs/14/days/pin?bar=14.load.1", at="2026-12-03T10:00", do="pin")
    moved = events()[uid]
    assert moved["sequence"] == 1 and moved.decoded("dtstart") == dt.datetime(
        2026, 12, 3, 9, 49, tzinfo=dt.UTC
    )  # warmed first
    shop.post("/jobs/14/days/keep", **{"days.in_week": "no"})
    assert events()[uid]["status"] == "CANCELLED"


def test_a_copy_and_a_file_have_their_days_still_to_come(shop):
    shop.post("/jobs/14/days/pin?bar=14.load.1", at="2026-12-03T10:00", do="pin")
    shop.client.post("/jobs/14/copy")
    shop.client.post("/jobs/bring", files={"file": ("a.json", shop.job(14).model_dump_json())})
    for number in (20, 21):
        assert shop.job(number).heat == shop.job(14).heat and shop.job(number).days == type(shop.job(14).days)()


def test_what_was_done_long_ago_and_days_of_no_calendar(shop):
    """Two years on, with what was done then still in the book: the rest is laid out from now."""
    shop.now += dt.timedelta(days=730)
    page = shop.get("/jobs/5/days")
    assert (
        "Number them and keep their order" in page and "days.no_hours" not in page and "Nobody ever works" not in page
    )
    assert "2028" in re.search(r'id="pin-at"[^>]*value="([^"]*)"', page).group(1)
    for path in (
        "/days?from=0001-01-01",
        "/days?from=9999-12-31",
        "/jobs/5/days?from=soon&bar=5.x.y",
        "/days?bar=...",
        "/days?bar=99.mix.1",
    ):
        shop.get(path)
    for path in (
        "/days/week.pdf?from=0001-01-01",
        "/days/day.pdf?from=9999-12-31",
        "/days/week.pdf?from=x&paper=a0&job=5",
    ):
        assert shop.client.get(path).content.startswith(b"%PDF")


def test_due_soon_and_the_shop_without_work(tmp_path, shop):
    assert "Due today and tomorrow" in shop.get("/") and "Lay the template on" in shop.get("/")
    for number in (5, 14, 16, 18):
        shop.post(f"/jobs/{number}/days/keep", **{"days.in_week": "no"})
    assert "No job is on the schedule yet" in shop.get("/days") and "Due today" not in shop.get("/")
    assert (
        "Nothing is scheduled"
        in pdfplumber.open(io.BytesIO(shop.client.get("/days/week.pdf").content)).pages[0].extract_text()
    )
