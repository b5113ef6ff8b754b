"""Read the sheet: what a chain adds up to, how deep, which view shows it, across flats from a round."""

import random
from collections.abc import Callable

import numpy as np

from rigid_bench.core.part.directions import SQUARE_VIEWS
from rigid_bench.core.practice.drill import Choice, Drill
from rigid_bench.core.practice.exercise_source import ExerciseSource
from rigid_bench.core.practice.kind import DrillKind
from rigid_bench.core.practice.offered import offered
from rigid_bench.core.practice.sums import Sum, drill_of_sum
from rigid_bench.core.practice.unfit import Unfit
from rigid_bench.core.wording.language import N_, _
from rigid_bench.core.wording.quantities import number as n

#: A hexagon's flats over its corners: cos 30°.
_HEXAGON = 0.866025
#: A size that lies nearer to the answer is no near miss.
_TOLD_APART = 0.02


def chain(chance: random.Random) -> Sum:
    """How long is the whole?"""
    sizes = {name: float(chance.randint(6, 40)) for name in ("first", "second", "third", "fourth")}
    listed = ", ".join(n(size) for size in sizes.values())
    return Sum(
        question=_(
            "A sheet gives a chain: {listed}. Nothing else is given along that line. How long is the part?",
            listed=listed,
        ),
        expression=" + ".join(sizes),
        values=sizes,
        near=[
            ("first + second + third", _("The last link of the chain was left out.")),
            ("fourth", _("That is only the last link.")),
        ],
        why=_("A chain adds up."),
        slip="chain",
    )


def from_datum(chance: random.Random) -> Sum:
    """How far apart are two features that are both given from one face?"""
    near, far = float(chance.randint(8, 30)), float(chance.randint(40, 90))
    return Sum(
        question=_(
            "Two holes are given from the left face: {near} and {far}. How far apart are they?",
            near=n(near),
            far=n(far),
        ),
        expression="far - near",
        values={"near": near, "far": far},
        near=[
            ("far + near", _("Both begin at the same face: they are not a chain.")),
            ("far", _("That is from the face to the second hole.")),
        ],
        why=_("Both sizes begin at one face."),
        slip="chain",
    )


def floor(chance: random.Random) -> Sum:
    """How much is left under a blind hole?"""
    thick = float(chance.randint(8, 20))
    deep = float(chance.randint(3, int(thick) - 2))
    return Sum(
        question=_(
            "A plate says t = {thick}; a note says Ø6 ↧ {deep}. How thick is the floor under the hole?",
            thick=n(thick),
            deep=n(deep),
        ),
        expression="thick - deep",
        values={"thick": thick, "deep": deep},
        near=[("deep", _("↧ is the depth of the hole, not of the floor.")), ("thick", _("The hole takes some of it."))],
        why=_("↧ is how deep the hole goes."),
    )


def counterbore(chance: random.Random) -> Sum:
    """How long is the narrow part of a counterbored through hole?"""
    thick = float(chance.randint(10, 24))
    deep = float(chance.randint(3, int(thick) - 4))
    return Sum(
        question=_(
            "A plate {thick} mm thick has the note Ø6.6 through, ⌴ Ø11 ↧ {deep}. How long is the Ø6.6 part?",
            thick=n(thick),
            deep=n(deep),
        ),
        expression="thick - deep",
        values={"thick": thick, "deep": deep},
        near=[
            ("thick", _("The counterbore takes some of the hole's length.")),
            ("deep", _("That is the counterbore's depth.")),
        ],
        why=_("The counterbore (⌴) takes its depth (↧) off the hole's length."),
    )


def hexagon(chance: random.Random) -> Sum:
    """Across flats from the round it is milled from."""
    bar = float(chance.choice((8, 10, 12, 14, 16, 18, 20, 24)))
    return Sum(
        question=_(
            "The largest hexagon is milled from a Ø{bar} bar. What is it across its flats? (cos 30° = 0.866025)",
            bar=n(bar),
        ),
        expression=f"bar * {_HEXAGON}",
        values={"bar": bar},
        near=[("bar", _("That is across its corners.")), ("bar / 2", _("That is half of it across its corners."))],
        why=_("The bar goes through the corners; flats are cos 30° of it apart."),
    )


def square(chance: random.Random) -> Sum:
    """The bar that a square needs."""
    side = float(chance.choice((6, 8, 10, 12, 14, 16)))
    return Sum(
        question=_(
            "A square of {side} mm is milled on the end of a round bar. What is the least "
            "diameter of the bar?  (√2 = 1.414214)",
            side=n(side),
        ),
        expression="side * 1.414214",
        values={"side": side},
        near=[("side", _("So the corners would be missing.")), ("2 * side", _("That is more than it needs."))],
        why=_("The bar must reach the corners."),
    )


