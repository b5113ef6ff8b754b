"""Addresses of pages are looked up once, and are those of the framework."""

from typing import Any

import pytest
from fastapi import FastAPI, Request
from starlette.routing import NoMatchFound

from rigid_bench.settings import Settings
from rigid_bench.web.addresses import address_of
from rigid_bench.web.app import create_app


@pytest.fixture(scope="module")
def app() -> FastAPI:
    return create_app(Settings(database_url="postgresql://nobody@127.0.0.1:1/none"))


def request(app: FastAPI, *, host: str = "bench.example", scheme: str = "https") -> Request:
    scope = {
        "type": "http", "method": "GET", "path": "/", "query_string": b"", "root_path": "", "scheme": scheme,
        "server": (host, 443), "headers": [(b"host", host.encode())], "app": app, "router": app.router,
    }  # fmt: skip
    return Request(scope)


@pytest.mark.parametrize(
    ("name", "values", "path"),
    [
        ("home", {}, "/"),
        ("card", {"build_id": 7}, "/builds/7"),
        ("assignment", {"class_id": 3, "version_id": 12}, "/classes/3/exercises/12"),
        ("marks_list", {"class_id": 3, "ending": "csv"}, "/classes/3/marks.csv"),
        ("static", {"path": "vendor/htmx.js"}, "/static/vendor/htmx.js"),
    ],
)
def test_an_address_is_the_frameworks_the_first_time_and_again(
    app: FastAPI, name: str, values: dict[str, Any], path: str
) -> None:
    own = request(app)
    for _ in range(2):
        assert (
            str(address_of(own, name, **values)) == str(own.url_for(name, **values)) == f"https://bench.example{path}"
        )


def test_each_request_has_its_own_host_and_each_page_its_own_values(app: FastAPI) -> None:
    assert str(address_of(request(app, host="one.example"), "card", build_id=1)) == "https://one.example/builds/1"
    assert str(address_of(request(app, scheme="http"), "card", build_id=2)) == "http://bench.example/builds/2"


@pytest.mark.parametrize(("name", "values"), [("nowhere", {}), ("card", {}), ("card", {"class_id": 1})])
def test_what_no_route_is_called_is_no_address(app: FastAPI, name: str, values: dict[str, Any]) -> None:
    with pytest.raises(NoMatchFound):
        address_of(request(app), name, **values)


def test_applications_of_a_process_share_what_was_worked_out_of_routes() -> None:
    one, other = (create_app(Settings(database_url=f"postgresql://nobody@127.0.0.1:{port}/none")) for port in (1, 2))
    assert one.state.path_patterns is not other.state.path_patterns
    assert [route for route in one.routes if route in other.routes]
