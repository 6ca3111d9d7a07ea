"""One question, one answer: pages, plan file, steps and shop sheet say the same figure."""

import html
import io
import json
import re

import pdfplumber
import pytest

from bright_willow.core.common.units import format_force
from bright_willow.core.plan.plan import plan
from tests.core.methods.jobs import job_for

ARC = {"kind": "arc_by_radius", "face": "inner", "radius_mm": 900, "angle_deg": 90}
RING = {"kind": "ring", "face": "inner", "diameter_mm": 400}
RING_PART = {"thickness_mm": 12, "width_mm": 30, "count": 2, "spares": 1, "trim_mm": 0}


class Asked:
    """A job, and what is said of it everywhere."""

    def __init__(self, client, job) -> None:
        self.client, self.plan = client, plan(job)
        with client.app.state.store.connected():
            self.id = client.app.state.store.jobs.add(job)
        self.file = client.post("/api/plan", json={"job": json.loads(job.model_dump_json())}).json()

    def page(self, name: str) -> str:
        text = self.client.get(f"/jobs/{self.id}/{name}").text.partition("<main")[2]
        text = re.sub(r"<span popover.*?</span>", "", text, flags=re.S)  # what opens only when it is asked for
        return " ".join(
            html.unescape(re.sub(r"<[^>]+>", " ", re.sub(r"<(script|style).*?</\1>", "", text, flags=re.S))).split()
        )

    @property
    def sheet(self) -> str:
        raw = self.client.get(f"/jobs/{self.id}/take/sheet?paper=a4").content
        with pdfplumber.open(io.BytesIO(raw)) as pdf:
            return " ".join(" ".join(p.extract_text() for p in pdf.pages).split())

    def operation(self, key: str):
        return next(o for o in self.plan.operations if o.key == key)

    def in_file(self, key: str):
        return next(o for o in self.file["operations"] if o["key"] == key)


def minutes(text: str, before: str, after: str) -> list[float]:
    return [float(x) for x in re.findall(rf"{before}(\d+(?:\.\d+)?){after}", text)]


def test_minutes_to_pressure(client):
    """Press, what the bench runs by, the plan file and the sheet: from the first spreading until it is closed."""
    asked = Asked(client, job_for("cold_lamination"))
    glued = asked.plan.glued_up
    spread, close = asked.operation("spread"), asked.operation("close")
    assert glued.race.lasts_s == pytest.approx(spread.lasts_s + close.lasts_s)
    moves = [asked.in_file(k)["moves"] for k in ("spread", "close")]
    assert [m[-1]["to_s"] for m in moves] == pytest.approx([spread.moves[-1].to_s, close.moves[-1].to_s])
    said = minutes(asked.page("press"), "", " min from first glue to clamped")
    assert said and all(m == round(glued.race.lasts_s / 60) for m in said)
    assert f"about {spread.lasts_s:.0f} s" in asked.sheet or f"about {spread.lasts_s / 60:.0f} min" in asked.sheet


def test_scraping_after_the_cure(client):
    """Press, plan file, timetable and sheet: so many hours from closing, however late it comes off the form."""
    asked = Asked(client, job_for("cold_lamination", part={"count": 1, "spares": 0}))
    laid_up = asked.plan.laid_up
    left = {a.key: a.least_s for a in asked.operation("clean_up").after}
    assert left == {"release": 0.0, "cure": pytest.approx(3600 * (laid_up.planed_h - laid_up.press_h))}
    assert {a["key"]: a["least_s"] for a in asked.in_file("clean_up")["after"]} == left
    assert minutes(asked.page("press"), "scrape and plane after ", " h") == [laid_up.planed_h]
    assert f"{left['cure'] / 3600:.0f} h after" in asked.sheet


def test_minutes_in_the_steam(client):
    from bright_willow.core.trials.design import laid_out

    asked = Asked(client, job_for("steam_strap"))
    planned = asked.plan.hot.heat.steam.time.planned_min
    assert asked.in_file("steam")["unattended_s"]["likely"] == pytest.approx(60 * planned)
    assert asked.file["heat"]["steam"]["time"]["planned_min"] == planned
    assert f"{planned:.0f} min" in asked.page("steam") and f"{planned:.0f}" in asked.sheet
    trial = laid_out(asked.plan, name="minutes", asks="minutes", settings=(10.0,), repeats=1, seed=1)
    assert trial.published == pytest.approx(planned, abs=0.5)


