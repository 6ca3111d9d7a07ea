"""All shown text in the shop's own words: no word that was replaced, and checks of at most two short sentences."""

from __future__ import annotations

import ast
import html
import io
import re
from collections.abc import Container, Iterator
from pathlib import Path

import pypdfium2
import pytest
from starlette.testclient import TestClient

from bright_willow.core.common.findings import Finding
from bright_willow.core.learning.belief import NOTHING_LEARNT
from bright_willow.core.methods.method_registry import stages_for
from bright_willow.core.plan.plan import checked_plan
from bright_willow.demo.marrow_lane import EXAMPLES, SHOP
from bright_willow.store.store import Store
from bright_willow.web.app import create_app
from tests.sample import fill
from tools.running import run_command
from tools.shots import TODAY

ROOT = Path(__file__).parent.parent
# What was replaced, as it would be read; the word to use stands in docs/words.md.
REPLACED = (
    r"\bways? of bending|\bthis way of|\bany way\b|laminae?\b|lay-up|build-up|\bladder\b|\brungs?\b|\bsettled?\b|\bsettles\b",
    r"\bsettling\b|\bstands off\b|\bof what it stands\b|\bwithstands\b|\btips\b|made to size|\bcomputed\b|own record only",
    r"use of (strain|the limit)|R/T\b|\bwants\b|takes the curve|\bsweeps?\b|\bit turns\b|(inner|outer) face|mid-?line|\bcrown\b",
    r"\bstretch(es)? (\d|n\b|of a curve)|\beasings?\b|\ballowances?\b|\bpublished\b|\blearnt\b|most likely|\bfindings?\b",
    r"what clears|(one-sided|two-part|three-part)|\bpressers?\b|\bposts? on a table|\bdrums?\b|pressed by|\bin \d+ goes\b",
    r"pairs? of hands|\bthe race\b|the glue stands|what lies on what|\bthrust\b|\bchambers?\b|\bhot through\b|soak after",
    r"soaked beforehand|as it comes|pull it round|\bmoves\b(?! after)|\brehearsals?\b|\brehearse\b|play the day|drying frames?",
    r"off the (edge|face)\b|as gives most|\babreast\b|side by side|\bmoulding|\bmould\b|\bhollow profile\b|by itself|with hands on",
    r"\bpinned\b|\blet go\b|how many forms pay|\bprobes?\b|\bput away\b|take away|bring in\b|brought in|with its book|\bteach(es)?\b|\btaught\b",
    r"\btrials?\b|draw it in|bend it again|put out\b|worked out anew|\btheirs\b|look (the |a )?boards? over|of the kind\b|\breckoned\b",
    r"\bcentres?\b|\bcolou?rs?\b(?<!color)(?<!colors)|\bmetres?\b|\blitres?\b|\bgrey\b|\bfibres?\b|\bneighbours?\b|\btowards\b",
    r"\bso many\b|\bis told\b|comes home|\bstock\b|\bgoods\b|not kept|is kept\b",
)
BANNED = re.compile("|".join(REPLACED), re.IGNORECASE)
ALLOWED = re.compile(
    r"two-part glue|bright-willow probe (chamber|wood)?|│ probe\b|chamber \(steam box\)", re.IGNORECASE
)


def banned(text: str) -> list[str]:
    """Each replaced word in a text, with what stands around it."""
    text = ALLOWED.sub("", text)
    return [f"{m[0]}: …{text[max(0, m.start() - 40) : m.end() + 30]}…" for m in BANNED.finditer(text)]


def shown(page: str) -> str:
    """What can be read or heard of a page: its text, and the labels, titles and hints of its parts."""
    page = re.sub(r"<(script|style)\b.*?</\1>|<!--.*?-->", " ", page, flags=re.DOTALL)
    message = re.findall(r'(?:aria-label|title|placeholder|alt)="([^"]*)"', page)
    page = re.sub(r"<(/?)(b|strong|em|small|tspan|a)\b[^>]*>", "", page)
    text = re.sub(r"<[^>]+>", " | ", page)
    return html.unescape(re.sub(r"\s+", " ", " | ".join([text, *message])))


@pytest.fixture(scope="module", params=["mm", "in"])
def shop(request, tmp_path_factory) -> Iterator[TestClient]:
    store = Store(tmp_path_factory.mktemp("words"))
    with store.connected():
        fill(store, TODAY.date())
        store.shop_settings.save(store.shop_settings.get().model_copy(update={"units": request.param}))
    with TestClient(create_app(store, lambda: TODAY), base_url="http://127.0.0.1:8765") as client:
        client.unit = request.param
        yield client


