"""A bend: every curve of one piece, worked out once, and what it opens."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..common.arrays import Array
from ..common.estimate import Estimate, Figure
from ..learning.belief import Belief
from ..learning.settling import settled_curvature
from ..shape.curve import Curve, tip_distance_mm
from ..springback.law import SpringbackLaw


@dataclass(frozen=True, slots=True)
class Springback:
    """What the piece does when it leaves the form. tip_mm: how far each end opens from form to release.

    settling_tip_mm, settling_share: what it goes on opening over weeks, at each end and as a share of its curvature.
    missed_tip_mm: how far the released tips lie from where they are wanted; none when the form is computed.
    """

    tip_mm: Estimate
    loss_share: Estimate
    loss_ratio: Estimate
    bends: int
    basis: str
    settling_tip_mm: Figure
    settling_share: Estimate
    to_size_tip_mm: Figure
    missed_tip_mm: Figure
    kind: Literal["springback"] = "springback"


@dataclass(frozen=True, slots=True)
class NoSpringback:
    """A ring glued all round: there is nothing that could open."""

    message: str = "A ring glued all around cannot spring back."
    kind: Literal["closed"] = "closed"


@dataclass(frozen=True, slots=True)
class Straight:
    """A bowed piece bent back: what is wanted and expected is straight."""

    message: str = "Expect it straight."
    kind: Literal["straight"] = "straight"


Opens = Springback | NoSpringback | Straight


@dataclass(frozen=True, eq=False)
class Bend:
    """The curves of one piece. All but the blank have the cells of the finished mid-line.

    stated: as the maker drew it: what is wanted, or the bow of a piece that is to be straight. target: what is wanted.
    on_form: on the form. blank: the same, trims included. released: off it, at the low, likely and high end of the
    loss ratio. dried: the same once it has dried in what holds it. by_mechanics: off it at a loss ratio of 1. settled:
    after some weeks.
    """

    stated: Curve
    target: Curve
    on_form: Curve
    blank: Curve
    trims_mm: tuple[float, float]
    released: tuple[Curve, Curve, Curve]
    dried: tuple[Curve, Curve, Curve]
    by_mechanics: Curve
    settled: Curve
    loss_ratio: Estimate
    opens: Opens

    @property
    def trim_mm(self) -> float:
        """What is left to trim at the end that has more of it."""
        return max(self.trims_mm)

    @property
    def likely(self) -> Curve:
        """Released, as is likely."""
        return self.released[1]

    @property
    def released_curvature(self) -> Array:
        """(3, n) curvature after release at the low, likely and high end of the loss ratio, 1/mm."""
        return np.stack([c.curvature for c in self.released])

    @property
    def tip_mm(self) -> Estimate:
        """How far each end opens; nothing where nothing can open."""
        nothing = Estimate(0.0, 0.0, 0.0, "physics")
        return self.opens.tip_mm if isinstance(self.opens, Springback) else nothing

    @property
    def is_its_own_mirror(self) -> bool:
        """Whether the piece is the same seen from its other end."""
        k, lengths = self.target.curvature, self.target.lengths_mm
        alike = np.allclose(k, k[::-1], rtol=1e-6, atol=1e-12)
        return bool(alike and np.allclose(lengths, lengths[::-1], rtol=1e-6))


def bend_on(
    *,
    stated: Curve,
    target: Curve,
    k_form: Array,
    law: SpringbackLaw,
    belief: Belief,
    settles: Estimate,
    trims_mm: tuple[float, float],
    cannot_open: NoSpringback | Straight | None,
    dried: Callable[[Array, Array], Array],
    is_pulled: bool = False,
) -> Bend:
    """Every curve of a piece bent to a form curvature (n,) 1/mm, by the law of its way and what this shop believes.

    Source: docs/model.md#cold-lamination.

    Args:
        stated: the centerline as the maker drew it.
        target: the centerline wanted.
        k_form: (n,) curvature on the form.
        law: of its bending method.
        belief: how much this shop's pieces lose compared with the law.
        settles: the share of its curvature it gives up over weeks.
        trims_mm: at the left and the right end, 0 or more.
        cannot_open: a ring glued all round, or a piece that is bent straight; None for any other.
        dried: what released curvatures (3, n) dry to, given the target's.
        is_pulled: whether it is pulled to size off the form: then what it dries to is compared with what is wanted.
    """
    ratio = belief.next_bend()
    on_form = target.with_curvature(k_form)
    released = law.release(k_form, loss_ratio=np.array([ratio.low, ratio.likely, ratio.high])[:, None])
    once_dry = dried(released, target.curvature)
    ends_as = once_dry[1] if is_pulled else released[1]
    return Bend(
        stated=stated,
        target=target,
        on_form=on_form,
        blank=on_form.lengthened(*trims_mm) if any(trims_mm) else on_form,
        trims_mm=trims_mm,
        released=_curves(target, released),
        dried=_curves(target, once_dry),
        by_mechanics=target.with_curvature(law.release(k_form, loss_ratio=1.0)),
        settled=target.with_curvature(settled_curvature(released[1], settles.likely)),
        loss_ratio=ratio,
        opens=cannot_open or springback(law, target, k_form, released, ends_as, belief, settles),
    )


def _curves(cells: Curve, curvature: Array) -> tuple[Curve, Curve, Curve]:
    """Three curves over the same cells. curvature: (3, n)."""
    low, likely, high = (cells.with_curvature(k) for k in curvature)
    return low, likely, high


def springback(
    law: SpringbackLaw,
    target: Curve,
    k_form: Array,
    released: Array,
    ends_as: Array,
    belief: Belief,
    settles: Estimate,
) -> Springback:
    """What a piece opens, and how far it then lies from what is wanted.

    Args:
        law: of its bending method.
        target: the centerline wanted.
        k_form: (n,) curvature on the form, 1/mm.
        released: (3, n) at the low, likely and high end of the loss ratio, 1/mm.
        ends_as: (n,) curvature that is compared with what is wanted, 1/mm.
        belief: how much this shop's pieces lose compared with the law.
        settles: the share of its curvature it gives up over weeks.
    """
    ratio = belief.next_bend()
    opened = tip_distance_mm(target.lengths_mm, k_form, released)
    tight = int(np.argmax(np.abs(k_form)))
    lost = 1 - released[:, tight] / k_form[tight]
    tip, share = Estimate.around(opened, ratio.grade), Estimate.around(lost, ratio.grade)
    settling, to_size, missed = map(
        float,
        tip_distance_mm(
            target.lengths_mm,
            np.stack((released[1], target.curvature, ends_as)),
            np.stack(
                (
                    settled_curvature(released[1], settles.likely),
                    law.release(target.curvature, loss_ratio=ratio.likely),
                    target.curvature,
                )
            ),
        ),
    )
    return Springback(
        tip,
        share,
        ratio,
        belief.bends,
        basis_of(belief),
        Figure(settling, settles.grade),
        settles,
        Figure(to_size, ratio.grade),
        Figure(missed, ratio.grade),
    )


def basis_of(belief: Belief) -> str:
    """What a figure of springback rests on."""
    if belief.bends:
        return f"from {belief.bends} of your measured bends of this kind or close to it"
    return "calculated; the range is wide until you log your own bends"
