"""The bench in a real browser: a steam run with a simulated probe from warm-up to frame, the program killed in the middle,
two tablets, taps made while it is gone; a glue-up; a rehearsal; a game; joining over the network."""

from __future__ import annotations

import datetime as dt
import re
import signal
import threading
import time
from contextlib import suppress
from pathlib import Path

import pytest
from playwright.sync_api import Error as PlaywrightError
from playwright.sync_api import Page, expect

from bright_willow.devices.sender import send
from bright_willow.store.store import Store
from tests.sample import fill
from tools.running import Program, running_app

NOW = dt.datetime(2026, 11, 24, 9, 40, tzinfo=dt.UTC)
GLUED, STEAMED = 5, 14


class Quick:
    """A clock on the wall that can be made to hurry."""

    def __init__(self) -> None:
        self._at, self._since, self.speed = NOW.timestamp(), time.monotonic(), 1.0

    def seconds(self) -> float:
        return self._at + (time.monotonic() - self._since) * self.speed

    def __call__(self) -> dt.datetime:
        return dt.datetime.fromtimestamp(self.seconds(), dt.UTC)

    def go(self, speed: float) -> None:
        self._at, self._since, self.speed = self.seconds(), time.monotonic(), speed

    def skip(self, seconds: float) -> None:
        self._at += seconds


@pytest.fixture
def shop(tmp_path):
    store, clock = Store(tmp_path), Quick()
    with store.connected():
        fill(store, NOW.date())
        for key in ("look_over", "rip", "plane", "number"):
            store.progress.remove(GLUED, key, -1)
        week = store.shop_settings.get().week.model_copy(update={"zone": "UTC"})
        store.shop_settings.save(store.shop_settings.get().model_copy(update={"week": week}))
    with running_app(store, clock) as address:
        yield address, clock


def title(page: Page):
    return page.locator(".run-now h2")


def main(page: Page, message: str) -> None:
    """The large button, once it says so; not so soon after the last that it would be taken for the same tap."""
    button = page.locator(".run-now [data-main]", has_text=message)
    expect(button).to_be_visible()
    settled(page)
    button.click()


def settled(page: Page) -> None:
    """Wait until a tap is no longer taken for the second half of the one before."""
    page.locator("[data-run][data-settled]").wait_for(state="attached")


def begin(page: Page, address: str, job: int, name: str = "Start") -> str:
    page.goto(f"{address}/jobs/{job}/bench")
    page.get_by_role("button", name=name, exact=True).click()
    expect(page.locator("[data-link]")).to_have_text("live")
    expect(page.locator(".run-now h2")).to_be_visible()
    return page.url


def until(page: Page, text: str, clock: Quick, speed: float) -> None:
    """Time hurries until something is due."""
    clock.go(speed)
    try:
        expect(title(page)).to_contain_text(text)
    finally:
        clock.go(1.0)


def test_a_steam_run_from_warming_up_to_the_frame(page: Page, shop):
    address, clock = shop
    page.goto(f"{address}/bench")
    page.get_by_label("Name").fill("steam box")
    page.get_by_role("button", name="Make a key").click()
    key, stop = page.locator(".probe-key").inner_text(), threading.Event()

    def probe() -> None:
        for _ in send("chamber", to=address, key=key, speed=60.0, every_s=0.1):
            pass

    begin(page, address, STEAMED)
    for name in ("Inspect the boards", "Mill the blanks", "Seal", "Set everything up", "Dry run"):
        expect(title(page)).to_contain_text(name)
        main(page, "Done")
    main(page, "Start")
    expect(page.locator(".run-piece").first).to_contain_text("the steam box heats up")
    clock.go(60.0)  # the probe's time goes as fast
    threading.Thread(target=probe, daemon=True).start()
    expect(page.locator(".run-probe b").first).to_contain_text("°C")
    until(page, "Heat up the steam box", clock, 60.0)
    main(page, "Done")
    expect(title(page)).to_contain_text("Put it in the steam box")
    main(page, "Done")
    piece = page.locator(".run-piece").first
    expect(piece).to_contain_text("in the steam")
    expect(piece).to_contain_text("measured")
    until(page, "Take it out, bend it around the form", clock, 60.0)
    expect(page.locator(".run-now")).to_have_class(re.compile(r"\bis-due\b"))
    expect(page.locator(".run-label")).to_have_text("Due")
    main(page, "Start")
    expect(page.locator(".run-now")).to_have_class(re.compile(r"\bis-hurry\b"))
    left = page.locator(".run-now .tick.big b")
    expect(left).to_contain_text(re.compile(r"^0:[1-5]\d"))
    clock.skip(70)
    expect(page.locator(".run-finding")).to_contain_text("Longer than working time")
    expect(page.locator(".run-label")).to_have_text("Overdue")
    main(page, "Done")
    expect(piece).to_contain_text("cooling on the form")
    page.get_by_text("It broke", exact=True).click()
    page.get_by_label("Which").select_option("1")
    page.get_by_label("What", exact=True).select_option("splintered")
    page.get_by_role("button", name="Mark as failed").click()
    expect(piece).to_contain_text("piece 2 splintered, outside face")
    page.get_by_text("Note", exact=True).click()
    page.get_by_label("What you saw").fill("a fine check at the end")
    page.locator("form", has=page.get_by_label("What you saw")).get_by_role("button", name="Save", exact=True).click()
    log = page.locator(".run-log")
    expect(log).to_contain_text("a fine check at the end")
    log.locator("li", has_text="broke").get_by_role("button", name="undo").click()
    expect(piece).not_to_contain_text("splintered")
    clock.skip(26 * 3600)
    until(page, "Into the drying jig", clock, 1.0)
    main(page, "Done")
    expect(piece).to_contain_text("drying")
    page.reload()
    expect(piece).to_contain_text("drying")
    page.get_by_role("button", name="Archive the run").click()
    page.get_by_role("link", name="Next: Measure").click()
    expect(page.locator("#p-of_run")).to_contain_text("piece 1 of run 1")
    stop.set()


