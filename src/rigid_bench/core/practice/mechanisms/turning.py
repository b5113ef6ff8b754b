"""Mechanisms whose parts turn: pins, levers, shafts, balls, screws."""

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
    bar,
    block,
    frame,
    plane,
    point,
    rod,
    sliding,
    turning,
)  # fmt: skip


def pin_in_plate(chance: random.Random) -> Mechanism:
    """A pin whose shoulder sits on a plate: it turns."""
    maker, wide, thick = Maker(chance), chance.randint(40, 80), chance.randint(4, 12)
    x, y, radius = chance.randint(-12, 12), chance.randint(-8, 8), chance.randint(3, 6)
    maker.part("plate", [block((0, 0, thick / 2), (wide, 40, thick))], at=(chance.randint(-9, 9), 5, 0), grounded=True)
    head = [rod((x, y, 0), (x, y, thick), radius), rod((x, y, thick), (x, y, thick + 5), radius + 4)]
    maker.part("pin", head, at=(x, y, 0))
    maker.mate("coaxial", "plate", "pin", axis((x, y, 0), Z), names=("bore", "shank"))
    _on(maker, "plate", "pin", (x, y, thick), ("top face", "shoulder"))
    return maker.done(asked=["pin"], drive=("pin", turning((x, y, 0))))


def _on(maker: Maker, below: str, above: str, place: tuple[float, float, float], names: tuple[str, str]) -> None:
    """Set one part down on another."""
    maker.mate("coincident", below, above, plane(place, Z), plane(place, (0, 0, -1)), names=names, sense="opposed")


def lever_on_post(chance: random.Random) -> Mechanism:
    """A lever joined to a post."""
    maker, high, long = Maker(chance), chance.randint(20, 50), chance.randint(50, 90)
    maker.part("post", [rod((0, 0, 0), (0, 0, high), 8)], at=(0, 0, chance.randint(-9, 9)), grounded=True)
    maker.part("lever", [bar((0, 0, high + 4), (long, 0, high + 4), 12, 8)], at=(long / 2, 0, high))
    maker.mate("revolute", "post", "lever", frame((0, 0, high), Z), names=("top of the post", "bore"))
    return maker.done(asked=["lever"], drive=("lever", turning((0, 0, 0))))


def shaft_in_pedestals(chance: random.Random) -> Mechanism:
    """A shaft in two bearings, held along its axis by a shoulder."""
    maker, apart, high = Maker(chance), chance.randint(40, 90), chance.randint(20, 40)
    sides = [block((x, 0, high / 2), (10, 30, high + 20)) for x in (0, apart)]
    maker.part("pedestals", [*sides, block((apart / 2, 0, -12), (apart + 40, 40, 6))], grounded=True)
    maker.part("shaft", [rod((-20, 0, high), (apart + 20, 0, high), 5), rod((-9, 0, high), (-5, 0, high), 9)],
               at=(chance.randint(0, apart), 0, high))  # fmt: skip
    names = ("left bearing", "left journal")
    maker.mate("coaxial", "pedestals", "shaft", axis((0, 0, high), X), names=names)
    maker.mate("coaxial", "pedestals", "shaft", axis((apart, 0, high), X), names=("right bearing", "right journal"))
    maker.mate("coincident", "pedestals", "shaft", plane((-5, 0, high), (-1, 0, 0)), plane((-5, 0, high), X),
               names=("left side", "shoulder"), sense="opposed")  # fmt: skip
    return maker.done(asked=["shaft"], drive=("shaft", turning((0, 0, high), X)))


def ball_in_socket(chance: random.Random) -> Mechanism:
    """A ball in a socket: it turns every way."""
    maker, radius, long = Maker(chance), chance.randint(6, 14), chance.randint(30, 60)
    maker.part("socket", [block((0, 0, -radius), (4 * radius, 4 * radius, 2 * radius))], grounded=True)
    maker.part("arm", [ball((0, 0, 0), radius), rod((0, 0, 0), (0, 0, long), radius / 3)], at=(0, 0, long))
    maker.mate("spherical", "socket", "arm", point((0, 0, 0)), names=("centre of the socket", "centre of the ball"))
    return maker.done(asked=["arm"])


def nut_on_spindle(chance: random.Random) -> Mechanism:
    """A nut on a spindle: it turns and travels at once."""
    maker, pitch = Maker(chance), chance.choice((1.0, 1.25, 1.5, 1.75, 2.0, 2.5, 3.0, 4.0, 5.0, 6.0))
    long, at = chance.randint(60, 120), chance.randint(10, 50)
    sign = chance.choice((1, 1, 1, -1))
    maker.part("spindle", [rod((0, 0, 0), (0, 0, long), 6), block((0, 0, -5), (40, 40, 10))], grounded=True)
    maker.part("nut", [rod((0, 0, at), (0, 0, at + 10), 12)], at=(0, 0, at))
    foot = frame((0, 0, at), Z)
    maker.mate("screw", "spindle", "nut", foot, names=("thread", "thread"), pitch=sign * pitch, sense="aligned")
    return maker.done(asked=["nut"], drive=("nut", turning((0, 0, at))), driven=["nut"])


