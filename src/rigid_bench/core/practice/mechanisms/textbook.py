"""Mechanisms of the textbooks with their printed mobility: the count of joints tells it, or does not.

The count for n links and j joints of f degrees of freedom each is Grübler's in the plane, 3 (n - 1 - j) + Σf, and
Kutzbach's in space, 6 (n - 1 - j) + Σf. Sources are given with each, all from memory.
"""

import math
import random
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.practice.mechanisms import linkages
from rigid_bench.core.practice.mechanisms.maker import Maker, Mechanism, X, Y, Z, block, frame, rod

_Array = NDArray[np.float64]
_Place = tuple[float, float, float]
_NORTON = "R. L. Norton, Design of Machinery, chapter 2"
_UICKER = "J. J. Uicker, G. R. Pennock, J. E. Shigley, Theory of Machines and Mechanisms, chapter 1"
_HUNT = "K. H. Hunt, Kinematic Geometry of Mechanisms, 1978"


@dataclass(frozen=True, slots=True, kw_only=True)
class Example:
    """A mechanism with what is printed of it."""

    name: str
    make: Callable[[random.Random], Mechanism]
    #: Degrees of freedom of the whole, as printed.
    mobility: int
    #: The plane's count, or that of space.
    is_planar: bool
    links: int
    #: Degrees of freedom of each joint.
    joints: tuple[int, ...]
    source: str
    #: Why the count does not tell it; "" where it does.
    why: str = ""

    @property
    def counted(self) -> int:
        """What the count of links and joints gives."""
        return (3 if self.is_planar else 6) * (self.links - 1 - len(self.joints)) + sum(self.joints)


def _flat(maker: Maker, *links: tuple[str, _Place, _Place, float]) -> None:
    for name, start, end, level in links:
        linkages.link(maker, name, start, end, level)


def truss(chance: random.Random) -> Mechanism:
    """Two bars that meet at a pin: a structure."""
    maker, apart = Maker(chance), chance.randint(60, 90)
    a, d = (0.0, 0.0, 0.0), (float(apart), 0.0, 0.0)
    c = linkages.meeting(a, chance.randint(50, 70), d, chance.randint(50, 70))
    linkages.ground(maker, a, d)
    _flat(maker, ("left bar", a, c, 0), ("right bar", d, c, 6))
    linkages.joint(maker, "bed", "left bar", a, ("left post", "eye"))
    linkages.joint(maker, "bed", "right bar", d, ("right post", "eye"))
    linkages.joint(maker, "left bar", "right bar", c, ("outer eye", "outer eye"))
    return maker.done(asked=["left bar", "right bar"])


def five_bar(chance: random.Random) -> Mechanism:
    """Two cranks whose couplers meet at a pin."""
    maker, apart = Maker(chance), chance.randint(60, 90)
    a, d = (0.0, 0.0, 0.0), (float(apart), 0.0, 0.0)
    b, e = (
        linkages.at(a, chance.randint(20, 30), chance.randint(60, 120)),
        linkages.at(d, chance.randint(20, 30), chance.randint(40, 100)),
    )
    c = linkages.meeting(b, chance.randint(55, 75), e, chance.randint(55, 75))
    linkages.ground(maker, a, d)
    _flat(
        maker, ("left crank", a, b, 0), ("right crank", d, e, 0), ("left coupler", b, c, 6), ("right coupler", e, c, 12)
    )
    linkages.joint(maker, "bed", "left crank", a, ("left post", "eye"))
    linkages.joint(maker, "bed", "right crank", d, ("right post", "eye"))
    linkages.joint(maker, "left crank", "left coupler", b)
    linkages.joint(maker, "right crank", "right coupler", e)
    linkages.joint(maker, "left coupler", "right coupler", c)
    return maker.done(asked=["left coupler", "right coupler"])


