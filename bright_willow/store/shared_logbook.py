"""The whole book of a shop as one open file, and another shop's brought in: both are kept, and it is marked whose is
whose."""

from __future__ import annotations

import io
import zipfile
from dataclasses import dataclass
from typing import Literal

from pydantic import Field

from ..core.common.document import Document
from ..core.common.errors import PlanError
from ..core.job.faults import JobFaulty
from ..core.shop.shop import OtherShop
from ..core.wood.species import OwnWood
from .bundle import ReadBundle, bundled, keep_bundle, read_bundle
from .bundle_file import ZipParts
from .store import Store
from .tables import FormRow

MOST_JOBS = 900


class BookManifest(Document):
    """What the file is, whose book it is, and how many jobs are in it: each a job with its forms, pieces, trials."""

    format: Literal["bright-willow-shop-book"] = "bright-willow-shop-book"
    version: Literal[1] = 1
    shop: str = Field(min_length=1, max_length=80)
    jobs: int = Field(ge=0, le=MOST_JOBS)


@dataclass(frozen=True)
class BroughtBook:
    """What came in: whose, how many jobs, and sentences of those that could not be."""

    shop: str
    jobs: int
    left: tuple[str, ...]


def book_bundled(store: Store) -> bytes:
    """Every job this shop itself built forms for, with forms, pieces, measurements and trials; pictures and runs stay
    with each job's own file. Needs a connection. Raises: PlanError where there are more than fit one file."""
    own = FormRow.select(FormRow.job).where(FormRow.origin == "").distinct()
    ids = [row.job_id for row in own.order_by(FormRow.job)]
    if len(ids) > MOST_JOBS:
        raise PlanError("file", f"One file holds {MOST_JOBS} jobs; make a backup of the whole shop instead.")
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as file:
        head = BookManifest(shop=store.shop_settings.get().name, jobs=len(ids))
        file.writestr("manifest.json", head.model_dump_json(indent=1))
        for n, job_id in enumerate(ids):
            file.writestr(f"jobs/{n}.zip", bundled(store, job_id, whole=False))
    return out.getvalue()


@dataclass(frozen=True)
class ReadBook:
    """Another shop's book as a file holds it: its jobs, each read and checked, and sentences of those that cannot be
    planned here; nothing kept yet."""

    head: BookManifest
    jobs: tuple[ReadBundle, ...]
    left: tuple[str, ...]


def read_book(raw: bytes, woods: tuple[OwnWood, ...]) -> ReadBook:
    """Another shop's book out of a file. woods: those known here. Raises: PlanError."""
    parts = ZipParts(raw)
    head: BookManifest = parts.document("manifest.json", BookManifest)
    read, left = list[ReadBundle](), list[str]()
    for n in range(head.jobs):
        try:
            one = read_bundle(parts.read(f"jobs/{n}.zip"), _no_pictures, woods, of_book=True)
        except JobFaulty as error:
            left.append(f"Job {n + 1}: {error.faults[0].message if error.faults else error}")
            continue
        woods = (*woods, *one.woods)
        read.append(one)
    return ReadBook(head, tuple(read), tuple(left))


def _no_pictures(_: bytes) -> tuple[bytes, tuple[int, int]]:
    raise PlanError("file", "A shop's logbook file holds no pictures.")


def keep_book(store: Store, book: ReadBook, *, share: float) -> BroughtBook:
    """Keep another shop's book: its jobs are put away among this shop's, their forms marked as its; bends count by a
    share, 0 to 1. The same book again takes the place of nothing: it is refused. Needs a connection. Raises:
    PlanError, NotKept."""
    head, shop = book.head, store.shop_settings.get()
    if head.shop == shop.name:
        raise PlanError("file", f"This logbook is from {shop.name}, the name of this shop too: rename one of them.")
    if FormRow.select().where(FormRow.origin == head.shop).exists():
        raise PlanError("file", f"The logbook of {head.shop} is here already: it would count twice.")
    with store.writing():
        others = (*(o for o in shop.others if o.name != head.shop), OtherShop(name=head.shop, share=share))
        store.shop_settings.save(shop.model_copy(update={"others": others}))
        for one in book.jobs:
            store.jobs.archive(keep_bundle(store, one))
    return BroughtBook(head.shop, len(book.jobs), book.left)
