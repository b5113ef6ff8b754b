"""The forms of a draft without a browser: checks as JSON, values as a table, the sheet; and what they refuse."""

import io
import json
import re

import pytest
from pypdf import PdfReader

from rigid_bench.core.formats.archive import read_zip
from rigid_bench.demo import seed_drawer
from rigid_bench.web.security.access import COOKIE
from rigid_bench.web.security.passwords import form_token
from tests.support import school as people
from tests.support.patience import wait_until
from tests.support.samples import files_of
from tests.support.school import School, Visitor


def drafted(teacher: Visitor, files: dict[str, bytes], title: str) -> str:
    """Make a draft and wait until it has been read; return its path."""
    token = form_token(teacher.http.cookies.get(COOKIE) or "")
    sent = [("source", (name, data)) for name, data in files.items()]
    answer = teacher.http.post("/exercises", data={"csrf": token, "title": title}, files=sent)
    assert answer.status_code == 200
    path = answer.url.path
    settled(teacher, path)
    return path


def settled(teacher: Visitor, path: str) -> str:
    wait_until(lambda: "being read and measured" not in teacher.get(path).text)
    return teacher.get(path).text


@pytest.mark.usefixtures("worker", "school")
def test_checks_values_and_the_sheet_of_a_draft(address: str) -> None:
    teacher = Visitor(address, people.TEACHER)
    model = files_of(seed_drawer.SAMPLES[0])["drawer.step"]
    path = drafted(teacher, {"tray.step": model}, "Tray")
    checks_as_json(teacher, path)
    pointed_at(teacher, path)
    values_as_a_table(teacher, path)
    pdf = teacher.get(f"{path}/sheet.pdf?paper=a3&angle=first&both=true")
    assert pdf.headers["content-type"] == "application/pdf"
    text = "".join(page.extract_text() for page in PdfReader(io.BytesIO(pdf.content)).pages)
    assert "Tray" in text
    assert teacher.get(f"{path}/sheet.pdf?paper=a9").status_code == 422
    settled(teacher, path)
    refused = teacher.post(f"{path}/settings", data={"title": "Tray", "cap": ["120", "", ""]})
    assert (refused.status_code, "is not from 0 to 100" in refused.text) == (422, True)
    settings: dict[str, str | list[str]] = {
        "title": "Tray",
        "flow": "either",
        "suggestions": "false",
        "cap": ["", "62,5", ""],
    }
    teacher.post(f"{path}/settings", data=settings)
    settled(teacher, path)
    assert 'value="false" selected' in teacher.get(f"{path}?at=exercise").text
    bundle = read_zip(teacher.get(f"{path}/bundle.zip").content, name="bundle")
    kept = json.loads(bundle["exercise.json"])
    assert (kept["suggestions"], kept["caps"]) == (False, {"missing part": 62.5})
    drawer = sum(check["marks"] for check in kept["checks"] if check.get("part") == "drawer")
    assert drawer != 20
    refused = teacher.post(f"{path}/weights", data={"of": ["drawer"], "marks": ["much"]})
    assert (refused.status_code, "is not from 0" in refused.text) == (422, True)
    teacher.post(f"{path}/weights", data={"of": ["drawer"], "marks": ["20"]})
    settled(teacher, path)
    kept = json.loads(read_zip(teacher.get(f"{path}/bundle.zip").content, name="bundle")["exercise.json"])
    assert sum(check["marks"] for check in kept["checks"] if check.get("part") == "drawer") == pytest.approx(20)
    teacher.post(f"{path}/weights", data={"by": "strip", "of": ["fit"], "marks": ["7,5"]})
    settled(teacher, path)
    kept = json.loads(read_zip(teacher.get(f"{path}/bundle.zip").content, name="bundle")["exercise.json"])
    gaps = {check["id"]: check["marks"] for check in kept["checks"] if check["kind"] in ("gap", "interference")}
    assert sum(gaps.values()) == pytest.approx(7.5)
    # nobody else gets at it
    assert Visitor(address, people.STUDENT).get(path).status_code in (403, 404)


