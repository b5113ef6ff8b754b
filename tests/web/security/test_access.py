"""Every route, by every kind of visitor: what is allowed and what is refused."""

import re
from collections.abc import Iterator

import pytest
from fastapi.routing import APIRoute

from rigid_bench.settings import Settings
from rigid_bench.store.database import Database
from rigid_bench.store.queries import bench_queries, build_queries, draft_queries, work_queries
from rigid_bench.web.app import create_app
from rigid_bench.web.security.access import check_form
from tests.support import school as people
from tests.support.school import School, Visitor

#: route -> who may: n nobody signed in, s the build's student, c a classmate, whose account it is, t the class's owner,
#: who made both accounts, o another teacher, h an assistant of the class, a an administrator of the school.
ALLOWED = {
    "GET /healthz": "nsctoha",
    "GET /readyz": "nsctoha",
    "GET /accounts/{user_id}": "cta",
    "POST /accounts/{user_id}/erase": "cta",
    "GET /metrics": "nsctoha",
    "GET /school": "a",
    "GET /school/running": "a",
    "GET /school/log": "a",
    "GET /school/log.csv": "a",
    "POST /school/jobs/{job_id}/retry": "a",
    "POST /school/sessions/{number}/end": "a",
    "POST /school/teachers": "a",
    "POST /school/teachers/{user_id}/disabled": "a",
    "POST /school/teachers/{user_id}/administrator": "a",
    "POST /school/teachers/{user_id}/hand-over": "a",
    "GET /sign-in-cards/{cards_id}": "toha",
    "GET /classes/{class_id}/students/lists/{list_id}": "t",
    "POST /classes/{class_id}/students/lists/{list_id}": "t",
    "POST /classes/{class_id}/students/{student_id}/back": "t",
    "POST /classes/{class_id}/teachers/{user_id}/end": "t",
    "POST /classes/{class_id}/take-back/{batch}": "t",
    "POST /builds/{build_id}/take-back": "th",
    "POST /builds/{build_id}/hand/down": "s",
    "POST /classes/{class_id}/exercises/{version_id}/cards": "t",
    "GET /classes/{class_id}/exercises/{version_id}/cards/{printout_id}": "t",
    "GET /classes/{class_id}/exercises/{version_id}/cards/{printout_id}/cards.pdf": "t",
    "GET /start": "",
    "POST /start": "",
    "GET /sign-in": "nsctoha",
    "POST /sign-in": "nsctoha",
    "GET /sign-in/code": "sctoha",
    "POST /sign-in/code": "sctoha",
    "GET /sign-in/school": "nsctoha",
    "GET /sign-in/school/back": "nsctoha",
    "GET /sign-in/school/out": "nsctoha",
    "POST /sign-in/passkey/begin": "nsctoha",
    "POST /sign-in/passkey": "nsctoha",
    "POST /password/school-account": "sctoha",
    "POST /password/school-account/end": "sctoha",
    "POST /password/passkeys/begin": "toha",
    "POST /password/passkeys": "toha",
    "POST /password/passkeys/{passkey_id}/remove": "toha",
    "GET /lti/keys": "nsctoha",
    "GET /lti/login": "nsctoha",
    "POST /lti/login": "nsctoha",
    "POST /lti/launch": "nsctoha",
    "GET /lti/same/{token}": "sctoha",
    "POST /lti/same/{token}": "sctoha",
    "GET /lti/class/{token}": "toha",
    "POST /lti/class/{token}": "toha",
    "GET /lti/choose/{token}": "toha",
    "POST /lti/choose/{token}": "toha",
    "GET /school/platforms": "a",
    "POST /school/platforms": "a",
    "POST /school/platforms/{platform_id}/remove": "a",
    "GET /classes/{class_id}/courses": "t",
    "POST /classes/{class_id}/courses/{course_id}/people": "t",
    "POST /classes/{class_id}/courses/{course_id}/again": "t",
    "POST /classes/{class_id}/courses/{course_id}/end": "t",
    "POST /password/second-step": "toha",
    "POST /password/second-step/confirm": "toha",
    "POST /password/second-step/end": "toha",
    "POST /sign-out": "nsctoha",
    "GET /join": "nsctoha",
    "POST /join": "nsctoha",
    "GET /password": "sctoha",
    "POST /password": "sctoha",
    "GET /help": "nsctoha",
    "POST /password/mail": "sctoha",
    "GET /help/teachers": "nsctoha",
    "GET /help/mates-as-a-table": "nsctoha",
    "GET /help/mates-template.csv": "nsctoha",
    "GET /": "sctoha",
    "POST /notices": "sctoha",
    "GET /patterns": "sctoha",
    "GET /tables": "sctoha",
    "GET /tables/{name}": "sctoha",
    "GET /allowances": "toha",
    "POST /allowances/{process}/{action}": "toha",
    "GET /exercises": "toha",
    "POST /exercises": "toha",
    "GET /exercises/versions/{version_id}/bundle.zip": "toha",
    "POST /exercises/versions/{version_id}/draft": "toha",
    "POST /exercises/versions/{version_id}/archive": "toha",
    "GET /exercises/versions/{version_id}/sizes": "toha",
    "POST /exercises/versions/{version_id}/sizes": "toha",
    "GET /changes/{change_id}": "t",
    "POST /changes/{change_id}/release": "t",
    "POST /changes/{change_id}/drop": "t",
    "POST /classes/{class_id}/exercises": "t",
    "GET /classes/{class_id}/exercises/{version_id}/sheet/{part}.{ending}": "scth",
    "GET /drafts/{draft_id}": "t",
    "POST /drafts/{draft_id}/settings": "t",
    "GET /practice": "sctoha",
    "GET /practice/next": "sctoha",
    "GET /practice/{drill_kind}": "sctoha",
    "POST /practice/{drill_kind}": "sctoha",
    "GET /practice/{drill_kind}/paper": "sctoha",
    "GET /practice/{drill_kind}/film": "sctoha",
    "GET /classes/{class_id}/practice": "th",
    "POST /classes/{class_id}/practice": "t",
    "POST /classes/{class_id}/practice/drop": "t",
    "POST /drafts/{draft_id}/parts/{part}": "t",
    "POST /drafts/{draft_id}/checks/{check_id}": "t",
    "POST /drafts/{draft_id}/checks/{check_id}/drop": "t",
    "POST /drafts/{draft_id}/checks/{check_id}/bracket": "t",
    "POST /drafts/{draft_id}/undo": "t",
    "POST /drafts/{draft_id}/redo": "t",
    "GET /drafts/{draft_id}/offers": "t",
    "POST /drafts/{draft_id}/dimensions": "t",
    "POST /drafts/{draft_id}/offered": "t",
    "POST /drafts/{draft_id}/relations": "t",
    "POST /drafts/{draft_id}/freedoms": "t",
    "POST /drafts/{draft_id}/gaps": "t",
    "POST /drafts/{draft_id}/checks": "t",
    "POST /drafts/{draft_id}/kinds/{kind}": "t",
    "POST /drafts/{draft_id}/changes": "t",
    "POST /drafts/{draft_id}/scheme": "t",
    "POST /drafts/{draft_id}/shifts": "t",
    "POST /drafts/{draft_id}/view-moved": "t",
    "GET /drafts/{draft_id}/sheet": "t",
    "POST /drafts/{draft_id}/drawing": "t",
    "POST /drafts/{draft_id}/order": "t",
    "GET /drafts/{draft_id}/sheet.pdf": "t",
    "GET /classes/{class_id}/exercises/{version_id}/bench": "sc",
    "POST /classes/{class_id}/exercises/{version_id}/bench": "sc",
    "GET /benches/{bench_id}": "sth",
    "GET /benches/{bench_id}/parts.json": "sth",
    "GET /benches/{bench_id}/state": "sth",
    "GET /benches/{bench_id}/doing": "sth",
    "GET /benches/{bench_id}/hint": "sth",
    "POST /benches/{bench_id}/steps": "s",
    "POST /benches/{bench_id}/drag": "sth",
    "POST /benches/{bench_id}/nudge": "sth",
    "POST /benches/{bench_id}/hand-in": "s",
    "POST /benches/{bench_id}/notes": "th",
    "POST /benches/{bench_id}/apart": "sth",
    "GET /benches/{bench_id}/apart": "sth",
    "GET /benches/{bench_id}/apart.pdf": "sth",
    "GET /benches/{bench_id}/build.zip": "sth",
    "POST /benches/{bench_id}/build.step": "sth",
    "GET /benches/{bench_id}/build.step": "sth",
    "POST /benches/{bench_id}/ways": "sth",
    "GET /benches/{bench_id}/ways": "sth",
    "POST /builds/{build_id}/bench": "th",
    "GET /benches/{bench_id}/build.gltf": "sth",
    "GET /benches/{bench_id}/urdf.zip": "sth",
    "GET /drafts/{draft_id}/values.csv": "t",
    "POST /drafts/{draft_id}/values": "t",
    "POST /drafts/{draft_id}/release": "t",
    "GET /drafts/{draft_id}/bundle.zip": "t",
    "GET /drafts/{draft_id}/scene.json": "t",
    "GET /classes": "toha",
    "POST /classes": "toha",
    "GET /classes/{class_id}": "th",
    "GET /classes/{class_id}/people": "t",
    "GET /classes/{class_id}/room": "th",
    "GET /classes/{class_id}/log": "th",
    "GET /classes/{class_id}/marks.{ending}": "th",
    "GET /classes/{class_id}/marks-by-student.{ending}": "th",
    "GET /classes/{class_id}/exercises/{version_id}/marks-by-check.{ending}": "th",
    "GET /classes/{class_id}/insight": "th",
    "GET /classes/{class_id}/students/{student_id}/report.pdf": "t",
    "POST /classes/{class_id}/exercises/{version_id}/students": "t",
    "POST /classes/{class_id}/exercises/{version_id}/groups": "t",
    "POST /classes/{class_id}/exercises/{version_id}/groups/as": "t",
    "GET /classes/{class_id}/class.zip": "t",
    "POST /classes/read": "toha",
    "GET /classes/{class_id}/one-roster.zip": "th",
    "GET /classes/{class_id}/plan": "th",
    "POST /classes/{class_id}/plan/lessons": "t",
    "POST /classes/{class_id}/plan/lessons/{lesson_id}": "t",
    "POST /classes/{class_id}/plan/lessons/{lesson_id}/move": "t",
    "POST /classes/{class_id}/plan/exercises/{version_id}": "t",
    "POST /classes/{class_id}/plan/rates": "t",
    "POST /classes/{class_id}/calendar": "t",
    "GET /calendar/{key}.ics": "nsctoha",
    "POST /classes/{class_id}/next-year": "t",
    "GET /classes/{class_id}/insight/teach": "th",
    "GET /classes/{class_id}/insight/likeness": "t",
    "GET /classes/{class_id}/insight/slips.csv": "th",
    "GET /classes/{class_id}/insight/heat.csv": "th",
    "GET /classes/{class_id}/insight/insight.json": "th",
    "POST /classes/{class_id}/insight/mend": "t",
    "POST /classes/{class_id}/students": "t",
    "POST /classes/{class_id}/teachers": "t",
    "POST /classes/{class_id}/code": "t",
    "POST /classes/{class_id}/settings": "t",
    "POST /classes/{class_id}/room/{student_id}/seen": "th",
    "POST /classes/{class_id}/students/{student_id}/erase": "t",
    "GET /classes/{class_id}/students/{student_id}/record.zip": "t",
    "GET /classes/{class_id}/exercises/{version_id}": "t",
    "POST /classes/{class_id}/exercises/{version_id}/terms": "t",
    "POST /classes/{class_id}/exercises/{version_id}/students/{student_id}": "t",
    "POST /classes/{class_id}/exercises/{version_id}/return": "t",
    "POST /classes/{class_id}/exercises/{version_id}/checks/{check_id}/withdraw": "t",
    "POST /classes/{class_id}/exercises/{version_id}/try": "t",
    "POST /classes/{class_id}/exercises/{version_id}/apply": "t",
    "GET /classes/{class_id}/exercises/{version_id}/sheet": "scth",
    "GET /classes/{class_id}/exercises/{version_id}/sheet.pdf": "scth",
    "GET /classes/{class_id}/exercises/{version_id}/supplied.zip": "scth",
    "GET /classes/{class_id}/exercises/{version_id}/hand-in": "sc",
    "POST /classes/{class_id}/exercises/{version_id}/hand-in": "sc",
    "GET /builds/{build_id}": "sth",
    "GET /builds/{build_id}/look": "s",
    "GET /builds/{build_id}/look/progress": "s",
    "GET /builds/{build_id}/look/scene.json": "s",
    "GET /builds/{build_id}/mates": "s",
    "POST /builds/{build_id}/mates": "s",
    "POST /builds/{build_id}/hand-in": "s",
    "POST /builds/{build_id}/check": "s",
    "GET /builds/{build_id}/progress": "sth",
    "GET /builds/{build_id}/card.pdf": "sth",
    "GET /builds/{build_id}/files/{file_id}": "sth",
    "GET /builds/{build_id}/mark": "th",
    "GET /builds/{build_id}/scene.json": "th",
    "POST /builds/{build_id}/checks/{check_id}": "th",
    "POST /builds/{build_id}/checks/{check_id}/question": "s",
    "POST /builds/{build_id}/checks/{check_id}/hand": "s",
    "POST /builds/{build_id}/questions/{question_id}": "th",
    "POST /builds/{build_id}/undo/{batch}": "th",
    "POST /builds/{build_id}/return": "th",
    # these sign somebody out or take something away: last
    "POST /drafts/{draft_id}/weights": "t",
    "POST /drafts/{draft_id}/drop": "t",
    "POST /classes/{class_id}/students/{student_id}/password": "t",
    "POST /accounts/{user_id}/password": "ta",
    "POST /classes/{class_id}/sign-in-cards": "t",
    "POST /classes/{class_id}/students/{student_id}/leave": "t",
    "POST /classes/{class_id}/archive": "t",
}
#: What ends a draft, an account, a password or a class that the others still need.
ENDINGS = {
    "POST /accounts/{user_id}/erase",
    "POST /accounts/{user_id}/password",
    "POST /changes/{change_id}/drop",
    "POST /classes/{class_id}/archive",
    "POST /classes/{class_id}/sign-in-cards",
    "POST /classes/{class_id}/students/{student_id}/leave",
    "POST /classes/{class_id}/students/{student_id}/password",
    "POST /drafts/{draft_id}/drop",
}
#: What is said to those who may, where a check, question, file or card of these names is not there.
_NOT_THERE = (
    "no such check", "no such version", "no such question", "no such file", "no card to print", "no such teacher",
    "no such cards", "no such lesson", "none at this address", "no card was returned", "it was taken already",
    "no such passkey", "this school has none", "took too long, or is done", "no such course",
    "no such printout", "no such job", "no such session", "nothing is driven", "its assembly is not drawn",
)  # fmt: skip
VISITORS = {
    "n": None, "s": people.STUDENT, "c": people.CLASSMATE, "t": people.TEACHER, "o": people.OTHER_TEACHER,
    "h": people.ASSISTANT, "a": people.ADMINISTRATOR,
}  # fmt: skip


