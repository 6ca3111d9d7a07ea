"""Sends what a simulated probe shows to a program that listens, as a real one would."""

from __future__ import annotations

import json
import ssl
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from urllib.parse import urlsplit

from ..core.common.errors import PlanError
from .simulated_probes import readings

WAIT_S, PATIENCE_S = 2.0, 10.0
SAY_EVERY_S = 10.0


class Refused(Exception):
    """The program does not take it: its sentence."""


def send(
    kind: str,
    *,
    to: str,
    key: str,
    speed: float,
    every_s: float,
    fault: str = "",
    seconds: float | None = None,
    ca: Path | None = None,
) -> Iterator[str]:
    """One reading after another, so many real seconds apart; yields what there is to say now and then.

    A program that is not there is asked again; one that does not know the key ends it. Raises: PlanError, Refused.
    """
    if urlsplit(to).scheme not in ("http", "https") or not urlsplit(to).hostname:
        raise PlanError("to", f"“{to[:80]}” is not an address. Example: http://127.0.0.1:8765")
    try:
        trust = ssl.create_default_context(cafile=str(ca)) if ca else None
    except (OSError, ssl.SSLError):
        raise PlanError("ca", f"{ca} is not a readable certificate.") from None
    began, said = time.monotonic(), -SAY_EVERY_S
    for n, shown in enumerate(readings(kind, every_s=every_s * speed, fault=fault)):
        due = began + n * every_s
        time.sleep(max(0.0, due - time.monotonic()))
        if seconds is not None and time.monotonic() - began > seconds:
            return
        reading: dict[str, float] = {"value": shown.value}
        if fault == "disorder":
            reading["at"] = time.time() - (every_s * n - shown.at_s / speed)
        told = _post(to, key, reading, trust)
        if told or time.monotonic() - began - said >= SAY_EVERY_S:
            said = time.monotonic() - began
            yield told or f"{shown.value:.1f}"


def _post(to: str, key: str, reading: dict[str, float], trust: ssl.SSLContext | None) -> str:
    """Send one reading; what there is to say of it, nothing where it was taken. Raises: Refused."""
    headers = {"content-type": "application/json", "authorization": f"Bearer {key}"}
    url = f"{to.rstrip('/')}/api/readings"
    request = urllib.request.Request(url, json.dumps(reading).encode(), headers)
    try:
        with urllib.request.urlopen(request, timeout=PATIENCE_S, context=trust) as answer:
            return "; ".join(json.loads(answer.read())["says"])
    except urllib.error.HTTPError as error:
        body = error.read().decode("utf-8", "replace")
        try:
            message = str(json.loads(body)["faults"][0]["says"])
        except (ValueError, KeyError, IndexError):
            message = body[:200]
        if error.code in (401, 403):
            raise Refused(message) from None
        return f"refused: {message}"
    except OSError as error:
        time.sleep(WAIT_S)
        return f"not reached ({getattr(error, 'reason', error)}); trying again"
