"""All kinds of shape: one file and one line here for each."""

from __future__ import annotations

from typing import Annotated, Any, get_args

from pydantic import Field

from ..common.errors import PlanError
from ..common.units import Unit
from .curve import Curve
from .kinds.arc_by_chord import ArcByChord
from .kinds.arc_by_length import ArcByLength
from .kinds.arc_by_points import ArcByPoints
from .kinds.arc_by_radius import ArcByRadius
from .kinds.eased_arc import EasedArc
from .kinds.ellipse import Ellipse
from .kinds.hook import Hook
from .kinds.hoop import Hoop
from .kinds.outline import Outline
from .kinds.parabola import Parabola
from .kinds.polycurve import Polycurve
from .kinds.ring import Ring
from .kinds.s import SBend
from .kinds.shape_base import Place, Point, ShapeBase, StartingCurve
from .kinds.u import UBend

Shape = Annotated[
    ArcByChord
    | ArcByRadius
    | ArcByLength
    | ArcByPoints
    | Hook
    | UBend
    | SBend
    | Hoop
    | Ring
    | EasedArc
    | Parabola
    | Ellipse
    | Polycurve
    | Outline,
    Field(discriminator="kind"),
]
SHAPES: dict[str, type[ShapeBase]] = {
    get_args(shape.model_fields["kind"].annotation)[0]: shape for shape in get_args(get_args(Shape)[0])
}  # by the kind each has in files
KINDS = tuple(SHAPES)

__all__ = ["KINDS", "SHAPES", "Place", "Point", "Shape", "restated"]


def restated(shape: ShapeBase, kind: str, unit: Unit = "mm") -> dict[str, Any]:
    """The fields of a shape of another kind: the same curve where that can say it, else one of its size to start from,
    in round figures of the unit.

    Raises: KeyError for a kind that is not known.
    """
    if kind == getattr(shape, "kind", None):
        return shape.model_dump()
    try:
        curve = shape.face_curve().merged()
        if shape.is_closed:  # cut open, it is most of a circle
            curve = Curve(curve.lengths_mm * 5 / 6, curve.curvature)
    except PlanError:
        curve = Curve.of([1000.0], [1 / 900.0])
    return {"kind": kind, "face": shape.face, **SHAPES[kind].started_from(StartingCurve(curve, unit))}
