"""A practice run in words: what went wrong, what was done about it, and what came of each load."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from typing import Any

from ..core.common.estimate import LEARNT, OWN_FIGURE
from ..core.common.findings import Level
from ..core.execution.run_records import mean_take, went
from ..services.bench_runs import RunNow


# -- games -------------------------------------------------------------------------------------------------------------
def trouble_view(now: RunNow) -> dict[str, Any] | None:
    """What is to be dealt with now."""
    waits = now.played.waiting if now.played else None
    if waits is None:
        return None
    taps = [tap_button(c.message, "handle", of=waits.client, text=c.key) for c in waits.trouble.choices]
    return {"message": waits.trouble.message, "whom": now.brief.whom(waits.name), "taps": taps}


def dealt_rows(now: RunNow) -> list[tuple[Level, str, str]]:
    """What went wrong, and what came of what was done."""
    told = [h for h in now.played.happened if h.choice] if now.played else []
    return [("fit" if h.is_right else "stop", h.trouble.message, h.choice.then if h.choice else "") for h in told]


def came_rows(now: RunNow) -> list[tuple[Level, str, str]]:
    game = now.played
    words = {"fit": "came out whole", "watch": "came out, with a mark", "stop": "failed"}
    made = []
    for c in game.came if game else ():
        own = now.brief.batches.at_once
        name = f"Piece {c.number + 1}" if own == 1 else f"Batch {c.number + 1}"
        made.append((c.level, f"{name} {words[c.level]}", " ".join(c.message)))
    return made


# -- rehearsals --------------------------------------------------------------------------------------------------------
def practice(now: RunNow) -> dict[str, Any]:
    """The moves gone through cold: where the take at hand stands, and what the takes come to against the window."""
    moves, takes = now.moves, now.takes
    ends = now.state.takes[-1] if now.state.takes else ()
    at = len(ends) - 1 if ends and len(ends) <= len(moves) else None
    window = next((o.window for o in now.brief.operations if o.window), None)
    rows = []
    last, mean = (takes[-1] if takes else None), mean_take(takes)
    for n, (_, move) in enumerate(moves):
        rows.append(
            {
                "message": move.message,
                "who": move.who,
                "planned": f"{move.takes_s:.0f} s",
                "last": f"{last.moves_s[n]:.0f} s" if last else "",
                "mean": f"{mean.moves_s[n]:.0f} s" if mean else "",
                "is_now": n == at,
            }
        )
    verdict = went(last.total_s, window) if last and window else None
    return {
        "rows": rows,
        "count": len(moves),
        "at": at,
        "began_s": ends[0] if at is not None and ends else None,
        "move_s": ends[-1] if at is not None and ends else None,
        "window_s": window.seconds if window else None,
        "window": f"{window.seconds:.0f} s" if window else "",
        "grade": LEARNT if moves and all(o.attended_s.grade == LEARNT for o, _ in moves) else OWN_FIGURE,
        "window_text": window.message if window else "",
        "planned": f"{sum(m.takes_s for _, m in moves):.0f} s",
        "takes": len(takes),
        "last": f"{last.total_s:.0f} s" if last else "",
        "mean": f"{mean.total_s:.0f} s" if mean else "",
        "verdict": verdict,
        "go": tap_button("Go" if not takes else "Go again", "again", is_main=True),
        "next": tap_button("Done: next" if at is not None and at + 1 < len(moves) else "Done", "move", is_main=True),
        "can_keep": bool(takes) and any(m.sets for _, m in moves),
    }


@dataclass(frozen=True)
class TapButton:
    """A button: what it says, and the event it makes. client: what that event will be called."""

    message: str
    kind: str
    key: str = ""
    number: int = -1
    is_main: bool = False
    of: str = ""
    text: str = ""
    client: str = ""


def tap_button(message: str, kind: str, **more: Any) -> TapButton:
    """A button with a name for its event."""
    return TapButton(message, kind, client=secrets.token_hex(8), **more)
