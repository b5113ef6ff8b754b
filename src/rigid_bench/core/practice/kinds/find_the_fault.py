"""Find the fault: a build beside its sheet, one thing wrong; point at it, then say which slip it was."""

import math
import random
from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass, replace

from rigid_bench.core.grading.diagnosis.causes import LENGTHS, Neighbour, Surroundings, of_dimension
from rigid_bench.core.practice.drill import Choice, Drill, Step
from rigid_bench.core.practice.exercise_source import ExerciseSource
from rigid_bench.core.practice.kind import DrillKind
from rigid_bench.core.practice.offered import offered
from rigid_bench.core.practice.plate import PART, Hole, Plate, exercise, is_sound, plate_by_lot, scheme, wall
from rigid_bench.core.practice.plate_stack import (
    FAULTS,
    PARTS,
    SLIPS,
    build_document,
    exercise_document,
    shapes_of,
    stack_by_lot,
)
from rigid_bench.core.practice.plate_stack import mate_texts as stack_mates
from rigid_bench.core.practice.unfit import Unfit
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.values.units import MM_PER_UNIT
from rigid_bench.core.wording.language import N_, _, translated
from rigid_bench.core.wording.quantities import number as n
from rigid_bench.core.wording.saying import say


@dataclass(frozen=True, slots=True, kw_only=True)
class _Fault:
    """A plate with one thing wrong."""

    built: Plate
    #: The place: a hole's number; None is the whole part.
    at: int | None
    #: The cause code that a card gives it.
    slip: str
    why: str


#: What each slip is called when one chooses among them.
_SLIPS = {
    "radius-for-diameter": N_("the radius was typed where the diameter was asked"),
    "double": N_("the diameter was typed where the radius was asked"),
    "decimal-point": N_("the decimal point slipped"),
    "from-other-side": N_("it was measured from the opposite face"),
    "through": N_("it goes through and should end inside"),
    "unit-of-part": N_("the numbers were read as inches"),
    "mirrored": N_("it was made as its mirror image"),
    "feature-missing": N_("a hole is missing"),
}
_WRONG = 3
#: How often a fault is one of an assembly, and which are planted, by level.
_OF_STACKS = 0.4
_STACK_LEVELS = {
    2: ("offset-sign", "placed-not-held", "nothing-grounded"),
    3: ("far-side", "turned-over", "mate-short", "offset-sign"),
}
#: mm: within the tolerance of what is asked.
_LIKE = 0.2
#: Asked beside the sizes: a part of the wrong hand has them all.
_ALL_PARTS = {"id": "parts", "title": "All parts", "kind": "parts", "marks": 1}


def _of_diameter(slip: str, factor: float) -> Callable[[random.Random, Plate], _Fault]:
    """Return what makes one hole so many times as large."""

    def made(chance: random.Random, plate: Plate) -> _Fault:
        k = chance.randrange(len(plate.holes))
        hole = plate.holes[k]
        wrong = round(hole.diameter * factor, 4)
        why = _(
            "Hole {name} is Ø{wrong}, and Ø{diameter} is asked: {slip}.",
            name=hole.name,
            wrong=n(wrong),
            diameter=n(hole.diameter),
            slip=translated(_SLIPS[slip]),
        )
        return _Fault(built=plate.with_hole(k, diameter=wrong), at=k, slip=slip, why=why)

    return made


def _other_side(chance: random.Random, plate: Plate) -> _Fault:
    k = chance.randrange(len(plate.holes))
    hole = plate.holes[k]
    if chance.random() < 0.5:
        built, face, far = plate.with_hole(k, x=plate.length - hole.x), "right", hole.x
    else:
        built, face, far = plate.with_hole(k, y=plate.width - hole.y), "back", hole.y
    shift = abs(built.holes[k].x - hole.x) + abs(built.holes[k].y - hole.y)
    if _is_radius(shift, hole) or 2 * _wall(plate, hole) > sum(_wall(plate, other) for other in plate.holes):
        raise Unfit  # it looks as if it was measured to the edge of the bore; the others tell not which way up it lies
    why = _(
        "Hole {name} stands {far} from the {face}; that is asked from the opposite face.",
        name=hole.name,
        far=n(far),
        face=face,
    )
    return _Fault(built=built, at=k, slip="from-other-side", why=why)


