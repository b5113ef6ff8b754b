"""Work it out: the sums that people do in their heads, typed with units; near misses are told by their cause."""

import random
from collections.abc import Callable

from rigid_bench.core.practice.drill import Drill
from rigid_bench.core.practice.exercise_source import ExerciseSource
from rigid_bench.core.practice.kind import DrillKind
from rigid_bench.core.practice.sums import Sum, drill_of_sum
from rigid_bench.core.practice.unfit import Unfit
from rigid_bench.core.wording.language import N_, _
from rigid_bench.core.wording.quantities import number as n


def _half(chance: random.Random, low: float, high: float, step: float = 0.5) -> float:
    """Draw a size by lot, in steps."""
    return low + step * chance.randint(0, round((high - low) / step))


def inside(chance: random.Random) -> Sum:
    """The inside of a box from its outside and its walls."""
    outside, wall = _half(chance, 60, 120), chance.choice((2, 2.5, 3, 4, 5))
    return Sum(
        question=_(
            "A housing is {outside} mm wide outside. Its walls are {wall} mm. How wide is it inside?",
            outside=n(outside),
            wall=n(wall),
        ),
        expression="outside - 2 * wall",
        values={"outside": outside, "wall": wall},
        near=[
            ("outside - wall", _("One wall was taken away; there are two.")),
            ("outside + 2 * wall", _("The walls were added; they lie within the outside.")),
        ],
        why=_("Two walls lie between outside and inside."),
        slip="wall",
    )


def outside(chance: random.Random) -> Sum:
    """The outside of a box from its inside and its walls."""
    space, wall = _half(chance, 40, 90), chance.choice((2, 2.5, 3, 4, 5))
    return Sum(
        question=_(
            "A housing must be {space} mm wide inside. Its walls are {wall} mm. How wide is it outside?",
            space=n(space),
            wall=n(wall),
        ),
        expression="inside + 2 * wall",
        values={"inside": space, "wall": wall},
        near=[
            ("inside + wall", _("One wall was added; there are two.")),
            ("inside - 2 * wall", _("The walls were taken away; they lie outside.")),
        ],
        why=_("Two walls lie between inside and outside."),
        slip="wall",
    )


def diameter(chance: random.Random) -> Sum:
    """A diameter from a radius."""
    radius = _half(chance, 3, 24, 0.1)
    return Sum(
        question=_(
            "A rounding of R{radius} runs round a whole pin. What does a caliper read across the pin?", radius=n(radius)
        ),
        expression="2 * radius",
        values={"radius": radius},
        near=[
            ("radius", _("That is the radius; a caliper reads the diameter.")),
            ("radius / 2", _("Halved; a diameter is twice its radius.")),
        ],
        why=_("A diameter is twice its radius."),
        slip="radius-for-diameter",
    )


def sliding_part(chance: random.Random) -> Sum:
    """A part that slides in a space, with a gap on each side."""
    space, gap = _half(chance, 30, 80), chance.choice((0.2, 0.25, 0.3, 0.4, 0.5))
    return Sum(
        question=_(
            "A drawer slides in a space of {space} mm with {gap} mm of clearance a side. How wide is it?",
            space=n(space),
            gap=n(gap),
        ),
        expression="space - 2 * gap",
        values={"space": space, "gap": gap},
        near=[
            ("space - gap", _("The gap is a side: there are two of them.")),
            ("space + 2 * gap", _("The gaps were added: so it would not go in.")),
        ],
        why=_("Clearance a side comes off twice."),
    )


def centred(chance: random.Random) -> Sum:
    """From an edge to a feature in the middle."""
    length, slot = chance.randint(60, 120), chance.randint(10, 40)
    return Sum(
        question=_(
            "A slot {slot} mm long lies in the middle of a plate {length} mm long. How far is it from the edge?",
            slot=slot,
            length=length,
        ),
        expression="(length - slot) / 2",
        values={"length": length, "slot": slot},
        near=[
            ("length - slot", _("That is both sides together.")),
            ("length / 2", _("That is how far its middle is from the edge.")),
        ],
        why=_("What is left is shared by two sides."),
        slip="edge-for-centre",
    )


