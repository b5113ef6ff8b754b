"""A mechanism as SVG: blocks, rods and balls where they stand, seen slantwise, what is near before what is far."""

import math
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from markupsafe import Markup
from numpy.typing import NDArray

from rigid_bench.core.part.directions import PICTORIAL, axes_of
from rigid_bench.core.values.frames import Pose, any_normal, unit
from rigid_bench.web.figures.hidden_surfaces import Piece, from_back_to_front
from rigid_bench.web.figures.svg import element, svg

_Array = NDArray[np.float64]
#: Pixels of the figure and its margin.
_WIDE, _HIGH, _MARGIN = 560.0, 420.0, 40.0
_SIDES = 20
#: Pixels of a cell in which one part is seen.
_CELL = 5.0
#: Share of the figure's size that an arrow is long.
_ARROW = 0.16
_CORNERS = np.array([[x, y, z] for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)], dtype=float) / 2
_FACES = ((0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3))
_RIGHT, _UP, _TOWARD = axes_of(PICTORIAL)
_FLAT = np.array([_RIGHT, _UP]).T


def mechanism_svg(
    shapes: Mapping[str, Sequence[Mapping[str, Any]]],
    instances: Sequence[Mapping[str, Any]],
    *,
    label: str,
    asked: str = "",
    drive: Mapping[str, Any] | None = None,
    ends: Mapping[str, Pose] | None = None,
    poses: Mapping[str, Pose] | None = None,
    room: _Array | None = None,
) -> Markup:
    """Draw a mechanism.

    Parameters
    ----------
    shapes
        By instance: blocks, rods and balls, mm in the part's coordinates.
    instances
        As in a build file: id, pose, whether it is grounded.
    label
        What a screen reader says.
    asked
        The instance that is asked about: it is drawn in a colour of its own.
    drive
        The instance that is driven, its motion in the world and how far: an arrow shows it.
    ends
        By instance: where it stands afterwards, drawn in dashes.
    poses
        By instance: where it stands, in place of its own pose.
    room : (n, 2) float, mm
        Places in the view that the picture has room for, so that pictures of a way are of one scale.
    """
    poses = poses or {own["id"]: _pose(own["pose"]) for own in instances}
    grounded = {own["id"] for own in instances if own["grounded"]}
    pieces = [
        piece
        for name, pose in poses.items()
        for shape in shapes.get(name, ())
        for piece in _pieces(
            shape, pose, name, "asked" if name == asked else "grounded" if name in grounded else "moving"
        )
    ]
    ghosts = [
        piece.corners @ _FLAT
        for name, pose in (ends or {}).items()
        if not pose.is_close(poses[name], mm=1e-6, rad=1e-9)
        for shape in shapes.get(name, ())
        for piece in _pieces(shape, pose, name, "ghost")
    ]
    paper = _Paper(np.concatenate([*(piece.corners @ _FLAT for piece in pieces), *ghosts]) if room is None else room)
    ordered = list(from_back_to_front(pieces, _TOWARD))
    inside = [_drawn(piece, paper) for piece in ordered]
    inside += [element("path", d=paper.path(flat) + "Z", class_="mech-ghost") for flat in ghosts]
    inside += [_arrow(drive, poses, shapes, paper)] if drive else []
    inside += [_name(name, place) for name, place in _seen_middles(ordered, paper).items()]
    return svg(Markup("").join([*inside, _axes()]), width=_WIDE, height=_HIGH, label=label, kind="mechanism")


def places_in_view(shapes: Mapping[str, Sequence[Mapping[str, Any]]], ways: Sequence[Mapping[str, Pose]]) -> _Array:
    """Return where corners of a mechanism come to in the view, (n, 2) mm: for each of the poses, by instance."""
    corners = {
        name: np.concatenate([face for shape in own for face, _ in _faces(shape)])
        for name, own in shapes.items()
        if own
    }
    return np.concatenate(
        [pose.point(corners[name]) @ _FLAT for poses in ways for name, pose in poses.items() if name in corners]
    )


