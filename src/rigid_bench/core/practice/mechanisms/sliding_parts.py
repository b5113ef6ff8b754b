"""Mechanisms whose parts slide: rails, drawers, collars, crossed tables."""

import math
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
    frame,
    plane,
    point,
    rod,
    sliding,
)  # fmt: skip

_DOWN, _BACK = (0.0, 0.0, -1.0), (0.0, -1.0, 0.0)


def slider_on_rail(chance: random.Random) -> Mechanism:
    """A slider that two faces of a rail guide."""
    maker, long, at = Maker(chance), chance.randint(90, 150), chance.randint(-30, 30)
    maker.part("rail", [block((0, 0, 5), (long, 30, 10))], grounded=True, at=(chance.randint(-9, 9), 0, 0))
    maker.part("slider", [block((at, 0, 18), (30, 40, 16))], at=(at, 0, 10))
    maker.mate("coincident", "rail", "slider", plane((0, 0, 10), Z), plane((at, 0, 10), _DOWN),
               names=("top face", "bottom face"), sense="opposed")  # fmt: skip
    maker.mate("coincident", "rail", "slider", plane((0, 15, 5), Y), plane((at, 15, 5), _BACK),
               names=("side face", "inner face"), sense="opposed")  # fmt: skip
    return maker.done(asked=["slider"], drive=("slider", sliding(X)))


def collar_on_rod(chance: random.Random) -> Mechanism:
    """A collar on a round rod: it slides and turns."""
    maker, long, at = Maker(chance), chance.randint(80, 140), chance.randint(-20, 40)
    maker.part("rod", [rod((-long / 2, 0, 0), (long / 2, 0, 0), 6)], grounded=True)
    maker.part("collar", [rod((at - 8, 0, 0), (at + 8, 0, 0), 14)], at=(at, 0, 0))
    maker.mate("coaxial", "rod", "collar", axis((0, 0, 0), X), names=("round", "bore"))
    return maker.done(asked=["collar"])


def carriage_on_rods(chance: random.Random) -> Mechanism:
    """A carriage on two rods: it only slides; the second rod takes its turn away, and holds more than it must."""
    maker, apart, at = Maker(chance), chance.randint(30, 60), chance.randint(-30, 30)
    rods = [rod((-70, y, 0), (70, y, 0), 4) for y in (0, apart)]
    maker.part("rods", [*rods, block((-72, apart / 2, 0), (6, apart + 20, 20))], grounded=True)
    maker.part("carriage", [block((at, apart / 2, 0), (30, apart + 24, 18))], at=(at, 0, 0))
    maker.mate("coaxial", "rods", "carriage", axis((0, 0, 0), X), names=("first rod", "first bore"))
    maker.mate("coaxial", "rods", "carriage", axis((0, apart, 0), X), names=("second rod", "second bore"))
    return maker.done(asked=["carriage"], drive=("carriage", sliding(X)))


def drawer_in_housing(chance: random.Random) -> Mechanism:
    """A drawer on the floor of its housing, against one side."""
    maker, deep, wide, out = Maker(chance), chance.randint(60, 100), chance.randint(40, 70), chance.randint(5, 30)
    maker.part("housing", [block((0, 0, -2), (deep, wide, 4)), block((0, wide / 2, 15), (deep, 4, 34))], grounded=True)
    maker.part("drawer", [block((-out, 0, 12), (deep - 6, wide - 6, 24))], at=(-out, 0, 0))
    maker.mate("coincident", "housing", "drawer", plane((0, 0, 0), Z), plane((-out, 0, 0), _DOWN),
               names=("floor", "bottom face"), sense="opposed")  # fmt: skip
    maker.mate("distance", "housing", "drawer", plane((0, wide / 2 - 2, 8), _BACK), plane((-out, wide / 2 - 3, 8), Y),
               names=("inner side", "outer side"), value=1.0, sense="opposed")  # fmt: skip
    return maker.done(asked=["drawer"], drive=("drawer", sliding(X)))