def hole_bore(chance: random.Random) -> Sum:
    """A bore for a pin with a clearance on the diameter or a side."""
    pin, gap = chance.choice((4, 5, 6, 8, 10, 12, 16)), chance.choice((0.1, 0.15, 0.2, 0.25, 0.3, 0.4))
    if chance.random() < 0.5:
        return Sum(
            question=_(
                "A Ø{pin} pin turns in a bore with {gap} mm of clearance a side. What is the bore's diameter?",
                pin=pin,
                gap=n(gap),
            ),
            expression="pin + 2 * gap",
            values={"pin": pin, "gap": gap},
            near=[("pin + gap", _("Clearance a side stands on both sides of the pin."))],
            why=_("A gap a side is on the diameter twice."),
        )
    return Sum(
        question=_(
            "A Ø{pin} pin turns in a bore with {gap} mm of clearance on the diameter. What is the bore's diameter?",
            pin=pin,
            gap=n(gap),
        ),
        expression="pin + gap",
        values={"pin": pin, "gap": gap},
        near=[("pin + 2 * gap", _("That is the clearance a side; it was given on the diameter."))],
        why=_("Clearance on the diameter is added once."),
    )


def pitch(chance: random.Random) -> Sum:
    """The spacing of holes from the whole length."""
    count, spacing = chance.randint(4, 9), _half(chance, 8, 20)
    whole = spacing * (count - 1)
    return Sum(
        question=_(
            "{count} holes stand in a row, {whole} mm from the first to the last. How far apart are two of them?",
            count=count,
            whole=n(whole),
        ),
        expression=f"whole / ({count} - 1)",
        values={"whole": whole},
        near=[
            (
                f"whole / {count}",
                _("Divided by {count} holes: between them are {spaces} spaces.", count=count, spaces=count - 1),
            )
        ],
        why=_("{count} holes have {spaces} spaces.", count=count, spaces=count - 1),
        slip="pattern-length",
    )


def hole_circle(chance: random.Random) -> Sum:
    """The angle between holes on a circle."""
    count = chance.choice((3, 4, 5, 6, 8, 9, 10, 12))
    return Sum(
        question=_("{count} holes stand evenly on a circle. What is the angle between two neighbours?", count=count),
        expression=f"360 / {count}",
        values={},
        unit="deg",
        near=[
            (f"360 / ({count} - 1)", _("A circle closes: it has as many spaces as holes.")),
            (f"180 / {count}", _("A whole turn is 360°.")),
        ],
        why=_("A whole turn is shared by as many spaces as holes."),
    )


def stock(chance: random.Random) -> Sum:
    """What is turned off a bar at each side."""
    bar, part = chance.choice((20, 25, 30, 35, 40)), _half(chance, 10, 18)
    return Sum(
        question=_("A bar of Ø{bar} is turned down to Ø{part}. How much comes off a side?", bar=bar, part=n(part)),
        expression="(bar - part) / 2",
        values={"bar": bar, "part": part},
        near=[("bar - part", _("That is off the diameter; a side is half of it."))],
        why=_("What comes off the diameter is shared by two sides."),
        slip="diameter-for-radius",
    )


def taper(chance: random.Random) -> Sum:
    """The small end of a taper 1 : k."""
    large, ratio, long = chance.randint(18, 30), chance.choice((5, 10, 20)), chance.choice((20, 30, 40, 50))
    return Sum(
        question=_(
            "A taper of 1 : {ratio} is {long} mm long. Its large end is Ø{large}. What is the small end's diameter?",
            ratio=ratio,
            long=long,
            large=large,
        ),
        expression=f"large - long / {ratio}",
        values={"large": large, "long": long},
        near=[
            (f"large - 2 * long / {ratio}", _("The ratio is of the diameter, not of the radius.")),
            (f"large + long / {ratio}", _("The small end is smaller.")),
        ],
        why=_("On 1 : {ratio} the diameter falls by one in {ratio} of the length (ISO 3040).", ratio=ratio),
    )


