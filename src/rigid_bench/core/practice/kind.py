"""What a kind of drill is: one entry says all that the program knows of it."""

import random
from collections.abc import Callable
from dataclasses import dataclass

from rigid_bench.core.practice.drill import Drill
from rigid_bench.core.practice.exercise_source import ExerciseSource, Shows


@dataclass(frozen=True, slots=True, kw_only=True)
class DrillKind:
    """One kind of drill."""

    #: As commands and addresses write it.
    name: str
    #: What it practises, on screens.
    title: str
    levels: tuple[int, ...]
    #: Makes one by lot: the source of chance, the level. Raises `Unfit` where the lot makes no good drill.
    make: Callable[[random.Random, int], Drill]
    #: Makes one of a teacher's exercise; None for a kind that is made of generated parts alone.
    make_from: Callable[[random.Random, int, ExerciseSource], Drill] | None = None
    #: What of the exercise such a drill shows.
    shows: Shows = "sheets"
    #: Cause codes of a card that it practises.
    slips: tuple[str, ...] = ()
    #: Module and function that make the files for who checks it by another road, with the solid-modelling kernel;
    #: "" for a kind that has none.
    files: str = ""