def plate_on_table(chance: random.Random) -> Mechanism:
    """A plate that only lies on a table."""
    maker, x, y = Maker(chance), chance.randint(-20, 20), chance.randint(-10, 10)
    maker.part("table", [block((0, 0, -5), (120, 80, 10))], grounded=True)
    maker.part("plate", [block((x, y, 4), (50, 30, 8))], at=(x, y, 0))
    maker.mate("coincident", "table", "plate", plane((0, 0, 0), Z), plane((x, y, 0), _DOWN),
               names=("top face", "bottom face"), sense="opposed")  # fmt: skip
    return maker.done(asked=["plate"])


def plate_against_fence(chance: random.Random) -> Mechanism:
    """A plate on a table, pushed against a fence."""
    maker, x = Maker(chance), chance.randint(-20, 20)
    maker.part("table", [block((0, 0, -5), (120, 80, 10)), block((0, 30, 10), (120, 10, 20))], grounded=True)
    maker.part("plate", [block((x, 10, 4), (50, 30, 8))], at=(x, 10, 0))
    maker.mate("coincident", "table", "plate", plane((0, 0, 0), Z), plane((x, 0, 0), _DOWN),
               names=("top face", "bottom face"), sense="opposed")  # fmt: skip
    maker.mate("coincident", "table", "plate", plane((0, 25, 4), _BACK), plane((x, 25, 4), Y),
               names=("fence", "long edge face"), sense="opposed")  # fmt: skip
    return maker.done(asked=["plate"], drive=("plate", sliding(X)))


def crossed_table(chance: random.Random) -> Mechanism:
    """A slide across a slide."""
    maker, x, y = Maker(chance), chance.randint(-20, 20), chance.randint(-20, 20)
    maker.part("bed", [block((0, 0, -6), (140, 60, 12))], grounded=True)
    maker.part("lower slide", [block((x, 0, 6), (50, 100, 12))], at=(x, 0, 0))
    maker.part("upper slide", [block((x, y, 18), (60, 40, 12))], at=(x, y, 12))
    maker.mate("prismatic", "bed", "lower slide", frame((0, 0, 0), X, Y), names=("ways", "grooves"))
    maker.mate("prismatic", "lower slide", "upper slide", frame((x, 0, 12), Y, Z), names=("ways", "grooves"))
    return maker.done(asked=["lower slide", "upper slide"])


def telescope(chance: random.Random) -> Mechanism:
    """Three tubes in each other, the middle one keyed, the inner one free to turn."""
    maker, first, second = Maker(chance), chance.randint(20, 40), chance.randint(60, 90)
    maker.part("outer tube", [rod((0, 0, 0), (0, 0, 60), 16)], grounded=True)
    maker.part("middle tube", [rod((0, 0, first), (0, 0, first + 60), 12)], at=(0, 0, first))
    maker.part("inner tube", [rod((0, 0, second), (0, 0, second + 60), 8)], at=(0, 0, second))
    maker.mate("prismatic", "outer tube", "middle tube", frame((0, 0, 60), Z, X), names=("keyway", "key"))
    maker.mate("cylindrical", "middle tube", "inner tube", axis((0, 0, 100), Z), names=("bore", "outside"))
    return maker.done(asked=["middle tube", "inner tube"])


def gantry(chance: random.Random) -> Mechanism:
    """A bridge on rails, a carriage on the bridge, a spindle in the carriage."""
    maker, x, y = Maker(chance), chance.randint(-30, 30), chance.randint(-20, 20)
    maker.part("rails", [block((0, side, 0), (160, 8, 8)) for side in (-50, 50)], grounded=True)
    maker.part("bridge", [block((x, 0, 40), (14, 120, 12))], at=(x, 0, 40))
    maker.part("carriage", [block((x, y, 52), (30, 24, 12))], at=(x, y, 50))
    maker.part("spindle", [rod((x, y, 20), (x, y, 80), 4)], at=(x, y, 40))
    maker.mate("prismatic", "rails", "bridge", frame((0, 0, 0), X, Y), names=("rails", "feet"))
    maker.mate("prismatic", "bridge", "carriage", frame((x, 0, 46), Y, X), names=("beam", "groove"))
    maker.mate("cylindrical", "carriage", "spindle", axis((x, y, 52), Z), names=("bore", "shank"))
    return maker.done(asked=["bridge", "carriage", "spindle"])


