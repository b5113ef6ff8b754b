"""Sheets of the demo exercises and of generated parts: faults counted, and how long a part of sixty sizes takes.

Numerator: laying out the sheet, from pictures and checks to the report. Denominator: the kernel's own hidden lines of
the same part's four views. Both in one process, warm.
"""

import time

import numpy as np
from build123d import Align, Box, Cylinder, Pos

from benchmarks.drawn import Faults, faults_of, share_in_use
from benchmarks.generated_parts import generated_parts
from rigid_bench.core.drawing.layout.sheets import SheetOptions, make_sheets
from rigid_bench.core.drawing.pictures import make_pictures
from rigid_bench.core.drawing.report import DrawingReport
from rigid_bench.core.exercise.authoring.propose import propose
from rigid_bench.core.exercise.bundle import Exercise, read_exercise
from rigid_bench.core.formats.pictures import AskedSize, Sheet
from rigid_bench.core.grading.grade import describe
from rigid_bench.core.kernel.views import draw_view
from rigid_bench.core.part.directions import VIEWS
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.demo import drill_jig, pedal_bin, seed_drawer, weather_mast
from rigid_bench.demo.modelling import step_bytes

_TOLERANCE = Tolerance()
_PARTS = 40


def pictured(exercise: Exercise) -> tuple[Sheet, dict[str, AskedSize]]:
    """Draw an exercise, and say what its checks ask."""
    pictures = make_pictures(exercise, tolerance=_TOLERANCE)
    return pictures, {check.id: check.size for check in describe(exercise) if check.size}


def drawn(exercise: Exercise) -> tuple[DrawingReport, Faults]:
    """Lay an exercise's sheets out and count their faults."""
    pictures, sizes = pictured(exercise)
    report = make_sheets(exercise.model, pictures, sizes, SheetOptions())
    parts = {part.id for part in exercise.model.parts if part.origin != "bought"}
    required = [check for check in sizes if _part_of(exercise, check) in parts]
    return report, faults_of(report, required)


def _part_of(exercise: Exercise, check: str) -> object:
    return next(own.fields.get("part") for own in exercise.model.checks if own.id == check)


def line(name: str, faults: Faults, use: float) -> None:
    """Print one line of the table."""
    print(
        f"{name:16} {faults.dimensions:6} {faults.texts_on_lines:10} {faults.texts_on_texts:10} "
        f"{faults.leaders_crossing:8} {faults.holes_without_centre:9} {faults.checks_not_shown:9} {faults.twice:6} "
        f"{faults.crossings:9} {100 * use:6.0f} %",
        flush=True,
    )


def sixty() -> None:
    """Print how long a part with sixty sizes takes."""
    plate = Box(200, 120, 12, align=(Align.MIN,) * 3)
    for k in range(9):
        plate -= Pos(16 + 20 * k, 20 + 9 * (k % 3), 0) * Cylinder(2 + 0.3 * k, 60)
        plate -= Pos(20 + 19 * k, 80 + 8 * (k % 4), 0) * Cylinder(2.2 + 0.25 * k, 60)
    exercise = read_exercise(propose(step_bytes(plate, "P"), name="p.step", title="P", tolerance=_TOLERANCE))
    pictures, sizes = pictured(exercise)
    started = time.process_time()
    report = make_sheets(exercise.model, pictures, sizes, SheetOptions())
    ours = time.process_time() - started
    started = time.process_time()
    for direction in VIEWS:
        draw_view([plate.solid().wrapped], direction, size=float(np.hypot(200, 120)))
    kernel = time.process_time() - started
    notes = len(report.sheets[0].dimensions)
    print(f"{len(sizes)} sizes in {notes} dimensions and notes: laid out in {ours:.2f} s, "
          f"the kernel's hidden lines {kernel:.2f} s, ratio {ours / kernel:.1f}")  # fmt: skip


def main() -> None:
    """Print the tables."""
    print("exercise           dims text/line  text/text  leaders  no centre not shown  twice crossings in use")
    whole = Faults()
    for name, demo in (("weather mast", weather_mast), ("drill jig", drill_jig), ("pedal bin", pedal_bin),
                       ("seed drawer", seed_drawer)):  # fmt: skip
        report, faults = drawn(read_exercise(demo.bundle()))
        line(name, faults, max(share_in_use(sheet) for sheet in report.sheets))
        whole += faults
    uses = []
    generated = Faults()
    for number, solid in enumerate(generated_parts(_PARTS)):
        bundle = propose(step_bytes(solid, "P"), name="p.step", title=f"P{number}", tolerance=_TOLERANCE)
        report, faults = drawn(read_exercise(bundle))
        generated += faults
        uses.append(share_in_use(report.sheets[0]))
    line(f"{_PARTS} generated", generated, float(np.mean(uses)))
    whole += generated
    print(f"crossings in a hundred dimensions: {100 * whole.crossings / whole.dimensions:.1f}")
    sixty()


if __name__ == "__main__":
    main()
