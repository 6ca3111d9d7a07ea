"""What there is to say about a strap: its stops, its steel, the pull on it."""

from __future__ import annotations

import math

from ..common.findings import Change, Finding
from ..heat.springback_measures import leg_turns_deg
from ..heat.steam_plan import SteamHeat
from ..heat.strap_mechanics import STEEL_MPA, YIELDS_MPA, Strap, clamps_that_hold
from ..workpiece.workpiece import HotBlank, StraightenedPiece
from .check_context import Check, CheckContext

SQUARE_DEG = 90.0  # a leg that turns further is no longer closed by pulling up
MOST_RATIO = 2_000
HAND_N = 400.0  # one person's steady pull. Grade: allowance.
Steamed = CheckContext[HotBlank | StraightenedPiece]


def _strap(at: Steamed) -> Strap | None:
    heat = at.make.heat
    return heat.strap if isinstance(heat, SteamHeat) else None


def strap_holds(at: Steamed) -> Finding | None:
    """Whether the stops of the strap hold its thrust."""
    strap = _strap(at)
    if strap is None or not strap.slides:
        return None
    kind = at.job.heat.stop_clamp
    wanted = clamps_that_hold(strap.thrust_n, kind)
    change = Change("Weld the stops.", {"heat.stop": "welded"})
    if wanted <= 6:
        change = Change(f"Use {wanted} clamps at each stop.", {"heat.stop_clamps": wanted})
    return Finding(
        "heat.stop_slides",
        "stop",
        "bend",
        "The clamped stops will slide: the outside stretches and splits.",
        f"The end pressure is {at.force(strap.thrust_n)}; the clamps hold {at.force(strap.grip_n or 0)}.",
        change,
    )


def strap_stress(at: Steamed) -> Finding | None:
    """Whether the strap itself stands it."""
    strap = _strap(at)
    if strap is None or strap.stress_mpa <= STEEL_MPA:
        return None
    thick = at.job.heat.strap_mm * strap.stress_mpa / STEEL_MPA
    yields = YIELDS_MPA[at.job.heat.strap_of]
    steel = "stainless" if at.job.heat.strap_of == "stainless" else "mild steel"
    return Finding(
        "heat.strap_thin",
        "stop" if strap.stress_mpa > yields else "watch",
        "bend",
        f"The strap is at {at.stress(strap.stress_mpa)}; its working stress is {at.stress(STEEL_MPA)}.",
        f"{steel.capitalize()} yields from about {at.stress(yields)}; a strap that yields lets the outside stretch.",
        Change(f"Use {at.length(round(thick + 0.1, 1))}.", {"heat.strap_mm": round(thick + 0.1, 1)})
        if thick < 9.9
        else None,
    )


def stain(at: Steamed) -> Finding | None:
    """Whether iron would blacken the wood."""
    strap = _strap(at)
    if strap is None or not strap.stains:
        return None
    return Finding(
        "heat.stain",
        "watch",
        "bend",
        f"Iron stains wet {at.wood.said} black.",
        "Tannin and iron make ink: use stainless steel or tape, or put the hidden face to the strap.",
        Change("Tape between strap and wood.", {"heat.strap_of": "taped"}),
    )


def pull(at: Steamed) -> Finding | None:
    """Whether hands can pull it."""
    strap = _strap(at)
    if strap is None or strap.hand_n <= HAND_N * at.job.heat.hands:
        return None
    geared = max(2, math.ceil(1.1 * strap.pull_n / (HAND_N * at.job.heat.hands)))
    return Finding(
        "heat.heavy_pull",
        "watch",
        "bend",
        f"{at.force(strap.hand_n)} on the lever is too much for {at.job.heat.hands} "
        f"{'person' if at.job.heat.hands == 1 else 'people'}: use a winch.",
        f"One person pulls about {at.force(HAND_N)} steadily.",
        Change(f"Use a winch of {geared} to 1.", {"heat.ratio": float(geared)}) if geared <= MOST_RATIO else None,
    )


def slow_winch(at: Steamed) -> Finding | None:
    """Whether the winch closes before the wood is too cool to bend."""
    strap, heat = _strap(at), at.make.heat
    if strap is None or not isinstance(heat, SteamHeat) or heat.in_bag or not strap.close_s:
        return None
    steam, choice = heat.steam, at.job.heat
    left = steam.window_s - (steam.handling_s - choice.moves * choice.clamp_s / choice.hands)
    if strap.close_s <= left:
        return None
    quicker = math.floor(strap.ratio * left / strap.close_s) if left > 0 else 0
    return Finding(
        "heat.slow_winch",
        "watch",
        "bend",
        f"The winch needs {strap.close_s:.0f} s to close; only {max(0.0, left):.0f} s of working time are left.",
        f"It pulls in {at.length(strap.rope_mm)} of rope at {strap.ratio:g} to 1; in a bag there is no hurry.",
        Change(f"Use a winch of {quicker} to 1.", {"heat.ratio": float(quicker)}) if quicker >= 1 else None,
    )


def long_blank(at: Steamed) -> Finding | None:
    """Whether a blank that was measured does not go between the stops."""
    strap = _strap(at)
    long = next((f for f in strap.fits if f.is_too_long), None) if strap else None
    if strap is None or long is None:
        return None
    return Finding(
        "heat.blank_long",
        "watch",
        "bend",
        f"Blank {long.number} is {at.length(-long.shim_mm)} too long for the strap.",
        f"Between the stops there are {at.length(strap.length_mm)}; saw it before it is steamed.",
    )


def leg_past_square(at: Steamed) -> Finding | None:
    """Whether the pull must change its direction."""
    turns = leg_turns_deg(at.bend.on_form)
    if _strap(at) is None or turns < SQUARE_DEG:
        return None
    return Finding(
        "heat.pull_turns",
        "watch",
        "bend",
        f"A leg bends {turns:.0f}°: past square an upward pull no longer closes it.",
        "Run the line to a block on the far side, or finish with a bar clamp across.",
    )


STRAP: tuple[Check[HotBlank], ...] = (
    strap_holds,
    strap_stress,
    stain,
    pull,
    slow_winch,
    long_blank,
    leg_past_square,
)