def routes() -> list[str]:
    app = create_app(Settings(database_url="postgresql://nobody@127.0.0.1:1/none"))
    return [f"{method} {route.path}" for route in _api_routes(app) for method in sorted(route.methods or ())]


def _api_routes(app: object) -> Iterator[APIRoute]:
    stack = list(app.routes)  # type: ignore[attr-defined]  # FastAPI's list of routes, included routers within it
    while stack:
        route = stack.pop()
        if isinstance(route, APIRoute):
            yield route
        else:
            stack += getattr(route, "routes", None) or getattr(getattr(route, "original_router", None), "routes", [])


@pytest.fixture(scope="module")
def build_id(database: Database, school: School) -> int:
    with database.session() as session:
        build = build_queries.add_build(
            session,
            class_id=school.class_id,
            version_id=school.version_id,
            student_id=school.student_id,
            files={"a": b""},
        )
        report = {"exercise": "e", "awarded": 0, "available": 0, "percent": 0, "stage": "", "checks": []}
        work_queries.finish_measuring(
            session, build.id, version_id=school.version_id, engine_version="1", report=report
        )
        return build.id


@pytest.fixture(scope="module")
def draft_id(database: Database, school: School) -> int:
    """A draft of the class's teacher."""
    with database.session() as session:
        made = draft_queries.add_draft(
            session, teacher_id=school.teacher_id, title="Draft", source_name="a.step", source=b""
        )
        return made.id


