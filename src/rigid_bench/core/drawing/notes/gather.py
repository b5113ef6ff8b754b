"""What is written on a drawing: one feature, one note (ISO 129-1), as a line, a leader or a line of the list."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.drawing.notes.box import box_of
from rigid_bench.core.drawing.notes.note import Linear, Listed, Note, Pointed
from rigid_bench.core.drawing.notes.signs import with_signs
from rigid_bench.core.drawing.notes.written import Written
from rigid_bench.core.exercise.bundle import CheckModel, features_of
from rigid_bench.core.formats.pictures import AskedSize, PartPictures, RoundModel
from rigid_bench.core.values.datums import (
    AxisFeature,
    ConeFeature,
    CylinderFeature,
    Feature,
    PlaneFeature,
    SphereFeature,
)
from rigid_bench.core.wording.language import _
from rigid_bench.core.wording.phrases import walls_through
from rigid_bench.core.wording.saying import say

_Array = NDArray[np.float64]
_LINEAR = {"length", "thickness", "position", "edge_length", "across_flats", "depth", "off_centre"}
_OF_HOLES = {
    "diameter", "radius", "depth", "count", "pattern_count", "pierces", "pitch_circle", "countersink_diameter",
    "countersink_angle",
}  # fmt: skip
#: Measures that each wall on an axis may have of its own, with their signs.
_BY_RADIUS = {"diameter": "Ø", "radius": "R", "depth": "↧"}
#: mm: axes and radii that differ by less are one.
_ONE = 1e-3
_SQUARE = 1e-6
#: Cones that are so many times as long as they narrow are written by their taper.
_TAPER = 3


@dataclass(slots=True)
class _Round:
    """What is asked of the round walls on one axis."""

    point: _Array
    direction: _Array
    checks: list[str] = field(default_factory=list)
    diameters: dict[float, str] = field(default_factory=dict)
    depths: dict[float, str] = field(default_factory=dict)
    radii: dict[float, str] = field(default_factory=dict)
    through: dict[float, str] = field(default_factory=dict)
    #: By check: the radius that it speaks of, and the number that it asks.
    radius_of: dict[str, float] = field(default_factory=dict)
    counts: dict[str, int] = field(default_factory=dict)
    circle: str = ""
    sink: str = ""
    sink_angle: str = ""
    thread: str = ""

    @property
    def count(self) -> int:
        """How many there are; 1 where no check asks."""
        return max([1, *(self.counts[check] for check in self.checks if check in self.counts)])


def notes_of(
    checks: Sequence[CheckModel],
    sizes: Mapping[str, AskedSize],
    pictures: PartPictures,
    *,
    mm: float,
    written: Written,
) -> list[Note]:
    """Gather what is asked of a part to dimensions and notes.

    Parameters
    ----------
    checks
        Of the part: dimensions and threads.
    sizes
        What each asks, in the exercise's unit.
    pictures
        How the part is seen, with its holes and bosses.
    mm
        Millimetres in the exercise's unit.
    written
        How sizes are written.

    Returns
    -------
    list of Note
        Every check stands in one of them.
    """
    notes: list[Note] = []
    rounds: dict[tuple[float, ...], _Round] = {}
    box = box_of(pictures)
    for check in checks:
        if check.kind not in ("dimension", "thread") or (check.kind == "dimension" and check.id not in sizes):
            continue
        features = features_of(check, mm)
        note = _linear(check, features, sizes, box, written)
        if note is None and _is_of_round(check, features):
            _gather(rounds, check, features[0], sizes, written)
            continue
        notes.append(note or _other(check, features, sizes, written))
    for round_wall in rounds.values():
        notes += _round_notes(round_wall, pictures.rounds)
    exact = {check.id for check in checks if _is_exact(check)}
    notes = [_framed(note, exact) for note in _bracketed(_at_one_place(_at_one_face(notes)))]
    return with_signs(notes, checks, pictures)


def _is_exact(check: CheckModel) -> bool:
    """Say whether a size is theoretically exact: it may not differ at all (ISO 129-1)."""
    tolerance = check.fields.get("tolerance")
    return isinstance(tolerance, dict) and not any(float(tolerance.get(side, 0)) for side in ("minus", "plus"))


def _framed(note: Note, exact: set[str]) -> Note:
    if isinstance(note, Listed) or not note.checks or not exact.issuperset(note.checks):
        return note
    return replace(note, exact=True)


def _tuple(vector: _Array) -> tuple[float, float, float]:
    x, y, z = (round(float(value), 6) for value in vector)
    return x, y, z


def _linear(
    check: CheckModel, features: Sequence[Feature], sizes: Mapping[str, AskedSize], box: _Array, written: Written
) -> Linear | None:
    mm = written.mm
    measure = check.fields.get("measure")
    if measure == "extent":
        axis = "xyz".index(str(check.fields.get("axis", "x")))
        low, high = box[0].copy(), box[0].copy()
        high[axis] = box[1][axis]
        return Linear(
            checks=(check.id,), text=written.size(check, sizes[check.id]), way=_tuple(np.eye(3)[axis]),
            points=(_tuple(low), _tuple(high)), axes=(None, None), marks=check.marks, is_extent=True,
        )  # fmt: skip
    if measure == "across_flats" and len(features) == 1 and isinstance(features[0], PlaneFeature):
        flat, far = features[0], sizes[check.id].nominal * mm
        ends = (_tuple(flat.point), _tuple(flat.point - far * flat.normal))
        return Linear(
            checks=(check.id,), text=written.size(check, sizes[check.id]), way=_tuple(flat.normal), points=ends,
            axes=(None, None), marks=check.marks,
        )  # fmt: skip
    sided = [feature for feature in features if isinstance(feature, PlaneFeature | AxisFeature)]
    if measure not in _LINEAR or len(sided) < 2 or len(features) != len(sided):
        return None
    first, second = sided[:2]
    way = _way(first, second, check.fields.get("axis"))
    if way is None:
        return None
    return Linear(
        checks=(check.id,), text=written.size(check, sizes[check.id]), way=_tuple(way),
        points=(_tuple(first.point), _tuple(second.point)),
        axes=(_axis_of(first), _axis_of(second)), marks=check.marks,
    )  # fmt: skip


def _axis_of(feature: PlaneFeature | AxisFeature) -> tuple[float, float, float] | None:
    return _tuple(feature.direction) if isinstance(feature, AxisFeature) else None


def _way(first: PlaneFeature | AxisFeature, second: PlaneFeature | AxisFeature, axis: object) -> _Array | None:
    """Return the direction along which a distance is measured; None for a point of no extent."""
    if axis in ("x", "y", "z"):
        named: _Array = np.eye(3)["xyz".index(str(axis))]
        return named
    flat = next((feature for feature in (first, second) if isinstance(feature, PlaneFeature)), None)
    if flat is not None:
        return flat.normal
    apart = second.point - first.point
    apart = apart - float(apart @ first.direction) * first.direction
    length = float(np.linalg.norm(apart))
    return apart / length if length > _SQUARE else None


def _is_of_round(check: CheckModel, features: Sequence[Feature]) -> bool:
    is_round = len(features) == 1 and isinstance(features[0], AxisFeature)
    return is_round and (check.kind == "thread" or check.fields.get("measure") in _OF_HOLES)


def _gather(
    rounds: dict[tuple[float, ...], _Round],
    check: CheckModel,
    feature: Feature,
    sizes: Mapping[str, AskedSize],
    written: Written,
) -> None:
    """Write down at its axis what a check asks of something round."""
    assert isinstance(feature, AxisFeature)
    direction = feature.direction if tuple(feature.direction) > (0, 0, 0) else -feature.direction
    foot = feature.point - float(feature.point @ direction) * direction
    key = tuple(np.round([*foot, *direction], 3).tolist())
    own = rounds.setdefault(key, _Round(feature.point, direction))
    own.checks.append(check.id)
    radius = round(feature.radius, 4) if isinstance(feature, CylinderFeature) else 0.0
    own.radius_of[check.id] = radius
    if check.kind == "thread":
        depth = check.fields.get("depth")
        hand = " LH" if check.fields.get("hand") == "left" else ""
        own.thread = f"{check.fields['thread']}{hand}" + (f" ↧{written.number(float(depth))}" if depth else "")
        return
    measure, size = str(check.fields.get("measure")), sizes[check.id]
    if measure in _BY_RADIUS:
        texts, sign = (
            {"diameter": own.diameters, "radius": own.radii, "depth": own.depths}[measure],
            _BY_RADIUS[measure],
        )
        # what is only shown does not tell a size that the student is to decide
        if radius not in texts or check.fields.get("value") != "shown":
            texts[radius] = written.size(check, size, sign)
    elif measure == "pierces":
        own.through[radius] = "through" if round(size.nominal) == 1 else say(walls_through(size.nominal))
    elif measure in ("count", "pattern_count"):
        own.counts[check.id] = round(size.nominal)
    elif measure == "pitch_circle":
        own.circle = written.size(check, size, "Ø")
    elif measure == "countersink_diameter":
        own.sink = written.size(check, size, "⌵Ø")
    else:
        own.sink_angle = written.size(check, size)


def _round_notes(own: _Round, rounds: Sequence[RoundModel]) -> list[Note]:
    """Write the note of what is round on one axis, with all places where the same stands."""
    here = [round_feature for round_feature in rounds if _is_on(round_feature, own.point, own.direction)]
    kinds = {round(round_feature.diameter / 2, 4): round_feature.kind for round_feature in here}
    checks = tuple(own.checks)
    bosses = [radius for radius in own.diameters if kinds.get(radius) in ("boss", "round end")]
    if bosses and not own.thread:
        outside, inside = _parted(own, bosses)
        return [*_across(outside, here), *(_round_notes(inside, rounds) if inside.checks else [])]
    text = _hole_text(own)
    radius = min([*own.diameters, *own.radii, *own.depths, *own.through], default=0.0)
    is_arc = bool(own.radii) and not own.diameters
    points = [own.point]
    if own.count > 1:
        points += [
            np.array(round_feature.start)
            for round_feature in rounds
            if abs(round_feature.diameter / 2 - radius) < _ONE and _is_parallel(round_feature, own.direction)
        ]
    return [
        Pointed(
            checks=checks, text=text, points=tuple(dict.fromkeys(_tuple(point) for point in points)),
            direction=_tuple(own.direction), radius=radius, target="arc" if is_arc else "hole",
        )
    ]  # fmt: skip


def _hole_text(own: _Round) -> str:
    """Write a hole as it is made: drilled, then widened where it opens."""
    pieces = []
    for number_of_wall, radius in enumerate(sorted({*own.diameters, *own.radii, *own.depths, *own.through})):
        words = [own.diameters.get(radius) or own.radii.get(radius) or "", own.depths.get(radius, "")]
        words.append(own.through.get(radius, ""))
        if own.thread and not number_of_wall:
            words.insert(0, own.thread)
        step = " ".join(filter(None, words))
        pieces.append(f"⌴{step}" if number_of_wall and own.diameters.get(radius) else step)
    if own.thread and not pieces:
        pieces.append(own.thread)
    if own.sink or own.sink_angle:
        pieces.append(f"{own.sink or '⌵'} × {own.sink_angle}" if own.sink_angle else own.sink)
    text = " ".join(filter(None, pieces))
    text = f"{own.count} × {text}" if own.count > 1 else text
    if not own.circle:
        return text
    on_circle = _("{hole} on {circle}", hole=text, circle=own.circle)
    return on_circle if text else _("hole circle {circle}", circle=own.circle)


def _parted(own: _Round, bosses: Sequence[float]) -> tuple[_Round, _Round]:
    """Part what is said of walls that are seen from outside from what is said of holes on the same axis."""

    def some(texts: Mapping[float, str], *, of_boss: bool) -> dict[float, str]:
        return {radius: text for radius, text in texts.items() if (radius in bosses) == of_boss}

    parted = []
    for of_boss in (True, False):
        checks = [check for check in own.checks if (own.radius_of[check] in bosses) == of_boss]
        parted.append(
            replace(
                own, checks=checks, diameters=some(own.diameters, of_boss=of_boss),
                depths=some(own.depths, of_boss=of_boss), radii=some(own.radii, of_boss=of_boss),
                through=some(own.through, of_boss=of_boss),
            )
        )  # fmt: skip
    return parted[0], parted[1]


def _across(own: _Round, here: Sequence[RoundModel]) -> list[Note]:
    """Write the diameters of a shaft or boss as sizes across it, seen from the side."""
    notes: list[Note] = []
    for radius, text in own.diameters.items():
        wall = next(round_feature for round_feature in here if abs(round_feature.diameter / 2 - radius) < _ONE)
        middle = (np.array(wall.start) + np.array(wall.end)) / 2
        checks = tuple(check for check in own.checks if own.radius_of[check] == radius)
        count = max([1, *(own.counts[check] for check in checks if check in own.counts)])
        words = [f"{count} ×" if count > 1 else "", text, own.depths.get(radius, ""), own.through.get(radius, "")]
        notes.append(
            Linear(
                checks=checks, text=" ".join(filter(None, words)), way=(0.0, 0.0, 0.0),
                points=(_tuple(middle), _tuple(middle)), axes=(None, None), across=_tuple(own.direction),
                diameter=2 * radius,
            )
        )  # fmt: skip
    told = {check for note in notes for check in note.checks}
    rest = tuple(check for check in own.checks if check not in told)
    if rest and isinstance(notes[0], Linear):
        notes[0] = replace(notes[0], checks=notes[0].checks + rest)
    return notes


def _is_on(round_feature: RoundModel, point: _Array, direction: _Array) -> bool:
    off = np.array(round_feature.start) - point
    return _is_parallel(round_feature, direction) and bool(np.linalg.norm(np.cross(off, direction)) < _ONE)


def _is_parallel(round_feature: RoundModel, direction: _Array) -> bool:
    along = np.array(round_feature.end) - np.array(round_feature.start)
    length = float(np.linalg.norm(along))
    return length > 0 and abs(float(along @ direction)) > (1 - _SQUARE) * length


def _other(
    check: CheckModel, features: Sequence[Feature], sizes: Mapping[str, AskedSize], written: Written
) -> Pointed | Listed:
    """Write what neither a line nor a hole's note shows: at a face, an arc or a ball, else in the list."""
    size, measure = sizes[check.id], str(check.fields.get("measure"))
    own = features[-1] if features else None
    if measure in ("chamfer", "chamfer_angle", "angle") and isinstance(own, PlaneFeature):
        text = written.size(check, size)
        if measure == "chamfer":
            text += f" × {written.number(_slope(own), 1)}°"
        return Pointed(
            checks=(check.id,), text=text, points=(_tuple(own.point),), direction=_tuple(own.normal), target="face"
        )
    if isinstance(own, SphereFeature):
        text = written.size(check, size, "SØ" if measure == "sphere_diameter" else "SR")
        return Pointed(
            checks=(check.id,), text=text, points=(_tuple(own.point),), direction=(0.0, 0.0, 1.0),
            radius=own.radius, target="arc",
        )  # fmt: skip
    if isinstance(own, ConeFeature) and measure == "cone_angle":
        return Pointed(
            checks=(check.id,), text=_taper(size) or written.size(check, size), points=(_tuple(own.point),),
            direction=_tuple(own.direction), target="face",
        )  # fmt: skip
    text = written.size(check, size)
    return Listed(checks=(check.id,), text=f"{check.title}: {text}")


