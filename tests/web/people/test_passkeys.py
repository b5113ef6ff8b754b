"""Passkeys, in a real browser with a simulated device: made, used to sign in, refused where they do not hold."""

import json
from collections.abc import Iterator
from typing import Any

import pytest
from playwright.sync_api import Browser, CDPSession, Page, expect

from rigid_bench.store.database import Database
from rigid_bench.store.queries import account_queries
from rigid_bench.store.tables import Passkey, User
from tests.support import school as people
from tests.support.patience import patient_context
from tests.support.school import School, Visitor, sign_in

#: What the browser's own tests call a device that is built in and unlocked by a finger (Web Authentication, 11.2).
_DEVICE = {
    "protocol": "ctap2", "transport": "internal", "hasResidentKey": True, "hasUserVerification": True,
    "isUserVerified": True, "automaticPresenceSimulation": True,
}  # fmt: skip


@pytest.fixture
def named(address: str) -> str:
    """The program by a name: a bare address can have no passkeys."""
    return address.replace("127.0.0.1", "localhost")


@pytest.fixture
def device(browser: Browser) -> Iterator[tuple[Page, CDPSession, str]]:
    """A page in a browser with a device, the way to talk to it, and its id."""
    context = patient_context(browser, viewport={"width": 1280, "height": 800})
    page = context.new_page()
    devtools = context.new_cdp_session(page)
    devtools.send("WebAuthn.enable")
    made = devtools.send("WebAuthn.addVirtualAuthenticator", {"options": _DEVICE})
    yield page, devtools, made["authenticatorId"]
    context.close()


def make_passkey(page: Page, named: str) -> None:
    sign_in(page, named, people.TEACHER)
    page.goto(f"{named}/password")
    page.get_by_label("What it is").fill("My telephone")
    page.get_by_role("button", name="Make a passkey").click()
    expect(page.get_by_text("My telephone")).to_be_visible()


def by_passkey(page: Page, named: str) -> None:
    page.context.clear_cookies()
    page.goto(f"{named}/sign-in")
    page.get_by_role("button", name="use a passkey").click()


@pytest.fixture(autouse=True)
def no_passkeys(database: Database, school: School) -> Iterator[None]:
    yield
    with database.session() as session:
        session.query(Passkey).delete()


def test_a_passkey_is_made_lets_in_and_is_removed(
    device: tuple[Page, CDPSession, str], named: str, database: Database
) -> None:
    page, _, _ = device
    make_passkey(page, named)
    for _ in range(2):
        by_passkey(page, named)
        expect(page.get_by_text(people.TEACHER.name)).to_be_visible()
    with database.session() as session:
        assert session.query(Passkey).one().used_at is not None
    page.goto(f"{named}/password")
    page.get_by_role("button", name="remove My telephone").click()
    expect(page.get_by_text("My telephone")).to_be_hidden()
    by_passkey(page, named)
    expect(page.get_by_text("nobody signs in with it here")).to_be_visible()


def test_a_device_that_is_not_unlocked_lets_nobody_in(device: tuple[Page, CDPSession, str], named: str) -> None:
    page, devtools, number = device
    make_passkey(page, named)
    devtools.send("WebAuthn.setUserVerified", {"authenticatorId": number, "isUserVerified": False})
    by_passkey(page, named)
    expect(page.get_by_text("It was broken off.")).to_be_visible()


def test_a_copy_whose_counter_is_behind_is_refused(
    device: tuple[Page, CDPSession, str], named: str, database: Database
) -> None:
    page, _, _ = device
    make_passkey(page, named)
    with database.session() as session:
        session.query(Passkey).one().sign_count = 1_000
    by_passkey(page, named)
    expect(page.get_by_text("it does not hold here")).to_be_visible()


def test_who_was_disabled_stays_out(
    device: tuple[Page, CDPSession, str], named: str, database: Database, school: School
) -> None:
    page, _, _ = device
    make_passkey(page, named)
    with database.session() as session:
        account_queries.set_disabled(session, session.get_one(User, school.teacher_id), is_disabled=True)
    by_passkey(page, named)
    expect(page.get_by_text("nobody signs in with it here")).to_be_visible()
    with database.session() as session:
        account_queries.set_disabled(session, session.get_one(User, school.teacher_id), is_disabled=False)


def signed(page: Page, options: dict[str, Any]) -> str:
    """Let the browser's device sign what the program asks, and return its answer."""
    asked = "async (options) => JSON.stringify((await navigator.credentials.get({publicKey: PublicKeyCredential"
    return str(page.evaluate(f"{asked}.parseRequestOptionsFromJSON(options)}})).toJSON())", options))


def test_an_answer_counts_once_for_its_challenge_in_its_browser(
    device: tuple[Page, CDPSession, str], named: str, school: School
) -> None:
    page, _, _ = device
    make_passkey(page, named)
    first, second = Visitor(named), Visitor(named)
    for visitor in (first, second):
        visitor.get("/sign-in")
    options = json.loads(first.post("/sign-in/passkey/begin").text)
    answer = signed(page, options)
    second.post("/sign-in/passkey/begin")
    assert second.post("/sign-in/passkey", data={"credential": answer}).status_code == 422, "of another's challenge"
    assert first.post("/sign-in/passkey", data={"credential": answer}).status_code == 200
    assert first.get("/").url.path == "/"
    again = Visitor(named)
    again.get("/sign-in")
    assert again.post("/sign-in/passkey", data={"credential": answer}).status_code == 422, "without a challenge"


@pytest.mark.parametrize("credential", ["", "[]", "{}", '{"id": 5}', '{"id": "ä"}', "not json", '{"id": "AAAA"}'])
def test_what_is_no_answer_of_a_device_is_refused(named: str, school: School, credential: str) -> None:
    visitor = Visitor(named)
    visitor.get("/sign-in")
    visitor.post("/sign-in/passkey/begin")
    assert visitor.post("/sign-in/passkey", data={"credential": credential}).status_code == 422
    teacher = Visitor(named, people.TEACHER)
    teacher.post("/password/passkeys/begin")
    assert teacher.post("/password/passkeys", data={"credential": credential}).status_code == 422


def test_a_bare_address_offers_none(address: str, school: School) -> None:
    assert "passkey" not in Visitor(address).get("/sign-in").text
