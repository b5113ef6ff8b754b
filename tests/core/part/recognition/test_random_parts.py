"""A random part is measured back to what it was made from, whatever its pose, unit, name and split of faces."""

import random
from collections import Counter
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rigid_bench.core.formats.measure import PartReport
from rigid_bench.core.measurement.measure_report import measure_file
from tests.core.part.recognition.random_parts import Made, make_part, moved, r3, split_faces
from tests.support.shapes import TOLERANCE, inch_step, metre_step, step

pytestmark = pytest.mark.thorough

WRITERS = {"millimetre": step, "inch": inch_step, "metre": metre_step}


def as_made(part: PartReport) -> dict[str, Counter[Any]]:
    """What was measured, in the terms of `Made`."""
    return {
        "holes": Counter(
            (r3(hole.diameter), r3(hole.depth), hole.through, hole.entry, r3(hole.tip or 0)) for hole in part.holes
        ),
        "bosses": Counter((r3(boss.diameter), r3(boss.height)) for boss in part.bosses),
        "slots": Counter((r3(slot.width), r3(slot.length), r3(slot.depth), slot.through) for slot in part.slots),
        "pockets": Counter(
            (r3(pocket.length or 0), r3(pocket.width or 0), r3(pocket.depth), r3(pocket.corner_radius or 0))
            for pocket in part.pockets
            if pocket.form == "rectangle"
        ),
        "polygons": Counter((polygon.sides, r3(polygon.across_flats), r3(polygon.depth)) for polygon in part.polygons),
        "fillets": Counter({r3(fillet.radius): fillet.count for fillet in part.fillets}),
        "chamfers": Counter({tuple(r3(leg) for leg in chamfer.legs): chamfer.count for chamfer in part.chamfers}),
    }


def expected(made: Made) -> dict[str, Counter[Any]]:
    return {name: value for name, value in vars(made).items() if name != "shape"}


@settings(max_examples=15)
@given(
    seed=st.integers(0, 10**9),
    unit=st.sampled_from(sorted(WRITERS)),
    is_split=st.booleans(),
    name=st.text("aA1 _-.äß漢'\"<>&", max_size=12),
)
def test_a_random_part_is_measured_back(seed: int, unit: str, is_split: bool, name: str) -> None:
    made, rng = make_part(seed), random.Random(seed)
    shape = moved(made.shape, rng)
    report = measure_file(
        WRITERS[unit](split_faces(shape, rng) if is_split else shape, name), name="part.step", tolerance=TOLERANCE
    )
    (part,) = report.parts
    assert report.source_units == unit
    assert part.volume == pytest.approx(made.shape.volume, rel=1e-5)
    assert as_made(part) == expected(made)
