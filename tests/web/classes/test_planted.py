"""What is planted in the sample school is found by its pages and nothing else: a slip, a faulty sheet, copies."""

import re
from collections import defaultdict
from collections.abc import Iterator
from datetime import UTC, datetime

import pytest
from sqlalchemy import select

from rigid_bench.demo.graded import read_graded
from rigid_bench.demo.own_files import as_written_by
from rigid_bench.demo.people import OLDER_STUDENTS, STUDENTS, TEACHER
from rigid_bench.demo.school import _YOUNGER, BIN, COMMON_SLIP, COPIES, DRAWER, READ_ALIKE, fill
from rigid_bench.jobs.sandbox import Sandbox
from rigid_bench.settings import Settings
from rigid_bench.store.database import Database
from rigid_bench.store.queries import exercise_queries
from rigid_bench.store.tables import Classroom
from tests.support.program import serving
from tests.support.school import Visitor

NAMES = {person.login: person.name for person in (*STUDENTS, *OLDER_STUDENTS)}


@pytest.fixture(scope="module")
def sample_school(database: Database, settings: Settings) -> Iterator[tuple[Visitor, dict[str, int], list[int]]]:
    """The sample school's teacher, the ids of the classes by name, and those of the exercises in their order."""
    fill(database, progress=lambda _: None)
    with database.session() as session, serving(settings) as address:
        rooms = {room.name: room.id for room in session.scalars(select(Classroom))}
        versions = exercise_queries.exercises_of_class(session, rooms["Workshop 9B"])
        yield Visitor(address, TEACHER), rooms, [version.id for version in versions]


School = tuple[Visitor, dict[str, int], list[int]]


def test_the_common_slip_leads_the_ranking_with_exactly_those_who_made_it(sample_school: School) -> None:
    teacher, rooms, versions = sample_school
    samples = read_graded()[DRAWER].samples
    made: dict[str, set[str]] = defaultdict(set)
    for login, work in _YOUNGER.items():
        for name in work.get(DRAWER, ()):
            for check in samples[name].report["checks"]:
                if check["verdict"] != "met" and not check["follows"] and check["cause"]:
                    made[check["cause"]["code"]].add(login)
    path = f"/classes/{rooms['Workshop 9B']}/insight/insight.json?version_id={versions[DRAWER]}"
    ranked = teacher.get(path).json()["slips"]
    assert {own["slip"]: own["students"] for own in ranked} == {code: len(who) for code, who in made.items()}
    assert (ranked[0]["slip"], ranked[0]["students"]) == (COMMON_SLIP, 4)
    assert ranked[1]["students"] <= 2, "no other slip is the class's"


def test_the_one_faulty_sheet_is_suspected_and_no_other(sample_school: School) -> None:
    teacher, rooms, versions = sample_school
    suspected = {
        (room, place, own["check"], own["value"], own["alike"])
        for room, room_id in rooms.items()
        for place, version in enumerate(versions)
        for own in teacher.get(f"/classes/{room_id}/insight/insight.json?version_id={version}").json()["suspects"]
    }
    misread = sum(READ_ALIKE in work.get(BIN, ()) for work in _YOUNGER.values())
    assert suspected == {("Workshop 9B", BIN, "rod.length", 156.0, misread)}


def test_the_three_copies_are_asked_about_and_nothing_else(sample_school: School) -> None:
    teacher, rooms, versions = sample_school
    asked = set()
    for room_id in rooms.values():
        for place, version in enumerate(versions):
            shown = teacher.get(f"/classes/{room_id}/insight/likeness?version_id={version}").text
            for pair in re.findall(r'<h3 id="pair-\d+">(.*?)</h3>', shown, re.DOTALL):
                asked.add((place, *sorted(name for name in NAMES.values() if name in pair)))
    planted = {(place, *sorted((NAMES[who], NAMES[whose]))) for (who, place), (whose, _) in COPIES.items()}
    assert asked == planted


@pytest.mark.parametrize("place", [BIN])
def test_a_file_as_a_student_wrote_it_is_graded_as_the_sample(sandbox: Sandbox, place: int) -> None:
    graded = read_graded()[place]
    sample = graded.samples[READ_ALIKE]
    files = as_written_by("noor", sample.files, datetime(2026, 1, 2, 3, 4, 5, tzinfo=UTC))
    assert files != dict(sample.files)
    report = sandbox.run("grading.grade_files", dict(graded.bundle), files, name="own").report
    now = [(own["id"], own["verdict"], own["measured"]) for own in report.model_dump(mode="json")["checks"]]
    assert now == [(own["id"], own["verdict"], own["measured"]) for own in sample.report["checks"]]
