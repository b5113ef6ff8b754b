"""A plate with holes, as plain sizes: its exercise, its pictures for a sheet, and what a dimension of it fixes."""

import math
import random
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from rigid_bench.core.formats.pictures import PartPictures, Polyline, RoundModel, Sheet, ViewModel
from rigid_bench.core.part.directions import PICTORIAL, SQUARE_VIEWS, axes_of
from rigid_bench.core.practice.unfit import Unfit
from rigid_bench.core.wording.language import _

PART = "plate"
_UP = [0.0, 0.0, 1.0]
_CHORDS = 36
#: mm between two holes, and between a hole and an edge, at least.
_APART, _EDGE = 6.0, 5.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Hole:
    """An upright hole; mm from the left and from the front."""

    name: str
    x: float
    y: float
    diameter: float
    #: Through where None.
    depth: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Plate:
    """A plate, its lower left front corner at the origin; mm."""

    length: float
    width: float
    thickness: float
    holes: tuple[Hole, ...]

    def with_hole(self, number: int, **changed: Any) -> "Plate":
        """Return the plate with one hole otherwise."""
        holes = [replace(hole, **changed) if k == number else hole for k, hole in enumerate(self.holes)]
        return replace(self, holes=tuple(holes))

    def scaled(self, factor: float) -> "Plate":
        """Return the plate so many times larger."""
        holes = [
            replace(
                hole, x=hole.x * factor, y=hole.y * factor, diameter=hole.diameter * factor,
                depth=None if hole.depth is None else hole.depth * factor,
            )
            for hole in self.holes
        ]  # fmt: skip
        return Plate(length=self.length * factor, width=self.width * factor, thickness=self.thickness * factor,
                     holes=tuple(holes))  # fmt: skip


def is_sound(plate: Plate) -> bool:
    """Say whether all holes lie within the plate and apart from each other."""
    for k, hole in enumerate(plate.holes):
        room = hole.diameter / 2 + _EDGE
        if not (room <= hole.x <= plate.length - room and room <= hole.y <= plate.width - room):
            return False
        for other in plate.holes[:k]:
            least = (hole.diameter + other.diameter) / 2 + _APART
            if math.hypot(hole.x - other.x, hole.y - other.y) < least:
                return False
    return True


def plate_by_lot(chance: random.Random, holes: int) -> Plate:
    """Draw a plate by lot, in which no two sizes are alike; raises `Unfit` where so many holes find no room."""
    for _unused in range(200):
        length, width, thickness = chance.randint(60, 110), chance.randint(40, 58), chance.randint(8, 16)
        diameters = chance.sample([5.0, 6.0, 7.0, 8.0, 9.0, 10.0, 12.0], holes)
        made = tuple(
            Hole(
                name="ABCD"[k], x=float(chance.randint(10, length - 10)), y=float(chance.randint(10, width - 10)),
                diameter=diameters[k],
                depth=float(chance.randint(3, thickness - 2)) if k and chance.random() < 0.4 else None,
            )
            for k in range(holes)
        )  # fmt: skip
        plate = Plate(length=float(length), width=float(width), thickness=float(thickness), holes=made)
        values = [plate.length, plate.width, plate.thickness]
        for hole in made:
            values += [hole.x, hole.y, plate.length - hole.x, plate.width - hole.y, hole.diameter]
            values += [hole.depth] if hole.depth else []
        if is_sound(plate) and len(set(values)) == len(values):
            return plate
    raise Unfit


def _plane(point: Sequence[float], normal: Sequence[float]) -> dict[str, Any]:
    return {"plane": {"point": list(point), "normal": list(normal)}}


def face(plate: Plate, name: str) -> dict[str, Any]:
    """Return a face of the plate by its name: left, right, front, back, bottom, top."""
    x, y, z = plate.length / 2, plate.width / 2, plate.thickness / 2
    return {
        "left": _plane((0, y, z), (-1, 0, 0)), "right": _plane((plate.length, y, z), (1, 0, 0)),
        "front": _plane((x, 0, z), (0, -1, 0)), "back": _plane((x, plate.width, z), (0, 1, 0)),
        "bottom": _plane((x, y, 0), (0, 0, -1)), "top": _plane((x, y, plate.thickness), (0, 0, 1)),
    }[name]  # fmt: skip


def wall(plate: Plate, hole: Hole) -> dict[str, Any]:
    """Return a hole's wall."""
    top = [hole.x, hole.y, plate.thickness]
    return {"cylinder": {"point": top, "direction": _UP, "radius": hole.diameter / 2}}


def check(name: str, title: str, measure: str, nominal: float, **fields: Any) -> dict[str, Any]:
    """Return a dimension of the plate, of one mark."""
    own = {"id": f"{PART}.{name}", "title": title, "kind": "dimension", "marks": 1, "part": PART, "measure": measure}
    return {**own, "nominal": nominal, "tolerance": {"minus": 0.1, "plus": 0.1}, **fields}


