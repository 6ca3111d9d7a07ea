"""The quick answer: the same figures as the full job, read from an address, in either unit; nothing typed is lost."""

import datetime as dt
import io
import re
from html import unescape
from urllib.parse import parse_qsl, urlencode, urlsplit

import pypdfium2
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from starlette.testclient import TestClient

from bright_willow.core.common.errors import PlanError
from bright_willow.core.learning.belief import NOTHING_LEARNT
from bright_willow.core.plan.plan import plan
from bright_willow.core.plan.quick import HOWS, QuickAnswer
from bright_willow.core.shop.shop import Shop
from bright_willow.store.store import Store
from bright_willow.web.app import create_app
from bright_willow.web.quick_view import ARCS, TABS, answered, question_of, quick_view
from tests.searching import examples

NOW = dt.datetime(2026, 11, 30, 18, tzinfo=dt.UTC)
SHOPS = {"mm": Shop(), "in": Shop(units="in")}


@pytest.fixture
def client(store: Store) -> TestClient:
    with store.connected():
        store.shop_settings.save(SHOPS["mm"])
    return TestClient(create_app(store, lambda: NOW), base_url="http://127.0.0.1", follow_redirects=False)


def lines(html: str) -> dict[str, str]:
    """The six lines as they are read."""
    rows = re.findall(r"<dt>(.*?)</dt><dd>(.*?)</dd>", html.split("quick-lines")[1].split("</dl>")[0], re.DOTALL)
    return {about: unescape(re.sub(r"\s+", " ", re.sub("<[^>]+>", " ", message))).strip() for about, message in rows}


def test_six_lines_answer_the_first_question(client):
    page = client.get("/quick").text
    said = lines(page)
    assert list(said) == ["Make", "Form", "Overbend", "Get", "Time", "Watch out"]
    assert re.match(
        r"\d+ strips of [\d.]+ mm × 40 × [\d.]+ mm\. For 1 piece and 1 spare\. Or \d+ strips of ", said["Make"]
    )
    assert re.match(r"Form R [\d.]+ mm\. The finished piece has 725 mm on that face\.", said["Form"])  # c²/8h + h/2
    assert re.match(r"[\d.]+ mm further in at each end\. Likely ", said["Overbend"])
    assert " of glue, " in said["Get"] and "clamps that open" in said["Get"]
    assert re.search(r"Begun tonight at 19:00, the first piece is off by Tuesday 1 Dec, \d\d:[03]0\.", said["Time"])


@settings(max_examples=examples(30), deadline=None, suppress_health_check=list(HealthCheck))
@given(
    st.sampled_from(sorted(TABS)),
    st.sampled_from(sorted(ARCS)),
    st.sampled_from(HOWS),
    st.sampled_from(["mm", "in"]),
    st.floats(3, 60),
    st.floats(10, 120),
    st.sampled_from(["ash_white", "oak_white", "maple_hard", "cherry_black", "pine_white"]),
    st.integers(1, 9),
)
def test_a_quick_answer_and_its_full_job_never_disagree(shape, arc, how, unit, thick, wide, wood, count):
    shop = SHOPS[unit]
    size = 25.4 if unit == "in" else 1.0
    asked = {
        "shape": shape,
        "arc": arc,
        "how": how,
        "unit": unit,
        "part.thickness_mm": f"{thick / size:.3f}",
        "part.width_mm": f"{wide / size:.3f}",
        "stock.species": wood,
        "part.count": str(count),
    }
    question = question_of(asked, shop)
    made = answered(question, shop, NOTHING_LEARNT)
    if question.job is None or isinstance(made, PlanError):
        assert question.faults or isinstance(made, PlanError)
        return
    assert isinstance(made, QuickAnswer)
    full = plan(made.plan.job, shop)
    assert made.off_form_s > 600
    assert full.job.part.count == count and full.job.stock.species == wood
    if how != "unsure":  # a method of sheets takes the thickness of its sheets, and says so
        assert full.job.part.thickness_mm == pytest.approx(thick, abs=0.02)
    assert full.overbend_mm == made.plan.overbend_mm and full.quantities == made.plan.quantities
    assert [f.message for f in full.findings] == [f.message for f in made.plan.findings]
    again = question_of(dict(parse_qsl(question.query)), shop)  # what a link says is what was asked
    assert again.query == question.query
    said = quick_view(question, made, shop, NOTHING_LEARNT, NOW)
    assert len(said.lines) == 6 and all(line.message.endswith(".") for line in said.lines) and "<svg" in said.board
    assert ("mm" in said.lines[0].message) == (unit == "mm")


