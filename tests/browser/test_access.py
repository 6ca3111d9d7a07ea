"""For everyone: axe finds nothing serious on any page, on a desk and on a tablet; nothing runs off the side."""

import pytest
from axe_playwright_python.sync_playwright import Axe

PATHS = [
    "/",
    "/book",
    "/shop",
    "/quick?how=unsure",
    "/quick?shape=hook&how=steamed",
    "/rack",
    "/rack/lots/1",
    "/rack/woods?key=oak_white",
    "/jobs/5/way",
    "/jobs/10/build_up",
    "/jobs/9/build_up",
    "/jobs/4/form",
    "/jobs/9/form",
    "/jobs/12/form",
    "/jobs/13/form/mine",
    "/jobs/14/build_up",
    "/jobs/16/build_up",
    "/jobs/17/build_up",
    "/jobs/5/shape",
    "/jobs/5/stock",
    "/jobs/4/build_up",
    "/jobs/5/form",
    "/days",
    "/days?bar=14.load.1",
    "/bench",
    "/jobs/14/bench",
    "/jobs/5/bench",
    "/jobs/14/steam",
    "/jobs/14/why?seen=outer_splintered",
    "/jobs/14/trials",
    "/jobs/14/days",
    "/jobs/5/days?bar=5.close.0",
    "/jobs/1/measure",
    "/jobs/1/pictures",
    "/book/learnt",
    "/jobs/5/measure",
    "/jobs/5/shape/history",
    "/jobs/5/offsets/print",
    "/nowhere",
]


@pytest.mark.parametrize(
    "size", [(1280, 800), pytest.param((820, 1180), marks=pytest.mark.slow)], ids=["desk", "tablet"]
)
def test_axe_on_each_page(page, marrow_lane, size):
    page.set_viewport_size({"width": size[0], "height": size[1]})
    page.set_extra_http_headers({"accept": "text/html"})
    for path in PATHS[:: 1 if size[0] > 1000 else 2]:  # the same markup on a tablet: every second page
        page.goto(marrow_lane + path)
        found = Axe().run(page, options={"runOnly": ["wcag2a", "wcag2aa", "wcag21aa", "best-practice"]})
        bad = [(v["id"], [n["html"][:140] for n in v["nodes"][:3]]) for v in found.response["violations"]]
        assert bad == [], (path, bad)
        wide = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
        assert wide <= 0, (path, wide)


@pytest.mark.parametrize("kind", ["run", "rehearsal", "game"])
def test_axe_at_the_bench(page, marrow_lane, kind):
    import httpx2

    run = httpx2.post(f"{marrow_lane}/jobs/14/bench/start?kind={kind}").headers["location"]
    for size in ((1280, 800), (820, 1180)):
        page.set_viewport_size({"width": size[0], "height": size[1]})
        page.goto(marrow_lane + run)
        found = Axe().run(page, options={"runOnly": ["wcag2a", "wcag2aa", "wcag21aa", "best-practice"]})
        bad = [(v["id"], [n["html"][:140] for n in v["nodes"][:3]]) for v in found.response["violations"]]
        assert bad == [], (kind, bad)


def test_first_load_is_small(page, marrow_lane):
    import httpx2

    asked = []
    page.on("request", lambda r: asked.append(r.url))
    page.goto(f"{marrow_lane}/jobs/5/shape")
    page.wait_for_load_state("networkidle")
    assert all(url.startswith((marrow_lane, "data:")) for url in asked)
    total = 0
    for url in {u for u in asked if u.startswith(marrow_lane)}:
        with httpx2.stream("GET", url, headers={"accept-encoding": "gzip"}) as answer:
            total += sum(len(chunk) for chunk in answer.iter_raw())
    assert total <= 150_000
