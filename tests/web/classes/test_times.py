"""Every page says every time by the clock of its class, also across the changes of the clocks."""

import re
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

import pytest
from sqlalchemy import update

from rigid_bench.core.values.errors import FormRejected
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.database import Database
from rigid_bench.store.log import log
from rigid_bench.store.queries import (
    bench_queries,
    build_queries,
    class_queries,
    draft_queries,
    marking_queries,
    work_queries,
)
from rigid_bench.store.tables import Bench, BenchStep, Build, Draft, Hand, LogEntry, Notice, Override, Question, Return
from rigid_bench.web import render
from rigid_bench.web.forms import moment_or_none
from rigid_bench.web.words.times import say_time
from tests.support import school as people
from tests.support.school import School, Visitor
from tests.web.security.test_fuzz import ROUTES, filled

ZONES = ("Europe/Berlin", "America/New_York", "Asia/Kolkata")
#: Before and after the clocks are put forward and back in 2026, and within the hour that comes twice.
MOMENTS = [
    datetime(2026, *when, tzinfo=UTC)
    for when in ((3, 8, 7, 1), (3, 29, 0, 59), (3, 29, 1, 1), (10, 25, 0, 30), (10, 25, 1, 30), (11, 1, 6, 30),
                 (11, 30, 23, 0))
]  # fmt: skip
#: A time on a page, and a day.
_CLOCK = re.compile(r"(?:(\d{1,2} [A-Z][a-z]{2})(?: 2026)?, )?(\d\d:\d\d)(?::\d\d)?(?: [A-Z]{3,4})?(?![-\d])")


@pytest.fixture(scope="module")
def pages(database: Database, school: School) -> dict[str, Any]:
    """Something of everything that has a time; ids of what is looked at."""
    mine: dict[str, Any] = {
        "class_id": school.class_id, "version_id": school.version_id, "student_id": school.student_id
    }  # fmt: skip
    check = {
        "id": "bore", "title": "Bore", "kind": "dimension", "verdict": "missed", "awarded": 0, "available": 2,
        "required": "8", "measured": "4",
    }  # fmt: skip
    report = {"exercise": "e", "awarded": 0, "available": 2, "percent": 0, "stage": "", "checks": [check]}
    with database.session() as session:
        build = build_queries.add_build(session, **mine, files={"a": b""})
        work_queries.finish_measuring(
            session, build.id, version_id=school.version_id, engine_version="1", report=report
        )
        marking_queries.add_override(
            session, build, check_id="bore", marks=1.0, comment="x", teacher_id=school.teacher_id
        )
        marking_queries.add_override(
            session, build, check_id="bore", marks=None, comment="y", teacher_id=school.teacher_id
        )
        marking_queries.ask(session, build, check_id="bore", text="why")
        session.flush()
        session.expire_all()
        marking_queries.answer(session, build.questions[0], "so")
        marking_queries.return_build(session, build, teacher_id=school.teacher_id, total=1.0)
        marking_queries.raise_hand(session, build, student_id=school.student_id, check_id="bore")
        bench = bench_queries.start_bench(session, **mine, files=None)
        session.add(BenchStep(bench_id=bench.id, number=1, parent=0, who="Sam", words="first", document={}))
        draft_queries.add_draft(session, teacher_id=school.teacher_id, title="D", source_name="a.step", source=b"")
        log(session, "settings-changed", who_id=school.teacher_id, class_id=school.class_id)
        class_queries.agree(session, **mine, due_at=MOMENTS[0], is_absent=False)
        return {**mine, "build_id": build.id, "bench_id": bench.id, "user_id": school.student_id, "check_id": "bore"}


def set_all(database: Database, school: School, zone: str, moment: datetime) -> None:
    """Let everything have happened at one moment, in a class of one zone."""
    with database.session() as session:
        for table, names in (
            (Build, ("handed_in_at",)), (Override, ("made_at",)), (Question, ("asked_at", "answered_at")),
            (Return, ("returned_at",)), (Hand, ("raised_at",)), (Notice, ("made_at",)), (LogEntry, ("made_at",)),
            (Bench, ("made_at",)), (BenchStep, ("made_at",)), (Draft, ("made_at",)),
        ):  # fmt: skip
            session.execute(update(table).values(dict.fromkeys(names, moment)))
        assignment = class_queries.assignment_of(session, school.class_id, school.version_id)
        assignment.due_at = assignment.return_at = moment
        terms = class_queries.terms_of_student(session, school.class_id, school.version_id, school.student_id)
        assert terms
        terms.due_at = moment
        classroom, _ = class_queries.class_of_teacher(session, school.class_id, school.teacher_id)
        classroom.settings = ClassSettings(time_zone=zone).model_dump(mode="json")


def times_on(text: str) -> Iterator[tuple[str, str]]:
    shown = re.sub(r"<(script|style|template)\b.*?</\1>|<textarea.*?</textarea>", "", text, flags=re.DOTALL)
    for clock in _CLOCK.finditer(re.sub(r"<[^>]+>", " ", shown)):
        yield clock[1] or "", clock[2]


