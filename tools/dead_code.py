"""Names nothing uses: functions, classes, methods and properties of the program. Run by `make check`."""

from __future__ import annotations

import re
import sys
from pathlib import Path

from vulture import Vulture

ROOT = Path(__file__).parents[1]
# Called by a framework, by their names or by their decorators; or set on an object of a library.
CALLED = ("@router.*", "@api.*", "@app.*", "@field_validator", "@model_validator", "@*.websocket")
NAMES = ("Meta", "capture_signals", "should_exit", "text_factory", "writeable", "accept")
KINDS = ("function", "class", "method", "property", "import")


def unused() -> list[str]:
    """Return what nothing uses, by file and line. A name in a template is used by it."""
    finder = Vulture(ignore_names=list(NAMES), ignore_decorators=list(CALLED))
    finder.scavenge([str(ROOT / folder) for folder in ("bright_willow", "tests", "tools")])
    templates = "".join(p.read_text() for p in (ROOT / "bright_willow/web/templates").rglob("*.html"))
    said = set(re.findall(r"\w+", templates))
    return [
        f"{item.filename.relative_to(ROOT)}:{item.first_lineno}: {item.typ} {item.name}"
        for item in finder.get_unused_code(min_confidence=60)
        if item.typ in KINDS
        and item.name not in said
        and "bright_willow" in item.filename.parts
        and "migrations" not in item.filename.parts
    ]


if __name__ == "__main__":
    found = unused()
    print("\n".join(found) or "No unused code.")
    sys.exit(bool(found))
