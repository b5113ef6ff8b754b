"""A table of mates says the same as a build file: the same freedom, the same card; each wrong line is named."""

import csv
import io
import json
from typing import Any

import numpy as np
import pytest
from openpyxl import Workbook

from rigid_bench.core.assembly.mates.registry import KINDS
from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.formats.mate_table import HEADS, is_mate_table, read_mate_table, write_template
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.intake.files import check_files
from rigid_bench.core.grading.intake.submission import read_submission
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.errors import RigidBenchError
from rigid_bench.demo import seed_drawer
from tests.support.samples import bundle_of, files_of
from tests.support.shapes import TOLERANCE

pytestmark = pytest.mark.thorough

FILES = files_of(next(sample for sample in seed_drawer.SAMPLES if sample.name == "right"))
STEP, BUILD = FILES["drawer.step"], json.loads(FILES["drawer.build.json"])
EXERCISE = read_exercise(bundle_of(seed_drawer))
Row = list[Any]


def spot_on(part: PartFeatures, side: dict[str, Any]) -> np.ndarray[Any, Any]:
    """Return a point within the face of a part that a build file names, or on its axis; in the part's coordinates."""
    if "plane" not in side:
        point = np.array((side.get("cylinder") or side["axis"])["point"], dtype=float)
        wall = next(own for own in part.cylinders if np.linalg.norm(np.cross(point - own.point, own.direction)) < 1e-6)
        return np.asarray(wall.point + wall.length / 2 * wall.direction)
    point, normal = (np.array(side["plane"][name], dtype=float) for name in ("point", "normal"))
    low, high = part.box
    for share in np.random.default_rng(3).random((4_000, 3)):
        spot = low + share * (high - low)
        spot = spot - ((spot - point) @ normal) * normal
        if part.is_inside(spot - 0.02 * normal) and not part.is_inside(spot + 0.02 * normal):
            return np.asarray(spot)
    raise AssertionError(f"no point on the face {side}")


def rows_of(build: dict[str, Any]) -> list[Row]:
    """Write a build file's mates as a program would print them: points on faces, in the assembly."""
    names = {part["id"]: part["name"] for part in build["parts"]}
    called = {own["id"]: names[own["part"]] for own in build["instances"]}
    submission = read_submission({"drawer.step": STEP}, tolerance=TOLERANCE)
    placed = {own.name: own for own in submission.instances}
    rows: list[Row] = [["grounded", called[own["id"]]] for own in build["instances"] if own.get("grounded")]
    for mate in build["mates"]:
        sides: Row = []
        for side in (mate["a"], mate["b"]):
            own = placed[called[side["instance"]]]
            assert own.part is not None
            sides += [own.name, *own.pose.point(spot_on(submission.parts[own.part].features, side))]
        rows.append([mate["kind"], *sides, mate.get("value", ""), mate.get("sense", "")])
    return rows


def as_csv(rows: list[Row], heads: tuple[str, ...] = HEADS, separator: str = ",") -> bytes:
    text = io.StringIO()
    csv.writer(text, delimiter=separator).writerows([heads, *rows])
    return text.getvalue().encode()


def as_xlsx(rows: list[Row]) -> bytes:
    book = Workbook()
    assert book.active
    for row in (HEADS, *rows):
        book.active.append([float(cell) if isinstance(cell, np.floating) else cell for cell in row])
    saved = io.BytesIO()
    book.save(saved)
    return saved.getvalue()


@pytest.mark.parametrize("way", ["csv", "semicolons", "xlsx"])
def test_the_same_card_as_with_the_build_file(way: str) -> None:
    rows = rows_of(BUILD)
    table = {"csv": as_csv(rows), "semicolons": as_csv(rows, separator=";"), "xlsx": as_xlsx(rows)}[way]
    files = {"drawer.step": STEP, f"mates.{'xlsx' if way == 'xlsx' else 'csv'}": table}
    check_files(files)
    declared, tabled = (grade(EXERCISE, own, tolerance=TOLERANCE) for own in (FILES, files))
    assert (tabled.awarded, tabled.available) == (declared.awarded, declared.available)
    assert {row.id: row.verdict for row in tabled.checks} == {row.id: row.verdict for row in declared.checks}


@pytest.mark.parametrize(
    ("row", "problem"),
    [
        (["concentric", "Housing", 0, 0, 0, "Drawer", 0, 0, 0], "there is no kind 'concentric'"),
        (["coincident", "Housing", 0, 0, 0, "Lid", 0, 0, 0], "there is no part 'Lid'"),
        (["coincident", "Housing", 500, 0, 0, "Drawer", 0, 0, 0], "on no flat or round face of 'Housing'"),
        (["coincident", "Housing", 1, 2, "", "Drawer", 0, 0, 0], "is not whole"),
        (["coincident", "Housing", "", "", "", "Drawer", 0, 0, 0], "gives no point on part a"),
        (["coincident", "Housing", 1, 2, "x", "Drawer", 0, 0, 0], "'x' is no number"),
        (["coincident", "", 1, 2, 3, "Drawer", 0, 0, 0], "does not say part a"),
        (["coincident", "Housing", 1, 2, 3, "Drawer", 0, 0, 0, "", "up"], "'up' is no sense"),
    ],
)
def test_a_wrong_line_is_named(row: Row, problem: str) -> None:
    with pytest.raises(RigidBenchError) as refused:
        read_submission({"drawer.step": STEP, "mates.csv": as_csv([["grounded", "Housing"], row])}, tolerance=TOLERANCE)
    assert "line 3" in refused.value.where
    assert problem in refused.value.problem


@pytest.mark.parametrize(
    ("files", "problem"),
    [
        ({"mates.csv": as_csv([["grounded", "Housing"]])}, "there is no model"),
        ({**FILES, "mates.csv": as_csv([["grounded", "Housing"]])}, "there is a build file, too"),
        ({"drawer.step": STEP, "mates.csv": b"a,b\n1,2\n"}, "no column 'kind'"),
        ({"drawer.step": STEP, "mates.csv": as_csv([])}, "0 lines"),
        ({"drawer.step": STEP, "mates.csv": b"\xff\xfe\x00"}, "no text in UTF-8"),
        ({"drawer.step": STEP, "mates.xlsx": b"PK\x03\x04broken"}, "zip is broken"),
    ],
)
def test_what_is_no_table_is_refused_at_once(files: dict[str, bytes], problem: str) -> None:
    with pytest.raises(RigidBenchError) as refused:
        check_files(files)
    assert problem in refused.value.problem


def test_the_template_is_read_and_names_only_kinds_that_there_are() -> None:
    rows = read_mate_table(write_template(KINDS), name="template.csv")
    assert {row.kind for row in rows} == {"grounded", *KINDS}
    assert is_mate_table("Mates.CSV")
    assert not is_mate_table("mates.csv.step")
