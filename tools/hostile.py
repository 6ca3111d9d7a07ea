"""Requests nobody's own page would send: seeded, over every route, every field and every kind of upload."""

from __future__ import annotations

import http.client
import io
import json
import random
import time
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any
from urllib.parse import quote, urlencode

from bright_willow.demo.marrow_lane import EXAMPLES
from tools.running import Program

BIG = 10**19
WORDS = (
    "", " ", "0", "-1", "1", "5", "3.5", "1e308", "-1e308", "1e-320", "nan", "inf", "-inf", "9" * 5_000, str(BIG), "1/0",
    "0x10", "½", "1 3/4", "٣", "45 mm", "6' 3\"", "null", "true", "[]", "{}", "<script>alert(1)</script>", "'; drop table job",
    "\x00", "\ud800", "\u202e", "😀" * 200, "a" * 70_000, "../../etc/passwd", "%00", "{{7*7}}", "yes", "no", "left", "inner",
    "arc_by_chord", "ring", "outline", "polycurve", "layers", "equal", "vacuum", "band", "by_angle", "own", "pairs", "12@3", "0,0\n1,1",
    "0,0;5,5;9,0", "1e300,0\n0,1e300\n5,5", "12 F-clamp 300; 6 G-clamp 200", "2026-05-21", "9999-12-31",
)  # fmt: skip
QUERY = (
    "handle", "x", "y", "frame", "keep", "do", "row", "to", "lot", "way", "out", "back", "paper", "hand", "part", "tolerance",
    "at", "away", "seen", "in", "key", "then", "with", "new", "kept", "rate", "on", "client", "piece", "ended",
)  # fmt: skip
HANDLES = (
    "rise_mm", "chord_mm", "radius_mm", "angle_deg", "close", "split", "add", "move", "joint", "radius", "point", "gap_mm", "diameter_mm",
    "easing_mm", "left_lean_deg", "flat_mm", "half_width_mm", "first_radius_mm", "second_angle_deg",
)  # fmt: skip
SENSIBLE = {
    "handle": tuple(f"{name}-{n}" for name in HANDLES for n in (0, 1, 2, 3, 5, 9)) + ("split-" + "9" * 400, "add-"),
    "do": ("add", "remove", "move", "veneer", "reverse", "over"),
    "way": ("cold_lamination", "sheet_layup", "steam_free", "steam_strap", "dry_heat", "blanket", "straighten", "steam_laminae"),
    "paper": ("a4", "letter", "a3"),
    "in": ("mm", "in"),
    "x": ("0", "120.5", "-4000", "99999", "1e5"),
    "y": ("-500", "0", "-99999", "333"),
    "then": ("stock", "form", "measure"),
    "to": ("mm", "in", "0", "1", "2"),
}  # fmt: skip
STAGES = ("shape", "way", "stock", "build_up", "bend", "form", "bench", "measure")
PARAMS: dict[str, tuple[str, ...]] = {
    "job_id": tuple(str(i) for i in range(1, 19)),
    "stage": STAGES,
    "kind": ("pdf", "svg", "dxf", "zip", "csv", "job", "stick", "frame", "lot", "form", "shop"),
    "revision_id": ("1", "2", "5"),
    "piece_id": ("1", "2", "7"),
    "measurement_id": ("1", "3"),
    "lot_id": ("0", "1", "2"),
    "row_id": ("1", "2"),
    "run_id": ("1", "2", "3"),
    "probe_id": ("1", "2"),
    "guest_id": ("1",),
    "client": ("pic-one", "../x"),
}


@dataclass
class Outcome:
    """What came of many requests."""

    asked: int = 0
    errors: list[str] = field(default_factory=list)
    slow: list[str] = field(default_factory=list)
    slowest_s: float = 0.0
    by_class: dict[int, int] = field(default_factory=dict)
    grown_mb: float = 0.0


def routes_of(app: Any) -> list[tuple[str, str]]:
    """Method and path of every route of the application, its files apart."""
    found = []
    for route in _all_routes(app.routes):
        for method in getattr(route, "methods", None) or ():
            if method in ("GET", "POST"):
                found.append((method, route.path))
    return sorted(set(found))


def _all_routes(routes: Any) -> Iterator[Any]:
    for route in routes:
        if hasattr(route, "path") and hasattr(route, "methods"):
            yield route
        inner = getattr(route, "original_router", None) or getattr(route, "router", None)
        if inner is not None:
            yield from _all_routes(inner.routes)


