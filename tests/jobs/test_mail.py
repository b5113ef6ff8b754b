"""Notices go to those who want them, through a mail server; never a mark in one, and none is lost when it is away."""

from collections.abc import Iterator
from email import message_from_bytes
from email.message import Message
from typing import Any

import pytest
from aiosmtpd.controller import Controller

from rigid_bench.jobs.mail import send_letters
from rigid_bench.settings import Settings
from rigid_bench.store.cluster import free_port
from rigid_bench.store.database import Database
from rigid_bench.store.queries import build_queries, notice_queries
from rigid_bench.store.tables import Notice
from tests.support import school as people
from tests.support.graded_builds import hand_in_sample
from tests.support.school import School, Visitor


class Letterbox:
    """A mail server's handler that keeps what it is given, and refuses one address."""

    def __init__(self) -> None:
        self.letters: list[Message] = []

    async def handle_RCPT(self, server: Any, session: Any, envelope: Any, address: str, options: Any) -> str:  # noqa: N802
        if address.startswith("nobody@"):
            return "550 no such person"
        envelope.rcpt_tos.append(address)
        return "250 OK"

    async def handle_DATA(self, server: Any, session: Any, envelope: Any) -> str:  # noqa: N802
        self.letters.append(message_from_bytes(envelope.content))
        return "250 OK"


@pytest.fixture
def letterbox() -> Iterator[tuple[Letterbox, Settings]]:
    box, port = Letterbox(), free_port()
    controller = Controller(box, hostname="127.0.0.1", port=port)
    controller.start()
    given = {
        "mail_server": "127.0.0.1",
        "mail_port": port,
        "mail_security": "none",
        "mail_from": "bench@school.example",
    }
    yield box, Settings(**given, public_address="https://bench.school.example")  # type: ignore[arg-type]
    controller.stop()


def test_a_teacher_hears_of_a_question_and_never_who_asked_what(
    address: str, database: Database, school: School, letterbox: tuple[Letterbox, Settings]
) -> None:
    box, settings = letterbox
    with database.session() as session:
        notice_queries.want_mail(session, school.teacher_id, email="tara@school.example", kinds=["asked"])
        number = hand_in_sample(session, school, "too-wide").id
    student, question = Visitor(address, people.STUDENT), "Is the width outside or inside?"
    asked = student.post(f"/builds/{number}/checks/drawer.width/question", data={"text": question})
    assert asked.status_code == 200, asked.text[:300]
    send_letters(database, settings)
    [letter] = [own for own in box.letters if own["To"] == "tara@school.example"]
    body = letter.get_payload(decode=True).decode()  # type: ignore[union-attr]
    assert "Seed drawer" in body
    assert question not in letter.as_string()
    assert people.STUDENT.name not in letter.as_string()


def tell(database: Database, school: School, text: str, kind: notice_queries.NoticeKind) -> int:
    with database.session() as session:
        build = build_queries.add_build(
            session, class_id=school.class_id, version_id=school.version_id, student_id=school.student_id, files={}
        )
        session.flush()
        notice_queries.notify(session, [school.student_id], text, kind=kind, build_id=build.id)
        return build.id


def want(database: Database, school: School, email: str, *kinds: notice_queries.NoticeKind) -> None:
    with database.session() as session:
        notice_queries.want_mail(session, school.student_id, email=email, kinds=kinds)


def waiting(database: Database) -> int:
    with database.session() as session:
        return session.query(Notice).filter(Notice.mailed_at.is_(None)).count()


def test_what_is_wanted_is_sent_once_and_without_marks(
    database: Database, school: School, letterbox: tuple[Letterbox, Settings]
) -> None:
    box, settings = letterbox
    want(database, school, "sam@home.example", "changed")
    tell(database, school, "Your marks for Seed drawer have changed from 3 to 4.5: re-marked.", "changed")
    tell(database, school, "Your card was returned.", "returned")
    assert send_letters(database, settings) == 1
    assert send_letters(database, settings) == 0
    [letter] = box.letters
    assert (letter["To"], letter["From"]) == ("sam@home.example", "bench@school.example")
    body = letter.get_payload(decode=True).decode()  # type: ignore[union-attr]
    assert "Seed drawer" in body
    assert "https://bench.school.example" in body
    assert not set("0123456789") & set(body), "no mark is in it"
    assert people.STUDENT.name not in letter.as_string()


def test_who_wants_nothing_gets_nothing(
    database: Database, school: School, letterbox: tuple[Letterbox, Settings]
) -> None:
    box, settings = letterbox
    want(database, school, "")
    tell(database, school, "Your card was returned.", "returned")
    assert (send_letters(database, settings), box.letters) == (0, [])
    assert send_letters(database, Settings(mail_server="")) == 0


def test_when_the_server_is_away_the_notice_waits(
    database: Database, school: School, letterbox: tuple[Letterbox, Settings]
) -> None:
    box, settings = letterbox
    want(database, school, "sam@home.example", "answered")
    tell(database, school, "Your question is answered.", "answered")
    before = waiting(database)
    away = settings.model_copy(update={"mail_port": free_port()})
    assert (send_letters(database, away), waiting(database)) == (0, before)
    assert send_letters(database, settings) == 1
    assert len(box.letters) == 1


@pytest.mark.parametrize(
    "email", ["nobody@home.example", "jürgen@home.example", "a,b@c,d@home.example", "<@home.example"]
)
def test_an_address_that_cannot_be_written_to_holds_up_nobody_and_is_not_tried_again(
    database: Database, school: School, letterbox: tuple[Letterbox, Settings], email: str
) -> None:
    box, settings = letterbox
    want(database, school, email, "answered")
    tell(database, school, "Your question is answered.", "answered")
    with database.session() as session:
        notice_queries.want_mail(session, school.classmate_id, email="cleo@home.example", kinds=["returned"])
        notice_queries.notify(session, [school.classmate_id], "Your card was returned.", kind="returned")
    send_letters(database, settings)
    assert "cleo@home.example" in [letter["To"] for letter in box.letters]
    count = len(box.letters)
    assert (send_letters(database, settings), len(box.letters)) == (0, count)


def test_the_page_takes_an_address_and_says_what_is_wrong(address: str, database: Database, school: School) -> None:
    student = Visitor(address, people.STUDENT)
    assert "no mail server" in student.get("/password").text
    refused = student.post("/password/mail", data={"email": "not one", "kinds": ["changed"]})
    assert refused.status_code == 422
    assert "is no address" in refused.text
    assert student.post("/password/mail", data={"email": "", "kinds": ["changed"]}).status_code == 422
    assert student.post("/password/mail", data={"email": "a@b.example", "kinds": ["marks"]}).status_code == 422
    assert student.post("/password/mail", data={"email": "a@b.example", "kinds": ["changed"]}).status_code == 200
