"""What a STEP file tells of where it comes from: its header, its order, and where parts were left. Loads no kernel."""

import hashlib
import itertools
import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

_Array = NDArray[np.float64]
_STRING = re.compile(r"'(?:[^']|'')*'")
_ENTITY = re.compile(r"#(\d+)\s*=\s*([A-Z0-9_]+)\s*\(([^;]*)\)\s*;")
_REFERENCE = re.compile(r"#(\d+)")
_NUMBER = re.compile(r"[-+]?\d+\.?\d*(?:E[-+]?\d+)?")
_HEADER = re.compile(r"FILE_NAME\s*\((.*?)\)\s*;", re.DOTALL)
#: Digits to which edges are compared, and where parts were left: a drag ends anywhere, to the last digit. Within this a
#: value is a number that somebody typed, or that follows from such.
_LENGTH_DIGITS, _LEFT_DIGITS, _NEAR = 3, 6, 1e-4
#: So many placed parts are compared at most, each with each.
_MOST_PLACED = 30
#: Steps of typed lengths; and of those that stand on common angles, with the roots that these bring.
_TYPED, _ON_ANGLES = 0.01, ((0.25, 2**0.5), (0.25, 3**0.5))


@dataclass(frozen=True, slots=True, kw_only=True)
class StepPrint:
    """Traits of one STEP file; digests are hexadecimal SHA-256, texts are "" where the file has none."""

    digest: str
    #: Of the data with every text blank: the same where only names and header differ.
    body: str
    #: When it was written, by whom, with what, as the header says.
    stamp: str
    author: str
    system: str
    #: Of the lengths of its edges, in the order of the file: the same wherever the parts stand.
    order: str
    edges: int
    #: Of each solid: its corners in its own coordinates, in the order of the file. It tells where a sketch was begun,
    #: and in what order things were made; it is the same wherever the part stands, and when it is exported again.
    solids: tuple[str, ...]
    #: Lengths, in the file's unit, at which parts stand from each other, and which nobody types: dragged there.
    left_at: frozenset[float]


def is_step(content: bytes) -> bool:
    """Tell whether a file begins as STEP files do (ISO 10303-21)."""
    return content[:200].lstrip().startswith(b"ISO-10303-21")


@lru_cache(maxsize=512)
def step_print(content: bytes) -> StepPrint:
    """Read the traits of a STEP file; of another file all but `digest` say nothing."""
    digest = hashlib.sha256(content).hexdigest()
    header, _, data = content.decode("latin-1").partition("DATA;")
    names = _header_texts(header)
    blank = _STRING.sub("''", data)
    entities = {int(number): (kind, rest) for number, kind, rest in _ENTITY.findall(blank)}
    lengths = _edge_lengths(entities)
    return StepPrint(
        digest=digest,
        body=hashlib.sha256(re.sub(r"\s+", "", blank).encode()).hexdigest(),
        stamp=names[0],
        author=names[1],
        system=names[2],
        order=hashlib.sha256(np.round(lengths, _LENGTH_DIGITS).tobytes()).hexdigest() if len(lengths) else "",
        edges=len(lengths),
        solids=tuple(_solids(entities)),
        left_at=frozenset(_left_at(entities)),
    )


def _header_texts(header: str) -> tuple[str, str, str]:
    """Return the time, the author and the originating system of FILE_NAME (ISO 10303-21, 8.2.2)."""
    file_name = _HEADER.search(header)
    texts = [text[1:-1].strip() for text in _STRING.findall(file_name[1])] if file_name else []
    # name, time, authors, organisations, preprocessor, system, authorisation: lists have one text at least
    return (texts[1], texts[2], texts[-2]) if len(texts) >= 7 else ("", "", "")


_Entities = dict[int, tuple[str, str]]