def _taper(size: AskedSize) -> str:
    """Write a slender cone by its taper, length to difference of diameters (ISO 3040); "" for others."""
    length = 1 / (2 * math.tan(math.radians(size.nominal) / 2))
    return f"▷1:{round(length)}" if length > _TAPER and abs(length - round(length)) < _ONE * length else ""


def _at_one_face(notes: Sequence[Note]) -> list[Note]:
    """Write what is asked of one chamfer in one note."""
    by_face: dict[tuple[object, ...], Pointed] = {}
    kept: list[Note] = []
    for note in notes:
        if not isinstance(note, Pointed) or note.target != "face":
            kept.append(note)
            continue
        key = (note.points, note.direction)
        if key not in by_face:
            by_face[key] = note
            continue
        both = sorted((by_face[key], note), key=lambda own: "×" not in own.text)
        by_face[key] = replace(both[0], checks=both[0].checks + both[1].checks)
        if "×" not in both[0].text:
            by_face[key] = replace(by_face[key], text=f"{both[0].text} × {both[1].text}")
    return [*kept, *by_face.values()]


def _at_one_place(notes: Sequence[Note]) -> list[Note]:
    """Write sizes between the same two levels once: what stands in line is dimensioned so (ISO 129-1)."""
    by_place: dict[tuple[object, ...], Linear] = {}
    kept: list[Note] = []
    for note in notes:
        if not isinstance(note, Linear) or note.across is not None:
            kept.append(note)
            continue
        way = np.array(note.way) if note.way > (0, 0, 0) else -np.array(note.way)
        levels = sorted(round(float(np.array(point) @ way), 3) for point in note.points)
        key = (tuple(np.round(way, 4).tolist()), *levels, note.text)
        before = by_place.get(key)
        if before is None:
            by_place[key] = note
            continue
        # the one whose ends are axes shows where its centre line runs
        base = (
            note
            if sum(axis is not None for axis in note.axes) > sum(axis is not None for axis in before.axes)
            else before
        )
        by_place[key] = replace(base, checks=before.checks + note.checks, marks=before.marks + note.marks)
    return [*kept, *by_place.values()]


