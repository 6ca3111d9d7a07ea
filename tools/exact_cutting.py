"""Cutting solved exactly, by patterns and integers: what the plan's boards are measured against."""

import itertools

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp

from bright_willow.core.stock.boards import Board, StripDemand, Strips
from bright_willow.core.stock.cutting import cut_plan
from bright_willow.core.stock.sawing import lanes_of

KERF = 3.0


def small_case(seed):
    """Some boards of several sizes, some with a flaw, and strips of one to three kinds that they hold."""
    rng = np.random.default_rng(seed)
    boards = []
    for _ in range(int(rng.integers(6, 10))):
        long = float(rng.uniform(1000, 2200))
        at = float(rng.uniform(0.1, 0.9)) * long
        flaws = ((at, at + 60.0),) if rng.random() < 0.4 else ()
        boards.append(Board(52.0, float(rng.choice([110.0, 140.0, 170.0])), long, flaws))
    long = float(rng.uniform(450, 950))  # strips of a job are all as long as the outermost lamina
    kinds = tuple(
        StripDemand(float(rng.uniform(6, 14)), long, int(rng.integers(14, 36))) for _ in range(int(rng.integers(1, 4)))
    )
    return boards, Strips(kinds, 44.0, KERF)


def patterns(room, thick, kerf):
    """Every full lane: how many strips of each thickness."""
    most = [int((room + kerf + 1e-9) // (t + kerf)) for t in thick]
    fits = [
        p
        for p in itertools.product(*(range(m + 1) for m in most))
        if sum(n * (t + kerf) for n, t in zip(p, thick, strict=True)) <= room + kerf + 1e-9
    ]
    return [p for p in fits if any(p) and not any(all(q[i] >= p[i] for i in range(len(p))) and q != p for q in fits)]


def exact(boards, strips):
    """Fewest boards, then least of their wood: (boards, wood in mm³); None where they are not enough.

    A board is used one way; its clear stretches are cut into lengths as long as a kind, each length has lanes, each
    lane a pattern of strips no longer than it.
    """
    kinds = strips.kinds
    columns, use = [], []  # (what, board, row data)
    stretches = [(b, s) for b, board in enumerate(boards) for s in board.clear()]
    ways = [
        lanes_of(board_thick_mm=b.thickness_mm, board_wide_mm=b.width_mm, strip_wide_mm=strips.wide_mm, kerf_mm=KERF)
        for b in boards
    ]
    longs = sorted({k.long_mm for k in kinds})
    for b, own in enumerate(ways):
        use += [(b, w) for w in range(len(own))]
    columns += [("use", *u) for u in use]
    for i, (b, _) in enumerate(stretches):
        for w, lanes in enumerate(ways[b]):
            for long in longs:
                columns.append(("level", i, w, long))
                fit = [k for k, kind in enumerate(kinds) if kind.long_mm <= long + 1e-9]
                for p in patterns(lanes.room_mm, [kinds[k].thick_mm for k in fit], KERF):
                    count = [0] * len(kinds)
                    for k, n in zip(fit, p, strict=True):
                        count[k] = n
                    columns.append(("lane", i, w, long, tuple(count)))
    rows, low, high = [], [], []

    def row(take, least, most):
        rows.append([take(c) for c in columns])
        low.append(least)
        high.append(most)

    for b in range(len(boards)):
        row(lambda c, b=b: float(c[0] == "use" and c[1] == b), 0, 1)
    for i, (b, (start, end)) in enumerate(stretches):
        for w, lanes in enumerate(ways[b]):
            room = end - start + KERF

            def along(c, i=i, b=b, w=w, room=room):
                if c == ("use", b, w):
                    return -room
                return c[3] + KERF if c[0] == "level" and c[1] == i and c[2] == w else 0.0

            row(along, -np.inf, 1e-6)
            for long in longs:

                def across(c, i=i, w=w, long=long, lanes=lanes):
                    if c[0] == "lane" and c[1:4] == (i, w, long):
                        return 1.0
                    return -float(lanes.lanes) if c == ("level", i, w, long) else 0.0

                row(across, -np.inf, 0)
    for k, kind in enumerate(kinds):
        row(lambda c, k=k: float(c[4][k]) if c[0] == "lane" else 0.0, kind.count, np.inf)
    whole = sum(b.volume for b in boards)
    cost = [1.0 + boards[c[1]].volume / whole / 2 if c[0] == "use" else 0.0 for c in columns]
    made = milp(
        cost,
        constraints=LinearConstraint(np.array(rows), low, high),
        integrality=np.ones(len(columns)),
        bounds=Bounds(0, 500),
        options={"time_limit": 20.0, "mip_rel_gap": 1e-6},
    )
    if made.status != 0:
        return None
    used = [c[1] for c, x in zip(columns, made.x, strict=True) if c[0] == "use" and x > 0.5]
    return len(used), sum(boards[b].volume for b in used)


def against_exact(seeds):
    """Of each case that can be solved: the plan's wood and boards, over those of the exact answer."""
    made = []
    for seed in seeds:
        boards, strips = small_case(seed)
        best = exact(boards, strips)
        if best is None:
            continue
        ours = cut_plan(boards, strips)
        assert not ours.short, seed
        made.append((ours.volume / best[1], len(ours.boards) / best[0]))
    return made