def wedge(chance: random.Random) -> Mechanism:
    """A wedge that slides down a slope: along no edge of the whole."""
    maker, slope = Maker(chance), math.radians(chance.choice((10, 15, 20, 25, 30, 40)))
    cos, sin = math.cos(slope), math.sin(slope)
    normal, along = (-sin, 0.0, cos), (cos, 0.0, sin)
    maker.part("ramp", [block((0, 0, -12), (100, 50, 24))], grounded=True)
    maker.part("wedge", [block((0, 0, 10), (40, 30, 20))], at=(0, 0, 0))
    low = tuple(-value for value in normal)
    maker.mate("coincident", "ramp", "wedge", plane((0, 0, 0), normal), plane((0, 0, 0), low),
               names=("slope", "lower face"), sense="opposed")  # fmt: skip
    maker.mate("coincident", "ramp", "wedge", plane((0, 15, 0), Y), plane((0, 15, 0), _BACK),
               names=("side rail", "side face"), sense="opposed")  # fmt: skip
    return maker.done(asked=["wedge"], drive=("wedge", sliding(along)))


def hub_on_key(chance: random.Random) -> Mechanism:
    """A hub on a shaft with a key: it slides and does not turn."""
    maker, at, radius = Maker(chance), chance.randint(-20, 30), chance.randint(6, 10)
    maker.part("shaft", [rod((-60, 0, 0), (60, 0, 0), radius), block((0, 0, radius), (40, 4, 4))], grounded=True)
    maker.part("hub", [rod((at - 8, 0, 0), (at + 8, 0, 0), 2.4 * radius)], at=(at, 0, 0))
    maker.mate("coaxial", "shaft", "hub", axis((0, 0, 0), X), names=("outside", "bore"))
    maker.mate("parallel", "shaft", "hub", plane((0, 2, radius), Y), plane((at, 2, radius), Y),
               names=("side of the key", "side of the keyway"), sense="aligned")  # fmt: skip
    return maker.done(asked=["hub"], drive=("hub", sliding(X)))


def ball_on_line(chance: random.Random) -> Mechanism:
    """A ball in a groove: it runs along it and turns every way."""
    maker, at = Maker(chance), chance.randint(-30, 30)
    maker.part("grooved bar", [block((0, 0, -8), (120, 30, 16))], grounded=True)
    maker.part("ball", [ball((at, 0, 5), 8)], at=(at, 0, 5))
    maker.mate("coincident", "grooved bar", "ball", axis((0, 0, 5), X), point((at, 0, 5)), names=("groove", "centre"))
    return maker.done(asked=["ball"])


def ball_on_plane(chance: random.Random) -> Mechanism:
    """A ball on a plate."""
    maker, x, y = Maker(chance), chance.randint(-30, 30), chance.randint(-20, 20)
    maker.part("plate", [block((0, 0, -4), (120, 80, 8))], grounded=True)
    maker.part("ball", [ball((x, y, 8), 8)], at=(x, y, 8))
    maker.mate(
        "distance", "plate", "ball", plane((0, 0, 0), Z), point((x, y, 8)), names=("top face", "centre"), value=8.0
    )
    return maker.done(asked=["ball"])


def post_on_foot(chance: random.Random) -> Mechanism:
    """A post in a sliding foot: the post turns where the foot stands."""
    maker, at = Maker(chance), chance.randint(-30, 30)
    maker.part("rail", [block((0, 0, -5), (140, 30, 10))], grounded=True)
    maker.part("foot", [block((at, 0, 6), (34, 34, 12))], at=(at, 0, 0))
    maker.part("post", [rod((at, 0, 12), (at, 0, 60), 6)], at=(at, 0, 12))
    maker.mate("prismatic", "rail", "foot", frame((0, 0, 0), X, Y), names=("rail", "groove"))
    maker.mate("revolute", "foot", "post", frame((at, 0, 12), Z), names=("bore", "spigot"))
    return maker.done(asked=["foot", "post"])


FAMILIES = (
    slider_on_rail, collar_on_rod, carriage_on_rods, drawer_in_housing, plate_on_table, plate_against_fence,
    crossed_table, telescope, gantry, wedge, hub_on_key, ball_on_line, ball_on_plane, post_on_foot,
)  # fmt: skip