class _Paper:
    """Takes places of the view to pixels."""

    def __init__(self, places: _Array) -> None:
        low, high = places.min(axis=0), places.max(axis=0)
        room = np.array([_WIDE, _HIGH]) - 2 * _MARGIN
        self.scale = float((room / np.maximum(high - low, 1e-6)).min())
        self.middle = (low + high) / 2

    def pixels(self, places: _Array) -> _Array:
        places_px: _Array = (places - self.middle) * self.scale * (1, -1) + (_WIDE / 2, _HIGH / 2)
        return places_px

    def path(self, places: _Array) -> str:
        return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in self.pixels(places).tolist())


def _pose(given: Mapping[str, Any]) -> Pose:
    return Pose.from_quaternion(given["position"], given["quaternion"])


def _drawn(piece: Piece, paper: _Paper) -> Markup:
    flat = piece.corners @ _FLAT
    after = np.roll(flat, -1, axis=0)
    edges = "".join(
        paper.path(np.array([a, b])) for a, b, is_edge in zip(flat, after, piece.edges, strict=True) if is_edge
    )
    fill = element("path", d=paper.path(flat) + "Z", class_=f"mech-{piece.kind}")
    return fill + element("path", d=edges, class_="mech-edge") if edges else fill


def _seen_middles(ordered: Sequence[Piece], paper: _Paper) -> dict[str, tuple[float, float]]:
    """Return for each body a place well within what is seen of it, pixels; none for what is hidden."""
    across, down = np.meshgrid(np.arange(_CELL / 2, _WIDE, _CELL), np.arange(_CELL / 2, _HIGH, _CELL))
    owner = np.full(across.shape, "", dtype=object)
    for piece in ordered:
        places = paper.pixels(piece.corners @ _FLAT)
        inside = np.ones(across.shape, dtype=bool)
        for (ax, ay), (bx, by) in zip(places, np.roll(places, -1, axis=0), strict=True):
            inside &= (bx - ax) * (down - ay) - (by - ay) * (across - ax) <= 0
        owner[inside] = piece.body
    middles = {}
    for body in {piece.body for piece in ordered}:
        seen = owner == body
        while seen.any():  # what is left last lies deepest within
            last, inner = seen, np.pad(seen, 1)
            seen = seen & inner[2:, 1:-1] & inner[:-2, 1:-1] & inner[1:-1, 2:] & inner[1:-1, :-2]
            if not seen.any():
                row, column = np.argwhere(last)[len(np.argwhere(last)) // 2]
                middles[body] = (float(across[row, column]), float(down[row, column]))
    return dict(sorted(middles.items()))


def _name(body: str, place: tuple[float, float]) -> Markup:
    """Write what a part is called where it is seen."""
    words = body.removesuffix("-1").replace("-", " ")
    return element("text", words, x=place[0], y=place[1] + 4, class_="mech-name mech-halo", text_anchor="middle")


def _axes() -> Markup:
    """Draw the world's axes, small, at the lower left."""
    markups = []
    for name, way in zip("XYZ", np.eye(3), strict=True):
        x, y = 30 * float(way @ _RIGHT), -30 * float(way @ _UP)
        markups.append(element("path", d=f"M40 {_HIGH - 36:.0f}l{x:.1f} {y:.1f}", class_="mech-axis"))
        text = element("text", name, x=40 + 1.4 * x, y=_HIGH - 32 + 1.4 * y, class_="mech-name", text_anchor="middle")
        markups.append(text)
    return Markup("").join(markups)


def _arrow(
    drive: Mapping[str, Any],
    poses: Mapping[str, Pose],
    shapes: Mapping[str, Sequence[Mapping[str, Any]]],
    paper: _Paper,
) -> Markup:
    """Draw whither a part is driven: along a line, or round an axis."""
    name, motion, by = drive["instance"], drive["motion"], float(drive["by"])
    places = np.concatenate([poses[name].point(face) for shape in shapes[name] for face, _ in _faces(shape)])
    size = _ARROW * min(_WIDE, _HIGH) / paper.scale
    middle = (places.min(axis=0) + places.max(axis=0)) / 2
    if motion["kind"] == "translation":
        way = math.copysign(1.0, by) * np.array(motion["direction"])
        line = np.array([middle, middle + 2 * size * way])
    else:
        origin, way = (np.array(motion["axis"][what], dtype=float) for what in ("point", "direction"))
        across = any_normal(way)
        turns = math.copysign(1.0, by) * np.linspace(0, 1.3 * math.pi, _SIDES)
        line = origin + size * (np.outer(np.cos(turns), across) + np.outer(np.sin(turns), np.cross(way, across)))
    flat = paper.pixels(line @ _FLAT)
    tip, back = flat[-1], unit(flat[-1] - flat[-2])
    aside = np.array([-back[1], back[0]])
    head = np.array([tip + 9 * back, tip + 5 * aside, tip - 5 * aside])
    points = " ".join(f"{x:.1f},{y:.1f}" for x, y in head.tolist())
    return element("path", d=paper.path(line @ _FLAT), class_="mech-arrow") + element(
        "polygon", points=points, class_="mech-head"
    )


def _pieces(shape: Mapping[str, Any], pose: Pose, body: str, kind: str) -> list[Piece]:
    """Return the faces that look towards the eye; where a round wall turns away from it, it has an edge."""
    faces = [(pose.point(face), edges) for face, edges in _faces(shape)]
    looks = [float(np.cross(face[1] - face[0], face[2] - face[1]) @ _TOWARD) > 1e-9 for face, _ in faces]
    pieces = []
    for number, (face, edges) in enumerate(faces):
        if not looks[number]:
            continue
        if "rod" in shape and number < _SIDES:
            after, before = looks[(number + 1) % _SIDES], looks[(number - 1) % _SIDES]
            edges = (True, not after, True, not before)
        pieces.append(Piece(face, edges, body, kind))
    return pieces


def _faces(shape: Mapping[str, Any]) -> list[tuple[_Array, tuple[bool, ...]]]:
    """Return all faces, looking outwards, each with which of its sides are edges."""
    ((kind, own),) = shape.items()
    return {"block": _block, "rod": _rod, "ball": _ball}[kind](own)


def _block(own: Mapping[str, Any]) -> list[tuple[_Array, tuple[bool, ...]]]:
    x, y = np.array(own["x"], dtype=float), np.array(own["y"], dtype=float)
    turn = np.array([x, y, np.cross(x, y)])
    corners = np.array(own["centre"], dtype=float) + (_CORNERS * own["size"]) @ turn
    return [(corners[list(face)], (True,) * 4) for face in _FACES]


def _rod(own: Mapping[str, Any]) -> list[tuple[_Array, tuple[bool, ...]]]:
    start, end = np.array(own["start"], dtype=float), np.array(own["end"], dtype=float)
    along = unit(end - start)
    across = any_normal(along)
    turns = np.linspace(0, 2 * math.pi, _SIDES, endpoint=False)
    ring = own["radius"] * (np.outer(np.cos(turns), across) + np.outer(np.sin(turns), np.cross(along, across)))
    low, high = start + ring, end + ring
    sides = [
        (np.array([low[k], low[(k + 1) % _SIDES], high[(k + 1) % _SIDES], high[k]]), (True, False, True, False))
        for k in range(_SIDES)
    ]
    return [*sides, (high, (True,) * _SIDES), (low[::-1], (True,) * _SIDES)]


def _ball(own: Mapping[str, Any]) -> list[tuple[_Array, tuple[bool, ...]]]:
    """A ball as it is seen: a round disc that looks towards the eye, from before and behind."""
    turns = np.linspace(0, 2 * math.pi, _SIDES, endpoint=False)
    disc = own["radius"] * (np.outer(np.cos(turns), _RIGHT) + np.outer(np.sin(turns), _UP))
    place = np.array(own["centre"], dtype=float) + disc
    return [(place, (True,) * _SIDES), (place[::-1], (True,) * _SIDES)]
