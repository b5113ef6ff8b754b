"""Copies in a class: the page asks about exactly these, shows what speaks for and against, and to nobody else."""

from typing import get_args

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect
from sqlalchemy.orm import Session

from rigid_bench.core.insight.likeness.questions import Code
from rigid_bench.demo import seed_drawer
from rigid_bench.store.database import Database
from rigid_bench.store.queries import build_queries, class_queries, group_queries, work_queries
from rigid_bench.store.tables import Membership, User
from rigid_bench.web.likeness_words import SIGN_WORDS
from tests.support import school as people
from tests.support.samples import files_of
from tests.support.school import School, Visitor

NAMES = ("Ada Alder", "Ben Birch", "Cora Cedar", "Dan Dogwood", "Eva Elm", "Fay Fir", "Gil Gorse", "Hal Hazel")
#: Each has a build of their own; and these three have a fourth's, but for the names in it.
SAMPLES = ("right", "too-wide", "thin-wall", "decimal-point", "a-shade-wide")
COPIED = SAMPLES[0]


def handed_in(place: int) -> dict[str, bytes]:
    """Return what a student hands in: the first of a sample as it is, later ones with other names in it."""
    own = SAMPLES[place] if place < len(SAMPLES) else COPIED
    files = files_of(next(sample for sample in seed_drawer.SAMPLES if sample.name == own))
    step = files["drawer.step"]
    if place < len(SAMPLES):
        step = step.replace(b"2026-01-01T00:00:00", f"2026-03-0{place + 1}T10:00:00".encode())
    else:
        step = step.replace(b"2026-01-01T00:00:00", b"2026-03-01T10:00:00").replace(b"'Knob'", b"'Handle %d'" % place)
    return {"drawer.step": step}


def hand_in(session: Session, school: School, place: int, name: str) -> None:
    teacher = session.get_one(User, school.teacher_id)
    student = people.add_student(session, f"alike{place}", teacher, name=name)
    session.add(Membership(class_id=school.class_id, student_id=student.id))
    session.flush()
    build = build_queries.add_build(
        session, class_id=school.class_id, version_id=school.version_id, student_id=student.id, files=handed_in(place)
    )
    session.flush()
    report = {"exercise": "seed-drawer", "awarded": 1.0, "available": 1.0, "percent": 100.0, "stage": "", "checks": []}
    work_queries.finish_measuring(session, build.id, version_id=school.version_id, engine_version="1", report=report)


@pytest.fixture
def copied(database: Database, school: School) -> School:
    with database.session() as session:
        for place, name in enumerate(NAMES):
            hand_in(session, school, place, name)
    return school


def test_three_copies_are_asked_about_and_nobody_else(teacher: Page, address: str, copied: School) -> None:
    teacher.goto(f"{address}/classes/{copied.class_id}/insight?version_id={copied.version_id}")
    teacher.get_by_role("link", name="Of one origin?").click()
    headings = teacher.locator("main section h3")
    expect(headings).to_have_count(6)  # four who have the same: six pairs of them
    alike = {"Ada Alder", "Fay Fir", "Gil Gorse", "Hal Hazel"}
    told = {part.split(",")[0] for text in headings.all_inner_texts() for part in text.split(" and ")}
    assert told == alike
    expect(teacher.get_by_text("written in the same second").first).to_be_visible()
    expect(teacher.get_by_text("Speaks against it").first).to_be_visible()
    assert Axe().run(teacher).response["violations"] == []


def test_every_sign_has_words() -> None:
    assert set(SIGN_WORDS) == set(get_args(Code))


def test_who_works_as_a_group_is_not_asked_about(address: str, database: Database, copied: School) -> None:
    visitor = Visitor(address, people.TEACHER)
    path = f"/classes/{copied.class_id}/insight/likeness?version_id={copied.version_id}"
    assert visitor.get(path).text.count("<h3 id=") == 6
    with database.session() as session:
        students = {student.name: student.id for student in class_queries.students_of_class(session, copied.class_id)}
        group_queries.keep_group(
            session, copied.class_id, copied.version_id, [students["Ada Alder"], students["Gil Gorse"]]
        )
    assert visitor.get(path).text.count("<h3 id=") == 5
