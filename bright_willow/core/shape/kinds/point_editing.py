"""Points of a shape laid on its drawing, and pulled about on it: for arcs through points and for outlines."""

from __future__ import annotations

import numpy as np

from ...common.arrays import Array


def moved_onto(points: Array, ends: Array, there: Array, inside: Array | None = None) -> Array:
    """Points turned and moved so that two of them come to lie on two places; seen in a mirror where `inside` would
    otherwise lie below."""
    a, b = complex(*ends[0]), complex(*ends[1])
    p, q = complex(*there[0]), complex(*there[1])
    z = points[:, 0] + 1j * points[:, 1]
    if inside is not None and ((complex(*inside) - a) * (b - a).conjugate()).imag < 0:
        z, a, b = z.conj(), a.conjugate(), b.conjugate()
    laid = p + (z - a) * (q - p) / (b - a)
    return np.stack((laid.real, laid.imag), axis=1)


def shifted(own: Array, laid: Array, hand: Array, number: int, step: float) -> tuple[float, float]:
    """Where a point goes in its own coordinates, when it is pulled on the drawing."""
    a, b = (0, len(own) - 1)
    zo, zl = own[:, 0] + 1j * own[:, 1], laid[:, 0] + 1j * laid[:, 1]
    straight = (zl[b] - zl[a]) / (zo[b] - zo[a])
    same = np.allclose(zl[a] + (zo - zo[a]) * straight, zl, atol=1e-6 * max(1.0, float(np.abs(zl).max())))
    pull = complex(*hand) - zl[number]
    if same:
        moved = zo[number] + pull / straight
    else:  # seen in a mirror
        mirrored = (zl[b] - zl[a]) / (zo[b] - zo[a]).conjugate()
        moved = zo[number] + (pull / mirrored).conjugate()
    return to_step(moved.real, step), to_step(moved.imag, step)


def to_step(value: float, step: float) -> float:
    """A value to the nearest step."""
    return round(round(float(value) / step) * step, 6)
