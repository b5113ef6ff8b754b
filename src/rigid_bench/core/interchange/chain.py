"""A build as links and joints: what the descriptions of mechanisms have in common."""

from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.formats.message import Message
from rigid_bench.core.values.frames import Pose

_Array = NDArray[np.float64]
JointKind = Literal["fixed", "revolute", "prismatic", "cylindrical", "planar", "spherical", "screw"]
#: What links that stand still are fixed to.
WORLD = "world"


@dataclass(slots=True, kw_only=True)
class Link:
    """One instance."""

    id: str
    #: In the world, at the zero position; mm.
    pose: Pose
    grounded: bool = False
    group: str | None = None
    #: Of the build file's part: id, name, file ...
    part: dict[str, Any] = field(default_factory=dict)


@dataclass(slots=True, kw_only=True)
class Joint:
    """What one link can do relative to another."""

    name: str
    kind: JointKind
    parent: str
    child: str
    #: (3,) mm and (3,) unit, in the world at the zero position: a point of the axis (or the centre), and the axis or
    #: normal; a turn or travel of the child about or along it counts as positive by the right hand.
    point: _Array
    direction: _Array
    #: mm per turn, positive for a right-handed thread.
    pitch: float = 0.0
    #: Least and greatest turn (rad) and travel (mm) from the zero position; None where it is free.
    rotation: tuple[float, float] | None = None
    translation: tuple[float, float] | None = None
    #: Where the build's own coordinates stand at the zero position: rad and mm.
    turned: float = 0.0
    travelled: float = 0.0


@dataclass(slots=True, kw_only=True)
class Chain:
    """A whole build."""

    links: list[Link]
    #: A tree: each link is the child of one at most.
    joints: list[Joint]
    #: Joints that close loops.
    loops: list[Joint] = field(default_factory=list)
    #: Mates that no joint of the description says, as in a build file, mm.
    mates: list[dict[str, Any]] = field(default_factory=list)
    #: What the description says and no build does, such as a joint that follows another.
    notices: list[Message] = field(default_factory=list)
    #: The model in which the parts are, as in a build file; "" for none.
    source: str = ""

    def link(self, name: str) -> Link:
        """Return a link by its name."""
        return next(link for link in self.links if link.id == name)


@dataclass(frozen=True, slots=True, kw_only=True)
class Abilities:
    """Which joints a description can say, in its tree and closing a loop."""

    tree: frozenset[str]
    loops: frozenset[str]
