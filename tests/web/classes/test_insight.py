"""What a class got wrong: planted slips and a faulty sheet are found on the page, printed, mended; as CSV and JSON."""

import csv
import io
import json
import re
from typing import Any

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect
from sqlalchemy import select

from rigid_bench.core.formats.archive import read_zip
from rigid_bench.store.database import Database
from rigid_bench.store.queries import build_queries, work_queries
from rigid_bench.store.tables import Draft, Membership, Run, User
from tests.support import school as people
from tests.support.school import School, Visitor


def row(name: str, title: str, value: float, cause: str | None) -> dict[str, Any]:
    return {
        "id": name, "title": title, "kind": "dimension", "strip": "parts", "awarded": 0.0, "available": 1.0,
        "verdict": "missed", "required": "60 ±0.1 mm", "measured": f"{value:g} mm", "next_step": "Change it to 60 mm.",
        "cause": {"code": cause, "text": "It looks as if the radius was typed."} if cause else None,
        "gauge": {"low": 59.9, "high": 60.1, "measured": value, "unit": "mm"}, "follows": None,
    }  # fmt: skip


STUDENTS = ("Ada Alder", "Ben Birch", "Cora Cedar", "Dan Dogwood", "Eva Elm", "Fay Fir")


@pytest.fixture(scope="module")
def wrong_class(database: Database, school: School) -> School:
    """Six students have the drawer's width as the faulty sheet says it, and three of them a radius for a diameter."""
    with database.session() as session:
        teacher = session.get_one(User, school.teacher_id)
        for place, name in enumerate(STUDENTS):
            student = people.add_student(session, f"wrong{place}", teacher, name=name)
            session.add(Membership(class_id=school.class_id, student_id=student.id))
            build = build_queries.add_build(
                session, class_id=school.class_id, version_id=school.version_id, student_id=student.id,
                files={"a.step": b"x"},
            )  # fmt: skip
            session.flush()
            checks = [row("drawer.width", "Drawer width", 62.0, None)]
            if place % 2 == 0:
                checks.append(row("knob.pilot", "Pilot hole", 2.0, "radius-for-diameter"))
            report = {"exercise": "seed-drawer", "awarded": 1.0, "available": 9.0, "percent": 11.0, "stage": "",
                      "checks": checks}  # fmt: skip
            work_queries.finish_measuring(
                session, build.id, version_id=school.version_id, engine_version="1", report=report
            )
    return school


def test_the_page_finds_the_slip_and_the_faulty_sheet_and_four_clicks_print_it(
    teacher: Page, address: str, wrong_class: School
) -> None:
    teacher.goto(f"{address}/classes/{wrong_class.class_id}")
    teacher.get_by_role("link", name="What went wrong").click()
    teacher.get_by_label("Exercise").get_by_role("link", name="Seed drawer").click()
    suspect = teacher.get_by_role("region", name="Is it the sheet?")
    expect(suspect.locator(".suspect")).to_have_count(1)
    expect(suspect).to_contain_text("Drawer width")
    expect(suspect).to_contain_text("62")
    expect(teacher.get_by_text("radius typed for the diameter").first).to_be_attached()
    heat = teacher.locator(".heat")
    expect(heat.locator("tbody tr").first).to_contain_text("Drawer width")
    assert Axe().run(teacher).response["violations"] == []
    heat.locator("td a").first.click()
    expect(teacher).to_have_url(re.compile(r"#drawer\.width$"))
    teacher.go_back()
    teacher.get_by_role("link", name="Teach again").click()
    lesson = teacher.locator(".lesson").first
    expect(lesson).to_contain_text("Radius typed for the diameter")
    expect(lesson).to_contain_text("Change it to 60 mm.")
    expect(lesson.locator(".lesson-drills li")).to_have_count(2)
    text = teacher.locator("main").inner_text()
    assert not any(name in text for name in STUDENTS), "nobody is named"
    expect(teacher.get_by_role("button", name="Print")).to_be_visible()
    assert Axe().run(teacher).response["violations"] == []


def test_one_press_makes_a_draft_that_asks_what_all_have(address: str, wrong_class: School, database: Database) -> None:
    teacher = Visitor(address, people.TEACHER)
    path = f"/classes/{wrong_class.class_id}/insight/mend"
    sent = {"version_id": str(wrong_class.version_id), "check_id": "drawer.width"}
    assert teacher.post(path, data={**sent, "value": "62.0"}).status_code == 200
    assert teacher.post(path, data={**sent, "value": ""}).status_code == 200
    with database.session() as session:
        drafts = session.scalars(select(Draft).order_by(Draft.id.desc()).limit(2)).all()
        without, asking = (json.loads(read_zip(own.source_file.read(), name="d")["exercise.json"]) for own in drafts)
    assert {own["id"]: own.get("nominal") for own in asking["checks"]}["drawer.width"] == 62.0
    assert "drawer.width" not in {own["id"] for own in without["checks"]}
    for wrong in ({"check_id": "nothing"}, {"version_id": "99999"}, {"value": "about sixty"}):
        assert teacher.post(path, data={**sent, **wrong}).status_code == 422


def test_csv_and_json_say_the_same(address: str, wrong_class: School) -> None:
    teacher = Visitor(address, people.TEACHER)
    path = f"/classes/{wrong_class.class_id}/insight"
    of = f"version_id={wrong_class.version_id}"
    whole = teacher.get(f"{path}/insight.json?{of}").json()
    rows = list(csv.DictReader(io.StringIO(teacher.get(f"{path}/slips.csv?{of}").text.lstrip("\ufeff"))))
    assert [(own["slip"], int(own["students"])) for own in rows] == [
        (own["slip"], own["students"]) for own in whole["slips"]
    ]
    assert [own["check"] for own in whole["suspects"]] == ["drawer.width"]
    heat = list(csv.reader(io.StringIO(teacher.get(f"{path}/heat.csv?{of}").text.lstrip("\ufeff"))))
    assert len(heat[0]) - 1 == len({own["student"] for own in whole["heat"]})
    missed = sum(cell == "missed" for line in heat[1:] for cell in line[1:])
    assert missed == len(whole["heat"])
    assert teacher.get(f"{path}/heat.csv").status_code == 422


def test_a_student_sees_none_of_it(address: str, school: School) -> None:
    student = Visitor(address, people.STUDENT)
    for page in ("", "/teach", "/slips.csv", "/insight.json"):
        assert student.get(f"/classes/{school.class_id}/insight{page}").status_code in (403, 404)


def test_what_is_open_is_kept_beside_each_report(database: Database, wrong_class: School) -> None:
    with database.session() as session:
        run = session.scalars(select(Run).order_by(Run.id.desc())).first()
        assert run is not None
        assert run.open_checks[0][:4] == ["drawer.width", "Drawer width", "missed", None]
