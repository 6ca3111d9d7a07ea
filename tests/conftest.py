"""What the tests share: a rib to bend, an open store, the application."""

from __future__ import annotations

import shutil
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

import hypothesis
import pytest
from httpx2 import Client
from starlette.testclient import TestClient

from bright_willow.core.job.job import Job
from bright_willow.core.plan.read_job import read_job
from bright_willow.services import summaries
from bright_willow.store.store import Store
from bright_willow.web.app import create_app
from tests.sample import fill
from tests.searching import SEARCHING

# The same examples every time: whether work lands is no matter of luck. A search tries fresh ones.
hypothesis.settings.register_profile("settled", derandomize=not SEARCHING, deadline=None, print_blob=True)
hypothesis.settings.load_profile("settled")

LONG = ("test_wheel_slow", "test_overlaps", "test_access")


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Mark tests by chance inputs. The longest files begin first, so that no worker is left with one of them at the
    end; then those of most tests."""
    for item in items:
        if getattr(getattr(item, "obj", None), "is_hypothesis_test", False):
            item.add_marker("search")
    many = Counter(i.path for i in items)
    items.sort(key=lambda i: (i.path.stem not in LONG, -many[i.path], str(i.path)))


RIB = {
    "name": "Rib",
    "shape": {"kind": "arc_by_chord", "face": "inner", "chord_mm": 1800, "rise_mm": 500},
    "part": {"thickness_mm": 40, "width_mm": 60, "count": 6, "spares": 1, "trim_mm": 40},
    "stock": {"species": "ash_white"},
    "build_up": {"laminae": 8, "adhesive": "uf_liquid"},
}


@pytest.fixture
def rib() -> Job:
    return read_job(RIB)


@pytest.fixture(scope="session")
def empty_folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """An empty shop, made once for all tests of a worker."""
    folder = tmp_path_factory.mktemp("empty")
    Store(folder).close()
    return folder


@pytest.fixture
def store(empty_folder: Path, tmp_path: Path) -> Store:
    """An empty shop of a test's own."""
    shutil.copytree(empty_folder, tmp_path, dirs_exist_ok=True)
    return Store(tmp_path)


@pytest.fixture
def demo_store(store: Store) -> Store:
    """A sample shop of a test's own, to do with as it likes."""
    with store.connected():
        fill(store)
    return store


def _client(store: Store) -> Iterator[Client]:
    app = create_app(store)
    yield TestClient(app, base_url="http://127.0.0.1")
    app.state.reader.stop()


@pytest.fixture
def client(store: Store) -> Iterator[Client]:
    yield from _client(store)


@pytest.fixture
def demo_client(demo_store: Store) -> Iterator[Client]:
    yield from _client(demo_store)


@pytest.fixture(autouse=True)
def patient(monkeypatch) -> None:
    """A slow machine works out everything a list shows before it is looked at."""
    monkeypatch.setattr(summaries, "PATIENCE_S", 20.0)
