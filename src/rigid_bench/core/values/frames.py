"""Points, directions and rigid motions, in millimetres and radians."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.wording.language import _

_WORLD = np.eye(3)
_NEXT, _AFTER = [1, 2, 0], [2, 0, 1]


def unit(vector: ArrayLike, *, where: str = "direction") -> NDArray[np.float64]:
    """Scale a direction to length one.

    Parameters
    ----------
    vector : (3,) float
        Any vector but zero.
    where
        Named in the error.

    Returns
    -------
    (3,) float

    Raises
    ------
    InvalidDocument
        The vector has no direction.

    Examples
    --------
    >>> unit([0, 0, 2])
    array([0., 0., 1.])
    >>> unit([0, 0, 0])
    Traceback (most recent call last):
    rigid_bench.core.values.errors.InvalidDocument: direction: a direction of length zero. Give ...
    """
    array = np.asarray(vector, dtype=float)
    length = _length(array) if array.ndim == 1 else float(np.linalg.norm(array))
    if not math.isfinite(length) or length < 1e-12:
        raise InvalidDocument(where, _("a direction of length zero"), _("Give a direction, such as [0, 0, 1]"))
    result: NDArray[np.float64] = array / length
    return result


def cross(a: NDArray[np.float64], b: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return the vector product of two vectors, (3,) float: ten times as fast as NumPy's, which is made for many.

    Examples
    --------
    >>> cross(np.array([1.0, 0, 0]), np.array([0, 1.0, 0])).tolist()
    [0.0, 0.0, 1.0]
    """
    ax, ay, az = a.tolist()
    bx, by, bz = b.tolist()
    return np.array([ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx])