def three_cranks(chance: random.Random) -> Mechanism:
    """Three equal parallel cranks under one coupler: one of them is spare, and it moves all the same."""
    maker, crank, angle = Maker(chance), chance.randint(25, 45), chance.randint(40, 140)
    first, second = chance.randint(35, 55), chance.randint(80, 110)
    feet = [(0.0, 0.0, 0.0), (float(first), 0.0, 0.0), (float(second), 0.0, 0.0)]
    heads = [linkages.at(foot, crank, angle) for foot in feet]
    linkages.ground(maker, *feet)
    names = ("left crank", "middle crank", "right crank")
    for name, foot, head in zip(names, feet, heads, strict=True):
        linkages.link(maker, name, foot, head, 0)
    linkages.link(maker, "coupler", heads[0], heads[2], 6)
    for name, foot, head in zip(names, feet, heads, strict=True):
        linkages.joint(maker, "bed", name, foot, (f"post of the {name}", "eye"))
        linkages.joint(maker, name, "coupler", head, ("outer eye", f"eye of the {name}"))
    return maker.done(asked=["coupler", "left crank"])


def arm_of_three(chance: random.Random) -> Mechanism:
    """An open chain of three turning joints."""
    maker, high, upper, fore = Maker(chance), chance.randint(20, 40), chance.randint(40, 60), chance.randint(30, 50)
    shoulder, elbow = (0.0, 0.0, float(high)), (float(upper), 0.0, float(high))
    hand = (float(upper + fore), 0.0, float(high))
    maker.part("bed", [block((0, 0, -6), (70, 70, 12))], grounded=True)
    maker.part("column", [rod((0, 0, 0), shoulder, 10)])
    maker.part("upper arm", [rod(shoulder, elbow, 6)], at=shoulder)
    maker.part("forearm", [rod(elbow, hand, 4)], at=elbow)
    maker.mate("revolute", "bed", "column", frame((0, 0, 0), Z), names=("middle", "foot"))
    maker.mate("revolute", "column", "upper arm", frame(shoulder, Y), names=("head", "first eye"))
    maker.mate("revolute", "upper arm", "forearm", frame(elbow, Y), names=("second eye", "eye"))
    return maker.done(asked=["upper arm", "forearm"])


def ball_ended_coupler(chance: random.Random) -> Mechanism:
    """A crank and a rocker in two planes, a coupler with a ball at each end: it can spin about itself."""
    maker, crank, rocker = Maker(chance), chance.randint(18, 28), chance.randint(35, 50)
    b = linkages.at((0.0, 0.0, 0.0), crank, chance.randint(20, 160))
    d = (float(chance.randint(60, 80)), float(chance.randint(10, 30)), 20.0)
    lean = math.radians(chance.randint(50, 130))
    c = (d[0], d[1] + rocker * math.cos(lean), d[2] + rocker * math.sin(lean))
    bed = [block((35, 10, -12), (120, 80, 6)), rod((0, 0, -9), (0, 0, -3), 5), block((d[0], d[1], 4), (6, 10, 26))]
    maker.part("bed", bed, grounded=True)
    maker.part("crank", [rod((0, 0, 0), b, 4)])
    maker.part("coupler", [rod(b, c, 3)], at=b)
    maker.part("rocker", [rod(d, c, 4)], at=d)
    maker.mate("revolute", "bed", "crank", frame((0, 0, 0), Z), names=("post", "eye"))
    maker.mate("spherical", "crank", "coupler", _ball(b), names=("ball", "near cup"))
    maker.mate("spherical", "coupler", "rocker", _ball(c), names=("far cup", "ball"))
    maker.mate("revolute", "bed", "rocker", frame(d, X), names=("ear", "eye"))
    return maker.done(asked=["coupler", "rocker"])


def _ball(place: _Place) -> dict[str, object]:
    return {"point": list(place)}


def sarrus(chance: random.Random) -> Mechanism:
    """Two pairs of hinged plates at right angles: the upper plate rises straight."""
    maker, wide, out, high = Maker(chance), chance.randint(20, 30), chance.randint(12, 22), chance.randint(40, 60)
    maker.part("lower plate", [block((0, 0, -3), (2 * wide, 2 * wide, 6))], grounded=True)
    maker.part("upper plate", [block((0, 0, high + 3), (2 * wide, 2 * wide, 6))], at=(0, 0, high))
    for side, way, pin in (("right", X, Y), ("back", Y, X)):
        low, knee, top = (
            (reach * way[0], reach * way[1], z)
            for reach, z in ((wide, 0.0), (wide + out, high / 2), (wide, float(high)))
        )
        maker.part(f"lower {side} leaf", [rod(low, knee, 3)], at=low)
        maker.part(f"upper {side} leaf", [rod(knee, top, 3)], at=knee)
        for a, b, place in (
            ("lower plate", f"lower {side} leaf", low), (f"lower {side} leaf", f"upper {side} leaf", knee),
            (f"upper {side} leaf", "upper plate", top),
        ):  # fmt: skip
            maker.mate("revolute", a, b, frame(place, pin), names=(f"{side} pin", f"{side} eye"))
    return maker.done(asked=["upper plate"])


