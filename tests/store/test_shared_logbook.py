"""Another shop's book brought in: both are kept, it is marked whose is whose, and it counts as much as it is let."""

from __future__ import annotations

import io
import json
import zipfile

import pytest

from bright_willow.core.common.errors import PlanError
from bright_willow.core.shop.shop import Shop as ShopFigures
from bright_willow.store.bundle_file import MOST_BYTES
from bright_willow.store.shared_logbook import book_bundled, keep_book, read_book
from bright_willow.store.store import Store
from tests.conftest import RIB
from tests.sample import fill
from tests.web.test_runs import Shop


@pytest.fixture(scope="module")
def book(tmp_path_factory) -> bytes:
    """The whole book of Marrow Lane."""
    store = Store(tmp_path_factory.mktemp("there"))
    with store.connected():
        fill(store)
        made = book_bundled(store)
    store.close()
    return made


def other(tmp_path) -> Store:
    """A shop of another name with a bend of its own."""
    store = Store(tmp_path / "here")
    with store.connected():
        store.shop_settings.save(ShopFigures(name="Far Orchard"))
    return store


def test_both_are_kept_and_whose_is_whose(tmp_path, book):
    store = other(tmp_path)
    with store.connected():
        came = keep_book(store, read_book(book, ()), share=1.0)
        assert came.shop == "Marrow Lane" and came.jobs == 4 and not came.left
        forms = store.forms.find()
        assert {f.origin for f in forms} == {"Marrow Lane"} and sum(len(f.pieces) for f in forms) == 16
        assert store.jobs.count() == 0 and store.jobs.count(away=True) == 4  # put away, not among the jobs to do
        assert [o.share for o in store.shop_settings.get().others] == [1.0]
        with pytest.raises(PlanError, match="here already"):
            keep_book(store, read_book(book, ()), share=1.0)
        assert len(store.forms.find()) == 4
        again = book_bundled(store)  # what is another's is not handed on as one's own
        with zipfile.ZipFile(io.BytesIO(again)) as file:
            assert json.loads(file.read("manifest.json")) == {
                "format": "bright-willow-shop-book", "version": 1, "shop": "Far Orchard", "jobs": 0
            }  # fmt: skip
    store.close()


def test_it_counts_as_one_s_own_less_or_not_at_all(tmp_path, book):
    seen = {}
    for share in (1.0, 0.3, 0.0):
        store = Store(tmp_path / f"s{share}")
        with store.connected():
            store.shop_settings.save(ShopFigures(name="Far Orchard"))
            keep_book(store, read_book(book, ()), share=share)
            seen[share] = store.training.learned()
        store.close()
    kind = ("cold_lamination", "ash_white|rigid")
    whole, less, none = (seen[s] for s in (1.0, 0.3, 0.0))
    assert whole.group[kind].variance < less.group[kind].variance
    assert whole.group[kind].known_by > less.group[kind].known_by
    assert not none.group and not none.made and not none.settling
    assert sum(whole.made[kind]) * 0.3 == pytest.approx(sum(less.made[kind]))
    assert whole.settling["rigid"].variance < less.settling["rigid"].variance


def test_one_job_with_its_book_counts_less_too(store, tmp_path):
    from bright_willow.store.bundle import bundled

    there = Store(tmp_path / "there")
    with there.connected():
        fill(there)
        raw = bundled(there, 2)
    there.close()
    shop = Shop(Store(tmp_path / "here"))
    with shop.store.connected():
        shop.store.shop_settings.save(shop.store.shop_settings.get().model_copy(update={"name": "Far Orchard"}))
    for teaches, others in (("yes", []), ("less", [("Marrow Lane", 0.3)]), ("less", [("Marrow Lane", 0.3)])):
        answer = shop.client.post("/jobs/bring", files={"file": ("j.zip", raw)}, data={"teaches": teaches})
        assert answer.status_code == 200
        with shop.store.connected():
            assert [(o.name, o.share) for o in shop.store.shop_settings.get().others] == others
    with shop.store.connected():
        assert {b.share for _, _, b in shop.store.training.by_piece()} == {0.3, 1.0}
    shop.app.state.reader.stop()
    shop.app.state.gatherer.stop()


