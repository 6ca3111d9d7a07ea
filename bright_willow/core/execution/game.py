"""A steam or glue day played against a shop that is not there: its chamber, what goes wrong, and what came of it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from ..common.findings import Level
from ..common.operation import Operation
from .core_temperature import core_now
from .run_plan import Name, RunPlan
from .run_state import Mark, State
from .simulated_chamber import cold, stepped, topped_up

TROUBLES = 3  # that go wrong in a day, where there are so many
STEP_S = 10.0
DOOR_S = 8.0
LEFT_ON_S = 1800.0  # how long a chamber is still watched once the fire is out
COLD_K = 5.0  # below its goal at which a middle is cold enough to break. Grade: allowance.
SLOW = 0.5  # of the window, by which it may be overrun before a piece breaks. Grade: allowance.
WATER = "water"  # what is counted when the reservoir is filled again


@dataclass(frozen=True, slots=True)
class FaultResponse:
    """What can be done about it: what it says, whether it is right, what comes of it."""

    key: str
    message: str
    is_right: bool
    then: str


@dataclass(frozen=True, slots=True)
class GameFault:
    """Something that goes wrong: at which operations, how far into them, what is seen, and what can be done.

    spoils: whether a wrong choice loses the piece; stops_steam: no steam comes until it is dealt with rightly.
    """

    key: str
    comes_to: Callable[[Operation], bool]
    share: float
    message: str
    choices: tuple[FaultResponse, ...]
    spoils: bool = False
    stops_steam: bool = False


def _takes(what: str) -> Callable[[Operation], bool]:
    return lambda o: any(t.what == what for t in o.takes)


def _steams(o: Operation) -> bool:
    return o.warms is not None


TABLE: dict[str, GameFault] = {
    t.key: t
    for t in (
        GameFault(
            "dry",
            _steams,
            0.5,
            "The boiler has gone quiet, and the steam at the vent is thin.",
            (
                FaultResponse(
                    "heat", "Turn up the heat", False, "There is no water left to boil: the element glows dry."
                ),
                FaultResponse(
                    "fill", "Heat off, fill it with hot water, heat on", True, "It boils again within minutes."
                ),
                FaultResponse("vent", "Close the vent to save steam", False, "Never: a vent always stays open."),
            ),
            stops_steam=True,
        ),
        GameFault(
            "drain",
            _steams,
            0.3,
            "Water runs out at the door, and the vent has gone quiet: the drain is blocked.",
            (
                FaultResponse("wedge", "Wedge the door tighter", False, "Never: a sealed steam box is a bomb."),
                FaultResponse(
                    "clear", "Stand aside, clear drain and vent", True, "It drains, and the vent blows again."
                ),
            ),
            stops_steam=True,
        ),
        GameFault(
            "helper",
            _steams,
            0.93,
            "It is nearly time, and your helper is not back.",
            (
                FaultResponse("alone", "Do it alone", False, "Two hands for the strap, none for the clamps: it cools."),
                FaultResponse(
                    "wait", "Door shut, call the helper, start when both are ready", True, "It can wait a little."
                ),
            ),
            spoils=True,
        ),
        GameFault(
            "stop",
            _takes("strap"),
            0.4,
            "A gap opens at the far stop: it slips.",
            (
                FaultResponse(
                    "pull", "Pull on, it is nearly round", False, "The outside face stretches and splinters."
                ),
                FaultResponse(
                    "ease", "Ease back, tighten the stop, go on", True, "A few seconds lost, and not a fiber."
                ),
            ),
            spoils=True,
        ),
        GameFault(
            "slide",
            lambda o: _takes("clamps")(o) and o.window is not None,
            0.5,
            "The strips slide sideways as the clamps bite.",
            (
                FaultResponse(
                    "harder", "Tighten harder to hold them", False, "They stay that way: a step in the edge."
                ),
                FaultResponse(
                    "flush", "Ease off, knock the edges flush, snug from the middle", True, "The edges are flush."
                ),
            ),
        ),
        GameFault(
            "bag",
            _takes("bag"),
            0.5,
            "The gauge falls, and something hisses.",
            (
                FaultResponse("pump", "Let the pump run, it will keep up", False, "It runs hot; the ends lift off."),
                FaultResponse("find", "Listen along the seal, press tape on it", True, "The needle climbs back."),
            ),
            spoils=True,
        ),
        GameFault(
            "visitor",
            lambda o: o.window is None and bool(o.moves) and not _takes("form")(o),
            0.5,
            "Somebody knocks: a customer with a question.",
            (
                FaultResponse("talk", "A minute can do no harm", False, "The first line has begun to skin."),
                FaultResponse("later", "Call out that you are gluing, and go on", True, "They come back after supper."),
            ),
        ),
        GameFault(
            "brown",
            _takes("iron"),
            0.6,
            "It smells of toast, and the wood browns.",
            (
                FaultResponse("on", "Press on quickly", False, "A brown stripe, and brittle under it."),
                FaultResponse(
                    "lift", "Lift it off, damp it, let the iron cool a little", True, "It bends without a mark."
                ),
            ),
            spoils=True,
        ),
    )
}


@dataclass(frozen=True, slots=True)
class Incident:
    """Something that went wrong in a game: when, to which load or piece, and what was done about it."""

    trouble: GameFault
    name: Name
    at_s: float
    choice: FaultResponse | None
    chosen_s: float | None

    @property
    def client(self) -> str:
        """What it is called when it is dealt with."""
        return f"{self.trouble.key}.{self.name[0]}.{self.name[1]}"

    @property
    def is_right(self) -> bool:
        return self.choice is not None and self.choice.is_right


@dataclass(frozen=True, slots=True)
class LoadOutcome:
    """What came of a load: how good, and why."""

    number: int
    level: Level
    message: tuple[str, ...]


@dataclass(frozen=True)
class GameState:
    """Where a game stands: what the chamber shows (time, °C), water left, what went wrong, what came of each load."""

    chamber: tuple[tuple[float, float], ...]
    water_l: float | None
    happened: tuple[Incident, ...]
    came: tuple[LoadOutcome, ...]

    @property
    def waiting(self) -> Incident | None:
        """What is to be dealt with now."""
        return next((h for h in self.happened if h.choice is None), None)


def played(brief: RunPlan, state: State) -> GameState:
    """Where a game stands at the state's time. Pure: the same brief and state, the same game. Raises: PlanError."""
    happened = _happened(brief, state)
    chamber, water = _chamber(brief, state, happened)
    return GameState(chamber, water, happened, _came(brief, state, happened, chamber))


