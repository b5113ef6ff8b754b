"""What a kind of drill is: one entry says all that the program knows of it."""

import random
from collections.abc import Callable
from dataclasses import dataclass

from rigid_bench.core.practice.drill import Drill


class Unfit(Exception):
    """What was drawn by lot makes no drill with one right answer: another lot is drawn."""


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
    #: Cause codes of a card that it practises.
    slips: tuple[str, ...] = ()
    #: Module and function that make the files for who checks it by another road, with the solid-modelling kernel;
    #: "" for a kind that has none.
    files: str = ""
