"""Mates as residuals of their own, by finite differences: nothing here is the engine's.

The equations are those of ISO 10303-109 as the formats document names them; a pose is a turn vector and a place.
"""

import itertools
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

Array = NDArray[np.float64]
#: mm: turns are weighed by it.
SIZE = 30.0
_STEP = 1e-6
_ROUNDS = 40


class Placed:
    """A build whose instances can be moved."""

    def __init__(self, build: Mapping[str, Any], held: Sequence[str] = ()) -> None:
        self.names = [own["id"] for own in build["instances"]]
        self.mates = build["mates"]
        self.start = {}
        for own in build["instances"]:
            w, x, y, z = own["pose"]["quaternion"]
            turn = Rotation.from_quat([x, y, z, w]).as_matrix()
            self.start[own["id"]] = (turn, np.array(own["pose"]["position"], dtype=float))
        grounded = [own["id"] for own in build["instances"] if own["grounded"]]
        self.moving = [name for name in self.names if name not in grounded and name not in held]

    def poses(self, moves: Array) -> dict[str, tuple[Array, Array]]:
        """Return the poses after a small turn (rad times SIZE) and shift of each moving instance."""
        moved = {name: self._moved(name, move) for name, move in zip(self.moving, moves.reshape(-1, 6), strict=True)}
        return {**self.start, **moved}

    def _moved(self, name: str, move: Array) -> tuple[Array, Array]:
        turn, place = self.start[name]
        return Rotation.from_rotvec(move[:3] / SIZE).as_matrix() @ turn, place + move[3:]

    def residuals(self, moves: Array, mates: Sequence[str] | None = None) -> Array:
        """Return all equations of the mates, mm."""
        poses = self.poses(moves)
        rows = [_of_mate(own, poses) for own in self._taken(mates)]
        return np.concatenate(rows) if rows else np.zeros(0)

    def jacobian(self, at: Array | None = None, mates: Sequence[str] | None = None) -> Array:
        """Return the equations' slopes where the parts stand, or after moves, by central differences."""
        at = np.zeros(6 * len(self.moving)) if at is None else at
        taken, poses = self._taken(mates), self.poses(at)
        ends = np.cumsum([0, *(len(_of_mate(own, poses)) for own in taken)])
        slopes = np.zeros((ends[-1], len(at)))
        for number, (name, move) in enumerate(zip(self.moving, at.reshape(-1, 6), strict=True)):
            # a part's moves change the equations of its own mates alone
            own_mates = [k for k, own in enumerate(taken) if name in (own["a"]["instance"], own["b"]["instance"])]
            for axis, step in enumerate(_STEP * np.eye(6)):
                ahead, behind = ({**poses, name: self._moved(name, move + way * step)} for way in (1, -1))
                for k in own_mates:
                    change = _of_mate(taken[k], ahead) - _of_mate(taken[k], behind)
                    slopes[ends[k] : ends[k + 1], 6 * number + axis] = change / (2 * _STEP)
        return slopes

    def _taken(self, mates: Sequence[str] | None) -> list[Mapping[str, Any]]:
        return [own for own in self.mates if mates is None or own["id"] in mates]

    def rank(self) -> int:
        """Return how many equations are independent."""
        slopes = self.jacobian()
        return int(np.linalg.matrix_rank(slopes, tol=1e-6)) if slopes.size else 0

    def twists(self, name: str) -> Array:
        """Return an orthonormal basis of an instance's twists, (6, d): turns times SIZE, shifts of its origin."""
        if name not in self.moving:
            return np.zeros((6, 0))
        slopes = self.jacobian()
        free = (
            np.linalg.svd(slopes)[2][np.linalg.matrix_rank(slopes, tol=1e-6) :]
            if slopes.size
            else np.eye(6 * len(self.moving))
        )
        block = free[:, 6 * self.moving.index(name) :][:, :6].T
        left, sizes, _ = np.linalg.svd(block, full_matrices=False)
        return left[:, sizes > 1e-6]

    def solve(self, mates: Sequence[str] | None = None) -> tuple[Array, float]:
        """Move the parts until the mates hold, by Gauss and Newton; return the moves and what is left, mm."""
        moves = np.zeros(6 * len(self.moving))
        left = self.residuals(moves, mates)
        for _ in range(_ROUNDS):
            if np.abs(left).max(initial=0.0) < 1e-9:
                break
            moves = moves - np.linalg.pinv(self.jacobian(moves, mates), rcond=1e-7) @ left
            left = self.residuals(moves, mates)
        return moves, float(np.abs(left).max(initial=0.0))


