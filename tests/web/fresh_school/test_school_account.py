"""Signing in with the school's own account (OpenID Connect), against a stand-in for the school's identity provider."""

import time
from collections.abc import Iterator, Mapping
from typing import Any

import httpx2
import pytest
from fastapi import FastAPI

from rigid_bench.demo.stand_in.identity import StandInIdentity, StandInPerson
from rigid_bench.demo.stand_in.signing import Signer
from rigid_bench.settings import Settings
from rigid_bench.store.database import Database
from rigid_bench.store.queries import account_queries, people_queries
from rigid_bench.store.tables import OutsideAccount, OutsideTry, User
from tests.support import school as people
from tests.support.program import serving, serving_app
from tests.support.school import School, Visitor

_SECRET = "agreed with the school"
TEACHER = StandInPerson(subject="t-1", login="nadia.brink@school.example", name="Nadia Brink", roles=("teacher",))
STUDENT = StandInPerson(subject="s-1", login="ludo.finn", name="Ludo Finn", roles=("student",))
IMPORTED = StandInPerson(subject="s-2", login="sam", name="Sam Sill", roles=("student",), sourced_id="P-77")
NAMELESS = StandInPerson(subject="s-3", login="x", name="", roles=())


@pytest.fixture
def identity() -> StandInIdentity:
    return StandInIdentity([TEACHER, STUDENT, IMPORTED, NAMELESS], client_id="bench", client_secret=_SECRET)


@pytest.fixture
def issuer(identity: StandInIdentity) -> Iterator[str]:
    app = FastAPI()
    app.include_router(identity.router())
    with serving_app(app) as address:
        yield f"{address}/accounts"


def _settings(settings: Settings, issuer: str, **more: object) -> Settings:
    given = {
        "oidc_issuer": issuer, "oidc_client_id": "bench", "oidc_client_secret": _SECRET,
        "oidc_sourced_id_claim": "sourced_id", **more,
    }  # fmt: skip
    return Settings.model_validate(settings.model_dump() | given)


@pytest.fixture
def address(settings: Settings, school: School, issuer: str) -> Iterator[str]:
    """A program that knows the school's accounts."""
    with serving(_settings(settings, issuer)) as address:
        yield address


def _way_back(visitor: Visitor, person: StandInPerson, begin: str = "/sign-in/school") -> str:
    """Sign in at the stand-in; return the address to which it sends the browser back."""
    asked = visitor.get(begin)
    assert "Who are you?" in asked.text
    return _chosen(asked, person)


def _chosen(asked: httpx2.Response, person: StandInPerson) -> str:
    query = asked.url.params
    given = {name: query[name] for name in ("redirect_uri", "state", "nonce")}
    given |= {"challenge": query["code_challenge"], "subject": person.subject}
    back = httpx2.get(asked.url.copy_with(path="/accounts/chosen", query=None), params=given)
    return back.headers["location"]


def _signed_in(address: str, person: StandInPerson) -> Visitor:
    visitor = Visitor(address)
    answer = visitor.get(_way_back(visitor, person))
    assert answer.url.path == "/", answer.text
    return visitor


def test_who_is_new_gets_an_account_with_the_role_of_there_once(address: str, database: Database) -> None:
    for person, role, login in ((TEACHER, "teacher", "nadia.brink"), (STUDENT, "student", "ludo.finn")):
        for _ in range(2):
            assert person.name in _signed_in(address, person).get("/").text
        with database.session() as session:
            user = people_queries.user_by_login(session, login)
            assert user is not None
            assert (user.role, user.name) == (role, person.name)
            assert people_queries.user_by_login(session, f"{login}2") is None


def test_an_account_that_a_list_brought_is_found_by_the_schools_own_id(
    address: str, database: Database, school: School
) -> None:
    with database.session() as session:
        session.get_one(User, school.student_id).sourced_id = "P-77"
    assert "Sam Sill" in _signed_in(address, IMPORTED).get("/").text
    with database.session() as session:
        assert session.query(OutsideAccount).filter_by(subject="s-2").one().user_id == school.student_id


def test_a_way_back_counts_once_and_in_the_browser_that_began_it(address: str) -> None:
    visitor = Visitor(address)
    back = _way_back(visitor, TEACHER)
    stolen = Visitor(address)
    stolen.get("/sign-in")
    answer = stolen.get(back)
    assert (answer.status_code, "not begun in this browser" in answer.text) == (422, True)
    assert visitor.get(back).status_code == 422, "whoever stole it used it up"
    again = _way_back(visitor, TEACHER)
    assert visitor.get(again).url.path == "/"
    assert visitor.get(again).status_code == 422


def test_a_try_that_took_too_long_is_none(address: str, database: Database) -> None:
    visitor = Visitor(address)
    back = _way_back(visitor, TEACHER)
    with database.session() as session:
        session.query(OutsideTry).update({"expires_at": "2020-01-01"})
    assert "took too long" in visitor.get(back).text


_OLD = int(time.time()) - 4_000


