"""A real browser on the real application."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from bright_willow.store.store import Store
from tools.running import PATIENCE_S, running_app
from tools.shots import FLAGS

expect.set_options(timeout=1000 * PATIENCE_S)


@pytest.fixture(scope="session")
def browser_type_launch_args(browser_type_launch_args):
    return {**browser_type_launch_args, "executable_path": "/usr/bin/chromium", "args": FLAGS}


@pytest.fixture(scope="session")
def browser_context_args(browser_context_args):
    return {**browser_context_args, "viewport": {"width": 1280, "height": 800}, "locale": "en-GB"}


@pytest.fixture
def empty_shop(tmp_path):
    with running_app(Store(tmp_path)) as address:
        yield address


@pytest.fixture
def marrow_lane(demo_store):
    with running_app(demo_store) as address:
        yield address


# refusals the page expects, and a program that is stopped; the browser writes down each
ANSWERS = (
    "404",
    "409",
    "422",
    "503",
    "ERR_FAILED",
    "ERR_CONNECTION_REFUSED",
    "ERR_CONNECTION_RESET",
    "ERR_EMPTY_RESPONSE",
    "ERR_INCOMPLETE_CHUNKED_ENCODING",
)


@pytest.fixture(autouse=True)
def no_complaints(page):
    """No script error, and nothing the content policy refused; and a busy machine takes its time."""
    page.context.set_default_timeout(1000 * PATIENCE_S)
    said: list[str] = []
    page.on("pageerror", lambda e: said.append(str(e)))
    page.on(
        "console",
        lambda m: said.append(m.text) if m.type == "error" and not any(known in m.text for known in ANSWERS) else None,
    )
    yield
    assert said == []