def same_space(a: Array, b: Array) -> bool:
    """Say whether two orthonormal bases span one space."""
    return a.shape[1] == b.shape[1] and bool(np.linalg.norm(b - a @ (a.T @ b)) < 1e-3)


def petals(twists: Array) -> list[str]:
    """Return the pure slides along, and pure turns about lines along, the world's axes; twists as `twists` gives."""
    equations = []
    for name, way in zip("xyz", np.eye(3), strict=True):
        wanted = np.concatenate([np.zeros(3), way])
        if np.linalg.norm(wanted - twists @ (twists.T @ wanted)) < 1e-5:
            equations.append(f"t{name}")
    for name, way in zip("xyz", np.eye(3), strict=True):
        # a turn along `way` whose velocity along `way` is nothing
        rows = np.vstack([twists[:3], way @ twists[3:]]).round(9)
        wanted = np.concatenate([way, [0.0]])
        mix = np.linalg.lstsq(rows, wanted, rcond=1e-6)[0] if twists.shape[1] else np.zeros(0)
        if np.linalg.norm(rows @ mix - wanted) < 1e-5:
            equations.append(f"r{name}")
    return equations


def _world(side: Mapping[str, Any], poses: Mapping[str, tuple[Array, Array]]) -> tuple[str, Array, Array, Array]:
    """Return a feature's kind, its place, its direction and a frame's x, in the world."""
    turn, place = poses[side["instance"]]
    kind = next(name for name in ("plane", "axis", "cylinder", "point", "frame") if name in side)
    own = side[kind]
    if kind == "point":
        return kind, turn @ np.array(own, dtype=float) + place, np.zeros(3), np.zeros(3)
    at = own["origin"] if kind == "frame" else own["point"]
    way = own.get("normal", own.get("direction", own.get("z")))
    x = turn @ np.array(own["x"], dtype=float) if kind == "frame" else np.zeros(3)
    return kind, turn @ np.array(at, dtype=float) + place, turn @ np.array(way, dtype=float), x


def _cross(a: Array, b: Array) -> Array:
    """Return the vector product; numpy's own takes ten times as long for three numbers."""
    (x, y, z), (u, v, w) = a.tolist(), b.tolist()
    return np.array([y * w - z * v, z * u - x * w, x * v - y * u])


def _of_mate(own: Mapping[str, Any], poses: Mapping[str, tuple[Array, Array]]) -> Array:
    (ka, pa, da, xa), (kb, pb, db, xb) = (_world(own[side], poses) for side in "ab")
    kind, value = own["kind"], own.get("value") or 0.0
    if kind in ("coincident", "distance", "spherical"):
        return _places(ka, pa, da, kb, pb, db, value)
    parallel, along = SIZE * _cross(da, db), _cross(da, pb - pa)
    if kind == "parallel":
        return np.array([SIZE * da @ db]) if {ka, kb} == {"axis", "plane"} else parallel
    if kind == "perpendicular":
        return parallel if {ka, kb} == {"axis", "plane"} else np.array([SIZE * da @ db])
    if kind in ("coaxial", "cylindrical"):
        return np.concatenate([parallel, along])
    if kind == "planar":
        return np.concatenate([parallel, [da @ (pb - pa) - own.get("offset", 0.0)]])
    if kind == "revolute":
        return np.concatenate([parallel, along, [da @ (pb - pa) - own.get("offset", 0.0)]])
    turned = SIZE * np.array([_cross(xa, xb) @ da])
    if kind == "prismatic":
        return np.concatenate([parallel, along, turned])
    if kind == "screw":
        angle = np.arctan2(_cross(xa, xb) @ da, xa @ xb)
        return np.concatenate([parallel, along, [da @ (pb - pa) - own["pitch"] * angle / (2 * np.pi)]])
    if kind == "fixed":
        return np.concatenate([parallel, pb - pa, turned])
    raise AssertionError(kind)