@pytest.fixture(scope="module")
def change_id(database: Database, school: School) -> int:
    """A change of sizes of the class's teacher."""
    with database.session() as session:
        return draft_queries.add_change(
            session, teacher_id=school.teacher_id, version_id=school.version_id, sizes=[]
        ).id


@pytest.fixture(scope="module")
def bench_id(database: Database, school: School) -> int:
    """A bench of the student, on which nothing lies yet."""
    with database.session() as session:
        mine = {"class_id": school.class_id, "version_id": school.version_id, "student_id": school.student_id}
        return bench_queries.start_bench(session, **mine, files=None).id


@pytest.fixture(scope="module")
def guests() -> dict[str, Visitor]:
    """Visitors who are signed in already."""
    return {}


def test_the_table_names_every_route() -> None:
    assert set(routes()) == set(ALLOWED)


def values_of(school: School, *, build_id: int, draft_id: int, bench_id: int, change_id: int) -> dict[str, object]:
    """What stands in the paths of routes."""
    return {
        "class_id": school.class_id,
        "version_id": school.version_id,
        "build_id": build_id,
        "student_id": school.classmate_id,
        "user_id": school.classmate_id,
        "cards_id": 0,
        "list_id": 0,
        "printout_id": 0,
        "kind": "judged",
        "drill_kind": "work-it-out",
        "check_id": "none",
        "question_id": 0,
        "lesson_id": 0,
        "key": "none",
        "file_id": 0,
        "batch": "none",
        "draft_id": draft_id,
        "bench_id": bench_id,
        "change_id": change_id,
        "job_id": 0,
        "number": 0,
        "passkey_id": 0,
        "platform_id": 0,
        "course_id": 0,
        "token": "none",
        "part": "drawer",
        "name": "fits",
        "ending": "svg",
        "process": "printed",
        "action": "turn",
    }