def cross_all(a: NDArray[np.float64], b: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return the vector products of vectors, (..., 3) float each: quicker than NumPy's for few.

    Examples
    --------
    >>> cross_all(np.array([[1.0, 0, 0]]), np.array([[0, 1.0, 0]])).tolist()
    [[0.0, 0.0, 1.0]]
    """
    products: NDArray[np.float64] = a[..., _NEXT] * b[..., _AFTER] - a[..., _AFTER] * b[..., _NEXT]
    return products


def cross_matrix(a: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return the matrix, (3, 3), that takes vectors to their vector product with this one, (3,) float.

    Examples
    --------
    >>> (cross_matrix(np.array([1.0, 0, 0])) @ [0, 1, 0]).tolist()
    [0.0, 0.0, 1.0]
    """
    x, y, z = a.tolist()
    return np.array([[0.0, -z, y], [z, 0.0, -x], [-y, x, 0.0]])


def any_normal(direction: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return one unit vector at right angles to a unit direction, (3,) float.

    Examples
    --------
    >>> abs(float(any_normal(np.array([0.0, 0.0, 1.0])) @ [0, 0, 1])) < 1e-12
    True
    """
    # the world axis least along the direction keeps the cross product well away from zero
    sizes = [abs(size) for size in direction.tolist()]
    return unit(cross(direction, _WORLD[sizes.index(min(sizes))]))


def angle_between(a: NDArray[np.float64], b: NDArray[np.float64]) -> float:
    """Return the angle of two unit vectors in radians, 0 to pi, exact also near 0 and pi.

    Notes
    -----
    W. Kahan, "How Futile are Mindless Assessments of Roundoff...", 2006: 2 atan2(|a-b|, |a+b|).

    Examples
    --------
    >>> angle_between(np.array([1.0, 0, 0]), np.array([1.0, 0, 0]))
    0.0
    """
    return 2.0 * math.atan2(_length(a - b), _length(a + b))


def _length(vector: NDArray[np.float64]) -> float:
    """Return the length of one vector: several times as fast as NumPy's, which is made for many."""
    return math.hypot(*vector.tolist())


def rotation_by(turn: ArrayLike) -> NDArray[np.float64]:
    """Return the rotation by a rotation vector.

    Parameters
    ----------
    turn : (3,) float
        Along the axis, as long as the angle, rad.

    Returns
    -------
    (3, 3) float

    Notes
    -----
    Rodrigues' formula, through the unit quaternion of half the angle.

    Examples
    --------
    >>> rotation_by([0, 0, math.pi / 2]).round(6).tolist()
    [[0.0, -1.0, 0.0], [1.0, 0.0, 0.0], [0.0, 0.0, 1.0]]
    """
    x, y, z = np.asarray(turn, dtype=float).tolist()
    angle = math.hypot(x, y, z)
    # sin(a/2) / a, by its series where the quotient would lose digits
    share = math.sin(angle / 2) / angle if angle > 1e-3 else 0.5 - angle**2 / 48 + angle**4 / 3840
    return _rotation(math.cos(angle / 2), share * x, share * y, share * z)


def turn_of(rotation: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return the rotation vector of a rotation, its angle from 0 to pi.

    Parameters
    ----------
    rotation : (3, 3) float
        Proper.

    Returns
    -------
    (3,) float, rad

    Examples
    --------
    >>> turn_of(rotation_by([0.0, 0.3, 0.0])).round(9).tolist()
    [0.0, 0.3, 0.0]
    """
    w, x, y, z = _quaternion(rotation)
    size = math.hypot(x, y, z)
    angle = 2 * math.atan2(size, w)
    # a / sin(a/2), by its series where the quotient would lose digits
    share = angle / size if angle > 1e-3 else 2 + angle**2 / 12 + 7 * angle**4 / 2880
    return np.array([share * x, share * y, share * z])


def _rotation(w: float, x: float, y: float, z: float) -> NDArray[np.float64]:
    """Return the matrix of a unit quaternion (Shoemake, *Animating rotation with quaternion curves*, 1985)."""
    return np.array(
        [
            [1 - 2 * (y * y + z * z), 2 * (x * y - w * z), 2 * (x * z + w * y)],
            [2 * (x * y + w * z), 1 - 2 * (x * x + z * z), 2 * (y * z - w * x)],
            [2 * (x * z - w * y), 2 * (y * z + w * x), 1 - 2 * (x * x + y * y)],
        ]
    )


def _quaternion(rotation: NDArray[np.float64]) -> tuple[float, float, float, float]:
    """Return (w, x, y, z) of a rotation, w not negative; where it is zero, the first that is not is positive.

    S. W. Shepperd, "Quaternion from Rotation Matrix", 1978: the largest of the four is taken first, so that none is
    divided by what is nearly zero.
    """
    (a, b, c), (d, e, f), (g, h, i) = rotation.tolist()
    squares = (a + e + i, a, e, i)
    largest = squares.index(max(squares))
    if largest == 0:
        quaternion = (1 + a + e + i, h - f, c - g, d - b)
    elif largest == 1:
        quaternion = (h - f, 1 + a - e - i, b + d, c + g)
    elif largest == 2:
        quaternion = (c - g, b + d, 1 - a + e - i, f + h)
    else:
        quaternion = (d - b, c + g, f + h, 1 - a - e + i)
    size = math.hypot(*quaternion)
    first = next((value for value in quaternion if abs(value) > 1e-15 * size), 1.0)
    w, x, y, z = (math.copysign(1.0, first) * value / size for value in quaternion)
    return max(w, 0.0), x + 0.0, y + 0.0, z + 0.0


@dataclass(frozen=True, slots=True, eq=False)
class Pose:
    """A rigid motion: ``world = rotation @ local + position``."""

    #: (3, 3) proper rotation.
    rotation: NDArray[np.float64]
    #: (3,) mm.
    position: NDArray[np.float64]

    @classmethod
    def identity(cls) -> "Pose":
        """Return the motion that moves nothing."""
        return cls(np.eye(3), np.zeros(3))

    @classmethod
    def from_quaternion(cls, position: Sequence[float], quaternion: Sequence[float]) -> "Pose":
        """Make a pose of a position in mm and a quaternion ``[w, x, y, z]``, scaled to unit length.

        Raises
        ------
        ValueError
            The quaternion is nothing but zeros.
        """
        size = math.hypot(*quaternion)
        if size == 0:
            raise ValueError(_("a quaternion of zeros is no rotation"))
        w, x, y, z = (number / size for number in quaternion)
        return cls(_rotation(w, x, y, z), np.array(position, dtype=float))

    @classmethod
    def from_rotation_vector(cls, turn: ArrayLike, position: ArrayLike) -> "Pose":
        """Make a pose of a rotation vector (rad) and a position (mm)."""
        return cls(rotation_by(turn), np.asarray(position, float))

    @classmethod
    def about(cls, turn: ArrayLike, point: NDArray[np.float64]) -> "Pose":
        """Return the motion that turns by a rotation vector (rad) about a point (mm)."""
        rotation = rotation_by(turn)
        return cls(rotation, point - rotation @ point)

    def quaternion(self) -> list[float]:
        """Return ``[w, x, y, z]`` with w not negative."""
        return list(_quaternion(self.rotation))

    # NumPy's `dot` takes half as long as its `@` for single vectors, and poses are what a solver works with most
    def __matmul__(self, other: "Pose") -> "Pose":
        return Pose(self.rotation.dot(other.rotation), self.rotation.dot(other.position) + self.position)

    def inverse(self) -> "Pose":
        """Return the motion that undoes this one."""
        return Pose(self.rotation.T, -self.rotation.T.dot(self.position))

    def point(self, point: ArrayLike) -> NDArray[np.float64]:
        """Carry a point, or (n, 3) points."""
        moved: NDArray[np.float64] = np.asarray(point, dtype=float).dot(self.rotation.T) + self.position
        return moved

    def direction(self, direction: ArrayLike) -> NDArray[np.float64]:
        """Carry a direction, or (n, 3) directions."""
        turned: NDArray[np.float64] = np.asarray(direction, dtype=float).dot(self.rotation.T)
        return turned

    def is_close(self, other: "Pose", *, mm: float, rad: float) -> bool:
        """Say whether two poses differ by at most `mm` and `rad`."""
        # two rotations by an angle apart differ by 2 sqrt(2) sin(angle / 2) in the Frobenius norm
        turn = 2.0 * np.arcsin(min(1.0, float(np.linalg.norm(self.rotation - other.rotation)) / np.sqrt(8.0)))
        return bool(turn <= rad and np.linalg.norm(self.position - other.position) <= mm)