def test_two_tablets_show_the_same(page: Page, context, shop):
    address, _ = shop
    url = begin(page, address, GLUED)
    other = context.new_page()
    other.goto(url)
    expect(other.locator("[data-link]")).to_have_text("live")
    page.evaluate("window.stayed = 'yes'")
    for here, there, name in ((page, other, "Rip"), (other, page, "Plane"), (page, other, "Number")):
        main(here, "Done")
        expect(title(there)).to_contain_text(name)
    assert page.evaluate("window.stayed") == "yes"  # a tap is no new page
    other.close()


def test_taps_made_while_it_is_gone_are_sent_when_it_is_back(page: Page, tmp_path):
    """The program is killed in the middle of a glue-up, and started again: no tap is lost, none counts twice."""
    program = Program(tmp_path, "demo", often=True).start()
    try:
        url = begin(page, program.address, GLUED)
        before = title(page).inner_text()
        main(page, "Done")
        expect(title(page)).not_to_have_text(before)
        after = title(page).inner_text()
        program.end(signal.SIGKILL)
        expect(page.locator("[data-lost]")).to_be_visible()
        main(page, "Done")
        expect(page.locator("[data-lost]")).to_contain_text("saved here (1)")
        settled(page)
        third = page.locator(".run-next li").first
        third.get_by_role("button").click()  # and what follows it
        expect(page.locator("[data-lost]")).to_contain_text("saved here (2)")
        expect(page.locator(".is-kept").first).to_be_visible()
        page.locator(".run-now [data-main]").click()  # pressed again, gloves on: the same tap
        expect(page.locator("[data-lost]")).to_contain_text("saved here (2)")
        program.start()
        expect(page.locator("[data-lost]")).to_be_hidden()
        expect(page.locator("[data-link]")).to_have_text("live")
        expect(title(page)).not_to_have_text(after)
        log = page.locator(".run-log li")
        expect(log).to_have_count(3)
        page.reload()
        expect(log).to_have_count(3)
        assert page.url == url
    finally:
        program.end()


def test_a_glue_up_against_the_glue(page: Page, shop):
    address, clock = shop
    begin(page, address, GLUED)
    for name in ("Inspect the boards", "Rip", "Plane", "Number", "Dry run", "Mix"):
        expect(title(page)).to_contain_text(name)
        main(page, "Done")
    expect(title(page)).to_contain_text("Spread and stack")
    main(page, "Start")
    clock.skip(150)
    main(page, "Done")
    expect(title(page)).to_contain_text("Into the form, and close it")
    main(page, "Start")
    expect(page.locator(".run-now")).to_contain_text("left: closed time")
    expect(page.locator("progress")).to_be_visible()
    clock.skip(600)
    main(page, "Done")
    expect(page.locator(".run-piece").first).to_contain_text("under pressure")
    expect(title(page)).to_contain_text("Nothing to do now")
    expect(page.locator(".run-next")).to_contain_text("Take it off the form")