def scheme(plate: Plate) -> list[dict[str, Any]]:
    """Return the dimensions that fix the plate, each size once: the box, then hole by hole from left and front."""
    sizes = [
        check("length", "Length", "length", plate.length, between=[face(plate, "left"), face(plate, "right")]),
        check("width", "Width", "length", plate.width, between=[face(plate, "front"), face(plate, "back")]),
        check("thickness", "Thickness", "thickness", plate.thickness,
              between=[face(plate, "bottom"), face(plate, "top")]),
    ]  # fmt: skip
    for hole in plate.holes:
        name, own = hole.name.lower(), wall(plate, hole)
        sizes += [
            check(f"{name}.bore", f"Hole {hole.name}, diameter", "diameter", hole.diameter, of=own),
            check(f"{name}.left", _('Hole {name} from the left', name=hole.name), "position", hole.x,
                  between=[own, face(plate, "left")]),
            check(f"{name}.front", _('Hole {name} from the front', name=hole.name), "position", hole.y,
                  between=[own, face(plate, "front")]),
        ]  # fmt: skip
        if hole.depth is not None:
            sizes.append(check(f"{name}.depth", f"Hole {hole.name}, depth", "depth", hole.depth, of=own))
    return sizes


def exercise(plate: Plate, checks: Sequence[Mapping[str, Any]]) -> dict[str, Any]:
    """Return the exercise document that asks for the plate."""
    return {
        "format": "rigid-bench/exercise", "version": 1, "id": "drill", "title": _("Plate"), "units": "mm",
        "parts": [{"id": PART, "name": "Plate", "file": "plate.step", "origin": "made", "count": 1}],
        "checks": [dict(own) for own in checks],
    }  # fmt: skip


def pictures(plate: Plate) -> Sheet:
    """Return what is seen of the plate, as the kernel would see it."""
    rounds = [
        RoundModel(
            kind="hole", start=[hole.x, hole.y, plate.thickness], diameter=hole.diameter,
            end=[hole.x, hole.y, 0.0 if hole.depth is None else plate.thickness - hole.depth],
        )
        for hole in plate.holes
    ]  # fmt: skip
    names = ("front", "top", "right side", None, "left side", "back", "bottom")
    views = [_pictorial(plate) if name is None else _square(plate, name) for name in names]
    return Sheet(parts={PART: PartPictures(views=views, rounds=rounds)}, assembly=None)


def _corners(plate: Plate) -> np.ndarray:
    return np.array(
        [[x, y, z] for x in (0, plate.length) for y in (0, plate.width) for z in (0, plate.thickness)], dtype=float
    )


def _ring(hole: Hole, z: float) -> np.ndarray:
    turns = np.linspace(0, 2 * math.pi, _CHORDS + 1)
    return np.array([hole.x + hole.diameter / 2 * np.cos(turns), hole.y + hole.diameter / 2 * np.sin(turns),
                     np.full(_CHORDS + 1, z)]).T  # fmt: skip


def _square(plate: Plate, name: str) -> ViewModel:
    right, up, toward = axes_of(SQUARE_VIEWS[name])
    seen = np.array([right, up]).T
    flat = _corners(plate) @ seen
    (left, low), (far, high) = flat.min(axis=0).tolist(), flat.max(axis=0).tolist()
    visible: list[Polyline] = [[[left, low], [far, low], [far, high], [left, high], [left, low]]]
    hidden: list[Polyline] = []
    for hole in plate.holes:
        floor = 0.0 if hole.depth is None else plate.thickness - hole.depth
        if abs(toward[2]) > 0.5:
            is_seen = toward[2] > 0 or hole.depth is None
            (visible if is_seen else hidden).append((_ring(hole, plate.thickness) @ seen).tolist())
            continue
        centre = np.array([[hole.x, hole.y, plate.thickness], [hole.x, hole.y, floor]]) @ seen
        sides = [centre + np.array([[way * hole.diameter / 2, 0]]) for way in (-1, 1)]
        hidden += [side.tolist() for side in sides]
        if hole.depth is not None:
            hidden.append([sides[0][1].tolist(), sides[1][1].tolist()])
    return ViewModel(name=name, visible=visible, hidden=hidden, box=[[left, low], [far, high]])


def _pictorial(plate: Plate) -> ViewModel:
    right, up, toward = axes_of(PICTORIAL)
    seen, corners = np.array([right, up]).T, _corners(plate)
    behind = int(np.argmin(corners @ toward))
    visible: list[Polyline] = []
    for a in range(8):
        for b in range(a + 1, 8):
            is_edge = int(np.count_nonzero(corners[a] != corners[b])) == 1
            if is_edge and behind not in (a, b):
                visible.append((corners[[a, b]] @ seen).tolist())
    visible += [(_ring(hole, plate.thickness) @ seen).tolist() for hole in plate.holes]
    flat = corners @ seen
    return ViewModel(
        name=PICTORIAL.name, visible=visible, hidden=[], box=[flat.min(axis=0).tolist(), flat.max(axis=0).tolist()]
    )