def _slope(face: PlaneFeature) -> float:
    """Return the angle, degrees to 45, by which a face leans from the nearest axis of the part."""
    greatest = float(np.abs(face.normal).max())
    angle = math.degrees(math.acos(min(greatest, 1.0)))
    return round(angle, 1)


def _bracketed(notes: Sequence[Note]) -> list[Note]:
    """Put sizes in brackets that follow from others along the same direction, or are asked so (ISO 129-1)."""
    groups: dict[tuple[float, ...], dict[float, float]] = {}

    def top(own: dict[float, float], level: float) -> float:
        while own.setdefault(level, level) != level:
            level = own[level]
        return level

    auxiliary = set()
    lines = [note for note in notes if isinstance(note, Linear) and note.across is None]
    for note in sorted(lines, key=lambda line: (line.text.startswith("("), not line.is_extent, -line.marks)):
        way = np.array(note.way) if note.way > (0, 0, 0) else -np.array(note.way)
        own = groups.setdefault(tuple(np.round(way, 4).tolist()), {})
        a, b = (top(own, round(float(np.array(point) @ way), 3)) for point in note.points)
        if a == b or note.text.startswith("("):
            auxiliary.add(note.checks)
        own[b] = a
    return [
        replace(note, auxiliary=True, text=note.text if note.text.startswith("(") else f"({note.text})")
        if isinstance(note, Linear) and note.across is None and note.checks in auxiliary
        else note
        for note in notes
    ]