def drawn(brief: RunPlan) -> tuple[tuple[GameFault, Name], ...]:
    """What will go wrong, by the seed of the game: at most three, of as many kinds as can be."""
    dice = np.random.default_rng(brief.seed)
    fits: list[tuple[GameFault, Name]] = []
    for trouble in TABLE.values():
        own = [o for o in brief.operations if trouble.comes_to(o)]
        if own:
            often = brief.batches.often(own[0].scope)
            number = -1 if own[0].scope == "job" else int(dice.integers(min(often, 3)))
            fits.append((trouble, (own[0].key, number)))
    order = dice.permutation(len(fits))
    return tuple(fits[i] for i in sorted(order[:TROUBLES]))


def _happened(brief: RunPlan, state: State) -> tuple[Incident, ...]:
    made = []
    for trouble, name in drawn(brief):
        mark = state.marks.get(name)
        if mark is None:
            continue
        o = brief.of[name[0]]
        lasts = min(o.window.seconds, o.lasts_s) if o.window else o.lasts_s
        at = mark.from_s + trouble.share * lasts
        if at > state.now_s or (mark.to_s is not None and mark.to_s <= at):
            continue
        told = Incident(trouble, name, at, None, None)
        key, when = state.handled.get(told.client, ("", 0.0))
        choice = next((c for c in trouble.choices if c.key == key), None)
        made.append(Incident(trouble, name, at, choice, when if choice else None))
    return tuple(sorted(made, key=lambda h: h.at_s))


