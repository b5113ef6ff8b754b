"""Whatever is typed into any form or address of the program, it answers; no answer is a fault of ours."""

import random
import re
from collections.abc import Iterator
from datetime import timedelta
from typing import Any
from urllib.parse import quote

import pytest
from fastapi import params
from fastapi.dependencies.models import Dependant
from fastapi.routing import APIRoute

from rigid_bench.core.formats.archive import read_zip
from rigid_bench.settings import Settings
from rigid_bench.store.database import Database
from rigid_bench.store.queries import (
    bench_queries,
    build_queries,
    draft_queries,
    exercise_queries,
    people_queries,
    work_queries,
)
from rigid_bench.web.app import create_app
from rigid_bench.web.forms import LARGEST_ID
from rigid_bench.web.security.access import COOKIE
from rigid_bench.web.security.passwords import digest
from tests.support.school import School, Visitor
from tests.web.security.test_access import _api_routes

#: Texts that programs stumble over: what no text has, digits that are no numbers, numbers that no column holds, times
#: that no calendar or no clock has, and what means something to SQL, HTML, JSON, paths and spreadsheets.
NASTY = (
    "\0", "a\0b", "²", "①", "9" * 20, "-1", "1e400", "nan", "-inf", "1_000", "٣", "0x10", "", " ", "a" * 3000, "'; --",
    "%", "\\", "<b>&", "{}", "[[", '{"id": "\\u0000", "kind": "dimension"}', "../x", "=1", "true", "0001-01-01T00:00",
    "9999-12-31T23:59", "2026-03-29T02:30", "2026-13-45", "\u202e", "é\u0301", "😀", "\x1b[2J", "\r\n", "None",
)  # fmt: skip
ROUNDS = 10


def all_routes() -> list[tuple[str, APIRoute]]:
    app = create_app(Settings(database_url="postgresql://nobody@127.0.0.1:1/none"))
    pairs = [(method, route) for route in _api_routes(app) for method in sorted(route.methods or ())]
    # those that take something away come last
    return sorted(pairs, key=lambda pair: bool(re.search("sign-out|drop|leave|erase|hand-over|disabled", pair[1].path)))


ROUTES = all_routes()


@pytest.fixture(scope="module")
def known(database: Database, school: School) -> dict[str, Any]:
    """Ids of things that are there, so that the fuzz comes past the doors."""
    mine: dict[str, Any] = {
        "class_id": school.class_id,
        "version_id": school.version_id,
        "student_id": school.student_id,
    }
    with database.session() as session:
        build = build_queries.add_build(session, **mine, files={"a": b""})
        check = {
            "id": "bore", "title": "Bore", "kind": "dimension", "verdict": "missed", "awarded": 0, "available": 2,
            "required": "8", "measured": "4",
        }  # fmt: skip
        report = {"exercise": "e", "awarded": 0, "available": 2, "percent": 0, "stage": "", "checks": [check]}
        work_queries.finish_measuring(
            session, build.id, version_id=school.version_id, engine_version="1", report=report
        )
        draft = draft_queries.add_draft(
            session, teacher_id=school.teacher_id, title="D", source_name="a.step", source=b""
        )
        version = exercise_queries.version(session, school.version_id)
        draft_queries.keep_bundle(session, draft, read_zip(version.bundle, name="exercise"))
        draft.state = "ready"
        bench = bench_queries.start_bench(session, **mine, files=None)
        return {
            **mine, "build_id": build.id, "draft_id": draft.id, "bench_id": bench.id, "check_id": "bore",
            "user_id": school.classmate_id, "part": "drawer", "process": "printed", "action": "turn",
            "student_id": school.classmate_id,
        }  # fmt: skip


@pytest.fixture(scope="module")
def visitor(address: str) -> Iterator[Visitor]:
    visitor = Visitor(address)
    visitor.http.follow_redirects = False
    visitor.get("/sign-in")
    yield visitor
    visitor.http.close()


def sign_in_as(visitor: Visitor, database: Database, user_id: int) -> None:
    """Sign somebody in past the form: the fuzz changes passwords and ends sessions."""
    token = visitor.http.cookies.get(COOKIE) or ""
    with database.session() as session:
        people_queries.end_sign_in(session, digest(token))
        people_queries.start_sign_in(session, user_id=user_id, token_hash=digest(token), lasts=timedelta(hours=1))


def fields_of(dependant: Dependant, *kinds: str) -> list[Any]:
    """List the fields that a route and what it depends on take."""
    own = [field for kind in kinds for field in getattr(dependant, kind)]
    return own + [field for needed in dependant.dependencies for field in fields_of(needed, *kinds)]


def values_of(route: APIRoute, chosen: random.Random) -> tuple[dict[str, str], dict[str, str], dict[str, bytes]]:
    """Draw a value for each field of a route's form, of its address, and each file."""
    form, files = {}, {}
    for field in fields_of(route.dependant, "body_params"):
        if isinstance(field.field_info, params.File):
            files[field.alias] = chosen.choice(NASTY).encode()
        elif field.alias not in ("csrf", "once"):
            form[field.alias] = chosen.choice(NASTY)
    return form, {field.alias: chosen.choice(NASTY) for field in fields_of(route.dependant, "query_params")}, files


def filled(path: str, given: dict[str, Any]) -> str:
    return re.sub(r"{(\w+)}", lambda match: quote(str(given.get(match[1], 0)), safe=""), path)


@pytest.mark.parametrize(("method", "route"), ROUTES, ids=lambda value: value if isinstance(value, str) else value.path)
def test_no_input_is_a_fault(
    visitor: Visitor, database: Database, school: School, known: dict[str, Any], method: str, route: APIRoute
) -> None:
    chosen = random.Random(f"{method} {route.path}")
    people = (school.teacher_id, school.student_id, school.administrator_id)
    for number in range(ROUNDS):
        sign_in_as(visitor, database, people[number % 3 if number < 6 else 0])
        form, query, files = values_of(route, chosen)
        is_known = number % 4 < 3
        given = known if is_known else {name: chosen.choice(NASTY) for name in known}
        path = filled(route.path, given)
        address = f"{path}?{'&'.join(f'{name}={quote(value)}' for name, value in query.items())}"
        if method == "GET":
            answer = visitor.get(address)
        else:
            sent = {name: ("a.json", content) for name, content in files.items()}
            answer = visitor.post_form(address, form, sent)
        assert answer.status_code < 500 or route.path == "/readyz", (form, query, answer.text[:500])


def test_every_whole_number_that_comes_from_outside_fits_the_database() -> None:
    for _, route in ROUTES:
        for field in fields_of(route.dependant, "body_params", "query_params", "path_params"):
            if field.field_info.annotation is int:
                limits = [limit.le for limit in field.field_info.metadata if hasattr(limit, "le")]
                assert limits, f"{route.path}: {field.alias} has no upper limit"
                assert max(limits) <= LARGEST_ID, f"{route.path}: {field.alias}"
