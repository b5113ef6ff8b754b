"""What browsers keep, and how much of an answer travels."""

import re
from collections.abc import Iterator

import pytest
from httpx2 import Client

from rigid_bench.web.assets import STATIC


@pytest.fixture(scope="module")
def client(address: str) -> Iterator[Client]:
    with Client(base_url=address) as client:
        yield client


def addresses(client: Client) -> list[str]:
    return re.findall(r'(?:src|href)="([^"]*/static/[^"]*)"', client.get("/sign-in").text)


def test_each_file_is_addressed_by_its_content_and_kept(client: Client) -> None:
    listed = addresses(client)
    assert len(listed) > 5
    for address in listed:
        assert re.search(r"\?v=[0-9a-f]{16}$", address)
        answer = client.get(address)
        assert answer.status_code == 200
        assert answer.headers["cache-control"] == "public, max-age=31536000, immutable"


@pytest.mark.parametrize("query", ["", "?v=", "?v=0123456789abcdef", "?v=0123456789abcdef&v=1"])
def test_what_is_not_addressed_by_its_content_is_asked_for_again(client: Client, query: str) -> None:
    answer = client.get(f"/static/app.css{query}")
    assert (answer.status_code, answer.headers["cache-control"]) == (200, "no-cache")
    again = client.get(f"/static/app.css{query}", headers={"if-none-match": answer.headers["etag"]})
    assert (again.status_code, again.headers["cache-control"]) == (304, "no-cache")


def test_what_is_not_there_is_not_kept(client: Client) -> None:
    answer = client.get("/static/nothing.css?v=0123456789abcdef")
    assert answer.status_code == 404
    assert "immutable" not in answer.headers.get("cache-control", "")


def test_answers_travel_packed(client: Client) -> None:
    for address in ("/sign-in", "/static/app.css"):
        answer = client.get(address, headers={"accept-encoding": "gzip"})
        assert answer.headers["content-encoding"] == "gzip"
    plain = client.get("/static/app.css", headers={"accept-encoding": "identity"})
    assert "content-encoding" not in plain.headers
    assert plain.content == (STATIC / "app.css").read_bytes()
