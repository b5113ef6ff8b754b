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
from tests import school as people
from tests.school import School, Visitor

pytestmark = pytest.mark.in_order


def test_the_file_holds_a_line_per_student_with_the_marks_that_count(
    address: str, school: School, database: Database, sandbox: Sandbox
) -> None:
    files = {sample.name: sample for sample in SAMPLES}["radius-for-diameter"].files()
    with database.session() as session:
        build = build_queries.add_build(
            session, class_id=school.class_id, version_id=school.version_id, student_id=school.student_id, files=files
        )
    perform(GradeBuild(build_id=build.id), Tools(database, sandbox))
    teacher = Visitor(address, people.TEACHER)
    teacher.post(f"/builds/{build.id}/checks/knob.pilot", data={"marks": "1,5", "comment": "Nearly"})
    answer = teacher.get(f"/classes/{school.class_id}/marks.csv")
    assert "class-one-marks.csv" in answer.headers["content-disposition"]
    rows = list(csv.DictReader(io.StringIO(answer.content.decode("utf-8-sig"))))
    assert [(row["student"], row["state"], row["awarded"], row["available"]) for row in rows] == [
        ("Cleo <b>Crook</b>", "not handed in", "", ""),
        ("Sam Sill", "to return", "38.5", "39"),
    ]
    book = load_workbook(io.BytesIO(teacher.get(f"/classes/{school.class_id}/marks.xlsx").content))
    head, *lines = book["Marks"].iter_rows(values_only=True)
    found = [dict(zip(head, line, strict=True)) for line in lines]
    assert [(row["student"], row["awarded"], row["percent"]) for row in found] == [
        ("Cleo <b>Crook</b>", None, None),
        ("Sam Sill", 38.5, 98.7),
    ]
    by_student_and_by_check(teacher, school)
    waiting = teacher.post(f"/classes/{school.class_id}/exercises/{school.version_id}/cards")
    assert "0 of 1 cards are drawn" in waiting.text
    printing = PrintCards(printout_id=int(waiting.url.path.split("/")[-1]))
    perform(printing, Tools(database, sandbox, cards_of_exercise))
    assert "1 card is drawn" in teacher.get(waiting.url.path).text
    pdf = teacher.get(f"{waiting.url.path}/cards.pdf")
    text = " ".join(" ".join(page.extract_text() for page in PdfReader(io.BytesIO(pdf.content)).pages).split())
    assert all(words in text for words in ("Sam Sill", "38.5 / 39", "typed where the diameter was asked", "Nearly"))
    assert PdfReader(io.BytesIO(teacher.get(f"/builds/{build.id}/card.pdf").content)).pages
    record = teacher.get(f"/classes/{school.class_id}/students/{school.student_id}/record.zip")
    with zipfile.ZipFile(io.BytesIO(record.content)) as archive:
        assert archive.read(f"build-{build.id}/drawer.step") == files["drawer.step"]
        card_json = json.loads(archive.read(f"build-{build.id}/card.json"))
    assert [each["comment"] for each in card_json["changed"]] == ["Nearly"]
    card = teacher.get(f"/builds/{build.id}").text
    assert "Cleo <b>" not in teacher.get(f"/classes/{school.class_id}").text, "a name is shown as text"
    assert "Nearly" in card


def test_marks_out_of_range_or_without_a_reason_are_refused(address: str, school: School, database: Database) -> None:
    teacher = Visitor(address, people.TEACHER)
    with database.session() as session:
        build = build_queries.newest_build_of(session, school.class_id, school.version_id, school.student_id)
    assert build
    path = f"/builds/{build.id}/checks/knob.pilot"
    for marks, comment, says in (
        ("3", "x", "0 to 2"),
        ("-1", "x", "0 to 2"),
        ("nan", "x", "0 to 2"),
        ("lots", "x", "lots"),
        ("1", " ", "reason"),
    ):
        answer = teacher.post(path, data={"marks": marks, "comment": comment})
        assert (answer.status_code, says in answer.text) == (422, True), (marks, answer.text)


def by_student_and_by_check(teacher: Visitor, school: School) -> None:
    """A line for each student: a column for each exercise, or for each check; both as CSV and as a spreadsheet."""
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
