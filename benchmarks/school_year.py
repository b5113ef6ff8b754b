"""A school's year: 40 classes, 1,200 students, 25 exercises, 90,000 builds; pages beside those of 4 classes.

Queries, size and the median time of each page of a teacher's day; the exercise page of a class of 200; and the heat
table of 40 students beside a bare query of the same rows. Reports are the sample school's, without pictures.
"""

import argparse
import json
import re
import statistics
import time
from collections.abc import Sequence
from typing import Any

from fastapi.testclient import TestClient
from sqlalchemy import event, text

from benchmarks.school import PASSWORD, scratch_database
from rigid_bench.core.insight.attempts import by_work, measured
from rigid_bench.core.insight.heat import heat_table
from rigid_bench.demo.graded import GradedExercise, read_graded
from rigid_bench.settings import Settings
from rigid_bench.store.database import Database
from rigid_bench.store.queries import class_queries, exercise_queries, insight_queries, people_queries
from rigid_bench.store.tables import ExerciseVersion
from rigid_bench.store.versions import keep_version
from rigid_bench.web.app import create_app
from rigid_bench.web.security.access import COOKIE
from rigid_bench.web.security.passwords import form_token, hash_password

_EXERCISES, _STUDENTS, _BUILDS = 25, 30, 3
#: Classes that one teacher has; times that each page is asked for.
_OF_A_TEACHER, _TIMES = 4, 5
_ADDRESS = "http://127.0.0.1"
_PAGES = (
    "", "classes", "classes/{room}", "classes/{room}/room", "classes/{room}/people", "classes/{room}/plan",
    "classes/{room}/insight", "classes/{room}/insight?version_id={version}", "classes/{room}/practice",
    "classes/{room}/exercises/{version}", "classes/{room}/marks-by-student.csv", "builds/{build}/mark",
    "exercises",
)  # fmt: skip
_SAMPLE = text("insert into samples values (:place, :number, :count, cast(:report as jsonb), cast(:open as jsonb))")
_TAKE_OVER = text("""
update class_teachers set teacher_id = (select id from users where login = 'teacher0') where class_id = :room
""")
_FILL = text("""
with made as (
    insert into builds (class_id, version_id, student_id, state, progress, handed_in_at)
    select m.class_id, a.version_id, m.student_id, 'graded', '',
           now() - make_interval(days => 7 * (:exercises - a.place) + :builds - k, mins => m.student_id % 600)
    from memberships m join assignments a using (class_id) cross join generate_series(1, :builds) as k
    where m.class_id = any(:rooms)
    order by a.place, k, m.student_id
    returning id, version_id, student_id
)
insert into runs (build_id, version_id, engine_version, report, open_checks)
select made.id, made.version_id, '1', s.report, s.open_checks
from made join assignments a on a.version_id = made.version_id and a.class_id = :first
join samples s on s.place = a.place % 4 and s.number = (made.id + made.student_id) % s.count
""")


def _plain(report: dict[str, Any]) -> dict[str, Any]:
    return {**report, "checks": [{**check, "picture": None, "rose": None} for check in report["checks"]]}


def _versions(database: Database, graded: Sequence[GradedExercise]) -> list[ExerciseVersion]:
    with database.session() as session:
        versions = []
        for place in range(_EXERCISES):
            own = graded[place % len(graded)]
            document = json.loads(own.bundle["exercise.json"]) | {"id": f"copy-{place}", "title": f"Exercise {place}"}
            bundle = {**own.bundle, "exercise.json": json.dumps(document).encode()}
            versions.append(keep_version(session, bundle, own.prepared))
        session.execute(
            text("create table samples (place int, number int, count int, report jsonb, open_checks jsonb)")
        )
        for place, own in enumerate(graded):
            reports = [_plain(sample.report) for sample in own.samples.values()]
            for number, report in enumerate(reports):
                missed = [
                    [row["id"], row["title"], row["verdict"], (row["cause"] or {}).get("code"), row["follows"]]
                    for row in report["checks"]
                    if row["verdict"] != "met"
                ]
                values = {"place": place, "number": number, "count": len(reports)}
                session.execute(_SAMPLE, values | {"report": json.dumps(report), "open": json.dumps(missed)})
        return versions


def _class(database: Database, number: int, versions: Sequence[ExerciseVersion], students: int, secret: str) -> int:
    with database.session() as session:
        login = f"teacher{number // _OF_A_TEACHER}"
        teacher = people_queries.user_by_login(session, login) or people_queries.add_user(
            session, login=login, name=f"Teacher {number // _OF_A_TEACHER}", role="teacher", password_hash=secret
        )
        people = [
            people_queries.add_user(
                session, login=f"c{number}s{k}", name=f"Student {number}-{k}", role="student", password_hash=secret,
                home_teacher_id=teacher.id,
            )
            for k in range(students)
        ]  # fmt: skip
        room = class_queries.add_class(session, name=f"Class {number}", teacher=teacher, students=people)
        for place, version in enumerate(versions):
            exercise_queries.assign(session, class_id=room.id, version_id=version.id, place=place)
        return room.id


def _hand_in(database: Database, rooms: Sequence[int], first: int) -> None:
    given = {"rooms": list(rooms), "first": first, "exercises": _EXERCISES, "builds": _BUILDS}
    with database.session() as session:
        session.execute(_FILL, given)
    with database.engine.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        connection.execute(text("analyze"))


