"""Handing in: what is taken, what is refused, and that a refusal leaves nothing behind."""

import io
import re
import zipfile

import pytest
from sqlalchemy import text

from rigid_bench.demo.seed_drawer import SAMPLES
from rigid_bench.store.database import Database
from tests.support import school as people
from tests.support.samples import files_of
from tests.support.school import School, Visitor

RIGHT = files_of({sample.name: sample for sample in SAMPLES}["right"])


def hand_in_path(school: School) -> str:
    return f"/classes/{school.class_id}/exercises/{school.version_id}/hand-in"


def kept(database: Database) -> list[int]:
    tables = ("builds", "build_files", "procrastinate_jobs")
    with database.session() as session:
        return [session.execute(text(f"select count(*) from {table}")).scalar_one() for table in tables]


def zipped(files: dict[str, bytes]) -> bytes:
    written = io.BytesIO()
    with zipfile.ZipFile(written, "w") as archive:
        for name, content in files.items():
            archive.writestr(f"folder/{name}", content)
    return written.getvalue()


@pytest.mark.parametrize(
    "files",
    [RIGHT, {"both.zip": zipped(RIGHT)}, {"drawer.stp": RIGHT["drawer.step"]}, {"b.json": RIGHT["drawer.build.json"]}],
    ids=["two files", "zip", "STEP alone", "build alone"],
)
def test_a_build_is_taken_and_looked_at(
    address: str, school: School, database: Database, files: dict[str, bytes]
) -> None:
    student = Visitor(address, people.STUDENT)
    student.post(hand_in_path(school), files={"first.step": RIGHT["drawer.step"]})  # gives way to the next choice
    before = kept(database)
    answer = student.post(hand_in_path(school), files=files)
    assert answer.url.path.startswith("/builds/")
    assert answer.url.path.endswith("/look")
    assert "being looked at" in answer.text
    assert [now - then for now, then in zip(kept(database), before, strict=True)] == [0, len(files) - 1, 1]
    counted = student.post(answer.url.path.replace("/look", "/hand-in"))
    assert re.fullmatch(r"/builds/\d+", counted.url.path)
    assert "waiting" in counted.text
    again = student.post(answer.url.path.replace("/look", "/hand-in"))  # a second press changes nothing
    assert kept(database)[2] == before[2] + 2
    assert again.url.path == counted.url.path


@pytest.mark.parametrize(
    ("files", "says"),
    [
        ({"kit.step": b"just text"}, "not a STEP file"),
        ({"kit.step": b""}, "empty"),
        ({"notes.txt": b"hello"}, "neither a STEP, "),
        ({"b.json": b'{"format": "rigid-bench/build"'}, "line 1"),
        ({"x.zip": b"PK\x03\x04broken"}, "zip is broken"),
        ({"<img src=x onerror=alert(1)>.step": b"x"}, "&lt;img src=x onerror=alert(1)&gt;.step"),
        ({}, "no file was chosen"),
    ],
)
def test_a_wrong_file_gets_a_message_and_leaves_nothing(
    address: str, school: School, database: Database, files: dict[str, bytes], says: str
) -> None:
    before = kept(database)
    answer = Visitor(address, people.STUDENT).post(hand_in_path(school), files=files)
    assert answer.status_code == 422
    assert says in answer.text
    assert "Nothing was kept" in answer.text
    assert kept(database) == before


def test_too_large_a_file_is_refused_before_it_is_read(address: str, school: School, database: Database) -> None:
    before = kept(database)
    answer = Visitor(address, people.STUDENT).post(hand_in_path(school), files={"kit.step": b"0" * 3_000_000})
    assert answer.status_code == 413
    assert "more than the 2 MB" in answer.text
    assert kept(database) == before
