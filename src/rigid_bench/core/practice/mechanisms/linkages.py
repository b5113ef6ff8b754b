"""Planar linkages of one degree of freedom: cranks, rockers, sliders."""

import math
import random

from rigid_bench.core.practice.mechanisms.maker import (
    Maker,
    Mechanism,
    X,
    Y,
    Z,
    bar,
    block,
    frame,
    rod,
    sliding,
    turning,
)
from rigid_bench.core.practice.unfit import Unfit

_Place = tuple[float, float, float]
#: Degrees between two links below which one hardly drives the other.
_FLAT = 20.0


def at(origin: _Place, length: float, degrees: float) -> _Place:
    """Return the place so far from another, at so many degrees from X."""
    angle = math.radians(degrees)
    return (origin[0] + length * math.cos(angle), origin[1] + length * math.sin(angle), origin[2])


def meeting(a: _Place, ra: float, b: _Place, rb: float) -> _Place:
    """Return where two circles meet, to the left of the line from a to b; raises `Unfit` where they hardly do."""
    dx, dy = b[0] - a[0], b[1] - a[1]
    apart = math.hypot(dx, dy)
    along = (apart**2 + ra**2 - rb**2) / (2 * apart)
    off = ra**2 - along**2
    if off < (0.25 * min(ra, rb)) ** 2:
        raise Unfit
    off = math.sqrt(off)
    return (a[0] + (along * dx - off * dy) / apart, a[1] + (along * dy + off * dx) / apart, a[2])


def link(maker: Maker, name: str, start: _Place, end: _Place, level: float) -> None:
    """Add a flat link from joint to joint, at a level."""
    raised = [(place[0], place[1], level) for place in (start, end)]
    maker.part(name, [bar(raised[0], raised[1], 10, 5)], at=raised[0])


def joint(maker: Maker, a: str, b: str, place: _Place, names: tuple[str, str] = ("pin", "eye")) -> None:
    """Join two links by a pin along Z."""
    maker.mate("revolute", a, b, frame(place, Z, X), names=names)


