"""A change of sizes, and what it touches, as plain values."""

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any

from rigid_bench.core.exercise.change_impact.moved_features import SizeMove
from rigid_bench.core.formats.documents import Document, nested
from rigid_bench.core.formats.message import OnceSentence

#: Measures of a round wall, with how many radii one is; and of two flat faces.
OF_WALLS: Mapping[str, float] = MappingProxyType({"diameter": 2.0, "radius": 1.0})
OF_FACES = ("length", "thickness", "depth")


def can_change(check: Mapping[str, Any]) -> bool:
    """Say whether the program can change the model for a check in JSON: the size of a round wall, or of two faces."""
    measure, of = check.get("measure"), nested(check.get("of"))
    if measure in OF_WALLS:
        return isinstance(of, Mapping) and bool({"cylinder", "axis"} & set(of))
    between = [nested(own) for own in check.get("between") or ()]
    return measure in OF_FACES and len(between) == 2 and all("plane" in own for own in between)


class SizeChange(Document):
    """A size that is to be another."""

    check: str
    #: In the exercise's unit.
    value: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangedPart:
    """A part whose model was changed."""

    #: Its STEP file before and after.
    before: bytes
    after: bytes
    moves: tuple[SizeMove, ...]


class TouchedCheck(Document):
    """A check that a change touches."""

    id: str
    title: str
    kind: str
    #: Ids of the parts that it is about.
    parts: list[str]
    #: What the exercise's own model measures there, before and after.
    was: OnceSentence
    now: OnceSentence
    #: After the change, of the exercise's own model.
    is_met: bool