def _is_radius(shift: float, hole: Hole) -> bool:
    return abs(shift - hole.diameter / 2) < _LIKE


def _wall(plate: Plate, hole: Hole) -> float:
    """Return the area of a hole's wall, mm2."""
    return math.pi * hole.diameter * (plate.thickness if hole.depth is None else hole.depth)


def _unit(chance: random.Random, plate: Plate) -> _Fault:
    why = _("Every size is 25.4 times too large: the numbers were read as inches.")
    return _Fault(built=plate.scaled(25.4), at=None, slip="unit-of-part", why=why)


def _mirrored(chance: random.Random, plate: Plate) -> _Fault:
    if all(hole.depth is None for hole in plate.holes):
        raise Unfit  # turned over, it would be the part that was asked
    holes = tuple(replace(hole, x=plate.length - hole.x) for hole in plate.holes)
    why = _("Every hole stands on the other side: the part is the mirror image of the one that is asked.")
    return _Fault(built=replace(plate, holes=holes), at=None, slip="mirrored", why=why)


def _through(chance: random.Random, plate: Plate) -> _Fault:
    blind = [k for k, hole in enumerate(plate.holes) if hole.depth is not None]
    if not blind:
        raise Unfit
    k = chance.choice(blind)
    hole = plate.holes[k]
    why = _("Hole {name} goes through; {n} deep is asked.", name=hole.name, n=n(hole.depth or 0))
    return _Fault(built=plate.with_hole(k, depth=None), at=k, slip="through", why=why)


def _hole_missing(chance: random.Random, plate: Plate) -> _Fault:
    k = chance.randrange(len(plate.holes))
    holes = tuple(hole for j, hole in enumerate(plate.holes) if j != k)
    why = _(
        "Hole {name} is missing: {asked} are asked, {left} are there.",
        name=plate.holes[k].name,
        asked=len(plate.holes),
        left=len(holes),
    )
    return _Fault(built=replace(plate, holes=holes), at=k, slip="feature-missing", why=why)


_radius, _double = _of_diameter("radius-for-diameter", 0.5), _of_diameter("double", 2.0)
_point = _of_diameter("decimal-point", 0.1)
_LEVELS: dict[int, tuple[Callable[[random.Random, Plate], _Fault], ...]] = {
    1: (_radius, _double, _unit, _hole_missing),
    2: (_radius, _other_side, _point, _unit, _hole_missing),
    3: (_other_side, _through, _double, _mirrored),
}


def make(chance: random.Random, level: int) -> Drill:
    """Make one by lot: a plate, or from level 2 a small assembly."""
    if level > 1 and chance.random() < _OF_STACKS:
        return _of_stack(chance, level)
    plate = plate_by_lot(chance, 2 if level == 1 else 3)
    fault = chance.choice(_LEVELS[level])(chance, plate)
    if not is_sound(fault.built):
        raise Unfit
    places = [
        Choice(id="", text=_("hole {name}", name=hole.name), instance=PART, feature=wall(plate, hole))
        for hole in plate.holes
    ]
    places.append(Choice(id="", text=_("the whole part"), instance=PART))
    right = places.pop(fault.at if fault.at is not None else -1)
    choices, answer = offered(chance, [right], places)
    return Drill(
        kind="",
        seed=0,
        level=level,
        question=_("Above is the sheet, below is what was built. One thing is wrong. Where?"),
        given={
            "plate": asdict(plate),
            "built": asdict(fault.built),
            "exercise": exercise(plate, [*scheme(plate), _ALL_PARTS]),
        },
        form="point",
        choices=choices,
        answer=answer,
        then=_then(chance, fault.slip, fault.why, _SLIPS),
        explanation=fault.why,
        slip=fault.slip,
    )


#: What a slip makes of one size of an exercise, of which measures, and what it is called.
_OF_A_SIZE: dict[str, tuple[float, tuple[str, ...], str]] = {
    "radius-for-diameter": (0.5, ("diameter",), _SLIPS["radius-for-diameter"]),
    "diameter-for-radius": (2.0, ("radius",), N_("the diameter was typed where the radius was asked")),
    "decimal-point": (0.1, LENGTHS, _SLIPS["decimal-point"]),
    "inch-for-mm": (MM_PER_UNIT["in"], LENGTHS, N_("the number was typed in a file that is in inches")),
    "half": (0.5, LENGTHS, N_("it is half of what was asked")),
    "double": (2.0, LENGTHS, N_("it is twice what was asked")),
}
#: Sizes among which the wrong one stands, by level.
_LISTED = {1: 3, 2: 4, 3: 6}


