"""What a kind of mate is: one entry says all that the program knows of it."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from rigid_bench.core.assembly.mates.equations import Equation
from rigid_bench.core.formats.build import Mate, Sense
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, Feature, PlaneFeature
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.wording.language import _

#: Two kinds of feature, in the order in which a rule takes them.
Pairing = tuple[str, str]
#: Returns the value with which a mate holds as two features stand, in the unit of the kind; None where it has none.
AsPlaced = Callable[[Feature, Feature], float | None]


@dataclass(frozen=True, slots=True)
class Rule:
    """How a kind joins two kinds of feature."""

    #: How many equations it counts for.
    removes: int
    #: Lists them for two features in the world, in the order of the pairing, and the mate.
    equations: Callable[[Any, Any, Mate], list[Equation]]


@dataclass(frozen=True, slots=True, kw_only=True)
class Choice:
    """Something that two surfaces may be chosen to do, which a kind of mate brings about."""

    #: Travels in forms; the words never do.
    id: str
    #: What the two do: "faces meet".
    words: str
    #: Of the mate, where both surfaces are flat.
    sense: Sense = "either"
    #: How near the top of the list it stands, by what the two surfaces are: "flat-flat", "flat-round", "round-round".
    #: It is not offered for those that are missing.
    places: Mapping[str, int] = field(default_factory=dict)
    #: What its number is called, with its unit; "" for none.
    value_label: str = ""
    #: The parts are joined frame to frame.
    is_joint: bool = False
    #: The coordinate of a joint that may have limits.
    limited: Literal["", "rotation", "translation"] = ""
    #: It can be asked of an exercise as a relation between two surfaces.
    is_relation: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class MateKind:
    """One kind of mate; a module in `kinds/` that has a `KIND` is found by itself."""

    #: As in build files; after ISO 10303-109 (constraints) and ISO 10303-105 (kinematic pairs).
    name: str
    #: What the two parts do: "share an axis".
    words: str
    #: What it joins, and how.
    rules: Mapping[Pairing, Rule]
    #: Unit of its `value`, where it takes one.
    value_unit: Literal["", "mm", "deg"] = ""
    as_placed: AsPlaced = lambda a, b: None
    #: It turns about, travels along, the z of its frames (or, travelling, its axis): these may have limits.
    turns: bool = False
    travels: bool = False
    #: What it may be loosened to, the tightest first.
    looser: tuple[str, ...] = ()
    #: Whether it is tried to take a motion away, and how early: the simplest first. 0 for never.
    advised: int = 0
    #: The symbol of a kinematic pair, by its name in ISO 3952-1; "" for what is no pair.
    symbol: str = ""
    #: The joint of a URDF description that it becomes as it stands; "" for none.
    urdf: str = ""
    #: A cylinder serves as itself and not only as its axis.
    takes_walls: bool = False
    choices: tuple[Choice, ...] = ()


def needed(mate: Mate, what: str) -> InvalidDocument:
    """Return the error that a mate lacks something."""
    return InvalidDocument(
        _("mate '{id}'", id=mate.id),
        _("a mate of kind '{kind}' needs {what}", kind=mate.kind, what=what),
        _("Add it to the mate"),
    )


def value_of(mate: Mate) -> float:
    """Return the value of a mate that must have one.

    Raises
    ------
    InvalidDocument
        It has none.
    """
    if mate.value is None:
        raise needed(mate, _("a value"))
    return mate.value


def surfaces_pair(a: Feature, b: Feature) -> str:
    """Say what two surfaces are: "flat-flat", "flat-round" or "round-round"."""
    flats = sum(isinstance(feature, PlaneFeature) for feature in (a, b))
    return ("round-round", "flat-round", "flat-flat")[flats]


def as_related(feature: Feature, kind: MateKind) -> Feature:
    """Return a feature as mates of a kind have it: a round wall as its axis, unless it is touched."""
    if isinstance(feature, CylinderFeature) and not kind.takes_walls:
        return AxisFeature(feature.point, feature.direction)
    return feature