def auxiliary(chance: random.Random) -> Sum:
    """What stands in brackets?"""
    first, second = float(chance.randint(10, 40)), float(chance.randint(10, 40))
    return Sum(
        question=_(
            "A step is {first}, the next {second}, and the whole stands in brackets. Which number is in them?",
            first=n(first),
            second=n(second),
        ),
        expression="first + second",
        values={"first": first, "second": second},
        near=[
            (
                "second - first" if second > first else "first - second",
                _("Brackets hold what follows from the others: here their sum."),
            )
        ],
        why=_("A size in brackets is auxiliary: it follows from the others."),
    )


_SUMS: dict[int, tuple[Callable[[random.Random], Sum], ...]] = {
    1: (chain, from_datum, floor),
    2: (counterbore, auxiliary, from_datum, chain),
    3: (hexagon, square),
}
#: How often the question is which view shows something.
_VIEWS = 0.4


def make(chance: random.Random, level: int) -> Drill:
    """Make one by lot."""
    if chance.random() < _VIEWS:
        return _which_view(chance, level)
    return drill_of_sum(chance.choice(_SUMS[level])(chance), level)


def make_from(chance: random.Random, level: int, source: ExerciseSource) -> Drill:
    """Ask for a size that a sheet of an exercise gives; at level 3 for what two of them differ by."""
    part, sizes = source.part_with_sizes(chance, 2)
    (check, size), (other, less) = chance.sample(sizes, 2)
    if level == 3 and check.fields["measure"] != other.fields["measure"]:
        raise Unfit  # nobody takes a diameter off a length
    name, unit = source.part_name(part), source.exercise.model.units
    if level == 3:
        own = Sum(
            question=_(
                "How much more is “{title}” than “{other}” of the {name}? The sheet says both.",
                title=check.title,
                other=other.title,
                name=name,
            ),
            expression="size - less",
            values={"size": size, "less": less},
            near=[("size + less", _("They were added; a difference is asked."))],
            unit=unit,
            why=_("One size less the other."),
        )
    else:
        near = [("other", _("That is “{title}”.", title=other.title))] if abs(size - less) > _TOLD_APART else []
        own = Sum(
            question=_("How large is “{title}” of the {name}? Its sheet says it.", title=check.title, name=name),
            expression="size",
            values={"size": size, "other": less},
            near=near,
            why=_("The sheet says"),
            unit=unit,
        )
    drill = drill_of_sum(own, level)
    return drill.model_copy(update={"given": {**drill.given, "part": part}})


def _which_view(chance: random.Random, level: int) -> Drill:
    """Ask in which view a hole is seen as a circle, or a face in its true shape."""
    way = [0, 0, 0]
    way[chance.randrange(3)] = chance.choice((1, -1))
    is_hole = chance.random() < 0.5
    names = ("front", "top", "right side") if level == 1 else tuple(SQUARE_VIEWS)
    direction = np.array(way)

    def shows(name: str) -> bool:
        toward = np.array(SQUARE_VIEWS[name].toward)
        return abs(float(direction @ toward)) > 0.5 if is_hole else float(direction @ toward) > 0.5

    axis = "XYZ"[int(np.argmax(np.abs(direction)))]
    sign = "+" if sum(way) > 0 else "−"
    axes = _("X runs to the right, Y away from you, Z up.")
    question = (
        _(
            "{axes} A blind hole is drilled along {axis} from the {way}. In which view is it seen as a circle, "
            "be it hidden?",
            axes=axes,
            axis=axis,
            way=_side(way),
        )
        if is_hole
        else _(
            "{axes} A face looks along {sign}{axis}. In which view is it seen in its true shape, and not from behind?",
            axes=axes,
            sign=sign,
            axis=axis,
        )
    )
    right = [Choice(id="", text=_("{name} view", name=name)) for name in names if shows(name)]
    wrong = [Choice(id="", text=_("{name} view", name=name)) for name in names if not shows(name)]
    choices, answer = offered(chance, right, wrong)
    feature = {"axis" if is_hole else "plane": {"point": [0, 0, 0], "direction" if is_hole else "normal": way}}
    seen = " and ".join(choice.text for choice in right)
    why = (
        _("A hole is round where one looks along it")
        if is_hole
        else _("A face has its true shape where it looks at you")
    )
    return Drill(
        kind="",
        seed=0,
        level=level,
        question=question,
        given={"feature": feature},
        form="choice",
        choices=choices,
        answer=answer,
        explanation=_("{why}: in the {seen}.", why=why, seen=seen),
    )


def _side(way: list[int]) -> str:
    """Return from which side a hole is drilled that runs into the part along a direction."""
    names = {
        (1, 0, 0): "left",
        (-1, 0, 0): "right",
        (0, 1, 0): "front",
        (0, -1, 0): "back",
        (0, 0, 1): "bottom",
        (0, 0, -1): "top",
    }
    return names[tuple(way)]  # type: ignore[index]


KIND = DrillKind(
    name="read-the-sheet",
    title=N_("Read the sheet"),
    levels=(1, 2, 3),
    make=make,
    make_from=make_from,
    slips=("chain", "misread-digit", "neighbours-value", "from-other-side"),
)
