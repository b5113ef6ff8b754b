"""Constraints that STEP files declare between faces of their parts: those that hold become mates."""

import re

import pytest
from build123d import Box, Cylinder, Pos

from rigid_bench.core.assembly.freedom.analysis import freedom
from rigid_bench.core.formats.content.step_records import Records
from rigid_bench.core.grading.intake.submission import Submission, read_submission
from rigid_bench.demo.modelling import Placed, assembly_bytes
from tests.support.shapes import TOLERANCE

BASE = Box(60, 40, 10) - Pos(12, 0, 0) * Cylinder(5, 20)
PEG = Cylinder(4.9, 30)
PLACED = [
    Placed(name="Base", solid=BASE.solid()),
    Placed(name="Peg", solid=PEG.solid(), position=(12, 0, 25)),
    Placed(name="Lid", solid=Box(60, 40, 4).solid(), position=(0, 0, 47)),
]
KIT = assembly_bytes(PLACED, "Kit").decode()


def face(product: int, kind: str, z: float | None = None) -> str:
    """The number of the face of a product that has a kind of surface; of flats the one square to z at a height."""
    records = Records(KIT.encode())
    (_, (_, shell)) = list(records.of("MANIFOLD_SOLID_BREP"))[product]
    for number in records.values(shell, "CLOSED_SHELL")[1]:
        surface = records.values(number, "ADVANCED_FACE")[2]
        for placement in records.values(surface, kind)[1:2]:
            _, point, axis, _ = records.values(placement, "AXIS2_PLACEMENT_3D")
            height = records.values(point, "CARTESIAN_POINT")[1][2]
            is_level = abs(records.values(axis, "DIRECTION")[1][2]) == pytest.approx(1)
            if z is None or (is_level and height == pytest.approx(z)):
                return str(int(number))
    raise AssertionError("there is no such face")


def read(*records: str) -> Submission:
    first = max(int(number) for number in re.findall(r"#(\d+)\s*=", KIT)) + 1
    lines = "\n".join(f"#{first + k}={record};" for k, record in enumerate(records))
    head, tail = KIT.rsplit("ENDSEC;", 1)
    return read_submission({"kit.step": (head + lines + "\nENDSEC;" + tail).encode()}, tolerance=TOLERANCE)


def test_a_peg_in_line_with_its_bore_and_on_its_base() -> None:
    bore, wall = face(0, "CYLINDRICAL_SURFACE"), face(1, "CYLINDRICAL_SURFACE")
    top, foot = face(0, "PLANE", 5.0), face(1, "PLANE", 0.0)
    submission = read(
        f"COAXIAL_ASSEMBLY_CONSTRAINT('line','',(#{bore}),(#{wall}))",
        f"PARALLEL_ASSEMBLY_CONSTRAINT_WITH_DIMENSION('gap','',(#{top}),(#{foot}),5.)",
    )
    assert submission.build is not None
    assert [(mate.kind, mate.a, mate.b) for mate in submission.build.mates] == [("coaxial", 0, 1), ("distance", 0, 1)]
    assert abs(submission.build.mates[1].value or 0.0) == pytest.approx(5)
    free = freedom(submission.build, tolerance=TOLERANCE)
    assert not free.conflicts
    assert [motion.kind for motion in free.motions(1, 0)] == ["rotation"]


def test_what_does_not_hold_or_is_no_mate_is_named_and_left_out() -> None:
    top, lid = face(0, "PLANE", 5.0), face(2, "PLANE", 0.0)
    submission = read(
        f"INCIDENCE_ASSEMBLY_CONSTRAINT('touch','',(#{top}),(#{lid}))",
        f"PARALLEL_ASSEMBLY_CONSTRAINT_WITH_DIMENSION('other gap','',(#{top}),(#{lid}),7.)",
        f"SWEPT_PATH_ASSEMBLY_CONSTRAINT('path','',(#{top}),(#{lid}))",
        f"PARALLEL_ASSEMBLY_CONSTRAINT('itself','',(#{top}),(#{top}))",
        "COAXIAL_ASSEMBLY_CONSTRAINT('nothing','',(#999999),())",
    )
    assert submission.build is None
    named = [str(message.params["name"]) for message in submission.notices if message.code == "pair-left-out"]
    assert sorted(named) == ["itself", "nothing", "other gap", "path", "touch"]


def test_a_part_that_is_fixed_is_grounded() -> None:
    top, lid = face(0, "PLANE", 5.0), face(2, "PLANE", 0.0)
    use = re.search(r"#(\d+)\s*=\s*NEXT_ASSEMBLY_USAGE_OCCURRENCE\('[^']*','Base'", KIT)
    assert use
    submission = read(
        f"PARALLEL_ASSEMBLY_CONSTRAINT('level','',(#{top}),(#{lid}))",
        f"FIXED_CONSTITUENT_ASSEMBLY_CONSTRAINT('base','',#{use[1]})",
    )
    assert submission.build is not None
    assert [instance.grounded for instance in submission.instances] == [True, False, False]
    assert [mate.kind for mate in submission.build.mates] == ["parallel"]