def bennett(chance: random.Random) -> Mechanism:
    """Four skew turning joints: opposite links are alike, and length over sine of twist is the same for all.

    Frames are those of Denavit and Hartenberg, without offsets along the axes; of the turns at the joints
    tan(θ1/2) tan(θ2/2) = sin((β + α)/2) / sin((β - α)/2), θ3 = -θ1, θ4 = -θ2.
    """
    maker = Maker(chance)
    twist, other = math.radians(chance.randint(25, 40)), math.radians(chance.randint(60, 80))
    long = float(chance.randint(30, 40))
    lengths = (long, long * math.sin(other) / math.sin(twist))
    first = math.radians(chance.randint(60, 120))
    ratio = math.sin((other + twist) / 2) / math.sin((other - twist) / 2)
    second = 2 * math.atan(ratio / math.tan(first / 2))
    places, ways, here = [], [], np.eye(4)
    for turn, k in ((first, 0), (second, 1), (-first, 0), (-second, 1)):
        places.append(here[:3, 3])
        ways.append(here[:3, 2])
        here = here @ _step(turn, lengths[k], (twist, other)[k])
    names = ("first link", "second link", "third link", "fixed link")
    for k, name in enumerate(names):
        start, end = places[k], places[(k + 1) % 4]
        pins = [rod(place - 6 * way, place + 6 * way, 4) for place, way in ((start, ways[k]),)]
        maker.part(name, [rod(start, end, 3), *pins], at=start, grounded=k == 3)
    for k in range(4):
        before, after = names[k - 1], names[k]
        maker.mate("revolute", before, after, frame(places[k], ways[k]), names=("outer eye", "pin"))
    return maker.done(asked=["second link", "first link"], turn=False)


def _step(turn: float, length: float, twist: float) -> _Array:
    """Return the frame of the next joint in that of this one."""
    ct, st, ca, sa = math.cos(turn), math.sin(turn), math.cos(twist), math.sin(twist)
    return np.array(
        [[ct, -st * ca, st * sa, length * ct], [st, ct * ca, -ct * sa, length * st], [0, sa, ca, 0], [0, 0, 0, 1.0]]
    )


def two_shafts(chance: random.Random) -> Mechanism:
    """Two shafts in bearings, a cross between their forks: all four axes meet in a point."""
    maker, reach, lean = Maker(chance), chance.randint(18, 28), math.radians(chance.randint(20, 40))
    along = np.array([math.sin(lean), 0.0, math.cos(lean)])
    maker.part(
        "frame", [block((0, 0, -3.6 * reach), (30, 30, 8)), block(3.4 * reach * along, (24, 24, 8))], grounded=True
    )
    maker.part("driving shaft", [rod((0, 0, -3.4 * reach), (0, 0, -0.6 * reach), 5)])
    maker.part("cross", [rod((-reach, 0, 0), (reach, 0, 0), 3), rod((0, -reach, 0), (0, reach, 0), 3)])
    maker.part("driven shaft", [rod(0.6 * reach * along, 3.2 * reach * along, 5)])
    origin = (0.0, 0.0, 0.0)
    maker.mate("revolute", "frame", "driving shaft", frame(origin, Z), names=("lower bearing", "journal"))
    maker.mate("revolute", "driving shaft", "cross", frame(origin, X), names=("fork", "first pins"))
    maker.mate("revolute", "cross", "driven shaft", frame(origin, Y), names=("second pins", "fork"))
    maker.mate("revolute", "frame", "driven shaft", frame(origin, along), names=("upper bearing", "journal"))
    return maker.done(asked=["cross", "driven shaft"], turn=False)