@pytest.mark.parametrize("visitor", VISITORS)
@pytest.mark.parametrize("route", ALLOWED)
def test_each_visitor_gets_in_where_allowed_and_nowhere_else(
    address: str,
    school: School,
    build_id: int,
    draft_id: int,
    bench_id: int,
    change_id: int,
    guests: dict[str, Visitor],
    route: str,
    visitor: str,
) -> None:
    if route in ENDINGS and visitor in ALLOWED[route]:
        pytest.skip("it ends what others need: looked at in a school of its own")
    values = values_of(school, build_id=build_id, draft_id=draft_id, bench_id=bench_id, change_id=change_id)
    if route == "POST /sign-out" or visitor not in guests:
        guests[visitor] = signed_in(address, visitor)
    guest = guests.pop(visitor) if route == "POST /sign-out" else guests[visitor]
    assert_let_in(guest, route, values, may=visitor in ALLOWED[route])


def signed_in(address: str, visitor: str) -> Visitor:
    guest = Visitor(address, VISITORS[visitor])
    guest.get("/sign-in")  # so that a guest, too, has a token for forms
    return guest


def assert_let_in(guest: Visitor, route: str, values: dict[str, object], *, may: bool) -> None:
    """Go to a route: who may is let in, who may not is refused."""
    method, pattern = route.split()
    path = re.sub(r"{(\w+)}", lambda match: str(values[match[1]]), pattern)
    answer = guest.get(path) if method == "GET" else guest.post(path)
    was_sent_to_sign_in = answer.url.path == "/sign-in" and path not in ("/sign-in", "/sign-out")
    is_refused = (
        was_sent_to_sign_in
        or answer.status_code == 403
        or (answer.status_code == 404 and not any(words in answer.text for words in _NOT_THERE))
    )
    assert is_refused is not may, answer.text[:300]
    # that no worker lives here is no fault of the page that says so
    assert answer.status_code < 500 or path == "/readyz"