def chain(chance: random.Random) -> Sum:
    """What is left of a length when a chain is taken from it."""
    first, second, third = (_half(chance, 8, 30) for _unused in range(3))
    whole = first + second + third + _half(chance, 5, 20)
    return Sum(
        question=_(
            "A bar is {whole} mm long. Steps of {first}, {second} and {third} mm follow "
            "each other from its left end. How long is what is left?",
            whole=n(whole),
            first=n(first),
            second=n(second),
            third=n(third),
        ),
        expression="whole - first - second - third",
        values={"whole": whole, "first": first, "second": second, "third": third},
        near=[
            ("first + second + third", _("That is what the steps take; the rest was asked.")),
            ("whole - first - second", _("The last step was left out.")),
        ],
        why=_("A chain adds up."),
        slip="chain",
    )


def inches(chance: random.Random) -> Sum:
    """A size in inches, in millimetres."""
    parts, whole = (
        chance.choice(((1, 8), (3, 16), (1, 4), (5, 16), (3, 8), (1, 2), (5, 8), (3, 4))),
        chance.randint(0, 3),
    )
    size = f"{whole} {parts[0]}/{parts[1]}" if whole else f"{parts[0]}/{parts[1]}"
    return Sum(
        question=_("A dowel is {size} inches long. How many millimetres is that?", size=size),
        expression=f"({whole} + {parts[0]} / {parts[1]}) * 25.4",
        values={},
        near=[
            (f"({whole} + {parts[0]} / {parts[1]}) * 10", _("An inch is 25.4 mm, not a centimetre.")),
            (f"{whole} * 25.4 + {parts[0]} / {parts[1]}", _("The fraction is of an inch, too.")),
        ],
        why=_("An inch is 25.4 mm exactly (since 1959)."),
        slip="inch-for-mm",
    )


def screw_length(chance: random.Random) -> Sum:
    """How long a screw must be through a plate, a washer, and into a thread."""
    size, plate = chance.choice((4, 5, 6, 8)), chance.choice((3, 4, 5, 6, 8, 10))
    washer = {4: 0.8, 5: 1.0, 6: 1.6, 8: 1.6}[size]
    return Sum(
        question=_(
            "An M{size} screw holds a plate of {plate} mm with a washer of {washer} mm and "
            "must bite twice its diameter deep. How long is it under its head, at least?",
            size=size,
            plate=plate,
            washer=n(washer),
        ),
        expression="plate + washer + 2 * size",
        values={"plate": plate, "washer": washer, "size": size},
        near=[
            ("plate + 2 * size", _("The washer was left out.")),
            ("plate + washer + size", _("Twice the diameter was asked.")),
        ],
        why=_("All that lies under the head, and the bite."),
    )


def wall_left(chance: random.Random) -> Sum:
    """The wall between a bore and an edge."""
    edge, bore = _half(chance, 10, 20), _half(chance, 6, 14)
    return Sum(
        question=_(
            "A Ø{bore} bore's middle is {edge} mm from the edge. How much wall is left?", bore=n(bore), edge=n(edge)
        ),
        expression="edge - bore / 2",
        values={"edge": edge, "bore": bore},
        near=[
            ("edge - bore", _("From its middle a bore reaches only half its diameter.")),
            ("edge", _("That is the way to its middle, not to its wall.")),
        ],
        why=_("From its middle a bore reaches half its diameter."),
        slip="edge-for-centre",
    )


def slide_in_walls(chance: random.Random) -> Sum:
    """A drawer in a housing: outside, two walls, two gaps."""
    outer, wall, gap = _half(chance, 60, 110), chance.choice((2, 2.5, 3, 4)), chance.choice((0.2, 0.3, 0.4, 0.5))
    return Sum(
        question=_(
            "A housing is {outer} mm wide outside, its walls {wall} mm. A drawer slides in "
            "it with {gap} mm a side. How wide is the drawer?",
            outer=n(outer),
            wall=n(wall),
            gap=n(gap),
        ),
        expression="outside - 2 * wall - 2 * gap",
        values={"outside": outer, "wall": wall, "gap": gap},
        near=[
            ("outside - 2 * wall", _("The gaps were left out: so it would not move.")),
            ("outside - 2 * wall - gap", _("One gap was left out.")),
            ("outside - wall - gap", _("There are two walls and two gaps.")),
        ],
        why=_("Two walls and two gaps come off."),
        slip="wall",
    )


