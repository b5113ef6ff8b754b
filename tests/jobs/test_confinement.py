"""What a measuring process cannot do that a hostile file has taken over, and what it still can."""

import os
import socket
from collections.abc import Iterator
from pathlib import Path

import pytest

from rigid_bench.jobs.confinement import available, without_secrets
from rigid_bench.jobs.sandbox import Sandbox

pytestmark = pytest.mark.skipif(
    not all(available().facts.values()), reason="this machine's Linux has neither Landlock nor seccomp"
)


@pytest.fixture(scope="module")
def confined() -> Iterator[Sandbox]:
    with Sandbox(tasks="tests.jobs", modules=["misbehaving"]) as sandbox:
        assert sandbox.wake().facts == {"files": True, "system_calls": True}
        yield sandbox


def attempt(confined: Sandbox, what: str, about: object = "") -> str:
    return str(confined.run("misbehaving.attempt", what, str(about), name=what))


def test_it_reads_nothing_of_the_schools_and_writes_nowhere_but_in_its_scratch(
    confined: Sandbox, tmp_path: Path
) -> None:
    secret = tmp_path / "rigid-bench.env"
    secret.write_text("RIGID_BENCH_DATABASE_URL=postgresql://a:geheim@b/c")
    secret.chmod(0o644)
    for what, about in (("read", secret), ("read", "/etc/passwd"), ("write", tmp_path / "x"), ("write", "/usr/x")):
        assert attempt(confined, what, about).startswith("refused"), (what, about)
    assert not (tmp_path / "x").exists()
    assert attempt(confined, "scratch", ".step") == "written"
    package = Path(__file__).parents[2] / "pyproject.toml"
    assert attempt(confined, "write", package).startswith("refused")


def test_it_opens_no_connection_and_starts_no_program(confined: Sandbox) -> None:
    with socket.create_server(("127.0.0.1", 0)) as listening:
        port = listening.getsockname()[1]
        assert attempt(confined, "connect", port) == "refused: Operation not permitted"
    assert attempt(confined, "run") == "refused: Operation not permitted"


def test_it_knows_no_password_of_the_database(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("RIGID_BENCH_DATABASE_URL", "postgresql://a:geheim@b/c")
    with without_secrets():
        assert "RIGID_BENCH_DATABASE_URL" not in os.environ
    assert os.environ["RIGID_BENCH_DATABASE_URL"].endswith("geheim@b/c"), "it is there again"


def test_neither_its_environment_nor_another_process_tells_it_one(confined: Sandbox) -> None:
    assert "RIGID_BENCH_" not in attempt(confined, "environment")
    assert attempt(confined, "environment of a process", os.getpid()).startswith("refused")