def test_buttons_are_large_enough_for_gloves_and_nothing_scrolls_sideways(page: Page, shop):
    address, _ = shop
    url = begin(page, address, STEAMED)
    for width, height in ((1280, 800), (820, 1180), (390, 844)):
        page.set_viewport_size({"width": width, "height": height})
        expect(page.locator(".run-now button:visible").first).to_be_visible()
        sizes = page.eval_on_selector_all(
            ".run button, .run summary, .run a.tap",
            "all => all.map((b) => [b.offsetWidth, b.offsetHeight, b.textContent])",
        )
        shown = [s for s in sizes if s[0]]
        assert len(shown) > 5 and all(w >= 63.5 and h >= 63.5 for w, h, _ in shown), shown
        assert page.evaluate("document.documentElement.scrollWidth <= innerWidth"), width
        big = page.evaluate("parseFloat(getComputedStyle(document.querySelector('.run-now h2')).fontSize)")
        assert big >= 34
    assert page.url == url


def test_a_rehearsal_by_taps(page: Page, shop):
    address, clock = shop
    begin(page, address, STEAMED, "Dry run")
    main(page, "Go")
    expect(title(page)).to_contain_text("Out of the box")
    for n in range(5):
        clock.skip(3)
        before = title(page).inner_text()
        main(page, "Done" if n == 4 else "next")
        expect(title(page)).not_to_have_text(before)  # a second tap on the same move would count for nothing
    expect(page.locator(".run-finding")).to_contain_text(" of ")
    page.get_by_role("button", name="Save these").click()
    expect(page.locator(".kept-line")).to_contain_text("times now")


def test_a_day_is_played_and_something_goes_wrong(page: Page, shop):
    address, _ = shop
    begin(page, address, STEAMED, "Practice run")
    expect(title(page)).to_contain_text("Heat up the steam box")
    page.get_by_role("button", name="60 ×").click()
    expect(page.get_by_role("button", name="60 ×")).to_have_attribute("aria-pressed", "true")
    before = page.locator("[data-clock]").inner_text()
    expect(page.locator("[data-clock]")).not_to_have_text(re.compile(f"^{before[:5]}"))  # a minute a second
    page.get_by_role("button", name="real time").click()
    trouble, onward = page.locator(".run-trouble"), page.get_by_role("button", name="Skip to the next step")
    dealt, seen = 0, set()
    for _ in range(200):
        with suppress(PlaywrightError):  # the page has just changed under the finger: look again
            if trouble.is_visible():
                settled(page)
                message = trouble.inner_text(timeout=1_500)
                trouble.get_by_role("button").last.click(timeout=1_500)
                trouble.filter(has_text=message).wait_for(state="detached", timeout=1_500)
                dealt += message not in seen
                seen.add(message)
            elif page.locator(".run-now [data-main]").count():
                settled(page)
                page.locator(".run-now [data-main]").click(timeout=1_500)
            elif "All is done" in title(page).inner_text(timeout=1_500):
                break
            else:
                onward.click(timeout=1_500)
    expect(title(page)).to_contain_text("All is done")
    assert dealt >= 1
    came = page.locator(".run-came")
    expect(came).to_contain_text("Batch 1")
    expect(came).to_contain_text("Batch 3")


@pytest.fixture
def network(tmp_path):
    phrase = tmp_path / "phrase"
    phrase.write_text("four plain apple words")
    more = ("--lan", "--address", "127.0.0.1", "--lan-port", "0", "--passphrase-file", str(phrase))
    program = Program(tmp_path / "shop", "demo", more=more).start()
    yield program, program.said_until("Tablets join at ").split()[3].rstrip("/")
    program.end()


def test_a_tablet_joins_taps_and_is_put_out(page: Page, browser, network):
    program, address = network
    tablet = browser.new_context(ignore_https_errors=True, viewport={"width": 820, "height": 1180}).new_page()
    tablet.goto(f"{address}/jobs/5/bench")
    expect(tablet).to_have_url(f"{address}/join")
    tablet.get_by_label("Passphrase").fill("not this one")
    tablet.get_by_role("button", name="Join").click()
    expect(tablet.locator(".fault")).to_have_text("That is not the passphrase.")
    tablet.get_by_label("Name of this tablet").fill("by the press")
    tablet.get_by_label("Passphrase").fill("four plain apple words")
    tablet.get_by_role("button", name="Join").click()
    expect(tablet.get_by_role("heading", name="Bench", exact=True)).to_be_visible()
    begin(tablet, address, GLUED)
    was = title(tablet).inner_text()
    main(tablet, "Done")
    expect(title(tablet)).not_to_have_text(was)
    expect(tablet.locator(".run-log")).to_contain_text("by the press")
    page.goto(f"{program.address}/bench")
    expect(page.locator(".guest-code svg")).to_be_visible()
    row = page.locator("tr", has_text="by the press")
    row.get_by_role("button", name="remove").click()
    expect(page.locator("#tablets")).to_contain_text("Nobody has joined.")
    tablet.reload()
    expect(tablet).to_have_url(f"{address}/join")
    tablet.context.close()
    assert Path(program.folder, "lan-ca.pem").is_file()