QUICK = ("/quick", "/quick?how=unsure", "/quick?shape=hook&how=steamed", "/quick?shape=u&how=iron", "/quick/link")
PLACES = (
    "/",
    *QUICK,
    "/schedule",
    "/bench",
    "/rack",
    "/logbook",
    "/logbook/track-record",
    "/logbook/what-it-shows",
    "/shop",
)


def addresses(jobs: Container[int]) -> list[str]:
    """Every page of the shop and of some demo jobs."""
    made = []
    for n, example in enumerate(EXAMPLES, 1):
        if n not in jobs:
            continue
        made += [f"/jobs/{n}/{row.key}" for row in stages_for(example.job)]
        made += [f"/jobs/{n}/shape/steps", f"/jobs/{n}/trials", f"/jobs/{n}/why"]
    return [*(p for p in PLACES), *made]


def replaced(shop: TestClient, jobs: Container[int]) -> str:
    """Replaced words that pages say, with their places."""
    found = {}
    for address in addresses(jobs):
        answer = shop.get(address)
        assert answer.status_code == 200, address
        if said := banned(shown(answer.text)):
            found[address] = said
    return "\n".join(sorted({f"{w}  ({a})" for a, ws in found.items() for w in ws}))


def test_no_page_says_a_word_that_was_replaced(shop):
    """Of four jobs in inches, and of one in mm; those of all jobs are among the slow tests."""
    assert not replaced(shop, (5, 9, 14, 18) if shop.unit == "in" else (14,))


def test_no_print_says_a_word_that_was_replaced(shop):
    found = set()
    for n in (5, 14, 18) if shop.unit == "in" else (17,):
        for kind in ("sheet", "sheet_one", "cut_list", "labels", "form", "stick", "frame", "parts"):
            answer = shop.get(f"/jobs/{n}/take/{kind}", params={"paper": "letter"})
            if answer.status_code != 200 or not answer.content.startswith(b"%PDF"):
                continue
            for page in pypdfium2.PdfDocument(io.BytesIO(answer.content)):
                found |= set(banned(re.sub(r"\s+", " ", page.get_textpage().get_text_range())))
    assert not found, "\n".join(sorted(found))


def test_the_command_line_and_the_docs_say_no_word_that_was_replaced():
    texts = {p.name: p.read_text() for p in [ROOT / "README.md", *(ROOT / "docs").glob("*.md")]}
    for name in ("", "serve", "demo", "backup", "restore", "plan", "export", "probe"):
        told = run_command(*([name] if name else []), "--help").stdout
        assert "Usage: bright-willow" in told
        texts[f"bright-willow {name}"] = re.sub(r"\s+", " ", told)
    found = {}
    for name, text in texts.items():
        plain = re.sub(r"```.*?```|`[^`]*`|\]\([^)]*\)|<[^>]+>", " ", text, flags=re.DOTALL)
        if said := banned(plain):
            found[name] = said
    assert not found, "\n".join(f"{n}: {w}" for n, ws in found.items() for w in ws)


def findings() -> Iterator[Finding]:
    for example in EXAMPLES:
        for unit in ("mm", "in"):
            plan = checked_plan(example.job, SHOP.model_copy(update={"units": unit}), NOTHING_LEARNT)
            yield from getattr(plan, "findings", ())


def written() -> Iterator[tuple[str, str]]:
    """Every check as it is written, whether a demo job has it or not: where, and its sentences with X for each figure."""
    rooms = [ROOT / "bright_willow" / "core", ROOT / "bright_willow" / "calendar"]
    for path in (p for room in rooms for p in room.rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "Finding" and len(node.args) >= 5:
                yield f"{path.name}:{node.lineno}", " ".join(_text(arg) for arg in node.args[3:5])


def _text(node: ast.expr) -> str:
    if isinstance(node, ast.Constant):
        return str(node.value)
    if isinstance(node, ast.JoinedStr):
        return "".join(str(v.value) if isinstance(v, ast.Constant) else "X" for v in node.values)
    return "What a name holds."


def test_a_check_is_two_short_sentences():
    told = [(f.code, f"{f.message} {f.reason}") for f in findings()]
    told += written()
    assert len(told) > 150
    for where, text in told:
        sentences = [s for s in re.split(r"(?<=[.?!])\s+", text.strip()) if s]
        assert len(sentences) <= 2, (where, sentences)
        assert max(len(s.split()) for s in sentences) <= 30, (where, sentences)