def _walk(database: Database, room: int, version: int) -> dict[str, tuple[int, int, int, float]]:
    """Return of each page its queries, its blocks, its bytes and the median of its time, in seconds."""
    asked: list[str] = []

    def note(connection: object, cursor: object, statement: str, *rest: object) -> None:
        asked.append(statement)

    app = create_app(Settings(database_url=database.url))
    pages = {}
    with TestClient(app, base_url=_ADDRESS) as client:
        client.get("/sign-in")
        token = form_token(client.cookies.get(COOKIE) or "")
        client.post("/sign-in", data={"csrf": token, "login": "teacher0", "password": PASSWORD})
        event.listen(app.state.database.engine, "before_cursor_execute", note)
        with database.session() as session:
            build = session.scalar(text("select max(id) from builds where class_id = :room"), {"room": room})
        for page in _PAGES:
            path = "/" + page.format(room=room, version=version, build=build)
            client.get(path)
            times = []
            for _ in range(_TIMES):
                asked.clear()
                started = time.perf_counter()
                answer = client.get(path)
                times.append(time.perf_counter() - started)
            assert answer.status_code == 200, (path, answer.status_code)
            blocks = max(1, len(re.findall(r"<(?:section|table|article)\b", answer.text)))
            pages[page] = (len(asked), blocks, len(answer.content), statistics.median(times))
    return pages


def _heat(database: Database, secret: str, graded: Sequence[GradedExercise]) -> None:
    """Print the time of a heat table of 40 students by 40 checks beside the bare query of its rows."""
    mast = max(graded, key=lambda own: len(next(iter(own.samples.values())).report["checks"]))
    with database.session() as session:
        version = keep_version(
            session,
            {
                **mast.bundle,
                "exercise.json": json.dumps(json.loads(mast.bundle["exercise.json"]) | {"id": "heat"}).encode(),
            },
            mast.prepared,
        )
    room = _class(database, 4_000, [version], 40, secret)
    place = graded.index(mast)
    with database.session() as session:
        session.execute(
            text("update assignments set place = :place where class_id = :room"), {"place": place, "room": room}
        )
    _hand_in(database, [room], room)
    bare, table = [], []
    with database.session() as session:
        checks = exercise_queries.checks_of_version(session, version.id)[:40]
        students = [own.id for own in class_queries.students_of_class(session, room)]
        for _ in range(20):
            started = time.perf_counter()
            attempts = insight_queries.attempts_of_class(session, room, "heat")
            bare.append(time.perf_counter() - started)
            works = {student: measured(work) for (student, _), work in by_work(attempts).items()}
            heat_table(checks, students, {student: work[-1] for student, work in works.items() if work})
            table.append(time.perf_counter() - started)
    ratio = statistics.median(table) / statistics.median(bare)
    extent = f"{len(students)} students x {len(checks)} checks"
    print(f"heat table, {extent}: {ratio:.2f} times its bare query (asked: at most 3)")


def main(classes: int) -> None:
    """Fill a small school and walk through it, then fill it up and walk again."""
    graded, secret = read_graded(), hash_password(PASSWORD)
    with scratch_database() as database:
        versions = _versions(database, graded)
        rooms = [_class(database, number, versions, _STUDENTS, secret) for number in range(_OF_A_TEACHER)]
        _hand_in(database, rooms, rooms[0])
        small = _walk(database, rooms[0], versions[0].id)
        started = time.perf_counter()
        rest = [_class(database, number, versions, _STUDENTS, secret) for number in range(_OF_A_TEACHER, classes)]
        _hand_in(database, rest, rooms[0])
        with database.session() as session:
            builds = session.scalar(text("select count(*) from builds"))
        took = time.perf_counter() - started
        print(f"{classes} classes, {classes * _STUDENTS} students, {builds} builds; filled in {took:.0f} s")
        whole = _walk(database, rooms[0], versions[0].id)
        print(f"{'page':46} queries blocks     kB  median s  times the small school's")
        for page, (queries, blocks, size, seconds) in whole.items():
            ratio = seconds / small[page][3]
            print(f"/{page:45} {queries:7} {blocks:6} {size / 1000:6.0f} {seconds:9.3f} {ratio:10.2f}")
            assert queries == small[page][0], (page, queries, small[page][0])
        large = _class(database, 40_000, versions[:1], 200, secret)
        with database.session() as session:
            session.execute(_TAKE_OVER, {"room": large})
        size = _walk_one(database, f"/classes/{large}/exercises/{versions[0].id}")
        print(f"exercise page of a class of 200: {size / 1000:.0f} kB (asked: under 150)")
        _heat(database, secret, graded)


def _walk_one(database: Database, path: str) -> int:
    with TestClient(create_app(Settings(database_url=database.url)), base_url=_ADDRESS) as client:
        client.get("/sign-in")
        token = form_token(client.cookies.get(COOKIE) or "")
        client.post("/sign-in", data={"csrf": token, "login": "teacher0", "password": PASSWORD})
        return len(client.get(path).content)


if __name__ == "__main__":
    parser = argparse.ArgumentParser()
    parser.add_argument("--classes", type=int, default=40)
    main(parser.parse_args().classes)
