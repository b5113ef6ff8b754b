"""Passwords are not guessed, large bodies not read, nothing typed stands in the log, no cell is a formula."""

import json
import logging
import re
import socket
import urllib.parse
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

import psycopg
import pytest
from sqlalchemy import text
from sqlalchemy.exc import IntegrityError

from rigid_bench.app.people.account_fields import check_password
from rigid_bench.core.grading.intake.files import check_files
from rigid_bench.core.values.errors import FormRejected, TooManyTries
from rigid_bench.demo.people import Person
from rigid_bench.logs import quiet_traceback, set_up_logs
from rigid_bench.settings import Settings
from rigid_bench.store.database import Database
from rigid_bench.store.queries import draft_queries
from rigid_bench.store.tables import Try, User
from rigid_bench.web.app import create_app
from rigid_bench.web.security.access import COOKIE
from rigid_bench.web.security.throttle import ACCOUNT, ADDRESS, Throttle
from rigid_bench.web.spreadsheets import plain_cell, typed_cell
from tests.support import school as people
from tests.support.program import serving_app
from tests.support.school import School, Visitor, add_student


def host_of(address: str) -> tuple[str, int]:
    parts = urllib.parse.urlsplit(address)
    return str(parts.hostname), int(parts.port or 0)


def test_after_many_wrong_passwords_not_even_the_right_one_is_let_in(
    address: str, database: Database, school: School
) -> None:
    with database.session() as session:
        add_student(session, "target", session.get_one(User, school.teacher_id))
    guest = Visitor(address)
    guest.get("/sign-in")

    def attempt(password: str) -> int:
        return guest.post("/sign-in", data={"login": "Target ", "password": password}).status_code

    answers = [attempt(f"guess number {k}") for k in range(15)]
    assert answers == [422] * 10 + [429] * 5
    refused = guest.post("/sign-in", data={"login": "target", "password": people.NEW_PASSWORD})
    assert refused.status_code == 429
    assert re.search(r"the next is in \d+ (minutes|seconds)", refused.text)
    assert 'value="target"' in refused.text
    assert Visitor(address, people.STUDENT).get("/").status_code == 200, "nobody else waits"


def test_tries_at_once_are_counted_before_they_are_made_whoever_counts(database: Database) -> None:
    throttle, of_another_process = Throttle(database), Throttle(database)

    def attempt(number: int) -> bool:
        try:
            (throttle if number % 2 else of_another_process).take(ACCOUNT, "one")
        except TooManyTries:
            return False
        return True

    with ThreadPoolExecutor(8) as pool:
        assert sum(pool.map(attempt, range(60))) == 10
    throttle.forget(ACCOUNT, "one")
    of_another_process.take(ACCOUNT, "one")
    for _ in range(150):
        throttle.check(ADDRESS, "here")
        throttle.note(ADDRESS, "here")
    with pytest.raises(TooManyTries) as caught:
        throttle.check(ADDRESS, "here")
    assert 0 < caught.value.wait_s <= 600
    with database.session() as session:
        assert not session.query(Try).filter(Try.who.in_(["one", "here"])).count(), "no name or address is kept"
        session.query(Try).filter_by(limit="address").update({"made_at": Try.made_at - timedelta(minutes=11)})
    throttle.check(ADDRESS, "here")


def test_class_codes_and_the_first_start_are_not_tried_without_end(empty_address: str) -> None:
    guest = Visitor(empty_address)
    guest.get("/start")
    form = {"name": "A", "login": "aa", "password": "three plain words"}
    starts = [guest.post("/start", data={**form, "code": f"AAAA-BBBB-{k:04}"}).status_code for k in range(25)]
    codes = [guest.post("/join", data={**form, "code": f"AA{k:04}"}).status_code for k in range(65)]
    assert (starts[:20], starts[20:]) == ([422] * 20, [429] * 5)
    assert (codes[:60], codes[60:]) == ([422] * 60, [429] * 5)


def test_a_class_behind_one_address_signs_in_at_once(address: str, database: Database, school: School) -> None:
    with database.session() as session:
        home = session.get_one(User, school.teacher_id)
        names = [add_student(session, f"crowd{k}", home).login for k in range(30)]
    with ThreadPoolExecutor(30) as pool:
        pages = list(
            pool.map(lambda login: Visitor(address, Person(login=login, name="", password=people.NEW_PASSWORD)), names)
        )
    assert all(page.get("/").status_code == 200 for page in pages)


@pytest.mark.parametrize(
    "word", ["password", "        ", "12345678", "aaaaaaaaaa", "Password1", "bramtolliver", "qwertzui"]
)
def test_passwords_that_are_tried_first_are_refused(word: str) -> None:
    with pytest.raises(FormRejected) as caught:
        check_password(word, of=("bram", "Bram Tolliver"))
    assert caught.value.field == "password"


@pytest.mark.parametrize(
    "word", ["a good sentence", "three plain words", "кот и пёс спят", "x7!kQ9#mZ", "quite long " * 20]
)
def test_passwords_that_are_long_enough_are_taken(word: str) -> None:
    assert check_password(word) == word


def test_a_large_build_file_is_refused_unread_and_holds_nobody_up(address: str, school: School) -> None:
    mates = [{"id": f"m{k}", "kind": "coaxial", "a": {}, "b": {}} for k in range(60_000)]
    large = json.dumps({"format": "rigid-bench/build", "mates": mates}).encode()
    assert len(large) > 2_000_000
    with pytest.raises(Exception, match="more than the 2 MB of a build file"):
        check_files({"b.build.json": large})
    # one that is just small enough is left to the worker: the page only looks what it is, and takes what is no document
    broken = b'{"format": "rigid-bench/build", "mates": [' + large[:1_000_000]
    check_files({"b.build.json": broken})