def field_names() -> list[str]:
    """Names of every field of a job, a shop and a lot, and those of the other forms."""
    names = {
        "name",
        "file",
        "unit",
        "scale",
        "which",
        "sets",
        "label",
        "chord",
        "rise",
        "day",
        "face",
        "mishap",
        "note",
        "left_out",
        "hand",
    }

    def walk(data: Any, at: str) -> None:
        if isinstance(data, dict):
            for key, value in data.items():
                walk(value, f"{at}.{key}" if at else key)
        elif isinstance(data, list | tuple) and data and isinstance(data[0], dict):
            walk(data[0], f"{at}.0")
        else:
            names.add(at)

    for example in EXAMPLES:
        walk(example.job.model_dump(mode="json"), "")
    names |= {
        "kerf_mm",
        "clamps",
        "thicknesses_mm",
        "temperature_c",
        "altitude_m",
        "species",
        "thickness_mm",
        "count",
        "moisture_pct",
    }
    return sorted(names)


class Attacker:
    """Makes requests from a seed."""

    def __init__(self, app: Any, seed: int) -> None:
        self.rng = random.Random(seed)
        self.routes = [r for r in routes_of(app) if r[1] not in ("/shop/restore", "/shop/backup")]
        self.fields = field_names()
        self.jobs = [e.job.model_dump(mode="json") for e in EXAMPLES]

    def word(self) -> str:
        rng = self.rng
        return rng.choice(WORDS) if rng.random() < 0.7 else f"{rng.choice((1, -1)) * 10 ** rng.uniform(-6, 9):.4g}"

    def path(self, template: str) -> str:
        parts = []
        for part in template.split("/"):
            if part.startswith("{"):
                known = PARAMS.get(part[1:-1].split(":")[0], ("1",))
                hostile = quote(self.word()[:300].encode("utf-8", "replace"), safe="")
                part = self.rng.choice(known) if self.rng.random() < 0.85 else (hostile or "x")
            parts.append(part)
        made = "/".join(parts)
        pairs = []
        for name in self.rng.sample(QUERY, self.rng.randint(0, 6)):
            known = SENSIBLE.get(name)
            value = self.rng.choice(known) if known and self.rng.random() < 0.7 else self.word()[:600]
            pairs.append((name, value.encode("utf-8", "replace")))
        return made + ("?" + urlencode(pairs) if pairs else "")

    def body(self, path: str) -> tuple[bytes, dict[str, str]]:
        rng = self.rng
        if path.startswith("/api/plan"):
            return self._json(), {"content-type": "application/json"}
        kind = rng.random()
        if kind < 0.25 or path.startswith(("/jobs/bring", "/jobs/1/outline")):
            return self._upload()
        names = rng.sample(self.fields, rng.randint(0, 8))
        form = urlencode([(n, self.word().encode("utf-8", "replace")) for n in names]).encode()
        charset = rng.choice(("", "; charset=utf-7", "; charset=utf-16", "; charset=nonsense")) if kind > 0.9 else ""
        return form, {"content-type": f"application/x-www-form-urlencoded{charset}"}

    def _json(self) -> bytes:
        rng = self.rng
        job = json.loads(json.dumps(rng.choice(self.jobs)))
        for _ in range(rng.randint(0, 4)):
            at: Any = job
            while isinstance(at, dict) and at:
                key = rng.choice(list(at))
                if isinstance(at[key], dict) and rng.random() < 0.8:
                    at = at[key]
                    continue
                at[key] = rng.choice(
                    (None, True, [], {}, "x", 0, -1, BIG, 1e308, 1e-300, [[1, 2]] * 5, "9" * 300, self.word()[:200])
                )
                break
        text = json.dumps({"job": job}).encode("utf-8", "replace")
        if rng.random() < 0.15:
            text = rng.choice(
                (
                    b"\xff\xfe" + text,
                    text[: len(text) // 2],
                    b"[" * 3_000,
                    b'{"job":' + b"9" * 5_000 + b"}",
                    b"\xef\xbb\xbf" + text,
                )
            )
        return text

    def _upload(self) -> tuple[bytes, dict[str, str]]:
        rng = self.rng
        name = rng.choice(("a.svg", "a.dxf", "a.csv", "a.json", "", "a", "x" * 300 + ".svg", "../a.dxf", 'a".svg'))
        content = rng.choice(FILES)
        if rng.random() < 0.4 and content:
            at = rng.randrange(len(content))
            content = content[:at] + bytes(rng.randrange(256) for _ in range(3)) + content[at + 2 :]
        edge = "----willow"
        out = io.BytesIO()
        for key in ("unit", "scale", "which"):
            value = rng.choice(("mm", "in", "file", "1", "0", "2", self.word()[:100]))
            out.write(
                f'--{edge}\r\nContent-Disposition: form-data; name="{key}"\r\n\r\n'.encode()
                + value.encode("utf-8", "replace")
                + b"\r\n"
            )
        safe = name.replace('"', "%22")
        out.write(
            f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="{safe}"\r\n\r\n'.encode() + content
        )
        out.write(f"\r\n--{edge}--\r\n".encode() if rng.random() < 0.95 else b"")
        return out.getvalue(), {"content-type": f"multipart/form-data; boundary={edge}"}

    def headers(self) -> dict[str, str]:
        rng, made = self.rng, {}
        if rng.random() < 0.5:
            made["x-parts"] = "yes"
        if rng.random() < 0.5:
            made["accept"] = "text/html"
        if rng.random() < 0.05:
            made["origin"] = rng.choice(
                ("http://[", "null", "http://127.0.0.1", "x" * 5_000, "http://evil.example", "http://[::1")
            )
        if rng.random() < 0.03:
            made["host"] = rng.choice(("LOCALHOST", "[::1", "evil.example", "127.0.0.1:x", ""))
        return made


def _dxf(entity: str) -> bytes:
    return f"0\nSECTION\n2\nENTITIES\n0\n{entity}\n0\nENDSEC\n0\nEOF\n".encode()


SVG = '<svg xmlns="http://www.w3.org/2000/svg" width="90mm" viewBox="0 0 90 90">{}</svg>'
FILES = tuple(
    text if isinstance(text, bytes) else text.encode()
    for text in (
        "",
        "0,0\n100,20\n200,0\n",
        "x,y\n" + "1e308,1e308\n" * 5,
        "\ufeff0;0\n5;5\n9;1\n",
        SVG.format('<path d="M0 0A40 40 0 0 1 80 0"/>'),
        SVG.format('<path d="M0 0C1 1 nan 2 3 0 Z L1e400 5"/><circle r="inf"/><use href="#a"/>'),
        SVG.format('<g id="a"><use href="#a"/></g>'),
        "<!DOCTYPE svg [<!ENTITY a 'b'>]>" + SVG.format("&a;"),
        _dxf("CIRCLE\n10\nnan\n20\n0\n40\n5"),
        _dxf("CIRCLE\n10\n0\n20\n0\n40\n1e308"),
        _dxf("LWPOLYLINE\n90\n2\n70\n0\n10\n0\n20\n0\n42\n1e308\n10\n9\n20\n0"),
        _dxf("ARC\n10\n0\n20\n0\n40\n50\n50\n0\n51\n90"),
        _dxf("SPLINE\n70\n8\n71\n3\n72\n4\n73\n2\n10\n0\n20\n0\n10\n5\n20\n5"),
        b"AutoCAD Binary DXF\r\n\x1a\x00" + bytes(range(256)),
        b"\x00" * 3_000,
        json.dumps(EXAMPLES[0].job.model_dump(mode="json")),
        "\ufeff" + json.dumps(EXAMPLES[1].job.model_dump(mode="json")),
        "[" * 5_000,
        '{"name": ' + "9" * 5_000 + "}",
    )
)


def memory_mb(pid: int) -> float:
    """What a process holds, MB; 0 where the system does not tell."""
    try:
        with open(f"/proc/{pid}/status", encoding="ascii", errors="replace") as status:  # noqa: PTH123
            return next(int(line.split()[1]) / 1024 for line in status if line.startswith("VmRSS"))
    except (OSError, StopIteration):
        return 0.0


def attack(program: Program, app: Any, requests: int, seed: int = 1, slow_s: float = 2.0) -> Outcome:
    """Send so many requests, one after another, on connections that are kept while they can be."""
    attacker, outcome = Attacker(app, seed), Outcome()
    connection = http.client.HTTPConnection("127.0.0.1", program.port, timeout=60)
    warm = requests // 10
    for n in range(requests):
        method, template = attacker.rng.choice(attacker.routes)
        path = attacker.path(template)
        body, kind = attacker.body(path) if method == "POST" else (b"", {})
        start = time.perf_counter()
        try:
            connection.request(method, path, body, {**kind, **attacker.headers()})
            answer = connection.getresponse()
            text, status = answer.read(), answer.status
        except (http.client.HTTPException, ConnectionError):
            connection.close()
            status, text = 0, b""
        took = time.perf_counter() - start
        outcome.asked += 1
        outcome.by_class[status // 100] = outcome.by_class.get(status // 100, 0) + 1
        outcome.slowest_s = max(outcome.slowest_s, took)
        told = f"{method} {path[:200]} {body[:300]!r}"
        if status >= 500:
            outcome.errors.append(f"{status} {told} -> {text[-120:]!r}")
        if took > slow_s:
            outcome.slow.append(f"{took:.1f} s {told}")
        if n == warm:
            held = memory_mb(program.pid)
    outcome.grown_mb = memory_mb(program.pid) - held
    connection.close()
    return outcome
