"""Which number is missing? Which is said twice? On the drawing of a plate."""

import random
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Any

from rigid_bench.core.practice.drill import Choice, Drill
from rigid_bench.core.practice.kind import DrillKind
from rigid_bench.core.practice.offered import offered
from rigid_bench.core.practice.plate import Hole, Plate, check, exercise, face, plate_by_lot, scheme, wall
from rigid_bench.core.practice.unfit import Unfit
from rigid_bench.core.wording.language import N_, _, series
from rigid_bench.core.wording.quantities import number as n

_WRONG = 3
#: Ends of the chains of sizes along each direction.
_ENDS = {"x": ("left", "right"), "y": ("front", "back"), "z": ("bottom", "top")}


@dataclass(frozen=True, slots=True, kw_only=True)
class _Size:
    """A dimension, and what it fixes: two places along a direction, or a size of its own."""

    check: dict[str, Any]
    #: A key of `_ENDS` with two places, or "own" with what it is the size of, twice.
    way: str
    places: tuple[str, str]


def make(chance: random.Random, level: int) -> Drill:
    """Make one by lot: levels 1 and 2 lack a size, level 3 says one twice."""
    plate = plate_by_lot(chance, {1: 1, 2: 2, 3: 2}[level])
    return _twice(chance, plate, level) if level == 3 else _missing(chance, plate, level)


def is_fixed(plate: Plate, sizes: Sequence[_Size]) -> bool:
    """Say whether sizes fix the plate: along each direction all places hang together, and each bore has its own."""
    for way, ends in _ENDS.items():
        places = {*ends, *(hole.name for hole in plate.holes if way != "z")}
        groups = [{place} for place in places]
        for size in (size for size in sizes if size.way == way):
            joined = [group for group in groups if group & set(size.places)]
            groups = [group for group in groups if group not in joined] + [set().union(*joined)]
        if len(groups) > 1:
            return False
    own = {size.places[0] for size in sizes if size.way == "own"}
    wanted = {f"{hole.name} diameter" for hole in plate.holes}
    return wanted | {f"{hole.name} depth" for hole in plate.holes if hole.depth is not None} <= own


def _given(plate: Plate) -> list[_Size]:
    """Return the plate's usual dimensions."""
    ties = {"length": ("x", _ENDS["x"]), "width": ("y", _ENDS["y"]), "thickness": ("z", _ENDS["z"])}
    for hole in plate.holes:
        name = hole.name.lower()
        ties[f"{name}.left"] = ("x", (hole.name, "left"))
        ties[f"{name}.front"] = ("y", (hole.name, "front"))
        ties[f"{name}.bore"] = ("own", (f"{hole.name} diameter",) * 2)
        ties[f"{name}.depth"] = ("own", (f"{hole.name} depth",) * 2)
    sizes = []
    for own in scheme(plate):
        way, places = ties[own["id"].partition(".")[2]]
        sizes.append(_Size(check=own, way=way, places=places))
    return sizes


def _others(plate: Plate) -> list[_Size]:
    """Return sizes that the sheet could have besides: from the far faces, and from hole to hole."""
    sizes = []
    for hole in plate.holes:
        for far, way, value in (("right", "x", plate.length - hole.x), ("back", "y", plate.width - hole.y)):
            own = check(
                f"{hole.name.lower()}.{far}",
                _("Hole {name} from the {far}", name=hole.name, far=far),
                "position",
                value,
                between=[wall(plate, hole), face(plate, far)],
            )
            sizes.append(_Size(check=own, way=way, places=(hole.name, far)))
    for one, other in zip(plate.holes, plate.holes[1:], strict=False):
        sizes += [_between(plate, one, other, way) for way in "xy"]
    return sizes


def _between(plate: Plate, one: Hole, other: Hole, way: str) -> _Size:
    value = abs(one.x - other.x) if way == "x" else abs(one.y - other.y)
    along = _("along the length") if way == "x" else _("along the width")
    own = check(
        f"{one.name}-{other.name}.{way}".lower(),
        _("Hole {one} to hole {other}, {along}", one=one.name, other=other.name, along=along),
        "position",
        value,
        between=[wall(plate, one), wall(plate, other)],
        axis=way,
    )
    return _Size(check=own, way=way, places=(one.name, other.name))


def _choice(size: _Size) -> Choice:
    return Choice(id="", text=f"{size.check['title']}: {n(size.check['nominal'])}", check=size.check)


def _missing(chance: random.Random, plate: Plate, level: int) -> Drill:
    every = _given(plate)
    lost = chance.choice(every)
    kept = [size for size in every if size is not lost]
    pool = _others(plate)
    fits = [size for size in (lost, *pool) if is_fixed(plate, [*kept, size])]
    fails = [size for size in pool if size not in fits]
    if len(fails) < min(_WRONG, 2):
        raise Unfit
    right = chance.choice(fits)
    # what stands there already is offered too: else a thickness or a diameter would always be the missing one
    there = chance.sample(kept, chance.choice((1, 2)))
    wrong = [*there, *chance.sample(fails, min(_WRONG - len(there), len(fails)))]
    choices, answer = offered(chance, [_choice(right)], [_choice(size) for size in wrong])
    title = right.check["title"]
    return Drill(
        kind="",
        seed=0,
        level=level,
        question=_("One number is missing on the drawing. Which of these would fix it?"),
        given={"plate": asdict(plate), "exercise": exercise(plate, [size.check for size in kept])},
        form="choice",
        choices=choices,
        answer=answer,
        explanation=_(
            "Nothing gives “{check}”. {title} ({nominal}) fixes it; the others stand there "
            "already, follow from what is there, or leave it open.",
            check=lost.check["title"],
            title=title,
            nominal=n(right.check["nominal"]),
        ),
    )


def _twice(chance: random.Random, plate: Plate, level: int) -> Drill:
    sizes = [*_given(plate), chance.choice(_others(plate))]
    spare = [size for size in sizes if is_fixed(plate, [other for other in sizes if other is not size])]
    needed = [size for size in sizes if size not in spare]
    chance.shuffle(sizes)
    wrong = chance.sample(needed, min(_WRONG, len(needed)))
    choices, answer = offered(chance, [_choice(size) for size in spare], [_choice(size) for size in wrong])
    names = series(size.check["title"] for size in spare)
    return Drill(
        kind="",
        seed=0,
        level=level,
        question=_(
            "The drawing says something twice. Which sizes could go, one of them, and all would still be fixed? "
            "Take every one."
        ),
        given={"plate": asdict(plate), "exercise": exercise(plate, [size.check for size in sizes])},
        form="choice",
        choices=choices,
        answer=answer,
        many=True,
        explanation=_("These close a ring: {names}. Any one of them follows from the others.", names=names),
    )


KIND = DrillKind(
    name="missing-number",
    title=N_("Which number is missing?"),
    levels=(1, 2, 3),
    make=make,
    files="rigid_bench.core.practice.plate_files.files_of",
    slips=("chain", "feature-missing"),
)