def send_raw(address: str, head: str, body: bytes, *, until: float = 5.0) -> str:
    with socket.create_connection(host_of(address), timeout=until) as connection:
        connection.sendall(head.encode() + body)
        return connection.recv(65_536).decode(errors="replace")


def test_who_is_not_signed_in_is_refused_before_the_body_is_read(address: str, school: School) -> None:
    path = f"/classes/{school.class_id}/exercises/{school.version_id}/hand-in"
    head = f"POST {path} HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: multipart/form-data; boundary=x\r\n"
    answer = send_raw(address, f"{head}Content-Length: 1900000\r\n\r\n", b"")
    assert answer.startswith("HTTP/1.1 403"), "answered although not a byte of the body was sent"


@pytest.mark.parametrize("path", ["/sign-in", "/join", "/hand-in"])
def test_a_body_larger_than_it_says_is_cut_off(address: str, school: School, path: str) -> None:
    if path == "/hand-in":
        path = f"/classes/{school.class_id}/exercises/{school.version_id}/hand-in"
    student = Visitor(address, people.STUDENT)
    cookie = student.http.cookies.get(COOKIE)
    head = (
        f"POST {path} HTTP/1.1\r\nHost: 127.0.0.1\r\nCookie: {COOKIE}={cookie}\r\n"
        "Content-Type: application/x-www-form-urlencoded\r\nContent-Length: 10\r\nTransfer-Encoding: chunked\r\n\r\n"
    )
    chunk = b"10000\r\n" + b"a" * 65_536 + b"\r\n"
    with socket.create_connection(host_of(address), timeout=10) as connection:
        connection.sendall(head.encode())
        answer = ""
        try:
            for _ in range(120):  # 7.9 MB, more than any form and any hand-in of this test's school
                connection.sendall(chunk)
            answer = connection.recv(65_536).decode(errors="replace")
        except OSError:  # cut off before all was sent
            answer = answer or "HTTP/1.1 413"
    assert answer.startswith(("HTTP/1.1 413", "HTTP/1.1 400"))


def test_what_is_declared_too_large_is_refused_in_our_words(address: str, school: School) -> None:
    student = Visitor(address, people.STUDENT)
    path = f"/classes/{school.class_id}/exercises/{school.version_id}/hand-in"
    answer = student.post(path, files={"a.step": b"x" * 4_000_000})
    assert (answer.status_code, "that are taken" in answer.text) == (413, True)


def test_only_known_hosts_are_answered(address: str) -> None:
    for host, status in (("127.0.0.1", 200), ("localhost", 200), ("evil.example", 400)):
        head = f"GET /sign-in HTTP/1.1\r\nHost: {host}\r\nConnection: close\r\n\r\n"
        assert send_raw(address, head, b"").startswith(f"HTTP/1.1 {status}"), host


def test_what_was_typed_never_stands_in_the_log(
    database: Database, school: School, capfd: pytest.CaptureFixture[str]
) -> None:
    set_up_logs()
    secret = "argon2-of-nobody"
    with pytest.raises(IntegrityError) as caught, database.session() as session:
        session.execute(
            text("insert into users (login, name, role, password_hash) values (:login, 'N', 'king', :secret)"),
            {"login": "the-login", "secret": secret},
        )
    assert secret in str(caught.value.orig), "the database's own words repeat the row"
    logging.getLogger("some.library").error("it failed: %s", caught.value, exc_info=caught.value)
    written = quiet_traceback(caught.value) + capfd.readouterr().err
    assert "role_is_known" in written
    assert "test_abuse.py" in written, "where it happened is kept"
    for word in (secret, "the-login", "king"):
        assert word not in written


def test_a_fault_of_ours_is_logged_without_the_values(database: Database, capfd: pytest.CaptureFixture[str]) -> None:
    app = create_app(Settings(database_url=database.url))

    @app.get("/fault")
    def fault() -> None:
        with psycopg.connect(database.url) as connection:
            connection.execute("select %s::int", (" ".join(["a", "student's", "words"]),))

    with serving_app(app) as address:
        assert Visitor(address).get("/fault").status_code == 500
    written = capfd.readouterr().err
    assert "program fault" in written
    assert "student's words" not in written


def test_no_cell_of_a_table_is_a_formula_and_what_comes_back_is_as_it_was(
    address: str, database: Database, school: School
) -> None:
    for cell in ("=cmd()", "+1", "-1+2", "@sum", "\t=1", " =1", "＝1", "+0.2/-0", "plain", "'quoted"):
        assert not plain_cell(cell).lstrip().startswith(("=", "+", "-", "@", "＝"))
        assert typed_cell(plain_cell(cell)) == cell.strip()
    check = {
        "id": "bore", "title": '=HYPERLINK("http://x")', "kind": "dimension", "marks": 1, "part": "p",
        "measure": "diameter", "nominal": "-2 * -4", "tolerance": {"minus": 0, "plus": 0.2},
    }  # fmt: skip
    with database.session() as session:
        made = draft_queries.add_draft(
            session, teacher_id=school.teacher_id, title="T", source_name="a.csv", source=b""
        )
        document = {"format": "rigid-bench/exercise", "id": "e", "title": "T", "parts": [], "checks": [check]}
        bundle = {"exercise.json": json.dumps(document).encode()}
        draft_queries.keep_bundle(session, made, bundle)
    table = Visitor(address, people.TEACHER).get(f"/drafts/{made.id}/values.csv").text
    assert "'=HYPERLINK" in table
    assert "'-2 * -4" in table
    assert "'+0.2" in table