def test_how_much_it_counts_is_changed_on_the_page(store, book):
    shop = Shop(store)
    client = shop.client
    with store.connected():
        store.shop_settings.save(store.shop_settings.get().model_copy(update={"name": "Far Orchard"}))
    bring = {"files": {"file": ("b.zip", book)}, "data": {"share": "0.3"}}
    page = client.post("/book/bring", **bring)
    assert page.status_code == 200 and "Imported the logbook of Marrow Lane: 4 jobs" in page.text
    with store.connected():
        before, less = store.shop_settings.get().others, store.training.learned()
    assert [o.share for o in before] == [0.3]
    client.post("/book/others", data={"name": "Marrow Lane", "share": "0"})
    with store.connected():
        assert store.training.learned().used < less.used
    assert "of Marrow Lane" in client.get("/book", params={"q": "Marrow"}).text
    assert "another shop&#39;s" in client.get("/book", params={"q": "Marrow"}).text
    client.post("/book/others", data={"name": "Marrow Lane", "share": "0.3"})
    with store.connected():
        assert store.training.learned().group == less.group
    assert client.get("/book/whole.zip").headers["content-type"] == "application/zip"
    for body, message in (
        (b"", "Choose a logbook file first"),
        (b"PK no zip", "not a readable ZIP"),
        (book, "here already"),
    ):
        answer = client.post("/book/bring", files={"file": ("b.zip", body)})
        assert answer.status_code == 422 and message in answer.text and 'id="b-file-fault"' in answer.text
    shop.app.state.reader.stop()
    shop.app.state.gatherer.stop()


def zipped(**files: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        for name, body in files.items():
            file.writestr(name.replace("__", "/").replace("_json", ".json").replace("_zip", ".zip"), body)
    return out.getvalue()


HEAD = {"format": "bright-willow-shop-book", "version": 1, "shop": "Elsewhere", "jobs": 1}


@pytest.mark.parametrize(
    "raw",
    [
        zipped(other=b"x"),
        zipped(manifest_json=b"[]"),
        zipped(manifest_json=json.dumps(HEAD).encode()),
        zipped(manifest_json=json.dumps(HEAD | {"jobs": 10**6}).encode()),
        zipped(manifest_json=json.dumps(HEAD).encode(), jobs__0_zip=b"PK\x03\x04 broken"),
        zipped(manifest_json=json.dumps(HEAD).encode(), jobs__0_zip=zipped(big=bytes(MOST_BYTES + 1))),
        zipped(manifest_json=json.dumps(HEAD).encode(), jobs__0_zip=bytes(9_000_000)),
        zipped(manifest_json=json.dumps(HEAD | {"shop": "Far Orchard"}).encode()),
    ],
    ids=["no manifest", "a list", "job missing", "too many", "broken", "unfolds without end", "large", "our own"],
)
def test_what_is_no_book_is_a_sentence_and_leaves_nothing(tmp_path, raw):
    store = other(tmp_path)
    with store.connected(), pytest.raises(PlanError):
        keep_book(store, read_book(raw, ()), share=1.0)
    with store.connected():
        assert not store.jobs.any() and not store.shop_settings.get().others
    store.close()


def test_a_wood_of_that_shop_s_own_comes_along(tmp_path):
    from bright_willow.core.plan.read_job import read_job
    from bright_willow.core.wood.species import OwnWood

    own = OwnWood(key="own_yew", name="Yew of the lane", sg12=0.6, moe_gpa=9.0, mor_mpa=95.0, crush_mpa=55.0)
    there = Store(tmp_path / "there")
    with there.connected():
        there.shop_settings.save(ShopFigures(name="Elsewhere", woods=(own,)))
        job = read_job({**RIB, "stock": {"species": own.key}}, woods=(own,))
        number = there.jobs.add(job)
        from bright_willow.core.measuring.built_form import BuiltForm
        from bright_willow.core.plan.plan import sketch

        there.logbook.save_form(number, BuiltForm.of(sketch(job, there.shop_settings.get())))
        raw = book_bundled(there)
    there.close()
    store = other(tmp_path)
    with store.connected():
        came = keep_book(store, read_book(raw, ()), share=0.3)
        assert came.jobs == 1 and not came.left
        assert [w.name for w in store.shop_settings.get().woods] == ["Yew of the lane"]
    store.close()
