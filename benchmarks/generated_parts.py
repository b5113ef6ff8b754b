"""Parts as a class draws them, made at random: plates, angles, blocks with pockets, turned shafts, flanges, levers."""

import random
from collections.abc import Callable, Iterator
from typing import Any

from build123d import Align, Axis, Box, Cylinder, Pos, Rot, chamfer, fillet

_CORNER, _FOOT = (Align.MIN,) * 3, (Align.CENTER, Align.CENTER, Align.MIN)


def generated_parts(count: int, seed: int = 1) -> Iterator[Any]:
    """Yield so many solids, each kind in its turn."""
    makers: list[Callable[[random.Random], Any]] = [plate, angle, block, shaft, flange, lever]
    for number in range(count):
        yield makers[number % len(makers)](random.Random(seed * 1000 + number))


def _round(rng: random.Random, low: float, high: float) -> float:
    return round(rng.uniform(low, high) * 2) / 2


def plate(rng: random.Random) -> Any:
    """A plate with a grid of holes, some counterbored, and perhaps rounded corners."""
    long, wide, thick = _round(rng, 50, 140), _round(rng, 35, 90), _round(rng, 5, 14)
    own = Box(long, wide, thick, align=_CORNER)
    if rng.random() < 0.6:
        own = fillet(own.edges().filter_by(Axis.Z), _round(rng, 3, 8))
    inset, hole = _round(rng, 9, 12), _round(rng, 4, 7)
    for x in (inset, long - inset):
        for y in (inset, wide - inset):
            own -= Pos(x, y, 0) * Cylinder(hole / 2, 3 * thick)
            if rng.random() < 0.3:
                own -= Pos(x, y, thick * 0.6) * Cylinder(hole * 0.8, thick, align=_FOOT)
    return own - Pos(long / 2, wide / 2, 0) * Cylinder(_round(rng, 5, 10), 3 * thick)


def angle(rng: random.Random) -> Any:
    """An angle with holes in both legs."""
    long, foot, high, thick = _round(rng, 40, 90), _round(rng, 30, 50), _round(rng, 30, 60), _round(rng, 4, 8)
    own = Box(long, foot, thick, align=_CORNER) + Box(long, thick, high, align=_CORNER)
    own -= Pos(long / 2, foot * 0.65, 0) * Cylinder(_round(rng, 2, 4), 3 * thick)
    for x in (long * 0.25, long * 0.75):
        own -= Pos(x, 0, high * 0.7) * Rot(90, 0, 0) * Cylinder(_round(rng, 2, 4), 3 * thick)
    return own


def block(rng: random.Random) -> Any:
    """A block with a pocket, a cross bore and a chamfered edge."""
    long, wide, high = _round(rng, 40, 80), _round(rng, 30, 60), _round(rng, 20, 40)
    own = Box(long, wide, high, align=_CORNER)
    own = chamfer(own.edges().filter_by(Axis.Y).sort_by(Axis.Z)[-1:], _round(rng, 2, 4))
    own -= Pos(long * 0.3, wide / 2, high / 2) * Rot(90, 0, 0) * Cylinder(_round(rng, 3, 6), 3 * wide)
    pocket = Box(long * 0.3, wide * 0.5, high * 0.4, align=_CORNER)
    return own - Pos(long * 0.55, wide * 0.25, high * 0.6) * pocket


def shaft(rng: random.Random) -> Any:
    """A shaft of two to four steps."""
    own, at, radius = None, 0.0, _round(rng, 12, 24)
    for _ in range(rng.randint(2, 4)):
        length = _round(rng, 12, 45)
        step = Pos(0, 0, at) * Cylinder(radius, length, align=_FOOT)
        own = step if own is None else own + step
        at, radius = at + length, max(4.0, radius - _round(rng, 2, 6))
    return own


def flange(rng: random.Random) -> Any:
    """A disc with a hub, a stepped bore and a circle of holes."""
    over, thick, hub = _round(rng, 50, 90), _round(rng, 8, 14), _round(rng, 24, 30)
    own = Cylinder(over / 2, thick, align=_FOOT) + Pos(0, 0, thick) * Cylinder(hub / 2, 15, align=_FOOT)
    own -= Cylinder(5, 200)
    own -= Pos(0, 0, -1) * Cylinder(8, 1 + thick / 2, align=_FOOT)
    count, hole = rng.choice((3, 4, 6)), _round(rng, 4, 6)
    circle = (over + hub) / 2
    for k in range(count):
        own -= Rot(0, 0, 360 / count * k) * Pos(circle / 2, 0, 0) * Cylinder(hole / 2, 100)
    return own


def lever(rng: random.Random) -> Any:
    """An arm with a boss at one end and a round end at the other."""
    long, wide, thick = _round(rng, 45, 100), _round(rng, 12, 18), _round(rng, 5, 9)
    own = Box(long, wide, thick, align=_FOOT) + Pos(-long / 2, 0, 0) * Cylinder(wide * 0.75, thick * 1.8, align=_FOOT)
    own += Pos(long / 2, 0, 0) * Cylinder(wide / 2, thick, align=_FOOT)
    return own - Pos(-long / 2, 0, 0) * Cylinder(wide * 0.4, 100) - Pos(long / 2, 0, 0) * Cylinder(wide * 0.25, 100)
