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
from tests.shapes import TOLERANCE, inch_step, metre_step, step

WRITERS = {"millimetre": step, "inch": inch_step, "metre": metre_step}


def as_made(part: PartReport) -> dict[str, Counter[Any]]:
    """What was measured, in the terms of `Made`."""
    return {
        "holes": Counter(
            (r3(each.diameter), r3(each.depth), each.through, each.entry, r3(each.tip or 0)) for each in part.holes
        ),
        "bosses": Counter((r3(each.diameter), r3(each.height)) for each in part.bosses),
        "slots": Counter((r3(each.width), r3(each.length), r3(each.depth), each.through) for each in part.slots),
        "pockets": Counter(
            (r3(each.length or 0), r3(each.width or 0), r3(each.depth), r3(each.corner_radius or 0))
            for each in part.pockets
            if each.form == "rectangle"
        ),
        "polygons": Counter((each.sides, r3(each.across_flats), r3(each.depth)) for each in part.polygons),
        "fillets": Counter({r3(each.radius): each.count for each in part.fillets}),
        "chamfers": Counter({tuple(r3(leg) for leg in each.legs): each.count for each in part.chamfers}),
    }


def expected(made: Made) -> dict[str, Counter[Any]]:
    return {name: value for name, value in vars(made).items() if name != "shape"}


@settings(max_examples=15, deadline=None)
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