def _chamber(
    brief: RunPlan, state: State, happened: tuple[Incident, ...]
) -> tuple[tuple[tuple[float, float], ...], float | None]:
    """What its thermometer showed every ten seconds while it was lit and a while after, and the water left."""
    box = brief.chamber
    if box is None:
        return (), None
    lit, doors = _lit(brief, state.marks, state.now_s), list[tuple[float, float]]()
    for (key, _), mark in state.marks.items():
        o = brief.of[key]
        if not o.keeps_s and _takes("chamber")(o):
            doors.append(((mark.to_s or mark.from_s + DOOR_S) - DOOR_S, mark.to_s or mark.from_s + DOOR_S))
        elif not o.keeps_s and "chamber" in o.frees:
            doors.append((mark.from_s, mark.from_s + DOOR_S))
    dry = [(h.at_s, h.chosen_s if h.is_right else None) for h in happened if h.trouble.stops_steam]
    fills = sorted(e.at_s for e in state.told if e.kind == "count" and e.text == WATER)
    fills += [to for _, to in dry if to is not None]
    if not lit:
        return (), box.reservoir_l
    at, now, shown = lit[0][0], cold(box), list[tuple[float, float]]()
    end = min(state.now_s, lit[-1][1] + LEFT_ON_S)
    while at <= end:
        shown.append((at, now.air_c))
        if any(at - STEP_S < f <= at for f in fills):
            now = topped_up(box, now)
        no_steam = any(a <= at and (b is None or at < b) for a, b in dry)
        now = stepped(
            box,
            now,
            STEP_S,
            is_lit=not no_steam and any(a <= at < b for a, b in lit),
            is_open=any(a < at + STEP_S and at < b for a, b in doors),
        )
        at += STEP_S
    return tuple(shown), now.water_l


def _lit(brief: RunPlan, marks: Mapping[Name, Mark], now_s: float) -> list[tuple[float, float]]:
    """From when to when there is fire under it: from each warming up to the door opening for the last time."""
    made = []
    for (key, number), mark in marks.items():
        if brief.of[key].keeps_s and _takes("chamber")(brief.of[key]):
            outs = [
                m.from_s
                for (k, n), m in marks.items()
                if n == number and not brief.of[k].keeps_s and "chamber" in brief.of[k].frees
            ]
            made.append((mark.from_s, outs[0] if outs else now_s + STEP_S))
    return sorted(made)


def _came(
    brief: RunPlan, state: State, happened: tuple[Incident, ...], chamber: tuple[tuple[float, float], ...]
) -> tuple[LoadOutcome, ...]:
    """What came of every load whose hurry is over: whole, marked or lost, and why."""
    made = []
    for (key, number), mark in state.marks.items():
        o = brief.of[key]
        if o.window is None or mark.to_s is None:
            continue
        bad, worse = list[str](), list[str]()
        since = state.marks.get((o.window.since, number), mark)
        late = mark.to_s - since.from_s - o.window.seconds
        if late > SLOW * o.window.seconds:
            worse.append(f"{late:.0f} s longer than {o.window.message}: lost.")
        elif late > 0:
            bad.append(f"{late:.0f} s longer than {o.window.message}.")
        steam = next((b for b in brief.operations if b.warms and (b.key, number) in state.marks), None)
        if steam and steam.warms:
            inside = state.marks[(steam.key, number)]
            core = core_now(steam.warms, in_s=inside.from_s, now_s=mark.from_s, readings=chamber)
            if core.at_c < steam.warms.goal_c - COLD_K:
                worse.append("Its middle was too cool: it cracked.")
            if steam.latest_s is not None and mark.from_s - inside.from_s > steam.latest_s:
                bad.append("Too long in the steam: the fibers are brittle.")
        for h in happened:
            if h.name[1] == number and h.choice is not None and not h.is_right:
                (worse if h.trouble.spoils else bad).append(h.choice.then)
        level: Level = "stop" if worse else "watch" if bad else "fit"
        made.append(LoadOutcome(number, level, tuple(worse + bad)))
    return tuple(made)
