"""Before a build counts: what was understood is shown, a choice replaces the one before, a teacher sees none of it."""

import re

import pytest
from build123d import Face
from sqlalchemy import text

from rigid_bench.demo.seed_drawer import SAMPLES
from rigid_bench.store.database import Database
from tests.support import school as people
from tests.support.patience import wait_until
from tests.support.samples import files_of
from tests.support.school import School, Visitor
from tests.support.shapes import step

BUILDS = {sample.name: sample for sample in SAMPLES}


def chosen(visitor: Visitor, school: School, files: dict[str, bytes]) -> str:
    """Choose files and return the path of the page that says what was understood."""
    path = f"/classes/{school.class_id}/exercises/{school.version_id}/hand-in"
    return str(visitor.post(path, files=files).url.path)


def looked_at(visitor: Visitor, path: str) -> str:
    wait_until(lambda: "being looked at" not in visitor.get(path).text)
    return visitor.get(path).text


@pytest.fixture
def student(address: str) -> Visitor:
    return Visitor(address, people.STUDENT)


@pytest.mark.usefixtures("worker")
def test_parts_unit_and_mates_are_shown(student: Visitor, school: School) -> None:
    page = looked_at(student, chosen(student, school, files_of(BUILDS["right"])))
    for said in ("Housing", "Drawer", "Knob", "millimetre", "90 × 60 × 30", "hole Ø8.4, through", "not handed in yet"):
        assert said in page, said
    assert "Missing" not in page


@pytest.mark.usefixtures("worker")
def test_what_is_missing_and_what_cannot_be_shown_is_said(student: Visitor, school: School) -> None:
    page = looked_at(student, chosen(student, school, files_of(BUILDS["no-knob"])))
    assert re.search(r"Missing: Knob", page)
    page = looked_at(student, chosen(student, school, files_of(BUILDS["step-only"])))
    assert "no build file handed in" in page


@pytest.mark.usefixtures("worker")
def test_a_file_that_cannot_be_measured_is_said_and_does_not_count(student: Visitor, school: School) -> None:
    broken = {"bad.step": step(Face.make_rect(40, 30), "Sheet")}
    path = chosen(student, school, broken)
    page = looked_at(student, path)
    assert "could not be used" in page
    assert "bad.step" in page
    assert student.post(path.replace("/look", "/hand-in")).url.path == path


def test_a_file_of_no_numbers_is_refused_before_it_is_kept(student: Visitor, school: School) -> None:
    good = files_of(BUILDS["step-only"])["drawer.step"]
    broken = re.sub(rb"CARTESIAN_POINT\('',\(-?\d[^)]*\)\)", b"CARTESIAN_POINT('',(NAN,0.,0.))", good)
    path = f"/classes/{school.class_id}/exercises/{school.version_id}/hand-in"
    answer = student.post(path, files={"bad.step": broken})
    assert answer.url.path == path
    assert "bad.step: a coordinate or size in it is not a number" in re.sub(r"<[^>]*>", "", answer.text)


def test_a_choice_that_does_not_count_is_seen_by_nobody_else(
    address: str, student: Visitor, school: School, database: Database
) -> None:
    path = chosen(student, school, files_of(BUILDS["right"]))
    build = path.split("/")[2]
    for visitor in (people.TEACHER, people.CLASSMATE, people.OTHER_TEACHER):
        assert Visitor(address, visitor).get(f"/builds/{build}").status_code == 404
    assert student.get(f"/builds/{build}").url.path == path  # its student is sent to the look
    with database.session() as session:
        rows = session.execute(
            text("select count(*) from builds where state in ('looking', 'looked') and student_id = :s"),
            {"s": school.student_id},
        )
        assert rows.scalar_one() == 1
