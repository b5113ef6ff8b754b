"""Which number is missing? Which is said twice? On the drawing of a plate."""

import random
from collections.abc import Mapping, Sequence
from dataclasses import asdict
from typing import Any

from rigid_bench.core.practice.drill import Choice, Drill
from rigid_bench.core.practice.kind import DrillKind, Unfit
from rigid_bench.core.practice.offered import offered
from rigid_bench.core.practice.plate import Hole, Plate, check, exercise, face, plate_by_lot, scheme, wall
from rigid_bench.core.wording.quantities import number as n

_WRONG = 3
#: How far left and right, front and back, bottom and top: the ends of the chains of sizes.
_Tie = tuple[str, str, str]


def make(chance: random.Random, level: int) -> Drill:
    """Make one by lot: levels 1 and 2 lack a size, level 3 says one twice."""
    plate = plate_by_lot(chance, {1: 1, 2: 2, 3: 2}[level])
    return _twice(chance, plate, level) if level == 3 else _missing(chance, plate, level)


def tie_of(own: Mapping[str, Any]) -> _Tie:
    """Return what a dimension ties: along which direction, and which two places; a diameter or depth ties itself."""
    name = own["id"].split(".", 1)[1]
    fixed = {"length": ("x", "left", "right"), "width": ("y", "front", "back"), "thickness": ("z", "bottom", "top")}
    if name in fixed:
        return fixed[name]
    if own["measure"] in ("diameter", "depth"):
        return own["measure"], name, name
    first, _, second = own["tie"].partition(" ")
    return ("x" if second in ("left", "right") or own["along"] == "x" else "y"), first, second


def is_rigid(plate: Plate, ties: Sequence[_Tie]) -> bool:
    """Say whether sizes fix the plate: every place hangs together along each direction, every bore has its size."""
    holes = [hole.name for hole in plate.holes]
    wanted = {"x": {"left", "right", *holes}, "y": {"front", "back", *holes}, "z": {"bottom", "top"}}
    for way, places in wanted.items():
        groups = [{place} for place in places]
        for _, a, b in (tie for tie in ties if tie[0] == way):
            joined = [group for group in groups if a in group or b in group]
            groups = [group for group in groups if group not in joined] + [set().union(*joined)]
        if len(groups) > 1:
            return False
    have = {tie[:2] for tie in ties}
    bores = {("diameter", f"{hole.name.lower()}.bore") for hole in plate.holes}
    depths = {("depth", f"{hole.name.lower()}.depth") for hole in plate.holes if hole.depth is not None}
    return bores | depths <= have


def _tied(plate: Plate) -> list[dict[str, Any]]:
    """Return the plate's dimensions, those of places with what they tie."""
    found = []
    for own in scheme(plate):
        name = own["id"].split(".")
        if len(name) == 3 and name[2] in ("left", "front"):
            own = {**own, "tie": f"{name[1].upper()} {name[2]}", "along": "x" if name[2] == "left" else "y"}
        found.append(own)
    return found


def _others(plate: Plate) -> list[dict[str, Any]]:
    """Return sizes that the sheet could have besides: from the far faces, and from hole to hole."""
    found = []
    for hole in plate.holes:
        for far, along, value in (("right", "x", plate.length - hole.x), ("back", "y", plate.width - hole.y)):
            own = check(f"{hole.name.lower()}.{far}", f"Hole {hole.name} from the {far}", "position", value,
                        between=[wall(plate, hole), face(plate, far)])  # fmt: skip
            found.append({**own, "tie": f"{hole.name} {far}", "along": along})
    for one, other in zip(plate.holes, plate.holes[1:], strict=False):
        found += [_between(plate, one, other, along) for along in "xy"]
    return found


def _between(plate: Plate, one: Hole, other: Hole, along: str) -> dict[str, Any]:
    value = abs(one.x - other.x) if along == "x" else abs(one.y - other.y)
    ways = {"x": ([1, 0, 0], "along the length"), "y": ([0, 1, 0], "along the width")}
    own = check(f"{one.name.lower()}.{other.name.lower()}.{along}",
                f"Hole {one.name} to hole {other.name}, {ways[along][1]}", "position", value,
                between=[wall(plate, one), wall(plate, other)], along=ways[along][0])  # fmt: skip
    return {**own, "tie": f"{one.name} {other.name}", "along_axis": along}


def _plain(own: Mapping[str, Any]) -> dict[str, Any]:
    """Return a dimension as an exercise has it."""
    return {name: value for name, value in own.items() if name not in ("tie", "along_axis")} | (
        {} if isinstance(own.get("along"), list) else {}
    )


def _choice(own: Mapping[str, Any]) -> Choice:
    return Choice(id="", text=f"{own['title']}: {n(own['nominal'])}", check=_plain(own))


def _missing(chance: random.Random, plate: Plate, level: int) -> Drill:
    every = _tied(plate)
    lost = chance.choice(every)
    kept = [own for own in every if own is not lost]
    ties = [tie_of(own) for own in kept]
    pool = _others(plate)
    fits = [own for own in [lost, *pool] if is_rigid(plate, [*ties, tie_of(own)])]
    fails = [own for own in pool if own not in fits]
    if len(fails) < _WRONG:
        raise Unfit
    right = chance.choice(fits)
    choices, answer = offered(chance, [_choice(right)], [_choice(own) for own in chance.sample(fails, _WRONG)])
    return Drill(
        kind="", seed=0, level=level, question="One number is missing on the drawing. Which of these would fix it?",
        given={"plate": asdict(plate), "exercise": exercise(plate, [_plain(own) for own in kept])},
        form="choice", choices=choices, answer=answer,
        explanation=f"Nothing gives “{lost['title']}”. {right['title']} ({n(right['nominal'])}) fixes it; the others follow "
                    "already from what is there, or leave it open.",
    )  # fmt: skip


def _twice(chance: random.Random, plate: Plate, level: int) -> Drill:
    every = _tied(plate)
    extra = chance.choice(_others(plate))
    sizes = [*every, extra]
    spare = [
        own for own in sizes if is_rigid(plate, [tie_of(other) for other in sizes if other is not own])
    ]
    needed = [own for own in sizes if own not in spare]
    chance.shuffle(sizes)
    wrong = chance.sample(needed, min(_WRONG, len(needed)))
    choices, answer = offered(chance, [_choice(own) for own in spare], [_choice(own) for own in wrong])
    names = ", ".join(own["title"] for own in spare)
    return Drill(
        kind="", seed=0, level=level,
        question="The drawing says something twice. Which sizes could go, one of them, and all would still be fixed? "
                 "Take every one.",
        given={"plate": asdict(plate), "exercise": exercise(plate, [_plain(own) for own in sizes])},
        form="choice", choices=choices, answer=answer,
        explanation=f"These close a ring: {names}. Any one of them follows from the others.",
    )  # fmt: skip


KIND = DrillKind(
    name="missing-number", title="Which number is missing?", levels=(1, 2, 3), make=make,
    files="rigid_bench.core.practice.plate_files.files_of", slips=("chain",),
)  # fmt: skip
