"""What a tablet that has joined may see and do, and pages without what it may not."""

from __future__ import annotations

import re

from .addresses import route_of

TABLETS_MAY_SEE = (
    r"/",
    r"/(bench|days|rack|book|shop)",
    r"/(presets|glossary)",
    r"/help(/[a-z0-9-]+)?",
    r"/help/pictures/[a-z0-9-]+\.png",
    r"/quick(/answer|/link|/print/[a-z]+)?",
    r"/days/(week\.pdf|day\.pdf|calendar\.ics)",
    r"/rack/(sheets|woods|lots/\d+)",
    r"/book/(learnt|track-record)",
    r"/jobs/\d+",
    r"/jobs/\d+/(why|pictures|trials|form/mine|offsets/print)",
    r"/jobs/\d+/pack\.pdf",
    r"/jobs/\d+/take/(?!bundle)[a-z0-9._-]+",
    r"/jobs/\d+/[a-z_]+(/steps|/history)?",
    r"/runs/\d+(/now|/state|/stream|/photo/[A-Za-z0-9-]+|/ease/\d+|/breakdown)?",
    r"/pictures/\d+(/body)?",
    r"/trials/\d+",
    r"/api/schema/(job|plan)",
)
TABLETS_MAY_DO = (
    r"/jobs/\d+/bench/start",
    r"/runs/\d+/(events|tap|pace|go-over|photo|ease/\d+)",
    r"/jobs/\d+/days/done",
    r"/jobs/\d+/[a-z_]+/try",
    r"/jobs/\d+/(built|pieces|photo)",
    r"/pieces/\d+/(again|verdict)",
    r"/pictures/\d+/(look|mark|unmark|size|piece)",
    r"/trials/\d+/(piece/\d+|bench|from-bench)",
)
"""What tablets may do: run the bench, look, measure. Whatever else the program does, removing, importing, exporting,
probes and the shop's figures, is done on the shop's own machine; so is what is added to it, until it is named here."""
_LINK = re.compile(r'<(a)\b[^>]*\bhref="(/[^"?#]*)[^>]*>')
_FORM = re.compile(r'<(form)\b[^>]*\bmethod="post"[^>]*\baction="(/[^"?#]*)[^>]*>')
_BUTTON = re.compile(r'<(button)\b[^>]*\bformaction="(/[^"?#]*)[^>]*>')


def for_tablet(html: str) -> str:
    """Return a page without the buttons and links that a tablet may not use; what it may not save cannot be typed in.

    >>> for_tablet('<form method="post" action="/jobs/5/shape/undo?seen=3"><button>undo</button></form>')
    '<form method="post" action="/jobs/5/shape/undo?seen=3" hidden><button>undo</button></form>'
    >>> for_tablet('<a href="/bench">Bench</a><a href="/shop/backup">backup</a>')
    '<a href="/bench">Bench</a><a href="/shop/backup" hidden>backup</a>'
    """

    def shut(tag: re.Match[str]) -> str:
        method = "GET" if tag[1] == "a" else "POST"
        if open_to_tablets(method, route_of(tag[2])):
            return tag[0]
        return f"{tag[0][:-1]} {'inert' if 'data-live' in tag[0] else 'hidden'}>"

    return _BUTTON.sub(shut, _FORM.sub(shut, _LINK.sub(shut, html)))


def open_to_tablets(method: str, path: str) -> bool:
    """Whether a tablet that has joined may ask for this."""
    allowed = TABLETS_MAY_SEE if method in ("GET", "HEAD") else TABLETS_MAY_DO if method == "POST" else ()
    return any(re.fullmatch(pattern, path) for pattern in allowed)
