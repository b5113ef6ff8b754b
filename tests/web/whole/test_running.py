"""How it runs: what administrators see and do, what watchers are told, ids of requests, headers by HTTPS."""

import asyncio
import io
import json
import sys
from collections.abc import Callable, Coroutine, Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import httpx2
import pytest
from axe_playwright_python.sync_playwright import Axe
from fastapi import FastAPI
from playwright.sync_api import Browser, Page
from prometheus_client.parser import text_string_to_metric_families
from sqlalchemy import text, update

from rigid_bench.logs import set_up_logs
from rigid_bench.settings import Settings
from rigid_bench.store.backup import write_backup
from rigid_bench.store.database import Database
from rigid_bench.store.log import search_log
from rigid_bench.store.queries import people_queries
from rigid_bench.store.tables import SignIn
from rigid_bench.web.app import create_app
from rigid_bench.web.security.access import COOKIE, HOST_COOKIE
from rigid_bench.web.security.passwords import form_token
from tests.support import school as people
from tests.support.school import School, Visitor, sign_in
from tests.support.windows import window


class Client:
    """Asks an application in this process, by any scheme and from any address; keeps cookies."""

    def __init__(self, app: FastAPI, base_url: str, *, came_from: str = "127.0.0.1", prefix: str = "") -> None:
        transport = httpx2.ASGITransport(app=app, client=(came_from, 1), root_path=prefix)
        self._client = httpx2.AsyncClient(transport=transport, base_url=base_url)
        self.cookies = self._client.cookies

    def get(self, path: str, **headers: str) -> httpx2.Response:
        return self._done(self._client.get(path, headers=headers))

    def post(self, path: str, form: dict[str, str]) -> httpx2.Response:
        return self._done(self._client.post(path, data=form))

    def _done(self, asked: Coroutine[Any, Any, httpx2.Response]) -> httpx2.Response:
        # in a thread of its own: the browser's loop may run in this one
        with ThreadPoolExecutor(1) as pool:
            return pool.submit(asyncio.run, asked).result()


@pytest.fixture
def make_app(database: Database) -> Iterator[Callable[..., FastAPI]]:
    """Make applications on the module's database, with settings of their own."""
    made: list[FastAPI] = []

    def make(**given: Any) -> FastAPI:
        made.append(create_app(Settings(database_url=database.url, allowed_hosts="bench.example", **given)))
        return made[-1]

    yield make
    for app in made:
        app.state.database.close()


@pytest.fixture
def administrator(browser: Browser, address: str, school: School) -> Iterator[Page]:
    with window(browser) as page:
        sign_in(page, address, people.ADMINISTRATOR)
        yield page


def test_backups_sessions_storage_and_settings_are_seen_and_accessible(
    administrator: Page, address: str, database: Database, tmp_path: Path
) -> None:
    administrator.goto(f"{address}/school")
    administrator.get_by_role("link", name="How it runs").click()
    assert "None was written yet" in administrator.content()
    write_backup(database.url, tmp_path / "nightly")
    administrator.reload()
    shown = administrator.inner_text("main")
    assert "nightly" in shown
    assert "RIGID_BENCH_SESSION_HOURS=12" in shown
    assert "(set)@127.0.0.1" in shown
    assert Axe().run(administrator).response["violations"] == []
    administrator.get_by_role("link", name="The log").click()
    assert Axe().run(administrator).response["violations"] == []


def test_somebodys_session_is_ended(address: str, database: Database, school: School) -> None:
    student, administrator = Visitor(address, people.STUDENT), Visitor(address, people.ADMINISTRATOR)
    with database.session() as session:
        number = people_queries.open_sign_ins(session, user_id=school.student_id)[0].number
    assert administrator.post(f"/school/sessions/{number}/end").status_code == 200
    assert student.get("/").url.path == "/sign-in"
    assert administrator.post(f"/school/sessions/{number}/end").status_code == 404


def test_a_job_that_was_given_up_is_tried_again(address: str, database: Database, school: School) -> None:
    with database.session() as session:
        job = session.scalar(
            text("""
                insert into procrastinate_jobs (queue_name, task_name, args, status, attempts)
                values ('default', 'grade_build', '{"build_id": 99}', 'failed', 4) returning id
            """)
        )
    administrator = Visitor(address, people.ADMINISTRATOR)
    assert "build_id 99" in administrator.get("/school/running").text
    assert administrator.post(f"/school/jobs/{job}/retry").status_code == 200
    with database.session() as session:
        row = session.execute(text("select status::text, attempts from procrastinate_jobs where id = :id"), {"id": job})
        assert tuple(row.one()) == ("todo", 0)
        session.execute(text("delete from procrastinate_jobs where id = :id"), {"id": job})
    assert administrator.post(f"/school/jobs/{job}/retry").status_code == 404


def test_the_log_is_searched_and_given_out(address: str, database: Database, school: School) -> None:
    Visitor(address, people.STUDENT)
    wrong = Visitor(address)
    wrong.get("/sign-in")
    wrong.post("/sign-in", data={"login": people.STUDENT.login, "password": "not this"})
    administrator = Visitor(address, people.ADMINISTRATOR)
    both = administrator.get(f"/school/log?who={people.STUDENT.login}").text
    assert f"{people.STUDENT.name} signed in" in both
    assert f"refused a wrong password for {people.STUDENT.name}" in both
    one = administrator.get("/school/log?action=sign-in-refused").text
    assert "signed in" not in one.split('aria-label="Entries"')[1]
    assert "Nothing of this kind" in administrator.get("/school/log?who=nobody").text
    assert "Nothing of this kind" in administrator.get("/school/log?until=2020-01-01").text
    lines = administrator.get(f"/school/log.csv?who={people.STUDENT.login}&action=signed-in").text.splitlines()
    assert lines[0].endswith("time,who,action,about,class,words")
    assert all(f",{people.STUDENT.login},signed-in," in line for line in lines[1:])
    with database.session() as session:
        entries, _ = search_log(session, action="sign-in-refused")
        assert "not this" not in json.dumps([entry.params for entry in entries])