def sleeve_on_square(chance: random.Random) -> Mechanism:
    """A sleeve on a square bar: it slides and cannot turn."""
    maker, long, at, side = Maker(chance), chance.randint(80, 140), chance.randint(10, 60), chance.randint(6, 10)
    maker.part("square bar", [block((0, 0, long / 2), (2 * side, 2 * side, long))], grounded=True)
    maker.part("sleeve", [block((0, 0, at), (4 * side, 4 * side, 20))], at=(0, 0, at))
    maker.mate("coaxial", "square bar", "sleeve", axis((0, 0, 0), Z), names=("middle line", "middle line"))
    flat = plane((side, 0, at), X)
    maker.mate("parallel", "square bar", "sleeve", flat, names=("flat", "inner flat"))
    return maker.done(asked=["sleeve"], drive=("sleeve", sliding(Z)))


def universal_joint(chance: random.Random) -> Mechanism:
    """Two forks and a cross between them: the far fork swings two ways."""
    maker, reach = Maker(chance), chance.randint(20, 40)
    maker.part("near fork", [rod((0, 0, -3 * reach), (0, 0, -reach), 8)], grounded=True)
    maker.part("cross", [rod((-reach, 0, 0), (reach, 0, 0), 3), rod((0, -reach, 0), (0, reach, 0), 3)])
    maker.part("far fork", [rod((0, 0, reach), (0, 0, 3 * reach), 8)], at=(0, 0, reach))
    maker.mate("revolute", "near fork", "cross", frame((0, 0, 0), X), names=("eyes", "first pins"))
    maker.mate("revolute", "cross", "far fork", frame((0, 0, 0), Y), names=("second pins", "eyes"))
    return maker.done(asked=["cross", "far fork"])


def turntable_with_arm(chance: random.Random) -> Mechanism:
    """An arm that tilts on a table that turns."""
    maker, high, out = Maker(chance), chance.randint(20, 40), chance.randint(10, 25)
    maker.part("bed", [block((0, 0, -6), (100, 100, 12))], grounded=True)
    maker.part("table", [rod((0, 0, 0), (0, 0, 8), 35), block((out, 0, high / 2), (10, 20, high))])
    maker.part("arm", [rod((out, 0, high), (out + 60, 0, high + 20), 4)], at=(out, 0, high))
    maker.mate("revolute", "bed", "table", frame((0, 0, 0), Z), names=("middle", "pivot"))
    maker.mate("revolute", "table", "arm", frame((out, 0, high), Y), names=("ear", "bore"))
    return maker.done(asked=["table", "arm"])


def gate_on_two_pins(chance: random.Random) -> Mechanism:
    """A gate on two pins of one line, resting on the lower: the second pin holds nothing new."""
    maker, high, wide = Maker(chance), chance.randint(60, 100), chance.randint(50, 90)
    maker.part("frame", [block((-10, 0, high / 2), (10, 20, high + 20))], grounded=True)
    maker.part("gate", [block((wide / 2, 0, high / 2), (wide, 8, high - 10))], at=(wide / 2, 0, 0))
    for z, which in ((0, "lower"), (high, "upper")):
        maker.mate("coaxial", "frame", "gate", axis((0, 0, z), Z), names=(f"{which} pin", f"{which} eye"))
    _on(maker, "frame", "gate", (0, 0, 5), ("lower collar", "lower rim"))
    return maker.done(asked=["gate"], drive=("gate", turning((0, 0, 0))))


def wheel_with_idler(chance: random.Random) -> Mechanism:
    """Two wheels on posts of one plate, each free to turn by itself."""
    maker, apart = Maker(chance), chance.randint(40, 80)
    maker.part("plate", [block((apart / 2, 0, -4), (apart + 60, 60, 8))], grounded=True)
    for name, x, radius in (("wheel", 0, chance.randint(12, 18)), ("idler", apart, chance.randint(8, 14))):
        maker.part(name, [rod((x, 0, 0), (x, 0, 8), radius)], at=(x, 0, 0))
        maker.mate("coaxial", "plate", name, axis((x, 0, 0), Z), names=("post", "bore"))
        _on(maker, "plate", name, (x, 0, 0), ("top face", "lower face"))
    return maker.done(asked=["wheel", "idler"])


def tilted_dial(chance: random.Random) -> Mechanism:
    """A dial on a sloping desk: its axis lies along no edge."""
    maker, tilt = Maker(chance), math.radians(chance.choice((15, 20, 30, 35, 40, 50, 60)))
    way = (math.sin(tilt), 0.0, math.cos(tilt))
    end = tuple(6 * value for value in way)
    maker.part("desk", [block((0, 0, -20), (80, 60, 20))], grounded=True)
    maker.part("dial", [rod((0, 0, 0), end, 16)])
    maker.mate("revolute", "desk", "dial", frame((0, 0, 0), way), names=("pivot", "bore"))
    return maker.done(asked=["dial"])


FAMILIES = (
    pin_in_plate, lever_on_post, shaft_in_pedestals, ball_in_socket, nut_on_spindle, sleeve_on_square,
    universal_joint, turntable_with_arm, gate_on_two_pins, wheel_with_idler, tilted_dial,
)  # fmt: skip
