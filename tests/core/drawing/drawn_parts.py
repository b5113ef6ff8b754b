"""Exercises read and pictured once, and their sheets."""

from functools import cache
from typing import Any

from rigid_bench.core.drawing.layout.sheets import SheetOptions, make_sheets
from rigid_bench.core.drawing.pictures import make_pictures
from rigid_bench.core.drawing.report import SheetReport
from rigid_bench.core.exercise.authoring.propose import propose
from rigid_bench.core.exercise.bundle import Exercise, read_exercise
from rigid_bench.core.formats.pictures import AskedSize, Sheet
from rigid_bench.core.grading.grade import describe
from rigid_bench.demo import drill_jig, seed_drawer, weather_mast
from rigid_bench.demo.modelling import step_bytes
from tests.support.samples import bundle_of
from tests.support.shapes import TOLERANCE

Drawn = tuple[Exercise, Sheet, dict[str, AskedSize]]


def read(files: dict[str, bytes]) -> Drawn:
    exercise = read_exercise(files)
    sizes = {check.id: check.size for check in describe(exercise) if check.size}
    return exercise, make_pictures(exercise, tolerance=TOLERANCE), sizes


@cache
def demo(name: str) -> Drawn:
    return read(bundle_of({"jig": drill_jig, "drawer": seed_drawer, "mast": weather_mast}[name]))


def proposed(solid: Any) -> Drawn:
    return read(propose(step_bytes(solid, "P"), name="p.step", title="P", tolerance=TOLERANCE))


def sheets(drawn: Drawn, **options: Any) -> list[SheetReport]:
    exercise, pictures, sizes = drawn
    return make_sheets(exercise.model, pictures, sizes, SheetOptions(**options)).sheets