def _places(ka: str, pa: Array, da: Array, kb: str, pb: Array, db: Array, value: float) -> Array:
    kinds = {ka, kb}
    if kinds == {"plane"}:
        return np.concatenate([SIZE * _cross(da, db), [da @ (pb - pa) - value]])
    if kinds == {"point"}:
        return pb - pa if not value else np.array([np.linalg.norm(pb - pa) - value])
    if kinds == {"axis"}:
        off = _cross(da, pb - pa)
        return np.concatenate([SIZE * _cross(da, db), off if not value else [np.linalg.norm(off) - value]])
    normal, point, other = (da, pa, pb) if ka in ("plane", "axis") and kb != "plane" else (db, pb, pa)
    if "plane" in kinds and kinds != {"plane", "axis"}:
        return np.array([normal @ (other - point) - value])
    if kinds == {"plane", "axis"}:
        flat, at, line, through = (da, pa, db, pb) if ka == "plane" else (db, pb, da, pa)
        return np.array([SIZE * flat @ line, flat @ (through - at) - value])
    off = _cross(normal, other - point)  # a point and an axis
    return off if not value else np.array([np.linalg.norm(off) - value])


def drive(
    build: Mapping[str, Any], driver: str, motion: Mapping[str, Any], by: float, steps: int = 60
) -> dict[str, tuple[Array, Array]]:
    """Take one instance along its motion step by step, the others following, each step solved."""
    placed = Placed(build, held=[driver])
    for _ in range(steps):
        turn, place = placed.start[driver]
        if motion["kind"] == "translation":
            placed.start[driver] = (turn, place + by / steps * np.array(motion["direction"]))
        else:
            about, way = (np.array(motion["axis"][name], dtype=float) for name in ("point", "direction"))
            own = Rotation.from_rotvec(np.radians(by / steps) * way).as_matrix()
            placed.start[driver] = (own @ turn, own @ (place - about) + about)
        moves, error = placed.solve()
        assert error < 1e-6
        placed.start = placed.poses(moves)
    return placed.start


def seen_depth(solids: Sequence[Sequence[Sequence[int]]], view: str, right: float, up: float) -> float:
    """Return how near the nearest block is along a line of sight of a square view; -inf where there is none."""
    ways = {
        "front": ((1, 0, 0), (0, 0, 1)), "back": ((-1, 0, 0), (0, 0, 1)), "right side": ((0, 1, 0), (0, 0, 1)),
        "left side": ((0, -1, 0), (0, 0, 1)), "top": ((1, 0, 0), (0, 1, 0)), "bottom": ((1, 0, 0), (0, -1, 0)),
    }  # fmt: skip
    x, y = (np.array(way) for way in ways[view])
    toward = np.cross(x, y)
    best = -np.inf
    for low, high in solids:
        corners = np.array(list(itertools.product(*zip(low, high, strict=True))))
        flat = corners @ np.array([x, y]).T
        if np.all(flat.min(axis=0) < (right, up)) and np.all((right, up) < flat.max(axis=0)):
            best = max(best, float((corners @ toward).max()))
    return best


def least_corner(solids: Sequence[Sequence[Sequence[int]]], view: str) -> Array:
    """Return the least right and up of a square view."""
    ways = {
        "front": ((1, 0, 0), (0, 0, 1)), "back": ((-1, 0, 0), (0, 0, 1)), "right side": ((0, 1, 0), (0, 0, 1)),
        "left side": ((0, -1, 0), (0, 0, 1)), "top": ((1, 0, 0), (0, 1, 0)), "bottom": ((1, 0, 0), (0, -1, 0)),
    }  # fmt: skip
    corners = np.array([corner for box in solids for corner in itertools.product(*zip(*box, strict=True))])
    least: Array = (corners @ np.array(ways[view]).T).min(axis=0).astype(float)
    return least
