"""Help: the project's own documents as pages, with the pictures of the views they speak of."""

from __future__ import annotations

import re
from functools import cache
from pathlib import Path

from fastapi import APIRouter, Request
from fastapi.responses import FileResponse, Response
from markupsafe import Markup

from ...store.records import NotFound
from ..common import page, store_of

router = APIRouter(include_in_schema=False)
FOLDER = Path(__file__).parents[1] / "help"
DOCUMENTS = {
    "using": "Using Bright Willow",
    "model": "Formulas, their range and their sources",
    "words": "Words we use",
    "job-format": "File formats",
    "devices": "Sensors",
    "reliability": "How reliable it is",
}
PICTURES = {  # which pictures belong to which section of the first document, in their order
    "start": ("quick", "jobs"),
    "a-job-stage-by-stage": (
        *("shape", "method", "layup", "bend", "steam", "form", "cut-list"),
        *("glue-up", "drying", "schedule", "measure"),
    ),
    "at-the-bench": ("bench",),
    "when-something-fails-and-before-it-does": ("why", "test-bends"),
    "predictions-from-your-own-bends": ("track-record", "logbook"),
    "the-rack": ("rack",),
}


def anchor_of(heading: str) -> str:
    """Return the anchor of a heading.

    >>> anchor_of("A job, stage by stage")
    'a-job-stage-by-stage'
    """
    return re.sub(r"[^a-z0-9]+", "-", heading.lower()).strip("-")


_LINK = re.compile(r"\[([^\]]+)\]\((?!#)([^)#]+)(#[^)]*)?\)")


def _linked(found: re.Match[str]) -> str:
    """A link of a document as one of these pages; its words alone where it leads to a file that is not shown here."""
    words, to, anchor = found.groups(default="")
    if to.startswith("http"):
        return found[0]
    name = to.removesuffix(".md")
    return f"[{words}](/help/{name}{anchor})" if to.endswith(".md") and name in DOCUMENTS else words


@cache
def _sections(name: str) -> tuple[tuple[str, str, Markup], ...]:
    """Anchor, heading and text of each section of a document; the first has what stands before any heading."""
    from markdown_it import MarkdownIt

    reader = MarkdownIt("commonmark").enable("table")
    text = (FOLDER / f"{name}.md").read_text("utf-8")
    parts = re.split(r"^## (.+)$", text.partition("\n")[2], flags=re.MULTILINE)
    headings = ("", *parts[1::2])
    made = zip(headings, (_LINK.sub(_linked, body) for body in parts[::2]), strict=True)
    return tuple((anchor_of(h), h, Markup(reader.render(body))) for h, body in made if body.strip())


@router.get("/help")
@router.get("/help/{name}")
def show(request: Request, name: str = "using") -> Response:
    """Show a document, section by section."""
    if name not in DOCUMENTS or not (FOLDER / f"{name}.md").is_file():
        raise NotFound("There is no such help page.")
    store = store_of(request)
    with store.connected():
        unit = store.shop_settings.get().rule
    pictures = PICTURES if name == "using" else {}
    return page(
        "help.html",
        request,
        title=DOCUMENTS[name],
        name=name,
        documents=DOCUMENTS.items(),
        sections=_sections(name),
        pictures=pictures,
        unit=unit,
        here="",
    )


@router.get("/help/pictures/{name}.png")
def picture(name: str) -> Response:
    """Show a picture of a view."""
    if name not in {n for names in PICTURES.values() for n in names}:
        raise NotFound("There is no such picture.")
    file = FOLDER / "screenshots" / f"{name}.png"
    if not file.is_file():
        raise NotFound("There is no such picture.")
    return FileResponse(file, media_type="image/png")
