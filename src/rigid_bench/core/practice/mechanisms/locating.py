"""Parts that are located: what holds them, and what holds them twice."""

import random

from rigid_bench.core.practice.mechanisms.maker import (
    Maker,
    Mechanism,
    X,
    Y,
    Z,
    axis,
    ball,
    block,
    plane,
    point,
    rod,
)  # fmt: skip

_LEFT, _BACK, _DOWN = (-1.0, 0.0, 0.0), (0.0, -1.0, 0.0), (0.0, 0.0, -1.0)


def _lies(maker: Maker, below: str, above: str, z: float = 0.0) -> str:
    return maker.mate("coincident", below, above, plane((0, 0, z), Z), plane((3, 3, z), _DOWN),
                      names=("top face", "bottom face"), sense="opposed")  # fmt: skip


def cover_on_dowels(chance: random.Random) -> Mechanism:
    """A cover on a block with two dowels: held, and the second dowel holds more than it must."""
    maker, apart = Maker(chance), chance.randint(40, 80)
    dowels = [rod((x, 0, 0), (x, 0, 14), 4) for x in (0, apart)]
    maker.part("block", [block((apart / 2, 0, -15), (apart + 40, 50, 30)), *dowels], grounded=True)
    maker.part("cover", [block((apart / 2, 0, 4), (apart + 36, 44, 8))], at=(apart / 2, 0, 0))
    _lies(maker, "block", "cover")
    maker.mate("coaxial", "block", "cover", axis((0, 0, 0), Z), names=("first dowel", "first hole"))
    maker.mate("coaxial", "block", "cover", axis((apart, 0, 0), Z), names=("second dowel", "second hole"))
    return maker.done(asked=["cover"])


def cover_on_one_dowel(chance: random.Random) -> Mechanism:
    """A cover with one dowel: it still turns."""
    maker, off = Maker(chance), chance.randint(5, 30)
    maker.part("block", [block((0, 0, -15), (90, 50, 30)), rod((off, 0, 0), (off, 0, 14), 4)], grounded=True)
    maker.part("cover", [block((0, 0, 4), (84, 44, 8))])
    _lies(maker, "block", "cover")
    maker.mate("coaxial", "block", "cover", axis((off, 0, 0), Z), names=("dowel", "hole"))
    return maker.done(asked=["cover"])


def cover_on_dowel_and_edge(chance: random.Random) -> Mechanism:
    """A cover with one dowel, its edge along the block's: held once."""
    maker, off = Maker(chance), chance.randint(5, 30)
    maker.part("block", [block((0, 0, -15), (90, 50, 30)), rod((off, 0, 0), (off, 0, 14), 4)], grounded=True)
    maker.part("cover", [block((0, 0, 4), (84, 50, 8))])
    _lies(maker, "block", "cover")
    maker.mate("coaxial", "block", "cover", axis((off, 0, 0), Z), names=("dowel", "hole"))
    maker.mate("parallel", "block", "cover", plane((0, 25, -8), Y), plane((0, 25, 4), Y),
               names=("back face", "back edge face"), sense="aligned")  # fmt: skip
    return maker.done(asked=["cover"])


def bracket_in_corner(chance: random.Random) -> Mechanism:
    """A bracket against three faces (3 + 2 + 1)."""
    maker, size = Maker(chance), chance.randint(20, 40)
    walls = [block((40, 40, -4), (100, 100, 8)), block((-4, 40, 20), (8, 100, 40)), block((40, -4, 20), (100, 8, 40))]
    maker.part("corner", walls, grounded=True)
    maker.part("bracket", [block((size / 2, size / 2, 10), (size, size, 20))], at=(size, size, 0))
    _lies(maker, "corner", "bracket")
    maker.mate("coincident", "corner", "bracket", plane((0, 30, 10), X), plane((0, 8, 10), _LEFT),
               names=("left wall", "left face"), sense="opposed")  # fmt: skip
    maker.mate("coincident", "corner", "bracket", plane((30, 0, 10), Y), plane((8, 0, 10), _BACK),
               names=("front wall", "front face"), sense="opposed")  # fmt: skip
    return maker.done(asked=["bracket"])


def three_ball_seat(chance: random.Random) -> Mechanism:
    """Three balls of a plate in a cone, a groove and on a flat: held once (Lord Kelvin's way)."""
    maker, reach = Maker(chance), chance.randint(30, 60)
    balls = [ball(place, 6) for place in ((0, 0, 0), (reach, 0, 0), (0, reach, 0))]
    maker.part("base", [block((reach / 2, reach / 2, -12), (reach + 40, reach + 40, 12))], grounded=True)
    maker.part("plate", [*balls, block((reach / 2, reach / 2, 9), (reach + 30, reach + 30, 6))], at=(0, 0, 9))
    maker.mate("coincident", "base", "plate", point((0, 0, 0)), names=("cone", "first ball"))
    maker.mate("coincident", "base", "plate", axis((0, 0, 0), X), point((reach, 0, 0)), names=("groove", "second ball"))
    flat = plane((0, 0, 0), Z)
    maker.mate("coincident", "base", "plate", flat, point((0, reach, 0)), names=("flat", "third ball"))
    return maker.done(asked=["plate"])


def two_ball_seat(chance: random.Random) -> Mechanism:
    """Two balls in a cone and a groove: the plate still turns about the line through them."""
    maker, reach = Maker(chance), chance.randint(30, 60)
    balls = [ball(place, 6) for place in ((0, 0, 0), (reach, 0, 0))]
    maker.part("base", [block((reach / 2, 0, -12), (reach + 40, 60, 12))], grounded=True)
    maker.part("plate", [*balls, block((reach / 2, 0, 9), (reach + 30, 50, 6))], at=(0, 0, 9))
    maker.mate("coincident", "base", "plate", point((0, 0, 0)), names=("cone", "first ball"))
    maker.mate("coincident", "base", "plate", axis((0, 0, 0), X), point((reach, 0, 0)), names=("groove", "second ball"))
    return maker.done(asked=["plate"])


def stacked_plates(chance: random.Random) -> Mechanism:
    """Two plates one on the other, the upper one free on the lower."""
    maker, thick = Maker(chance), chance.randint(6, 12)
    maker.part("base", [block((0, 0, -6), (120, 90, 12))], grounded=True)
    maker.part("lower plate", [block((0, 0, thick / 2), (80, 60, thick))])
    maker.part("upper plate", [block((5, 5, 1.5 * thick), (50, 40, thick))], at=(5, 5, thick))
    _lies(maker, "base", "lower plate")
    maker.mate("coaxial", "base", "lower plate", axis((-20, 0, 0), Z), names=("dowel", "hole"))
    _lies(maker, "lower plate", "upper plate", thick)
    maker.mate("coincident", "lower plate", "upper plate", plane((30, 0, thick), X), plane((30, 5, thick), X),
               names=("end face", "end face"), sense="aligned")  # fmt: skip
    return maker.done(asked=["lower plate", "upper plate"])


FAMILIES = (
    cover_on_dowels, cover_on_one_dowel, cover_on_dowel_and_edge, bracket_in_corner, three_ball_seat, two_ball_seat,
    stacked_plates,
)  # fmt: skip
