"""A school hour at once: three hundred students and ten teachers, pages' times beside one of each alone.

`make load` installs Locust beside the program and runs this. The reference run is one student and one teacher at the
same tasks on the same database.
"""

import argparse
import csv
import json
import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from sqlalchemy import text

from benchmarks.school import PASSWORD, make_class, scratch_database
from rigid_bench.store.cluster import free_port
from rigid_bench.store.database import Database
from rigid_bench.store.queries import class_queries, people_queries
from rigid_bench.web.security.passwords import hash_password

_LOCUST = Path(".load/bin/locust")
_CLASSES, _IN_CLASS = 10, 30
#: All have come by then, or by a quarter of the time, seconds.
_LONGEST_ARRIVING_S = 120.0
#: Who plays alone thinks so many times less: there would be too few pages to compare.
_HURRY_ALONE = 60


def school(database: Database, folder: Path) -> dict[str, object]:
    """Make ten classes of thirty with a teacher each; return what the players need to know."""
    students, teachers = [], []
    for number in range(_CLASSES):
        class_id, people, versions, graded = make_class(database, students=_IN_CLASS, name=f"room{number}")
        exercise = f"/classes/{class_id}/exercises/{versions[1].id}"
        students += [{"login": person.login, "exercise": exercise} for person in people]
        with database.session() as session:
            teacher = people_queries.add_user(
                session, login=f"teacher{number}", name=f"Teacher {number}", role="teacher",
                password_hash=hash_password(PASSWORD),
            )  # fmt: skip
            class_queries.share_class(session, class_id, teacher.id)
        teachers.append({"login": f"teacher{number}", "class": f"/classes/{class_id}"})
    for name, content in graded[1].samples["right"].files.items():
        (folder / name).write_bytes(content)
    return {"password": PASSWORD, "students": students, "teachers": teachers, "files": str(folder)}


def played(
    address: str, known: dict[str, object], *, students: int, teachers: int, seconds: int, hurry: int, folder: Path
) -> list[dict[str, str]]:
    """Let so many play for so long; return Locust's table, a row by kind of page."""
    school_hour = {**known, "hurry": hurry, "teachers_at_once": teachers}
    environment = {**os.environ, "BENCH_LOAD_SCHOOL": json.dumps(school_hour)}
    prefix, arriving_s = folder / f"load-{students}", min(_LONGEST_ARRIVING_S, seconds / 4)
    command = [
        str(_LOCUST), "-f", "benchmarks/locustfile.py", "--headless", "--host", address, "-u", str(students + teachers),
        "-r", f"{(students + teachers) / arriving_s:.2f}", "-t", f"{seconds}s", "--csv", str(prefix), "--only-summary",
        "--exit-code-on-error", "0",
    ]  # fmt: skip
    subprocess.run(command, env=environment, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    with prefix.with_name(f"{prefix.name}_stats.csv").open() as table:
        return list(csv.DictReader(table))


def _print_table(at_once: list[dict[str, str]], alone: dict[tuple[str, str], dict[str, str]]) -> None:
    print("page                   asked  failed  median ms  95th ms  alone 95th ms  ratio")
    for row in at_once:
        one = alone.get((row["Type"], row["Name"]))
        reference = float(one["95%"]) if one else float("nan")
        print(
            f"{row['Type']:4} {row['Name'][:16]:16} {row['Request Count']:>6} {row['Failure Count']:>7} "
            f"{float(row['50%']):10.0f} {float(row['95%']):8.0f} {reference:14.0f} {float(row['95%']) / reference:6.1f}"
        )


def main() -> None:
    """Print the table."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else "")
    parser.add_argument("--seconds", type=int, default=480)
    parser.add_argument("--alone", type=int, default=120, help="how long one of each plays alone, seconds")
    parser.add_argument("--students", type=int, default=300)
    parser.add_argument("--teachers", type=int, default=10)
    parser.add_argument("--hurry", type=int, default=1, help="how many times faster all of them are")
    given = parser.parse_args()
    with scratch_database() as database, tempfile.TemporaryDirectory() as files, tempfile.TemporaryDirectory() as out:
        known, port = school(database, Path(files)), free_port()
        settings = {"RIGID_BENCH_DATABASE_URL": database.url, "RIGID_BENCH_WEB_PROCESSES": "2"}
        programs = [["serve", "--port", str(port)], ["worker"]]
        running = [
            subprocess.Popen(
                [sys.executable, "-m", "rigid_bench.cli", *own], env=os.environ | settings, stderr=subprocess.DEVNULL
            )
            for own in programs
        ]
        time.sleep(15)
        address = f"http://127.0.0.1:{port}"
        one_of_each = played(
            address, known, students=1, teachers=1, seconds=given.alone, hurry=_HURRY_ALONE, folder=Path(out)
        )
        alone = {(row["Type"], row["Name"]): row for row in one_of_each}
        at_once = played(
            address, known, students=given.students, teachers=given.teachers, seconds=given.seconds, hurry=given.hurry,
            folder=Path(out),
        )  # fmt: skip
        failures = Path(out, f"load-{given.students}_failures.csv").read_text().splitlines()[1:]
        waiting = text("select count(*) from builds where state in ('looking', 'queued', 'measuring')")
        began = time.perf_counter()
        while True:
            with database.session() as session:
                left = session.execute(waiting).scalar_one()
                states: dict[str, int] = dict(
                    session.execute(text("select state, count(*) from builds where counts group by state")).all()
                )
            if not left:
                break
            time.sleep(1)
        for own in running:
            own.terminate()
            own.wait()
    people = f"{given.students} students and {given.teachers} teachers"
    print(f"{people} for {given.seconds} s, {os.cpu_count()} processors with the players on them")
    _print_table(at_once, alone)
    for failure in failures:
        print(f"failed: {failure}")
    print(f"builds that counted: {states}; the last was graded {time.perf_counter() - began:.0f} s after the hour")


if __name__ == "__main__":
    main()
