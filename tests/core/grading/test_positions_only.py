"""Classes whose programs export positions only: freedom is what the geometry allows."""

import json

import pytest

from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.report.models import Report
from rigid_bench.demo import pedal_bin, seed_drawer
from tests.support.samples import bundle_of, files_of
from tests.support.shapes import TOLERANCE

pytestmark = pytest.mark.thorough

DRAWERS = {sample.name: sample for sample in seed_drawer.SAMPLES}
BINS = {sample.name: sample for sample in pedal_bin.SAMPLES}


def graded(bundle: dict[str, bytes], files: dict[str, bytes], **more: str) -> Report:
    document = json.loads(bundle["exercise.json"]) | more
    return grade(read_exercise({**bundle, "exercise.json": json.dumps(document).encode()}), files, tolerance=TOLERANCE)


@pytest.mark.parametrize(
    ("flow", "contacts", "verdict"),
    [
        ("position only", "hold", "met"),
        ("either", "hold", "met"),
        ("required", "hold", "unchecked"),
        ("position only", "against", "met"),  # walls, floor and ceiling on both sides guide it
    ],
)
def test_a_drawer_between_its_walls_slides(flow: str, contacts: str, verdict: str) -> None:
    report = graded(bundle_of(seed_drawer), files_of(DRAWERS["step-only"]), flow=flow, contacts=contacts)
    (drawer,) = [check for check in report.checks if check.kind == "freedom" and "slides" in check.title.lower()]
    assert drawer.verdict == verdict


def test_pins_in_bores_turn_and_may_slide_off() -> None:
    """Nothing but a mate keeps the levers on their pins, and positions show no mates."""
    for sample in ("bin-right", "bin-joint-short"):
        report = graded(bundle_of(pedal_bin), files_of(BINS[sample]), flow="position only")
        rows = {check.id: check for check in report.checks}
        assert rows["pedal.turns"].measured == "can turn about Z and slide along Z"
        assert rows["rod.arm"].verdict == "met"
