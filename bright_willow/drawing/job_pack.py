"""The job pack: the papers of a job that hang at the bench, chosen one by one and bound into one PDF."""

from __future__ import annotations

import io
from collections.abc import Sequence

from ..core.common.errors import PlanError
from ..core.common.units import Unit
from ..core.plan.result import Plan
from .export import EXPORTS, PAPERS_OF, Export

PACK: dict[str, tuple[str, Export]] = {
    "sheet": ("sheet for the bench", PAPERS_OF["sheet"]),
    "form": ("form, full size, on sheets to join", EXPORTS["pdf"]),
    "stick": ("story stick", PAPERS_OF["stick"]),
    "cutlist": ("cut list", PAPERS_OF["cutlist"]),
    "labels": ("labels for the strips", PAPERS_OF["labels"]),
    "frame": ("drying jig, full size", PAPERS_OF["frame"]),
}


def pack_papers(plan: Plan, keys: Sequence[str], *, paper: str, unit: Unit) -> tuple[list[bytes], list[str]]:
    """Return the papers that were chosen, in the order of PACK, and the names of those this job has none of.

    keys: of PACK. paper: a4 or letter. Raises: PlanError for another paper.
    """
    if paper not in ("a4", "letter"):
        raise PlanError("paper", "Paper is A4 or Letter.")
    made, missing = [], []
    for key, (name, export) in PACK.items():
        if key not in keys:
            continue
        try:
            made.append(export.make(plan.job, plan, unit, paper, None))
        except PlanError:
            missing.append(name)
    return made, missing


def bound(papers: Sequence[bytes], title: str) -> bytes:
    """Return PDFs one after the other as one, each page at its own size. Valid: at least one."""
    from pypdf import PdfReader, PdfWriter

    out, writer = io.BytesIO(), PdfWriter()
    for paper in papers:
        writer.append(PdfReader(io.BytesIO(paper)), import_outline=False)
    writer.add_metadata({"/Title": title, "/Creator": "Bright Willow"})
    writer.write(out)
    return out.getvalue()