def platform(chance: random.Random) -> Mechanism:
    """A platform on six legs that lengthen, a ball at each end of each: every leg can spin about itself."""
    maker, low, up, high = Maker(chance), chance.randint(45, 55), chance.randint(25, 35), chance.randint(50, 70)
    maker.part("bed", [rod((0, 0, -6), (0, 0, 0), low + 6)], grounded=True)
    maker.part("platform", [rod((0, 0, high), (0, 0, high + 5), up + 4)], at=(0, 0, high))
    for k in range(6):
        foot = linkages.at((0.0, 0.0, 0.0), low, 60 * (k // 2) * 2 + (8 if k % 2 else -8))
        head = linkages.at((0.0, 0.0, float(high)), up, 60 * ((k + 1) // 2) * 2 - 60 + (-8 if k % 2 else 8))
        a, b = np.array(foot), np.array(head)
        names = f"lower leg {k + 1}", f"upper leg {k + 1}"
        maker.part(names[0], [rod(a, a + 0.6 * (b - a), 4)], at=foot)
        maker.part(names[1], [rod(a + 0.4 * (b - a), b, 2.5)], at=head)
        maker.mate("spherical", "bed", names[0], _ball(foot), names=(f"cup {k + 1}", "ball"))
        maker.mate(
            "prismatic", names[0], names[1], frame((a + b) / 2, (b - a) / np.linalg.norm(b - a)), names=("tube", "rod")
        )
        maker.mate("spherical", names[1], "platform", _ball(head), names=("ball", f"cup {k + 1}"))
    return maker.done(asked=["platform"])


#: By level: what the count tells; what it tells with an idle motion or none; what it does not tell.
EXAMPLES: dict[int, tuple[Example, ...]] = {
    1: (
        Example(name="four-bar linkage", make=linkages.four_bar, mobility=1, is_planar=True, links=4,
                joints=(1,) * 4, source=_NORTON),
        Example(name="slider and crank", make=linkages.slider_crank, mobility=1, is_planar=True, links=4,
                joints=(1,) * 4, source=_NORTON),
        Example(name="five-bar linkage", make=five_bar, mobility=2, is_planar=True, links=5, joints=(1,) * 5,
                source=_NORTON),
        Example(name="two bars at a pin", make=truss, mobility=0, is_planar=True, links=3, joints=(1,) * 3,
                source=_UICKER),
    ),
    2: (
        Example(name="six-bar linkage", make=linkages.six_bar, mobility=1, is_planar=True, links=6, joints=(1,) * 7,
                source=_NORTON),
        Example(name="slotted yoke", make=linkages.slotted_yoke, mobility=1, is_planar=True, links=3, joints=(1, 1, 2),
                source=_UICKER),
        Example(name="ellipse drawer", make=linkages.double_slider, mobility=1, is_planar=True, links=4,
                joints=(1,) * 4, source=_UICKER),
        Example(name="arm of three joints", make=arm_of_three, mobility=3, is_planar=False, links=4, joints=(1,) * 3,
                source=_UICKER),
        Example(name="coupler with a ball at each end", make=ball_ended_coupler, mobility=2, is_planar=False, links=4,
                joints=(1, 3, 3, 1), source=_UICKER),
        Example(name="platform on six legs", make=platform, mobility=12, is_planar=False, links=14,
                joints=(3, 1, 3) * 6, source="D. Stewart, A platform with six degrees of freedom, 1965"),
    ),
    3: (
        Example(name="three parallel cranks", make=three_cranks, mobility=1, is_planar=True, links=5, joints=(1,) * 6,
                source=_NORTON, why="the third crank is as long as the others and parallel: it holds nothing new"),
        Example(name="plates on hinged leaves", make=sarrus, mobility=1, is_planar=False, links=6, joints=(1,) * 6,
                source="P. T. Sarrus, Comptes Rendus 36, 1853",
                why="each pair of leaves keeps the plate level by itself"),
        Example(name="four skew hinges", make=bennett, mobility=1, is_planar=False, links=4, joints=(1,) * 4,
                source="G. T. Bennett, A new mechanism, Engineering 76, 1903",
                why="length over sine of twist is the same for all links"),
        Example(name="two shafts and a cross", make=two_shafts, mobility=1, is_planar=False, links=4, joints=(1,) * 4,
                source=_HUNT, why="all axes meet in one point: there it is the plane's count that holds"),
    ),
}  # fmt: skip