def checks_as_json(teacher: Visitor, path: str) -> None:
    """A check of any kind can be written down; what cannot be meant is refused, with its place."""
    right = {
        "id": "finish",
        "title": "Edges broken",
        "kind": "judged",
        "marks": 2,
        "criterion": "No sharp edge is left",
    }
    for text, says in (
        ("", "line 1"),
        ("[]", "no object"),
        ("{" * 20_000, "nested"),
        ('{"title": "T", "kind": "judged"', "not JSON"),
        ('{"title": "T", "kind": "judged", "marks": NaN}', "not finite"),
        ('{"title": "T\\u0000", "kind": "judged", "marks": 1}', "no text has"),
        ('{"kind": "judged", "marks": 1}', "title"),
    ):
        answer = teacher.post(f"{path}/checks", data={"text": text})
        assert (answer.status_code, says in answer.text) == (422, True), text[:60]
    whole = f"{path}?at=assembly"
    assert "Edges broken" not in teacher.get(whole).text
    assert teacher.post(f"{path}/checks", data={"text": json.dumps(right)}).status_code == 200
    assert "Edges broken" in settled(teacher, whole)
    # with its id again it takes the place of the one there
    teacher.post(f"{path}/checks", data={"text": json.dumps({**right, "title": "Burrs gone"})})
    text = settled(teacher, whole)
    assert ("Burrs gone" in text, "Edges broken" in text) == (True, False)


def pointed_at(teacher: Visitor, path: str) -> None:
    """What two faces offer becomes a check under its own words; asked a second time it is told apart."""
    ids = [{line.split(",")[0] for line in teacher.get(f"{path}/values.csv").text.splitlines()}]
    for _ in range(2):
        answer = teacher.post(f"{path}/dimensions", data={"part": "drawer", "a": "0", "b": "1", "offer": "0"})
        assert answer.status_code == 200
        ids.append({line.split(",")[0] for line in teacher.get(f"{path}/values.csv").text.splitlines()})
    (first,), (second,) = ids[1] - ids[0], ids[2] - ids[1]
    assert second == f"{first}-2"
    for data in ({"a": "0", "b": "1", "offer": "7"}, {"a": "900", "b": "x"}, {}):
        answer = teacher.post(f"{path}/dimensions", data={"part": "drawer", **data})
        assert (answer.status_code, "there is no such dimension" in answer.text) == (422, True)
    settled(teacher, path)


def values_as_a_table(teacher: Visitor, path: str) -> None:
    """Sizes go out and come in; a table that cannot be used changes nothing."""
    table = teacher.get(f"{path}/values.csv").text
    line = next(line for line in table.splitlines() if ",diameter," in line)
    name = line.split(",")[0]
    for sent, says in (
        (b"\xff\xfe\x00", "not UTF-8"),
        (b"part,size\na,3\n", "no columns id and nominal"),
        (b"id,nominal\nnobody,3\n", "the draft has no such size"),
        (b"nominal,id\n3\n", "the draft has no such size"),
    ):
        answer = sent_table(teacher, path, sent)
        assert (answer[0], says in answer[1]) == (422, True), sent
    assert teacher.get(f"{path}/values.csv").text == table
    status, _ = sent_table(teacher, path, f"id;nominal;tolerance\n{name};9,25;0,2\n".encode())
    assert status == 200
    text = settled(teacher, f"{path}?at={name.split('.')[0]}")
    assert re.search(r'value="9.25"', text)
    assert "±0.2" in text


def sent_table(teacher: Visitor, path: str, data: bytes) -> tuple[int, str]:
    token = form_token(teacher.http.cookies.get(COOKIE) or "")
    answer = teacher.http.post(f"{path}/values", data={"csrf": token}, files=[("table", ("v.csv", data))])
    return answer.status_code, answer.text


def test_pages_of_drafts_that_there_are_not_say_so(address: str, school: School) -> None:
    teacher = Visitor(address, people.TEACHER)
    for path in ("/drafts/999", "/drafts/999/sheet", "/drafts/999/sheet.pdf", "/drafts/999/values.csv"):
        assert teacher.get(path).status_code == 404