def screw_in_blind_hole(chance: random.Random) -> Sum:
    """What is left under a screw in a blind hole."""
    long, plate = chance.choice((12, 16, 20, 25, 30)), chance.choice((3, 4, 5, 6, 8))
    deep = long - plate + chance.choice((1, 1.5, 2, 3, 4))
    return Sum(
        question=_(
            "A screw {long} mm long under its head goes through a plate of {plate} mm into "
            "a hole {deep} mm deep.  How much room is left below its end?",
            long=long,
            plate=plate,
            deep=n(deep),
        ),
        expression="deep - (long - plate)",
        values={"deep": deep, "long": long, "plate": plate},
        near=[("deep - (long - plate) + plate", _("The plate was counted twice."))],
        why=_("Of the screw only what comes out of the plate is in the hole."),
    )


def mid_plane(chance: random.Random) -> Sum:
    """How far a mid-plane part reaches to one side."""
    whole, rib = chance.randint(20, 60), chance.choice((4, 5, 6, 8))
    return Sum(
        question=_(
            "A block {whole} mm wide and a rib {rib} mm wide have one middle plane. How far"
            " does the block stand out beside the rib, on each side?",
            whole=whole,
            rib=rib,
        ),
        expression="whole / 2 - rib / 2",
        values={"whole": whole, "rib": rib},
        near=[
            ("whole - rib", _("That is both sides together.")),
            ("whole / 2 - rib", _("Half of the rib lies on each side.")),
        ],
        why=_("Half of each lies on either side of the middle plane."),
        slip="from-mid-plane",
    )


_LEVELS: dict[int, tuple[Callable[[random.Random], Sum], ...]] = {
    1: (inside, outside, diameter, sliding_part, centred, hole_bore),
    2: (pitch, hole_circle, stock, taper, chain, inches, wall_left),
    3: (screw_length, slide_in_walls, screw_in_blind_hole, mid_plane),
}


def make(chance: random.Random, level: int) -> Drill:
    """Make one by lot."""
    return drill_of_sum(chance.choice(_LEVELS[level])(chance), level)


def make_from(chance: random.Random, level: int, source: ExerciseSource) -> Drill:
    """Ask for the clearance of a round fit of an exercise: on the diameter, or a side."""
    section = source.sheet.assembly.section if source.sheet.assembly else None
    fits = [fit for fit in section.fits if fit.hole > fit.shaft] if section else []
    if not fits:
        raise Unfit
    fit = chance.choice(fits)
    hole, shaft = round(fit.hole, 3), round(fit.shaft, 3)
    title = next(check.title for check in source.exercise.model.checks if check.id == fit.check)
    is_a_side = level > 1 or chance.random() < 0.5
    on_diameter, a_side = "hole - shaft", "(hole - shaft) / 2"
    near = (
        [(on_diameter, _("That is on the diameter; a side is half of it."))]
        if is_a_side
        else [(a_side, _("That is a side; on the diameter it is twice as much."))]
    )
    own = Sum(
        question=_(
            "“{title}”: a shaft of Ø{shaft} in a hole of Ø{hole}. What is the clearance {value}?",
            title=title,
            shaft=n(shaft, 3),
            hole=n(hole, 3),
            value=_("a side") if is_a_side else _("on the diameter"),
        ),
        expression=a_side if is_a_side else on_diameter,
        values={"hole": hole, "shaft": shaft},
        near=[*near, ("hole + shaft", _("They were added; a clearance is a difference."))],
        why=_("A shaft that stands in the middle leaves the same on every side.")
        if is_a_side
        else _("The hole less the shaft."),
    )
    return drill_of_sum(own, level)


KIND = DrillKind(
    name="work-it-out",
    title=N_("Work it out"),
    levels=(1, 2, 3),
    make=make,
    make_from=make_from,
    slips=(
        "wall",
        "radius-for-diameter",
        "diameter-for-radius",
        "half",
        "double",
        "edge-for-centre",
        "pattern-length",
        "chain",
        "inch-for-mm",
        "mm-for-inch",
        "from-mid-plane",
    ),
)