def _edge_lengths(entities: _Entities) -> _Array:
    """(n,) from end to end of each edge, in the order of the file."""
    points = {number: _numbers(rest) for number, (kind, rest) in entities.items() if kind == "CARTESIAN_POINT"}
    ends = {number: _references(rest)[-1:] for number, (kind, rest) in entities.items() if kind == "VERTEX_POINT"}
    lengths = []
    for kind, rest in entities.values():
        if kind != "EDGE_CURVE":
            continue
        corners = [points.get(point) for vertex in _references(rest)[:2] for point in ends.get(vertex, ())]
        if len(corners) == 2 and corners[0] is not None and corners[1] is not None:
            lengths.append(float(np.linalg.norm(np.subtract(corners[1], corners[0]))))
    return np.array(lengths) + 0.0


def _solids(entities: _Entities) -> Iterator[str]:
    for number, (kind, _) in entities.items():
        if kind in ("MANIFOLD_SOLID_BREP", "BREP_WITH_VOIDS"):
            corners = [
                _numbers(entities[point][1])
                for own in _below(entities, number)
                if entities[own][0] == "VERTEX_POINT"
                for point in _references(entities[own][1])[-1:]
                if point in entities
            ]
            yield hashlib.sha256((np.round(np.array(corners), _LENGTH_DIGITS) + 0.0).tobytes()).hexdigest()


def _below(entities: _Entities, number: int) -> Iterator[int]:
    """List what an entity refers to, and what that refers to, each once, in the order of the references."""
    seen, waiting = {number}, [number]
    while waiting:
        own = waiting.pop()
        yield own
        further = [below for below in _references(entities[own][1]) if below in entities and below not in seen]
        seen.update(further)
        waiting += reversed(further)


def _left_at(entities: _Entities) -> list[float]:
    """Return the lengths from one placed part to another, along the axes of the one, that are no typed ones.

    What stands in an assembly within an assembly is placed in that: between parts of one of them nothing changes when
    the whole is moved. Lengths between others are of no use, and do no harm.
    """
    poses = []
    for kind, rest in entities.values():
        if kind == "ITEM_DEFINED_TRANSFORMATION" and len(_references(rest)) >= 2:
            here, there = (_frame(entities, number) for number in _references(rest)[-2:])
            if here is not None and there is not None:
                poses.append(there @ np.linalg.inv(here))
    lengths = [
        float(length)
        for a, b in itertools.permutations(poses[:_MOST_PLACED], 2)
        for length in np.abs(a[:3, :3].T @ (b[:3, 3] - a[:3, 3]))
    ]
    return [round(length, _LEFT_DIGITS) for length in lengths if not _is_typed(length)]


def _is_typed(length: float) -> bool:
    steps = (_TYPED, *(step * root for step, root in _ON_ANGLES))
    return any(abs(length - round(length / step) * step) < _NEAR for step in steps)


def _frame(entities: _Entities, number: int) -> _Array | None:
    """(4, 4) of an AXIS2_PLACEMENT3D (ISO 10303-42); None where it is something else."""
    kind, rest = entities.get(number, ("", ""))
    if kind not in ("AXIS2_PLACEMENT3D", "AXIS2_PLACEMENT_3D"):  # both are written
        return None
    vectors = [_numbers(entities[own][1]) for own in _references(rest) if own in entities]
    if not vectors or any(len(vector) != 3 for vector in vectors):
        return None
    origin, z, x = (
        (*vectors, [0.0, 0.0, 1.0], [1.0, 0.0, 0.0])[:3] if len(vectors) == 1 else (*vectors, [1.0, 0.0, 0.0])[:3]
    )
    z_axis = np.array(z) / np.linalg.norm(z)
    x_axis = np.array(x) - (np.array(x) @ z_axis) * z_axis
    if np.linalg.norm(x_axis) < _NEAR:
        return None
    x_axis /= np.linalg.norm(x_axis)
    frame = np.eye(4)
    frame[:3] = np.column_stack([x_axis, np.cross(z_axis, x_axis), z_axis, origin])
    return frame


def _references(rest: str) -> list[int]:
    return [int(number) for number in _REFERENCE.findall(rest)]


def _numbers(rest: str) -> list[float]:
    inside = rest[rest.rfind("(") :]
    return [float(number) for number in _NUMBER.findall(inside)]
