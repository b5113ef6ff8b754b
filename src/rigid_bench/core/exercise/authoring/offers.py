"""The dimensions that one or two pointed-at features have between them, worked out from the features alone."""

import math
from collections.abc import Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.pointing import Pointable
from rigid_bench.core.values.datums import CylinderFeature, PlaneFeature
from rigid_bench.core.values.frames import angle_between
from rigid_bench.core.wording.datums import between_words, side_words
from rigid_bench.core.wording.language import _

_Array = NDArray[np.float64]
#: Cosine: parallel, or square, to within this. A size below the second is none, in the exercise's unit.
_ALONG, _NOTHING = 1e-9, 1e-3


class Offer(Document):
    """One dimension that could be asked."""

    title: str
    measure: str
    nominal: float
    #: What the check says beside measure and nominal: `of`, `between`, `axis`.
    fields: dict[str, Any]


def offers(a: Pointable, b: Pointable | None = None) -> list[Offer]:
    """Return the dimensions of a feature, or between two, the usual one first.

    Parameters
    ----------
    a, b
        Of one part, in the exercise's unit.

    Returns
    -------
    list of Offer
        Empty where a drawing gives none, such as for one flat face alone.
    """
    offered = [*(_of_one(a) if b is None else _of_two(a, b))]
    return [offer for offer in offered if offer.nominal > _NOTHING]


def _of_one(own: Pointable) -> Iterator[Offer]:
    wall = own.feature.feature()
    if not isinstance(wall, CylinderFeature):
        return
    of = {"of": _dumped(own)}
    ways = [("diameter", f"Ø{2 * wall.radius:g}", 2 * wall.radius), ("radius", f"R{wall.radius:g}", wall.radius)]
    for measure, title, value in ways if own.goes_round else ways[::-1]:
        yield Offer(title=title, measure=measure, nominal=_rounded(value), fields=of)
    if own.depth is not None:
        yield Offer(
            title=_("Depth of Ø{radius:g}", radius=2 * wall.radius),
            measure="depth",
            nominal=_rounded(own.depth),
            fields=of,
        )


def _of_two(one: Pointable, other: Pointable) -> Iterator[Offer]:
    a, b = one.feature.feature(), other.feature.feature()
    between: dict[str, Any] = {"between": [_dumped(one), _dumped(other)]}
    if isinstance(a, PlaneFeature) and isinstance(b, PlaneFeature):
        if abs(float(a.normal @ b.normal)) > 1 - _ALONG:
            value = abs(float((b.point - a.point) @ a.normal))
            yield Offer(title=between_words(a, b), measure="length", nominal=_rounded(value), fields=between)
        else:
            value = math.degrees(angle_between(a.normal, b.normal))
            yield Offer(
                title=_("Angle of the {b}", b=side_words(b)), measure="angle", nominal=_rounded(value), fields=between
            )
    elif isinstance(a, CylinderFeature) and isinstance(b, CylinderFeature):
        if abs(float(a.direction @ b.direction)) > 1 - _ALONG:
            yield from _of_axes(a, b, between)
    else:
        wall, face = (a, b) if isinstance(a, CylinderFeature) else (b, a)
        assert isinstance(wall, CylinderFeature)
        assert isinstance(face, PlaneFeature)
        if abs(float(face.normal @ wall.direction)) < _ALONG:
            value = abs(float((wall.point - face.point) @ face.normal))
            title = _("Ø{diameter:g} from the {face}", diameter=2 * wall.radius, face=side_words(face))
            yield Offer(title=title, measure="position", nominal=_rounded(value), fields=between)


def _of_axes(a: CylinderFeature, b: CylinderFeature, between: dict[str, Any]) -> Iterator[Offer]:
    apart: _Array = b.point - a.point
    across = apart - float(apart @ a.direction) * a.direction
    title = _("Ø{a:g} to Ø{b:g}", a=2 * a.radius, b=2 * b.radius)
    yield Offer(title=title, measure="position", nominal=_rounded(float(np.linalg.norm(across))), fields=between)
    if np.count_nonzero(np.abs(across) > _NOTHING) > 1:
        for axis, value in zip("xyz", np.abs(across), strict=True):
            words = _("{title} along {axis}", title=title, axis=axis.upper())
            fields = {**between, "axis": axis}
            yield Offer(title=words, measure="position", nominal=_rounded(float(value)), fields=fields)


def _dumped(own: Pointable) -> dict[str, Any]:
    return own.feature.model_dump(mode="json", exclude_none=True)


def _rounded(value: float) -> float:
    return round(value, 4)
