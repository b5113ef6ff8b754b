"""XML read carefully: what a description may hold, and errors that name the place."""

import xml.etree.ElementTree as ET
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.interchange.chain import Joint
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.frames import Pose, rotation_by, unit
from rigid_bench.core.wording.language import _

_Array = NDArray[np.float64]
#: mm in a metre.
MM = 1000.0
_LARGEST = 1e6
#: rad or m: nothing turns or goes as far, so such an end of a joint is none.
_NO_END = 1e4
#: Below this the turns about x and z are about one line, and rounding would tell them apart.
_UPRIGHT = 1e-8


def parsed(data: bytes, *, name: str, root: str) -> ET.Element:
    """Read a description.

    Raises
    ------
    InvalidDocument
        It is no XML, has another root, or entities of its own.
    """
    if b"<!DOCTYPE" in data or b"<!ENTITY" in data:
        raise InvalidDocument(name, _("it defines entities of its own"), _("Export it without a document type"))
    try:
        element = ET.fromstring(data)
    except (ET.ParseError, ValueError) as exc:
        raise InvalidDocument(name, _("it is no XML ({exc})", exc=exc), _("Export it again")) from exc
    if element.tag != root:
        raise InvalidDocument(
            name, _("its root is '{tag}', not '{root}'", tag=element.tag[:40], root=root), _("Check the file's ending")
        )
    return element


def numbers(
    text: str | None, count: int, *, where: str, otherwise: Sequence[float] | None = None, most: float | None = _LARGEST
) -> _Array:
    """Read so many numbers below `most` (None for any); `otherwise` where there is none."""
    if text is None and otherwise is not None:
        return np.array(otherwise, dtype=float)
    try:
        values = np.array([float(word) for word in (text or "").split()])
    except ValueError:
        values = np.zeros(0)
    if len(values) != count or np.isnan(values).any() or (most and not np.all(np.abs(values) < most)):
        raise InvalidDocument(
            where,
            _("'{value}' is not {count} numbers that can be meant", value=(text or "")[:40], count=count),
            _("Mend it"),
        )
    return values


def attribute(element: ET.Element, name: str, *, where: str) -> str:
    """Return an attribute that must be there."""
    value = element.get(name)
    if not value:
        raise InvalidDocument(where, _("<{tag}> has no {name}", tag=element.tag, name=name), _("Give it one"))
    return value


def take_limits(joint: Joint, ends: Sequence[float], where: str) -> None:
    """Give a joint its limits, rad or m; descriptions write large numbers, or infinite ones, for ends that are none.

    Raises
    ------
    InvalidDocument
        The lower end is above the upper.
    """
    low, high = (float(np.clip(end, -_NO_END, _NO_END)) for end in ends)
    if low > high:
        raise InvalidDocument(
            where, _("its lower limit {low:g} is above its upper {high:g}", low=low, high=high), _("Change them")
        )
    if (low, high) == (-_NO_END, _NO_END):
        return
    if joint.kind == "revolute":
        joint.rotation = (low, high)
    else:
        joint.translation = (MM * low, MM * high)


def way(values: _Array, *, where: str) -> _Array:
    """Return a direction that is not nothing."""
    if np.linalg.norm(values) < 1e-9:
        raise InvalidDocument(where, _("an axis has no direction"), _("Give it one, such as 0 0 1"))
    return unit(values)


def from_rpy(xyz: _Array, rpy: _Array) -> Pose:
    """Return a pose from metres and turns about the fixed x, y and z (URDF, SDFormat)."""
    turn = (
        rotation_by(np.array([0, 0, rpy[2]]))
        @ rotation_by(np.array([0, rpy[1], 0]))
        @ rotation_by(np.array([rpy[0], 0, 0]))
    )
    return Pose(turn, MM * xyz)


def to_rpy(pose: Pose) -> tuple[str, str]:
    """Write a pose as metres, and as turns about the fixed x, y and z."""
    r = pose.rotation
    level = float(np.hypot(r[0, 0], r[1, 0]))
    pitch = float(np.arctan2(-r[2, 0], level))
    if level < _UPRIGHT:  # straight up or down: all the turn is told as yaw
        roll, yaw = 0.0, float(np.arctan2(-r[0, 1], r[1, 1]))
    else:
        roll, yaw = float(np.arctan2(r[2, 1], r[2, 2])), float(np.arctan2(r[1, 0], r[0, 0]))
    return text_of(pose.position / MM), text_of(np.array([roll, pitch, yaw]))


def text_of(values: "Sequence[float] | _Array") -> str:
    """Write numbers: nine digits after a metre's or a radian's point are the least that gives a build back."""
    return " ".join(f"{float(value) + 0.0:.12g}" for value in values)


def written(root: ET.Element) -> bytes:
    """Write a description."""
    ET.indent(root)
    data: bytes = ET.tostring(root, encoding="utf-8", xml_declaration=True)
    return data + b"\n"
