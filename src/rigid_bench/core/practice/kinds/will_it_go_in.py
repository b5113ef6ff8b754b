"""Will it go in? Blocks in a housing: which must come out first, which is shut in, which way one goes."""

import random
from typing import Any

from rigid_bench.core.practice.boxes import Box, way_out
from rigid_bench.core.practice.drill import Choice, Drill
from rigid_bench.core.practice.kind import DrillKind
from rigid_bench.core.practice.offered import offered
from rigid_bench.core.practice.unfit import Unfit
from rigid_bench.core.wording.language import N_, NN_, _, translated, translated_number

_WAYS = {
    "-x": N_("to the left"),
    "+x": N_("to the right"),
    "-y": N_("towards you"),
    "+y": N_("away from you"),
    "-z": N_("down"),
    "+z": N_("up"),
}


def make(chance: random.Random, level: int) -> Drill:
    """Make one by lot: 1 which way a part goes out, 2 which goes first, 3 which is shut in."""
    parts = _stack(chance, level)
    if level == 1:
        return _which_way(chance, parts, level)
    return _which_part(chance, parts, level)


def _stack(chance: random.Random, level: int) -> dict[str, list[Box]]:
    """Draw by lot a housing, open above or at the front, with blocks stacked and hooked in it."""
    wide, deep, high = chance.randint(8, 12), chance.randint(6, 9), chance.randint(7, 10)
    walls: list[Box] = [
        ((-1, -1, -1), (wide + 1, deep + 1, 0)),
        ((-1, -1, 0), (0, deep + 1, high)),
        ((wide, -1, 0), (wide + 1, deep + 1, high)),
        ((0, deep, 0), (wide, deep + 1, high)),
    ]
    if chance.random() < 0.6:
        walls.append(((0, -1, 0), (wide, 0, high)))
    low = chance.randint(2, 3)
    split = chance.randint(3, wide - 3)
    parts: dict[str, list[Box]] = {"housing": walls}
    parts["base block"] = [((0, 0, 0), (wide, deep, low))]
    key: Box = ((split - 1, 0, low), (split + 1, deep, low + 2))
    parts["left block"] = [((0, 0, low), (split - 1, deep, low + 2))]
    parts["right block"] = [((split + 1, 0, low), (wide, deep, low + 2))]
    parts["key"] = [key]
    cover = chance.choice(("none", "left", "right", "whole"))
    top = low + 2
    if cover == "whole" and level > 1:
        parts["lid"] = [((0, 0, top), (wide, deep, top + 1))]
    elif cover == "left":
        parts["key"] = [key, ((0, 0, top), (split + 1, deep, top + 1))]
    elif cover == "right":
        parts["key"] = [key, ((split - 1, 0, top), (wide, deep, top + 1))]
    if level == 3 and chance.random() < 0.7:
        walls.append(((0, deep - 2, top + 1), (wide, deep, top + 2)))
    return parts


def _given(parts: dict[str, list[Box]]) -> dict[str, object]:
    return {"solids": {name: [[list(low), list(high)] for low, high in boxes] for name, boxes in parts.items()}}


def _shapes(parts: dict[str, list[Box]]) -> dict[str, list[dict[str, Any]]]:
    """Return what is drawn: all but the walls at the left and in front, which would hide the rest."""
    shown: dict[str, list[dict[str, Any]]] = {}
    for name, boxes in parts.items():
        shown[name] = []
        for low, high in boxes:
            if name == "housing" and (high[0] <= 0 or high[1] <= 0):
                continue
            centre = [(a + b) / 2 for a, b in zip(low, high, strict=True)]
            size = [b - a for a, b in zip(low, high, strict=True)]
            shown[name].append({"block": {"centre": centre, "size": size, "x": [1.0, 0.0, 0.0], "y": [0.0, 1.0, 0.0]}})
    return shown


def _walls(parts: dict[str, list[Box]]) -> str:
    """Say which walls the drawing leaves out."""
    is_shut = any(high[1] <= 0 for _, high in parts["housing"])
    if is_shut:
        return _("The housing is open above; its left wall and its front wall are not drawn.")
    return _("The housing is open above and in front; its left wall is not drawn.")


def _which_way(chance: random.Random, parts: dict[str, list[Box]], level: int) -> Drill:
    name = chance.choice([part for part in parts if part != "housing"])
    open_ways = way_out(parts, name)
    if not 0 < len(open_ways) < len(_WAYS) - 1:
        raise Unfit
    choices, answer = offered(
        chance,
        [Choice(id="", text=translated(_WAYS[way]), motions=[_motion(way)]) for way in open_ways],
        [Choice(id="", text=translated(_WAYS[way]), motions=[_motion(way)]) for way in _WAYS if way not in open_ways],
    )
    ways = " and ".join(translated(_WAYS[way]) for way in open_ways)
    return Drill(
        kind="",
        seed=0,
        level=level,
        question=_(
            "{parts} Which way can the {name} be taken out, straight? Take every one.", parts=_walls(parts), name=name
        ),
        given={**_given(parts), "instance": name},
        form="choice",
        choices=choices,
        answer=answer,
        many=True,
        explanation=_("It goes out {ways}: every other way something stands before it.", ways=ways),
        shapes=_shapes(parts),
    )


def _motion(way: str) -> dict[str, object]:
    direction = [0.0, 0.0, 0.0]
    direction["xyz".index(way[1])] = -1.0 if way[0] == "-" else 1.0
    return {"kind": "translation", "direction": direction}


def _which_part(chance: random.Random, parts: dict[str, list[Box]], level: int) -> Drill:
    loose = [name for name in parts if name != "housing"]
    free = [name for name in loose if way_out(parts, name)]
    shut = [name for name in loose if name not in free]
    asks_shut = level == 3
    right, wrong = (shut, free) if asks_shut else (free, shut)
    choices, answer = offered(
        chance,
        [Choice(id="", text=_("the {name}", name=name), instance=name) for name in right],
        [Choice(id="", text=_("the {name}", name=name), instance=name) for name in wrong],
    )
    names = " and ".join(f"the {name}" for name in right)
    question = (
        _("Which parts are shut in as all stands now: no straight way leads them out? Take every one.")
        if asks_shut
        else _("The housing stands still. Which part could be taken out first, straight? Take every one that could.")
    )
    question = f"{_walls(parts)} {question}"
    shut_in = NN_("{names} is shut in on all six sides.", "{names} are shut in on all six sides.")
    goes_out = NN_(
        "{names} goes out; something stands before all others.", "{names} go out; something stands before all others."
    )
    words = translated_number(*(shut_in if asks_shut else goes_out), len(right))
    explanation = words.format(names=names.capitalize())
    return Drill(
        kind="",
        seed=0,
        level=level,
        question=question,
        given=_given(parts),
        form="choice",
        choices=choices,
        answer=answer,
        many=True,
        explanation=explanation,
        shapes=_shapes(parts),
    )


KIND = DrillKind(
    name="will-it-go-in",
    title=N_("Will it go in?"),
    levels=(1, 2, 3),
    make=make,
    slips=("no-way-in", "no-straight-way", "nested"),
)