def ground(maker: Maker, *places: _Place) -> None:
    """Add a grounded bed with a post at each place."""
    posts = [rod((x, y, -12), (x, y, 0), 5) for x, y, _ in places]
    xs, ys = [place[0] for place in places], [place[1] for place in places]
    middle = ((min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2, -15)
    bed = block(middle, (max(xs) - min(xs) + 40, max(ys) - min(ys) + 30, 6))
    maker.part("bed", [*posts, bed], grounded=True)


def _bars(chance: random.Random, maker: Maker, more: tuple[_Place, ...] = ()) -> tuple[_Place, _Place, _Place, _Place]:
    """Draw a four-bar linkage by lot; return its four joints."""
    apart, crank = chance.randint(60, 90), chance.randint(15, 28)
    coupler, rocker = chance.randint(55, 85), chance.randint(40, 60)
    a, d = (0.0, 0.0, 0.0), (float(apart), 0.0, 0.0)
    b = at(a, crank, chance.randint(20, 160))
    c = meeting(b, coupler, d, rocker)
    ground(maker, a, d, *more)
    link(maker, "crank", a, b, 0)
    link(maker, "coupler", b, c, 6)
    link(maker, "rocker", d, c, 0)
    joint(maker, "bed", "crank", a, ("left post", "eye"))
    joint(maker, "crank", "coupler", b, ("outer eye", "left eye"))
    joint(maker, "coupler", "rocker", c, ("right eye", "outer eye"))
    joint(maker, "bed", "rocker", d, ("right post", "eye"))
    return a, b, c, d


def four_bar(chance: random.Random) -> Mechanism:
    """A crank, a coupler, a rocker."""
    maker = Maker(chance)
    a, _, _, _ = _bars(chance, maker)
    return maker.done(asked=["crank", "rocker", "coupler"], drive=("crank", turning(a)), driven=["rocker", "coupler"])


def parallelogram(chance: random.Random) -> Mechanism:
    """Two equal cranks and a coupler that keeps its direction."""
    maker, apart, crank, angle = Maker(chance), chance.randint(50, 90), chance.randint(25, 45), chance.randint(40, 140)
    a, d = (0.0, 0.0, 0.0), (float(apart), 0.0, 0.0)
    b, c = at(a, crank, angle), at(d, crank, angle)
    ground(maker, a, d)
    for name, start, end, level in (("left crank", a, b, 0), ("coupler", b, c, 6), ("right crank", d, c, 0)):
        link(maker, name, start, end, level)
    joint(maker, "bed", "left crank", a, ("left post", "eye"))
    joint(maker, "left crank", "coupler", b, ("outer eye", "left eye"))
    joint(maker, "coupler", "right crank", c, ("right eye", "outer eye"))
    joint(maker, "bed", "right crank", d, ("right post", "eye"))
    return maker.done(asked=["left crank", "right crank"], drive=("left crank", turning(a)), driven=["right crank"])


def slider_crank(chance: random.Random) -> Mechanism:
    """A crank drives a ram by a rod."""
    maker, crank, long = Maker(chance), chance.randint(15, 30), chance.randint(60, 95)
    angle = chance.randint(25, 155) * chance.choice((1, -1))
    a = (0.0, 0.0, 0.0)
    b = at(a, crank, angle)
    c = (b[0] + math.sqrt(long**2 - b[1] ** 2), 0.0, 0.0)
    ground(maker, a, (c[0] + 20, 0, 0))
    link(maker, "crank", a, b, 0)
    link(maker, "connecting rod", b, c, 6)
    maker.part("ram", [block((c[0], 0, 0), (26, 20, 10))], at=c)
    joint(maker, "bed", "crank", a, ("post", "eye"))
    joint(maker, "crank", "connecting rod", b, ("outer eye", "big eye"))
    joint(maker, "connecting rod", "ram", c, ("small eye", "pin"))
    maker.mate("prismatic", "bed", "ram", frame((c[0], 0, 0), X, Y), names=("ways", "sides"))
    return maker.done(asked=["ram", "crank", "connecting rod"], drive=("crank", turning(a)), driven=["ram"])


def slotted_yoke(chance: random.Random) -> Mechanism:
    """A crank's pin in the slot of a yoke that slides: the travel is the crank's cosine."""
    maker, crank, angle = Maker(chance), chance.randint(15, 35), chance.randint(25, 155) * chance.choice((1, -1))
    a = (0.0, 0.0, 0.0)
    b = at(a, crank, angle)
    ground(maker, a, (60.0, 0.0, 0.0))
    link(maker, "crank", a, b, 0)
    maker.part("yoke", [block((b[0], 0, 8), (12, 2 * crank + 30, 6)), block((b[0] + 50, 0, 8), (100, 8, 6))],
               at=(b[0], 0, 8))  # fmt: skip
    joint(maker, "bed", "crank", a, ("post", "eye"))
    maker.mate("prismatic", "bed", "yoke", frame((b[0], 0, 8), X, Y), names=("ways", "stem"))
    slot = {"plane": {"point": [b[0], 0, 8], "normal": [1.0, 0.0, 0.0]}}
    pin = {"axis": {"point": list(b), "direction": list(Z)}}
    maker.mate("coincident", "yoke", "crank", slot, pin, names=("middle of the slot", "pin"))
    return maker.done(asked=["yoke", "crank"], drive=("crank", turning(a)), driven=["yoke"])


def swinging_block(chance: random.Random) -> Mechanism:
    """A crank's pin slides in a lever that swings about a post below."""
    maker, crank, apart = Maker(chance), chance.randint(15, 25), chance.randint(45, 70)
    a, d = (0.0, 0.0, 0.0), (0.0, -float(apart), 0.0)
    b = at(a, crank, chance.randint(20, 160))
    out = math.hypot(b[0] - d[0], b[1] - d[1])
    along = ((b[0] - d[0]) / out, (b[1] - d[1]) / out, 0.0)
    ground(maker, a, d)
    link(maker, "crank", a, b, 0)
    link(maker, "swinging lever", d, (d[0] + (out + 25) * along[0], d[1] + (out + 25) * along[1], 0.0), 6)
    joint(maker, "bed", "crank", a, ("upper post", "eye"))
    joint(maker, "bed", "swinging lever", d, ("lower post", "eye"))
    slot = {"plane": {"point": list(d), "normal": [-along[1], along[0], 0.0]}}
    pin = {"axis": {"point": list(b), "direction": list(Z)}}
    maker.mate("coincident", "swinging lever", "crank", slot, pin, names=("middle of the slot", "pin"))
    return maker.done(asked=["swinging lever"], drive=("crank", turning(a)), driven=["swinging lever"])


def six_bar(chance: random.Random) -> Mechanism:
    """A four-bar linkage whose rocker drives a second coupler and rocker."""
    maker = Maker(chance)
    far = (float(chance.randint(150, 180)), 0.0, 0.0)
    a, _, c, _ = _bars(chance, maker, (far,))
    long, out = chance.randint(60, 90), chance.randint(35, 55)
    e = meeting(c, long, far, out)
    link(maker, "second coupler", c, e, 12)
    link(maker, "second rocker", far, e, 0)
    joint(maker, "rocker", "second coupler", c, ("outer eye", "left eye"))
    joint(maker, "second coupler", "second rocker", e, ("right eye", "outer eye"))
    joint(maker, "bed", "second rocker", far, ("far post", "eye"))
    return maker.done(
        asked=["second rocker", "rocker"], drive=("crank", turning(a)), driven=["second rocker", "rocker"]
    )


def double_slider(chance: random.Random) -> Mechanism:
    """A bar between two slides at right angles: its ends trace the axes."""
    maker, long, angle = Maker(chance), chance.randint(60, 100), chance.randint(25, 65)
    a, b = (
        at((0.0, 0.0, 0.0), long * math.cos(math.radians(angle)), 0),
        (0.0, long * math.sin(math.radians(angle)), 0.0),
    )
    maker.part("cross rail", [block((50, 0, -6), (120, 16, 8)), block((0, 50, -6), (16, 120, 8))], grounded=True)
    maker.part("level slide", [block(a, (20, 12, 8))], at=a)
    maker.part("upright slide", [block(b, (12, 20, 8))], at=b)
    link(maker, "bar", a, b, 6)
    maker.mate("prismatic", "cross rail", "level slide", frame(a, X, Y), names=("level groove", "sides"))
    maker.mate("prismatic", "cross rail", "upright slide", frame(b, Y, X), names=("upright groove", "sides"))
    joint(maker, "level slide", "bar", a, ("pin", "first eye"))
    joint(maker, "upright slide", "bar", b, ("pin", "second eye"))
    return maker.done(asked=["level slide", "upright slide"], drive=("level slide", sliding(X)),
                      driven=["upright slide", "bar"])  # fmt: skip


def scissor_lift(chance: random.Random) -> Mechanism:
    """Two crossed bars under a table: one foot slides, and the table rises."""
    maker, half, angle = Maker(chance), chance.randint(30, 45), chance.randint(25, 60)
    cos, sin = half * math.cos(math.radians(angle)), half * math.sin(math.radians(angle))
    a, b, c, d = (0.0, 0.0, 0.0), (2 * cos, 0.0, 0.0), (2 * cos, 2 * sin, 0.0), (0.0, 2 * sin, 0.0)
    maker.part("bed", [block((cos, -6, 0), (2 * half + 30, 8, 20))], grounded=True)
    maker.part("foot", [block(b, (16, 8, 12))], at=b)
    maker.part("table", [block((cos, 2 * sin + 6, 0), (2 * half + 20, 8, 20))], at=d)
    maker.part("upper slide", [block(c, (16, 8, 12))], at=c)
    link(maker, "rising bar", a, c, 3)
    link(maker, "falling bar", b, d, -3)
    joint(maker, "bed", "rising bar", a, ("left eye", "lower eye"))
    maker.mate("prismatic", "bed", "foot", frame(b, X, Y), names=("rail", "sides"))
    joint(maker, "foot", "falling bar", b, ("pin", "lower eye"))
    joint(maker, "rising bar", "falling bar", (cos, sin, 0.0), ("middle pin", "middle eye"))
    joint(maker, "table", "falling bar", d, ("left eye", "upper eye"))
    joint(maker, "upper slide", "rising bar", c, ("pin", "upper eye"))
    maker.mate("prismatic", "table", "upper slide", frame(c, X, Y), names=("rail", "sides"))
    return maker.done(asked=["table", "foot"], drive=("foot", sliding(X)), driven=["table"])


FAMILIES = (
    four_bar, parallelogram, slider_crank, slotted_yoke, swinging_block, six_bar, double_slider, scissor_lift,
)  # fmt: skip
