"""OneRoster zips: students of a class in, line items and results out, by the columns of version 1.2 (from memory)."""

import csv
import io
import zipfile

import pytest

from rigid_bench.core.formats.archive import write_zip
from rigid_bench.core.formats.one_roster import LineItem, Result, read_classes, write_results
from rigid_bench.core.values.errors import UnreadableFile

USERS = """sourcedId,status,dateLastModified,enabledUser,username,userIds,givenName,familyName,middleName,identifier
u1,,,true,nora.field,,Nora,Field,,
u2,active,,true,otis,,Otis,"Lane, jr",,
u3,tobedeleted,,true,gone,,Gone,Person,,
u4,,,true,teach,,Tara,Thorn,,
u5,,,true,zofia,,Zofia,Źdźbło,,
"""
CLASSES = """sourcedId,status,dateLastModified,title,grades,courseSourcedId
c1,,,Workshop 9B,,k
c2,,,Workshop 10A,,k
c3,,,Workshop 10A,,k
"""
ENROLLMENTS = """sourcedId,status,dateLastModified,classSourcedId,schoolSourcedId,userSourcedId,role,primary
e1,,,c1,s,u1,student,
e2,,,c1,s,u2,student,
e3,,,c1,s,u3,student,
e4,,,c1,s,u4,teacher,
e5,,,c2,s,u5,student,
e6,,,c9,s,u1,student,
"""
FILES = {"users.csv": USERS, "classes.csv": CLASSES, "enrollments.csv": ENROLLMENTS}


def zipped(**changed: str | None) -> bytes:
    files = {**FILES, **{f"{name}.csv": text for name, text in changed.items()}}
    return write_zip({name: text.encode("utf-8-sig") for name, text in files.items() if text is not None})


def test_students_of_each_class_and_nobody_else() -> None:
    classes = read_classes(zipped(), name="roster.zip")
    names = {title: [(own.given_name, own.family_name) for own in students] for title, students in classes.items()}
    assert names == {
        "Workshop 9B": [("Nora", "Field"), ("Otis", "Lane, jr")],
        "Workshop 10A (c2)": [("Zofia", "Źdźbło")],
        "Workshop 10A (c3)": [],
    }
    assert [(own.sourced_id, own.username) for own in classes["Workshop 9B"]] == [("u1", "nora.field"), ("u2", "otis")]


@pytest.mark.parametrize(
    ("changed", "where", "problem"),
    [
        ({"users": None}, "roster.zip", "there is no users.csv"),
        ({"classes": "sourcedId,name\nc1,x\n"}, "classes.csv", "no column title"),
        ({"enrollments": "a,b\n1,2\n"}, "enrollments.csv", "no column classSourcedId"),
    ],
)
def test_what_is_missing_is_named(changed: dict[str, str | None], where: str, problem: str) -> None:
    with pytest.raises(UnreadableFile) as refused:
        read_classes(zipped(**changed), name="roster.zip")
    assert refused.value.where == where
    assert problem in refused.value.problem


def test_lines_that_are_short_or_long_do_no_harm() -> None:
    odd = USERS + "u6\nu7,,,true,seven,,Seven,Seven,,,,,,beyond\n"
    assert set(read_classes(zipped(users=odd), name="roster.zip")) == {
        "Workshop 9B",
        "Workshop 10A (c2)",
        "Workshop 10A (c3)",
    }


def test_results_name_their_line_items_and_students() -> None:
    items = [LineItem(sourced_id="9b-drawer", title="Seed drawer", due_on="2027-03-04", most=39.0)]
    results = [Result(line_item="9b-drawer", student="u1", score=37.5, scored_on="2027-03-03")]
    with zipfile.ZipFile(io.BytesIO(write_results("9b", items, results))) as archive:
        tables = {name: list(csv.DictReader(io.StringIO(archive.read(name).decode()))) for name in archive.namelist()}
    [item], [result] = tables["lineItems.csv"], tables["results.csv"]
    assert (item["title"], item["resultValueMax"], item["classSourcedId"]) == ("Seed drawer", "39", "9b")
    assert (result["lineItemSourcedId"], result["studentSourcedId"]) == (item["sourcedId"], "u1")
    assert (result["score"], result["scoreStatus"], result["scoreDate"]) == ("37.5", "fully graded", "2027-03-03")
    manifest = {row["propertyName"]: row["value"] for row in tables["manifest.csv"]}
    assert manifest["oneroster.version"] == "1.2"
    assert {name for name, value in manifest.items() if value == "bulk"} == {"file.lineItems", "file.results"}
