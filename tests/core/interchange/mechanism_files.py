"""STEP files with a mechanism: records of links, joints and pairs, added to an assembly that the kernel wrote."""

import itertools
import re
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

_LOW_ORDER = {
    "REVOLUTE_PAIR": "FFFFFT", "PRISMATIC_PAIR": "TFFFFF", "CYLINDRICAL_PAIR": "FFTFFT", "PLANAR_PAIR": "TTFFFT",
    "SPHERICAL_PAIR": "FFFTTT", "FULLY_CONSTRAINED_PAIR": "FFFFFF", "UNIVERSAL_PAIR": "FFFTFT",
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Pair:
    """A pair between two uses of the assembly, counted from 1, at a place in the world."""

    kind: str
    uses: tuple[int, int]
    at: Sequence[float] = (0.0, 0.0, 0.0)
    z: Sequence[float] = (0.0, 0.0, 1.0)
    x: Sequence[float] = (1.0, 0.0, 0.0)
    #: More values of the record, such as a range.
    more: tuple[str, ...] = ()
    #: The shifts and turns that it says it leaves; "" for the usual ones of its kind, "*" for none said.
    flags: str = ""


@dataclass(kw_only=True)
class Writer:
    """Adds records to a STEP file."""

    text: str
    #: How the part of each use stands, (4, 4): frames are written in its coordinates.
    poses: Sequence[np.ndarray]
    #: Frames are written in the world's coordinates.
    in_world: bool = False
    #: Links are tied to uses by their records, and not by their names alone.
    by_use: bool = True
    lines: list[str] = field(default_factory=list)

    def __post_init__(self) -> None:
        numbers = [int(number) for number in re.findall(r"#(\d+)\s*=", self.text)]
        self.next = itertools.count(max(numbers) + 1)
        self.uses = [int(number) for number in re.findall(r"#(\d+)\s*=\s*NEXT_ASSEMBLY_USAGE_OCCURRENCE", self.text)]
        self.names = re.findall(r"NEXT_ASSEMBLY_USAGE_OCCURRENCE\('[^']*','([^']*)'", self.text)
        (self.context, *_) = re.findall(r"#(\d+)\s*=\s*\(\s*GEOMETRIC_REPRESENTATION_CONTEXT", self.text)
        (self.shape, *_) = re.findall(r"SHAPE_DEFINITION_REPRESENTATION\(#\d+,#(\d+)\)", self.text)
        self.links = [self.link(k) for k, _ in enumerate(self.uses)]

    def add(self, record: str) -> int:
        number = next(self.next)
        self.lines.append(f"#{number}={record};")
        return number

    def link(self, use: int) -> tuple[int, int]:
        """Write a link, and what it shows; return both."""
        link = self.add(f"KINEMATIC_LINK('{self.names[use]}')")
        shown = self.add(f"KINEMATIC_LINK_REPRESENTATION('',(),#{self.context},#{link})")
        if self.by_use:
            relation = self.add(f"PRODUCT_DEFINITION_RELATIONSHIP_KINEMATICS('','',#{self.uses[use]})")
            tie = self.add(f"KINEMATIC_LINK_REPRESENTATION_ASSOCIATION('','',#{shown},#{self.shape})")
            self.add(f"CONTEXT_DEPENDENT_KINEMATIC_LINK_REPRESENTATION(#{tie},#{relation})")
        return link, shown

    def frame(self, pair: Pair, use: int) -> int:
        """Write a pair's frame as a part has it."""
        back = np.eye(4) if self.in_world else np.linalg.inv(self.poses[use])
        point = self._triple("CARTESIAN_POINT", (back @ [*pair.at, 1.0])[:3])
        axes = [self._triple("DIRECTION", back[:3, :3] @ np.array(axis)) for axis in (pair.z, pair.x)]
        return self.add(f"AXIS2_PLACEMENT_3D('',#{point},#{axes[0]},#{axes[1]})")

    def _triple(self, kind: str, values: np.ndarray) -> int:
        return self.add(f"{kind}('',({','.join(f'{value:.12E}' for value in values)}))")

    def pair(self, pair: Pair) -> None:
        a, b = (use - 1 for use in pair.uses)
        joint = self.add(f"KINEMATIC_JOINT('',#{self.links[a][0]},#{self.links[b][0]})")
        frames = f"#{self.frame(pair, a)},#{self.frame(pair, b)}"
        own = pair.flags or _LOW_ORDER.get(pair.kind.removesuffix("_WITH_RANGE"), "")
        flags = "" if own == "*" else "".join(f",.{flag}." for flag in own)
        more = "".join(f",{value}" for value in pair.more)
        self.add(f"{pair.kind}('{pair.kind.lower()}','',$,{frames},#{joint}{flags}{more})")

    def base(self, use: int) -> None:
        """Say on which part the mechanism stands."""
        topology = self.add(f"KINEMATIC_TOPOLOGY_STRUCTURE('',(),#{self.context})")
        mechanism = self.add(f"MECHANISM_REPRESENTATION('',(),#{self.context},#{topology})")
        (product, *_) = re.findall(r"#(\d+)\s*=\s*PRODUCT_DEFINITION\(", self.text)
        of = self.add(f"PRODUCT_DEFINITION_KINEMATICS('','',#{product})")
        shown = self.links[use - 1][1]
        self.add(f"KINEMATIC_PROPERTY_MECHANISM_REPRESENTATION(#{of},#{mechanism},#{shown})")

    def file(self) -> bytes:
        """Return the whole file."""
        head, tail = self.text.rsplit("ENDSEC;", 1)
        return (head + "\n".join(self.lines) + "\nENDSEC;" + tail).encode()


def with_pairs(
    data: bytes, pairs: Sequence[Pair], *, poses: Sequence[np.ndarray], base: int = 1, in_world: bool = False,
    by_use: bool = True,
) -> bytes:  # fmt: skip
    """Add pairs to an assembly whose uses stand so."""
    writer = Writer(text=data.decode(), poses=poses, in_world=in_world, by_use=by_use)
    for pair in pairs:
        writer.pair(pair)
    writer.base(base)
    return writer.file()