def test_a_session_that_is_not_used_ends_after_its_time(
    database: Database, school: School, make_app: Callable[..., FastAPI]
) -> None:
    app = make_app(idle_minutes=30)
    client = Client(app, "http://bench.example")
    client.get("/sign-in")
    form = {"login": people.STUDENT.login, "password": people.STUDENT.password}
    client.post("/sign-in", {**form, "csrf": form_token(client.cookies[COOKIE])})
    assert client.get("/").status_code == 200
    with database.session() as session:
        session.execute(update(SignIn).values(used_at=text("now() - interval '31 minutes'")))
    assert client.get("/").status_code == 303


@pytest.mark.usefixtures("school")
def test_by_https_the_cookie_is_this_hosts_alone_and_browsers_stay_with_https(
    make_app: Callable[..., FastAPI],
) -> None:
    app = make_app()
    client = Client(app, "https://bench.example")
    answer = client.get("/sign-in")
    cookie = answer.headers["set-cookie"]
    assert cookie.startswith(f"{HOST_COOKIE}=")
    assert all(words in cookie for words in ("Secure", "HttpOnly", "Path=/", "SameSite=lax"))
    assert "Domain" not in cookie
    assert answer.headers["strict-transport-security"].startswith("max-age=31536000")
    client = Client(app, "http://bench.example")
    plain = client.get("/sign-in")
    assert plain.headers["set-cookie"].startswith(f"{COOKIE}=")
    assert "strict-transport-security" not in plain.headers


#: The OWASP Secure Headers Project's list of headers to be set (from memory).
OWASP = {
    "content-security-policy", "x-content-type-options", "x-frame-options", "referrer-policy",
    "cross-origin-opener-policy", "cross-origin-resource-policy", "cross-origin-embedder-policy",
    "permissions-policy", "x-permitted-cross-domain-policies",
}  # fmt: skip


@pytest.mark.parametrize("path", ["/sign-in", "/healthz", "/static/app.css", "/nowhere"])
def test_every_answer_has_the_headers_and_an_id(address: str, path: str) -> None:
    visitor = Visitor(address)
    answer = visitor.get(path)
    assert set(answer.headers) >= OWASP
    assert len(answer.headers["x-request-id"]) == 16
    own = visitor.http.get(path, headers={"X-Request-ID": "proxy-12345"})
    assert own.headers["x-request-id"] == "proxy-12345"
    assert visitor.http.get(path, headers={"X-Request-ID": "a b\x7f"}).headers["x-request-id"] != "a b\x7f"


@pytest.mark.usefixtures("school")
def test_under_a_path_of_a_reverse_proxy_every_address_has_it(make_app: Callable[..., FastAPI]) -> None:
    app = make_app()
    client = Client(app, "http://bench.example", prefix="/bench")
    shown = client.get("/sign-in").text
    addresses = [part.split('"')[0] for name in ("href", "src", "action") for part in shown.split(f'{name}="')[1:]]
    assert addresses
    assert all(own.startswith(("http://bench.example/bench/", "#")) for own in addresses), addresses


def test_what_is_counted_is_read_by_the_library_and_told_to_watchers_alone(
    database: Database, school: School, make_app: Callable[..., FastAPI]
) -> None:
    client = Client(make_app(metrics_token="watch-me"), "http://bench.example")
    client.get("/sign-in")
    client.get("/classes/12345")
    assert client.get("/metrics").status_code == 403
    assert client.get("/metrics", authorization="Bearer wrong").status_code == 403
    answer = client.get("/metrics", authorization="Bearer watch-me")
    families = {own.name: own for own in text_string_to_metric_families(answer.text)}
    counted = {
        (own.labels["route"], own.labels["status"]): own.value
        for own in families["rigid_bench_requests"].samples
        if own.name.endswith("_total")
    }
    assert counted["/sign-in", "200"] == 1
    assert not any("12345" in route for route, _ in counted)
    assert families["rigid_bench_live_workers"].samples[0].value == 0
    assert families["rigid_bench_oldest_job_seconds"].samples[0].value >= 0
    app = make_app()
    for came_from, status in (("127.0.0.1", 200), ("192.0.2.7", 403)):
        assert Client(app, "http://bench.example", came_from=came_from).get("/metrics").status_code == status


def test_logs_as_json_have_the_requests_id_and_nobodys_data(
    school: School, monkeypatch: pytest.MonkeyPatch, make_app: Callable[..., FastAPI]
) -> None:
    written = io.StringIO()
    monkeypatch.setattr(sys, "stderr", written)
    app = make_app(log_format="json")
    client = Client(app, "http://bench.example")
    client.get("/calendar/secret-key-of-a-calendar.ics", **{"X-Request-ID": "proxy-12345"})
    set_up_logs()
    [line] = [json.loads(line) for line in written.getvalue().splitlines() if '"request"' in line]
    assert (line["request"], line["route"], line["status"], line["method"]) == (
        "proxy-12345", "/calendar/{key}.ics", 404, "GET",
    )  # fmt: skip
    assert "secret-key" not in written.getvalue()