@pytest.mark.parametrize("way", ["blanket", "dry_heat", "steam_free", "steam_strap"])
def test_cooling(client, way):
    """One wait, not a wait in the bend and the same again after it."""
    asked = Asked(client, job_for(way))
    cool = [o for o in asked.plan.operations if o.kind == "cool" or o.key == "cool"]
    hours = asked.plan.hot.drying.cool_h
    assert sum(o.unattended_s.likely for o in cool) == pytest.approx(3600 * hours)
    assert asked.file["heat"]["after"]["cool_h"] == pytest.approx(hours)


def test_the_pull_of_a_bend_in_the_bag(client):
    """The string's, wherever it is asked; no lever is drawn or typed."""
    asked = Asked(
        client,
        job_for(
            "steam_free", shape=ARC, part={"thickness_mm": 25, "width_mm": 30}, heat={"wall": "bag", "in_bag": True}
        ),
    )
    pull = asked.plan.make.forces.lever_pull_n.value
    page, message = asked.page("bend"), format_force(pull, "mm")
    assert message in page and message in asked.sheet and "lever" not in page.lower().replace("no lever", "")
    moves = asked.page("moves")
    bag = asked.plan.hot.heat.bag
    assert (
        f"{bag.pull_min:.0f} min, {bag.pulls} pulls" in moves
        and "too cool" not in moves
        and "the steps take" not in moves
    )
    assert max(p for _, p in asked.file["heat"]["bow_pulls"]) == pytest.approx(pull)
    assert asked.file["forces"]["lever_pull_n"]["value"] == pytest.approx(pull)


def test_pieces_in_the_box(client):
    """Drawn, loaded, sized for and told: the same number."""
    asked = Asked(client, job_for("steam_strap", heat={"at_once": 2, "forms": 2}))
    box = asked.plan.hot.heat.in_box
    assert box.pieces == 4
    assert f"{box.pieces} pieces on racks" in asked.page("steam")
    loads = minutes(asked.sheet, "", " pieces? in the (?:box|chamber) at")
    assert not loads or set(loads) == {box.pieces}
    batches = asked.plan.way.batches
    assert batches.at_once * batches.forms == box.pieces


def test_glue_lines_of_a_lamination_in_place(client):
    """It is glue, pin, next: one line open at a time, in the plan, on Press and on the sheet."""
    asked = Asked(client, job_for("cold_lamination", form={"kind": "in_place"}))
    race = asked.plan.glued_up.race
    assert len(race.bars) == 1 and not any(o.key == "close" for o in asked.plan.operations)
    assert "Glue, pin, next strip" in asked.sheet
    assert len(set(re.findall(r"line (\d+): open", asked.page("press")))) == 1


def test_the_use_of_a_ring(client):
    """Strain from the curvature its strips already have: on the sill, in the finding, in the plan file."""
    asked = Asked(client, job_for("steam_laminae", shape=RING, part=RING_PART, build_up={"laminae": 4}))
    worst = asked.plan.make.use.worst.value
    said = {
        int(p)
        for p in re.findall(r"uses (\d+)% of the strain|% of breaking strain (\d+)%", asked.page("build_up"))
        for p in p
        if p
    }
    assert said == {round(100 * worst)}
    assert asked.file["use_of_strain"]["value"] == pytest.approx(worst)
    assert max(x["use_of_strain"] for x in asked.file["laminae"]) == pytest.approx(worst)


@pytest.mark.parametrize("unit", ["mm", "in"])
@pytest.mark.parametrize("hours", [2, 24, 48])
def test_springback_at_the_hours_chosen(client, unit, hours):
    """The row of the hours planned reads as the figure below it."""
    store = client.app.state.store
    with store.connected():
        store.shop_settings.save(store.shop_settings.get().model_copy(update={"units": unit}))
    page = Asked(client, job_for("steam_strap", heat={"on_form_h": hours})).page("dry")
    sill = re.search(r"Springback, each end ([\d /]+(?:mm|in))", page).group(1)
    assert (
        re.search(rf"{hours} h ([\d /]+(?:mm|in)) ", page.partition("Springback now and when dry")[2]).group(1) == sill
    )
