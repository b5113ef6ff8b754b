"""Signs that save a view: square □, across flats AF, thickness t (ISO 129-1, signs of properties)."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.drawing.notes.box import box_of
from rigid_bench.core.drawing.notes.note import Linear, Note, Pointed
from rigid_bench.core.exercise.bundle import CheckModel
from rigid_bench.core.formats.pictures import FlatsModel, PartPictures, Polyline
from rigid_bench.core.part.directions import SQUARE_VIEWS, axes_of

_Array = NDArray[np.float64]
SQUARE, FLATS, THICKNESS = "□", "AF", "t = "
_SAME, _ALONG = 1e-3, 1e-6
#: A sheet is at most this share of its other sizes thick.
_THIN = 1 / 8


def with_signs(notes: Sequence[Note], checks: Sequence[CheckModel], pictures: PartPictures) -> list[Note]:
    """Write squares, flats and the thickness of sheets by their signs.

    Parameters
    ----------
    notes
        Of one part.
    checks
        That they show.
    pictures
        How the part is seen.
    """
    measures = {check.id: str(check.fields.get("measure")) for check in checks}
    signed = list(notes)
    for flats in pictures.flats:
        signed = _squared(signed, flats) if flats.sides == 4 else _across_flats(signed, flats, measures)
    axis = _sheet_axis(pictures)
    if axis is None:
        return signed
    return [_thick(note, axis, box_of(pictures)) for note in signed]


def _squared(notes: Sequence[Note], flats: FlatsModel) -> list[Note]:
    """Write the two equal sides of a square as one."""
    axis = np.array(flats.direction)
    sides = [note for note in notes if isinstance(note, Linear) and _is_side(note, flats, axis)]
    if len(sides) != 2 or sides[0].text.strip("()") != sides[1].text.strip("()"):
        return list(notes)
    first, second = sorted(sides, key=lambda note: note.auxiliary)
    own = replace(
        first,
        text=f"{SQUARE}{first.text.strip('()')}",
        checks=first.checks + second.checks,
        marks=first.marks + second.marks,
        auxiliary=False,
    )
    return [own if note is first else note for note in notes if note is not second]


def _is_side(note: Linear, flats: FlatsModel, axis: _Array) -> bool:
    """Say whether a size lies between two opposite flats."""
    if note.across is not None:
        return False
    way = np.array(note.way)
    levels = sorted(float(np.array(point) @ way) for point in note.points)
    middle = float(np.array(flats.centre) @ way)
    is_between = abs(levels[1] - levels[0] - flats.across_flats) < _SAME and abs(sum(levels) / 2 - middle) < _SAME
    return abs(float(way @ axis)) < _ALONG and is_between


def _across_flats(notes: Sequence[Note], flats: FlatsModel, measures: Mapping[str, str]) -> list[Note]:
    axis = np.array(flats.direction)
    return [
        replace(note, text=f"{note.text} {FLATS}")
        if isinstance(note, Linear)
        and FLATS not in note.text
        and any(measures.get(check) == "across_flats" for check in note.checks)
        and abs(float(np.array(note.way) @ axis)) < _ALONG
        else note
        for note in notes
    ]


def _sheet_axis(pictures: PartPictures) -> int | None:
    """Return the axis along which a part is a plain sheet: thin, and the same all through; None for others."""
    views = {view.name: view for view in pictures.views}
    for axis in range(3):
        beside = []
        for name, direction in SQUARE_VIEWS.items():
            along = np.abs(axes_of(direction)[:2, axis]) > 1 - _ALONG
            if name in views and along.any():
                beside.append((views[name], int(along.argmax())))
        if beside and all(
            _is_strip(view.box, along)
            and all(_is_plain(line, view.box, along) for line in (*view.visible, *view.hidden))
            for view, along in beside
        ):
            return axis
    return None


def _is_strip(box: Polyline, along: int) -> bool:
    sizes = np.ptp(np.array(box), axis=0)
    return bool(sizes[along] <= _THIN * sizes[1 - along])


def _is_plain(line: Polyline, box: Polyline, along: int) -> bool:
    """Say whether a line of the edge runs straight through the thickness, or along one of the faces."""
    points = np.array(line)
    levels = points[:, along]
    on_face = [bool(np.abs(levels - end[along]).max() < _SAME) for end in box]
    is_through = bool(np.ptp(points[:, 1 - along]) < _SAME)
    return any(on_face) or is_through


def _thick(note: Note, axis: int, box: _Array) -> Note:
    """Return a sheet's thickness as a note at the middle of its longest edge."""
    if not isinstance(note, Linear) or note.auxiliary or abs(note.way[axis]) < 1 - _ALONG:
        return note
    sizes = box[1] - box[0]
    if abs(abs(note.points[1][axis] - note.points[0][axis]) - sizes[axis]) > _SAME:
        return note
    point = box[0].copy()
    point[int(sizes.argmax())] = box[:, int(sizes.argmax())].mean()
    x, y, z = (float(value) for value in point)
    return Pointed(
        checks=note.checks, text=f"{THICKNESS}{note.text}", points=((x, y, z),), direction=note.way, target="sheet"
    )