def test_a_link_made_in_inches_opens_in_a_shop_of_millimeters(client):
    asked = {"shape": "hoop", "unit": "in", "shape.diameter_mm": "20", "shape.gap_mm": "4", "part.thickness_mm": "1/4"}
    page = client.get(f"/quick?{urlencode(asked)}").text
    assert re.search(r'name="shape.diameter_mm"[^>]*value="508"', page)
    assert re.search(r'name="part.thickness_mm"[^>]*value="6.35"', page)
    link = client.get(f"/quick/link?{urlencode(asked)}").text
    url = unescape(re.search(r'readonly value="([^"]+)"', link)[1])
    told = dict(parse_qsl(urlsplit(url).query))
    assert (told["shape.diameter_mm"], told["unit"]) == ("508", "mm") and "<svg" in link


@pytest.mark.parametrize(("field", "text"), [("part.width_mm", "wide"), ("shape.rise_mm", "-4"), ("part.count", "1.5")])
def test_a_fault_stands_beside_its_field_and_nothing_is_lost(client, field, text):
    asked = {"shape": "arc", "part.thickness_mm": "17", field: text}
    answer = client.get(f"/quick?{urlencode(asked)}")
    assert answer.status_code == 422
    name = f"f-{field.replace('.', '-')}-fault"
    assert f'id="{name}"' in answer.text and re.search(rf'name="{field}"[^>]*value="{text}"', answer.text)
    assert re.search(r'name="part.thickness_mm"[^>]*value="17"', answer.text)
    part = client.get(f"/quick/answer?{urlencode(asked)}")
    assert part.status_code == 422 and f'data-fault-for="{field}"' in part.text and "<main" not in part.text


def test_an_odd_address_asks_the_first_question(client):
    odd = client.get("/quick?shape=spiral&arc=x&how=wish&unit=ell&shape.chord_mm=&nothing=1")
    assert odd.status_code == 422 and "chord" in odd.text.lower()
    assert client.get("/quick?shape=spiral&how=wish&unit=ell").status_code == 200


def test_the_form_and_the_bench_page_are_printed_and_the_job_is_made(client):
    asked = {
        "shape": "arc",
        "arc": "arc_by_radius",
        "shape.radius_mm": "600",
        "shape.angle_deg": "90",
        "how": "steamed",
    }
    for kind in ("form", "sheet"):
        printed = client.get(f"/quick/print/{kind}?{urlencode(asked)}&paper=letter")
        assert printed.headers["content-type"] == "application/pdf"
        page = pypdfium2.PdfDocument(io.BytesIO(printed.content))[0]
        assert page.get_size() == pytest.approx((612, 792), abs=1) or page.get_size() == pytest.approx(
            (792, 612), abs=1
        )
    answer = client.post("/quick/job", data=asked)
    assert answer.status_code == 303 and answer.headers["location"] == "/jobs/1/wood"
    store = client.app.state.store
    with store.connected():
        state = store.jobs.get(1)
        assert state.job.shape.radius_mm == 600 and {"shape", "way"} <= set(state.settled)
    wrong = client.post("/quick/job", data={**asked, "part.width_mm": "wide"})
    assert wrong.status_code == 422 and 'value="wide"' in wrong.text


def test_an_empty_shop_opens_with_it_and_a_full_one_links_to_it(client):
    assert "data-quick" in client.get("/").text
    client.post("/jobs")
    page = client.get("/").text
    assert "data-quick" not in page and 'href="/quick"' in page
