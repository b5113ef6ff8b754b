"""Marks as CSV, read back by the library."""

import csv
import io
import json
import zipfile

import pytest
from openpyxl import load_workbook
from pypdf import PdfReader

from rigid_bench.demo.seed_drawer import SAMPLES
from rigid_bench.jobs.build_jobs import GradeBuild
from rigid_bench.jobs.job import Tools, perform
from rigid_bench.jobs.print_jobs import PrintCards
from rigid_bench.jobs.sandbox import Sandbox
from rigid_bench.store.database import Database
from rigid_bench.store.queries import build_queries
from rigid_bench.web.print.cards import cards_of_exercise
from tests.support import school as people
from tests.support.samples import files_of
from tests.support.school import School, Visitor

FILES = files_of({sample.name: sample for sample in SAMPLES}["radius-for-diameter"])


@pytest.fixture
def build_id(school: School, database: Database, sandbox: Sandbox) -> int:
    """A build with a slip in it, measured and graded."""
    with database.session() as session:
        build = build_queries.add_build(
            session, class_id=school.class_id, version_id=school.version_id, student_id=school.student_id, files=FILES
        )
    perform(GradeBuild(build_id=build.id), Tools(database, sandbox))
    return build.id


@pytest.fixture
def teacher(address: str, build_id: int) -> Visitor:
    """The teacher, who gave half a mark less than all for the slip."""
    visitor = Visitor(address, people.TEACHER)
    visitor.post(f"/builds/{build_id}/checks/knob.pilot", data={"marks": "1,5", "comment": "Nearly"})
    return visitor


def test_the_file_holds_a_line_per_student_with_the_marks_that_count(teacher: Visitor, school: School) -> None:
    answer = teacher.get(f"/classes/{school.class_id}/marks.csv")
    assert "class-one-marks.csv" in answer.headers["content-disposition"]
    rows = list(csv.DictReader(io.StringIO(answer.content.decode("utf-8-sig"))))
    assert [(row["student"], row["state"], row["awarded"], row["available"]) for row in rows] == [
        ("Cleo <b>Crook</b>", "not handed in", "", ""),
        ("Sam Sill", "to return", "38.5", "39"),
    ]
    book = load_workbook(io.BytesIO(teacher.get(f"/classes/{school.class_id}/marks.xlsx").content))
    head, *lines = book["Marks"].iter_rows(values_only=True)
    students = [dict(zip(head, line, strict=True)) for line in lines]
    assert [(row["student"], row["awarded"], row["percent"]) for row in students] == [
        ("Cleo <b>Crook</b>", None, None),
        ("Sam Sill", 38.5, 98.7),
    ]


def test_cards_are_drawn_as_pdf(
    teacher: Visitor, school: School, database: Database, sandbox: Sandbox, build_id: int
) -> None:
    waiting = teacher.post(f"/classes/{school.class_id}/exercises/{school.version_id}/cards")
    assert "0 of 1 cards are drawn" in waiting.text
    printing = PrintCards(printout_id=int(waiting.url.path.split("/")[-1]))
    perform(printing, Tools(database, sandbox, cards_of_exercise))
    assert "1 card is drawn" in teacher.get(waiting.url.path).text
    pdf = teacher.get(f"{waiting.url.path}/cards.pdf")
    text = " ".join(" ".join(page.extract_text() for page in PdfReader(io.BytesIO(pdf.content)).pages).split())
    assert all(words in text for words in ("Sam Sill", "38.5 / 39", "typed where the diameter was asked", "Nearly"))
    assert PdfReader(io.BytesIO(teacher.get(f"/builds/{build_id}/card.pdf").content)).pages


def test_a_students_record_holds_files_and_what_was_changed(teacher: Visitor, school: School, build_id: int) -> None:
    record = teacher.get(f"/classes/{school.class_id}/students/{school.student_id}/record.zip")
    with zipfile.ZipFile(io.BytesIO(record.content)) as archive:
        assert archive.read(f"build-{build_id}/drawer.step") == FILES["drawer.step"]
        card_json = json.loads(archive.read(f"build-{build_id}/card.json"))
    assert [change["comment"] for change in card_json["changed"]] == ["Nearly"]
    assert "Nearly" in teacher.get(f"/builds/{build_id}").text


def test_a_name_is_shown_as_text(address: str, school: School) -> None:
    assert "Cleo <b>" not in Visitor(address, people.TEACHER).get(f"/classes/{school.class_id}").text


def test_marks_out_of_range_or_without_a_reason_are_refused(teacher: Visitor, build_id: int) -> None:
    path = f"/builds/{build_id}/checks/knob.pilot"
    for marks, comment, says in (
        ("3", "x", "0 to 2"),
        ("-1", "x", "0 to 2"),
        ("nan", "x", "0 to 2"),
        ("lots", "x", "lots"),
        ("1", " ", "reason"),
    ):
        answer = teacher.post(path, data={"marks": marks, "comment": comment})
        assert (answer.status_code, says in answer.text) == (422, True), (marks, answer.text)


def test_a_line_for_each_student_with_a_column_for_each_exercise_or_check(teacher: Visitor, school: School) -> None:
    path = f"/classes/{school.class_id}/marks-by-student"
    rows = list(csv.DictReader(io.StringIO(teacher.get(f"{path}.csv").content.decode("utf-8-sig"))))
    assert [(row["student"], row["Seed drawer"], row["percent"]) for row in rows] == [
        ("Cleo <b>Crook</b>", "", ""),
        ("Sam Sill", "38.5", "98.7"),
    ]
    head, *lines = load_workbook(io.BytesIO(teacher.get(f"{path}.xlsx").content))["Marks"].iter_rows(values_only=True)
    assert dict(zip(head, lines[1], strict=True))["awarded"] == 38.5
    checks = teacher.get(f"/classes/{school.class_id}/exercises/{school.version_id}/marks-by-check.csv")
    sam = list(csv.DictReader(io.StringIO(checks.content.decode("utf-8-sig"))))[1]
    assert (sam["Pilot hole"], sam["Drawer width"]) == ("1.5", "3")
    assert sum(float(value) for name, value in sam.items() if name not in ("student", "sign-in")) == 38.5
    assert teacher.get(f"/classes/{school.class_id}/exercises/99999/marks-by-check.csv").status_code == 404
    assert teacher.get(f"{path}.pdf").status_code == 422