@pytest.mark.parametrize("zone", ZONES)
def test_every_page_says_times_by_the_clock_of_the_class(
    address: str, database: Database, school: School, pages: dict[str, Any], zone: str
) -> None:
    student, teacher = Visitor(address, people.STUDENT), Visitor(address, people.TEACHER)
    of_class, of_build = f"/classes/{school.class_id}", f"/builds/{pages['build_id']}"
    exercise = f"{of_class}/exercises/{school.version_id}"
    looked_at = [
        (teacher, f"{of_class}/log", 1),  # first: opening others stands in it
        (student, "/", 2), (student, of_build, 6), (student, f"{exercise}/bench", 2), (teacher, of_build, 6),
        (teacher, f"{of_build}/mark", 4), (teacher, f"{of_class}/room", 1),
        (teacher, exercise, 1), (teacher, "/exercises", 1),
    ]  # fmt: skip
    for moment in MOMENTS:
        set_all(database, school, zone, moment)
        local = moment.astimezone(ZoneInfo(zone))
        for visitor, path, least in looked_at:
            times = list(times_on(visitor.get(path).text))
            assert len(times) >= least, f"{path}: {times}"
            for day, clock in times:
                assert (day, clock) in ((f"{local:%-d %b}", f"{local:%H:%M}"), ("", f"{local:%H:%M}")), path
        field = f'value="{local:%Y-%m-%dT%H:%M}"'
        assert teacher.get(exercise).text.count(field) >= 3


@pytest.mark.parametrize("zone", ZONES)
def test_no_page_at_all_says_another_time(
    address: str, database: Database, school: School, pages: dict[str, Any], zone: str
) -> None:
    """Every address of the program that a teacher or a student may read, in the hour that comes twice in Berlin."""
    moment = MOMENTS[3]
    set_all(database, school, zone, moment)
    local = moment.astimezone(ZoneInfo(zone))
    said = {(f"{local:%-d %b}", f"{local:%H:%M}"), ("", f"{local:%H:%M}")}
    seen = 0
    for visitor in (Visitor(address, people.TEACHER), Visitor(address, people.STUDENT)):
        for method, route in ROUTES:
            if method != "GET" or route.path.endswith("/log"):  # in the log stands what this test itself opens
                continue
            answer = visitor.get(filled(route.path, pages))
            if answer.status_code == 200 and answer.headers["content-type"].startswith("text/html"):
                times = set(times_on(answer.text))
                assert times <= said, route.path
                seen += len(times)
    assert seen > 10


def test_one_function_says_times() -> None:
    """No template and no page makes one of its own."""
    source = Path(render.__file__).parent
    for path in [*source.rglob("*.html"), *source.rglob("*.py")]:
        if path.name not in ("times.py", "forms.py"):
            assert "strftime" not in path.read_text(), path.name
    for path in source.rglob("*.html"):
        assert not re.search(r"_at(\[.*?\])?\s*\|\s*when(?!\()", path.read_text()), path.name


def test_times_are_read_by_the_clock_of_the_class_and_said_back_alike() -> None:
    berlin = ClassSettings(time_zone="Europe/Berlin")
    for text in ("2026-12-01T00:00", "2026-03-29T03:00", "2026-10-25T02:30"):
        moment = moment_or_none(text, berlin.zone, field="due_at")
        assert moment
        assert say_time(moment, berlin, "field") == text
    for text in ("2026-03-29T02:30", "0001-01-01T00:00", "9999-12-31T23:59", "soon", "²"):
        with pytest.raises(FormRejected) as caught:
            moment_or_none(text, berlin.zone, field="due_at")
        assert caught.value.field == "due_at"


def test_the_hour_that_comes_twice_is_told_apart() -> None:
    berlin, now = ClassSettings(time_zone="Europe/Berlin"), datetime(2026, 11, 2, tzinfo=UTC)
    first = datetime(2026, 10, 25, 0, 30, tzinfo=UTC)
    assert say_time(first, berlin, now=now) == "25 Oct, 02:30 CEST"
    assert say_time(first + timedelta(hours=1), berlin, now=now) == "25 Oct, 02:30 CET"
    assert say_time(first - timedelta(hours=1), berlin, now=now) == "25 Oct, 01:30"
    assert say_time(first, berlin, now=datetime(2027, 1, 2, tzinfo=UTC)) == "25 Oct 2026, 02:30 CEST"


def test_a_new_class_takes_the_zone_of_the_browser(address: str, database: Database, school: School) -> None:
    teacher = Visitor(address, people.TEACHER)
    for name, given, taken in (("A", "Europe/Berlin", "Europe/Berlin"), ("B", "Mars/Base", "UTC")):
        shown = teacher.post("/classes", data={"name": f"Zone {name}", "time_zone": given})
        assert f'name="time_zone" value="{taken}"' in shown.text