@pytest.mark.parametrize(
    "wrong",
    [
        {"iss": "https://elsewhere.example"}, {"aud": "another program"}, {"nonce": "of another try"},
        {"exp": _OLD, "iat": _OLD - 60}, {"aud": ["bench", "another"]}, {"azp": "another program"},
        {"at_hash": "AAAAAAAAAAAAAAAAAAAAAA"}, {"nonce": None},
    ],
    ids=lambda wrong: ",".join(wrong),
)  # fmt: skip
def test_what_was_not_signed_for_us_now_lets_nobody_in(
    address: str, identity: StandInIdentity, wrong: Mapping[str, Any]
) -> None:
    """OpenID Connect Core 1.0, 3.1.3.7: each claim that must hold, broken."""
    visitor = Visitor(address)
    back = _way_back(visitor, TEACHER)
    identity.alter = lambda claims: {name: value for name, value in {**claims, **wrong}.items() if value is not None}
    try:
        answer = visitor.get(back)
    finally:
        identity.alter = dict
    assert (answer.status_code, "did not vouch for you" in answer.text) == (502, True)
    assert visitor.get("/").url.path == "/sign-in"


def test_a_new_key_of_the_provider_is_learnt_and_anothers_is_not(
    address: str, identity: StandInIdentity, monkeypatch: pytest.MonkeyPatch
) -> None:
    _signed_in(address, TEACHER)
    identity.new_key()
    _signed_in(address, TEACHER)
    visitor = Visitor(address)
    back = _way_back(visitor, TEACHER)
    monkeypatch.setattr(identity._signer, "sign", Signer(kid=identity._signer.kid).sign)
    assert visitor.get(back).status_code == 502


def test_who_has_no_name_there_is_told_so(address: str) -> None:
    visitor = Visitor(address)
    answer = visitor.get(_way_back(visitor, NAMELESS))
    assert (answer.status_code, "Write a name" in answer.text) == (403, True)


def test_a_broken_off_sign_in_says_so(address: str) -> None:
    visitor = Visitor(address)
    state = visitor.get("/sign-in/school").url.params["state"]
    assert "broken off there" in visitor.get(f"/sign-in/school/back?error=access_denied&state={state}").text


def test_an_account_is_joined_to_one_here_and_left(address: str, database: Database, school: School) -> None:
    _signed_in(address, TEACHER)
    teacher = Visitor(address, people.OTHER_TEACHER)
    assert "Sign in there" in teacher.get("/password").text
    taken = teacher.get(_chosen(teacher.post("/password/school-account"), TEACHER))
    assert "somebody else signs in with it" in taken.text
    with database.session() as session:
        session.query(OutsideAccount).filter_by(subject="t-1").delete()
    free = teacher.get(_chosen(teacher.post("/password/school-account"), TEACHER))
    assert "You can." in free.text
    assert people.OTHER_TEACHER.name in _signed_in(address, TEACHER).get("/").text
    assert "Sign in there" in teacher.post("/password/school-account/end").text


@pytest.mark.parametrize("wrong", ["student", "disabled"])
def test_no_role_is_taken_over_and_who_was_disabled_stays_out(
    address: str, database: Database, identity: StandInIdentity, wrong: str
) -> None:
    _signed_in(address, TEACHER)
    with database.session() as session:
        user_id = session.query(OutsideAccount).filter_by(subject="t-1").one().user_id
        user = session.get_one(User, user_id)
        if wrong == "student":
            user.role = "student"
        else:
            account_queries.set_disabled(session, user, is_disabled=True)
    visitor = Visitor(address)
    answer = visitor.get(_way_back(visitor, TEACHER))
    with database.session() as session:
        user = session.get_one(User, user_id)
        user.role, user.disabled_at = "teacher", None
    assert (answer.status_code, "administrator" in answer.text) == (403, True)


def test_signing_out_offers_to_sign_out_there_too(address: str) -> None:
    visitor = _signed_in(address, TEACHER)
    out = visitor.post("/sign-out")
    assert "sign out of your school account, too" in out.text
    assert visitor.get("/sign-in/school/out").url.path == "/sign-in"
    assert "too</a>" not in Visitor(address, people.TEACHER).post("/sign-out").text


def test_passwords_can_be_switched_off(settings: Settings, school: School, issuer: str) -> None:
    with serving(_settings(settings, issuer, password_sign_in=False)) as address:
        visitor = Visitor(address)
        shown = visitor.get("/sign-in").text
        assert "Sign in with your school account" in shown
        assert 'name="password"' not in shown
        given = {"login": people.TEACHER.login, "password": people.TEACHER.password}
        answer = visitor.post("/sign-in", data=given)
        assert (answer.status_code, "its own accounts" in answer.text) == (403, True)
        assert visitor.get("/join").url.path == "/sign-in"
        joining = {"code": "K7P-4MX", "name": "New Person", "login": "newp", "password": "a short sentence"}
        assert visitor.post("/join", data=joining).status_code == 403
        assert 'name="old"' not in _signed_in(address, TEACHER).get("/password").text


def test_a_provider_that_does_not_answer_is_named(settings: Settings, school: School) -> None:
    with serving(_settings(settings, "http://127.0.0.1:9/accounts")) as address:
        answer = Visitor(address).get("/sign-in/school")
        assert (answer.status_code, "do not answer" in answer.text) == (502, True)


def test_where_the_school_has_none_the_page_says_so(settings: Settings, school: School) -> None:
    with serving(settings) as address:
        assert Visitor(address).get("/sign-in/school").status_code == 404
        assert "school account" not in Visitor(address).get("/sign-in").text