#: Forms of a course platform's page, which cannot have our token: held by a state in a cookie, and a nonce.
_FROM_PLATFORMS = {"/lti/login", "/lti/launch"}


def test_every_route_that_changes_something_checks_its_form() -> None:
    app = create_app(Settings(database_url="postgresql://nobody@127.0.0.1:1/none"))
    for route in _api_routes(app):
        if (route.methods or set()) - {"GET", "HEAD"} and route.path not in _FROM_PLATFORMS:
            assert check_form in [dependency.call for dependency in route.dependant.dependencies], route.path


@pytest.mark.parametrize("token", ["", "wrong", "ü"])
def test_a_form_without_the_sessions_token_changes_nothing(address: str, build_id: int, token: str) -> None:
    teacher = Visitor(address, people.TEACHER)
    answer = teacher.http.post(f"/builds/{build_id}/return", data={"csrf": token})
    assert answer.status_code == 403
    assert "out of date" in answer.text


def test_signing_in_changes_the_sessions_token_and_out_ends_it(address: str) -> None:
    guest = Visitor(address)
    guest.get("/sign-in")
    before = dict(guest.http.cookies)
    guest.post("/sign-in", data={"login": " OTTO ", "password": people.OTHER_TEACHER.password})
    after = dict(guest.http.cookies)
    assert before != after
    guest.post("/sign-out")
    guest.http.cookies.update(after)
    assert guest.get("/").url.path == "/sign-in"


def test_the_session_cookie_is_out_of_reach_of_scripts_and_other_sites(address: str) -> None:
    answer = Visitor(address).get("/sign-in")
    cookie = answer.headers["set-cookie"].lower()
    assert "httponly" in cookie
    assert "samesite=lax" in cookie


def test_a_wrong_password_says_so_and_keeps_the_name(address: str) -> None:
    guest = Visitor(address)
    guest.get("/sign-in")
    answer = guest.post("/sign-in", data={"login": "sam", "password": "nope"})
    assert answer.status_code == 422
    assert "do not go together" in answer.text
    assert 'value="sam"' in answer.text


def test_every_answer_carries_the_security_policy(address: str) -> None:
    for path in ("/sign-in", "/nowhere", "/static/app.css", "/builds/x"):
        policy = Visitor(address).get(path).headers["content-security-policy"]
        assert "script-src 'self'; style-src 'self'" in policy
        assert "unsafe" not in policy