def make_from(chance: random.Random, level: int, source: ExerciseSource) -> Drill:
    """Make one of a sheet of an exercise: of some sizes that a build measured, one is wrong."""
    part, sizes = source.part_with_sizes(chance, _LISTED[level])
    listed = chance.sample(sizes, _LISTED[level])
    check, nominal = listed[0]
    measure, units = check.fields["measure"], source.exercise.model.units
    offers = [name for name, (_factor, measures, _text) in _OF_A_SIZE.items() if measure in measures]
    if source.slip in _OF_A_SIZE and source.slip not in offers:
        raise Unfit
    slip = source.slip if source.slip in offers else chance.choice(offers)
    factor = _OF_A_SIZE[slip][0]
    wrong = round(nominal * factor, 4)
    others = [
        Neighbour(title=own.title, nominal=size, measure=own.fields["measure"], meets=True)
        for own, size in sizes
        if own.id != check.id
    ]
    cause = of_dimension(measure, nominal, wrong, Surroundings(others=others), units=units, tolerance=Tolerance())
    if cause is None or cause.code != slip:
        raise Unfit
    right = Choice(id="", text=f"{check.title}: {n(wrong)}", check=check.model_dump(mode="json"))
    met = [Choice(id="", text=f"{own.title}: {n(size)}", check=own.model_dump(mode="json")) for own, size in listed[1:]]
    choices, answer = offered(chance, [right], met)
    why = _(
        "{title}: {nominal} is asked, {wrong} was measured. {message}",
        title=check.title,
        nominal=n(nominal),
        wrong=n(wrong),
        message=say(cause.message),
    )
    named = {name: text for name, (other, _unused, text) in _OF_A_SIZE.items() if name == slip or other != factor}
    return Drill(
        kind="",
        seed=0,
        level=level,
        question=_(
            "Here is the sheet of the {part}. A build of it measured these sizes. One is wrong. Which?",
            part=source.part_name(part),
        ),
        given={"part": part, "units": units, "nominal": nominal, "measured": wrong, "measure": measure},
        form="choice",
        choices=choices,
        answer=answer,
        then=_then(chance, slip, why, named),
        explanation=why,
        slip=slip,
    )


def _of_stack(chance: random.Random, level: int) -> Drill:
    """Make one of an assembly: where is it wrong, and which slip was it?"""
    stack = stack_by_lot(chance)
    fault = FAULTS[chance.choice(_STACK_LEVELS[level])](stack)
    offers = {part: Choice(id="", text=_("the {part}", part=part), instance=f"{part}-1") for part in PARTS}
    right = offers.pop(fault.part)
    choices, answer = offered(chance, [right], list(offers.values()))
    return Drill(
        kind="",
        seed=0,
        level=level,
        question=_(
            "Above is what is asked: the cover {gap} mm over the base, the block on it, "
            "both held. Below is what was built. One thing is wrong. Where?",
            gap=n(stack.gap),
        ),
        given={
            "stack": asdict(stack),
            "exercise": exercise_document(stack),
            "reference": build_document(stack),
            "build": fault.build,
        },
        form="point",
        choices=choices,
        answer=answer,
        then=_then(chance, fault.slip, fault.why, SLIPS),
        explanation=fault.why,
        slip=fault.slip,
        shapes=shapes_of(stack),
        mates=stack_mates(fault.build),
    )


def _then(chance: random.Random, slip: str, why: str, named: Mapping[str, str]) -> Step:
    """Ask which slip it was, out of those that are named."""
    others = chance.sample([other for other in named if other != slip], _WRONG)
    choices, answer = offered(
        chance,
        [Choice(id="", text=translated(named[slip]))],
        [Choice(id="", text=translated(named[other])) for other in others],
    )
    return Step(question=_("Which slip was it?"), form="choice", choices=choices, answer=answer, explanation=why)


KIND = DrillKind(
    name="find-the-fault",
    title=N_("Find the fault"),
    levels=(1, 2, 3),
    make=make,
    make_from=make_from,
    files="rigid_bench.core.practice.plate_files.files_of",
    slips=(*_SLIPS, *FAULTS),
)
