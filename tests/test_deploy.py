"""What installs and runs it elsewhere: units, pinned versions, containers; and the installer itself, on demand."""

import os
import re
import shutil
import subprocess
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest
import typer

from rigid_bench.cli import app
from rigid_bench.settings import Settings
from rigid_bench.store.cluster import free_port
from tests.support.patience import PATIENCE_S

ROOT = Path(__file__).parents[1]
DEPLOY = ROOT / "deploy"
LOCK = (ROOT / "requirements-run.lock").read_text()
UNITS = sorted((DEPLOY / "systemd").iterdir())


def pins(name: str) -> dict[str, str]:
    return dict(re.findall(r"^([a-z0-9.-]+)==(\S+)", (ROOT / name).read_text(), re.MULTILINE))


def test_an_installation_has_no_test_tools_and_the_versions_that_were_tested() -> None:
    tested, installed = pins("requirements.lock"), pins("requirements-run.lock")
    assert installed.items() <= tested.items()
    assert len(installed) > 50
    assert not {"pytest", "playwright", "hypothesis", "mypy", "ruff", "build123d", "mujoco"} & set(installed)
    digests = re.findall(r"^[a-z0-9.-]+==\S+ \\\n    --hash=sha256:[0-9a-f]{64}", LOCK, re.MULTILINE)
    assert len(digests) == len(installed), "run: make lock"
    for program in (DEPLOY / "install", DEPLOY / "Containerfile"):
        assert "--require-hashes" in program.read_text()
    assert {"fastapi", "cadquery-ocp-novtk", "psycopg", "prometheus-client"} <= set(installed)


@pytest.mark.parametrize("unit", UNITS, ids=lambda path: path.name)
def test_units_are_sound_and_call_commands_that_there_are(unit: Path, tmp_path: Path) -> None:
    text = unit.read_text()
    if called := re.search(r"ExecStart=\S+/rigid-bench (\S+)", text):
        assert called[1] in typer.main.get_command(app).commands  # type: ignore[attr-defined]  # a group has them
        assert "User=rigid-bench" in text
        assert "NoNewPrivileges=yes" in text
        assert "ProtectSystem=strict" in text
    if shutil.which("systemd-analyze"):
        own = tmp_path / unit.name
        # the program is not installed where tests run: what is checked is the unit
        own.write_text(re.sub(r"ExecStart=\S+/rigid-bench", "ExecStart=/bin/true", text))
        if unit.name.endswith(".timer"):
            service = unit.with_suffix(".service").read_text()
            (tmp_path / unit.with_suffix(".service").name).write_text(
                re.sub(r"ExecStart=\S+/rigid-bench", "ExecStart=/bin/true", service)
            )
        done = subprocess.run(["systemd-analyze", "verify", str(own)], capture_output=True, text=True, check=False)
        assert not [line for line in done.stderr.splitlines() if unit.name in line], done.stderr


def test_what_is_set_in_examples_are_settings() -> None:
    known = {f"RIGID_BENCH_{field.upper()}" for field in Settings.model_fields} | {"RIGID_BENCH_SETTINGS"}
    files = [path for path in DEPLOY.rglob("*") if path.is_file()] + [ROOT / "docs" / "installing.md"]
    used = {name for path in files for name in re.findall(r"RIGID_BENCH_[A-Z_]+", path.read_text())}
    assert used <= known
    assert len(used) > 5


def test_machines_that_run_it_need_what_machines_that_test_it_have() -> None:
    def packages(path: Path) -> set[str]:
        match = re.search(r'PACKAGES="([^"]*)"', path.read_text())
        assert match
        return set(match[1].split())

    tested, installed = packages(ROOT / "scripts" / "setup"), packages(DEPLOY / "install")
    assert {name for name in tested if name.startswith("lib") or "fonts" in name} <= installed
    assert "chromium" not in installed
    container = (DEPLOY / "Containerfile").read_text()
    assert all(name in container for name in installed if name.startswith("lib"))


@pytest.fixture
def trial(tmp_path: Path) -> Iterator[dict[str, str]]:
    """Folders, a user and a database of the trial's own; taken away afterwards."""
    place = Path("/opt") / f"rigid-bench-trial-{os.getpid()}"
    names = {
        "PREFIX": str(place / "opt"), "CONFIG": str(place / "etc"), "STATE": str(place / "var"),
        "UNITS": str(place / "units"), "USER_NAME": "rigid-bench-trial", "DATABASE": "rigid_bench_trial",
    }  # fmt: skip
    (place / "units").mkdir(parents=True)
    yield names
    for command in (["dropdb", "--if-exists"], ["dropuser", "--if-exists"]):
        subprocess.run(["runuser", "-u", "postgres", "--", *command, names["DATABASE"]], check=False)
    subprocess.run(["userdel", names["USER_NAME"]], check=False)
    shutil.rmtree(place)


@pytest.mark.skipif(
    os.environ.get("INSTALL_TRIAL") != "1" or os.geteuid() != 0,
    reason="on demand, as root, on a machine to spare: INSTALL_TRIAL=1",
)
def test_the_installer_makes_a_running_installation(trial: dict[str, str]) -> None:
    environment = {**os.environ, **trial}
    for _ in range(2):  # the second time it upgrades
        subprocess.run([str(DEPLOY / "install"), "bench.school.example"], env=environment, check=True, cwd="/")
    program = f"{trial['PREFIX']}/venv/bin/rigid-bench"
    as_user = [
        "runuser",
        "-u",
        trial["USER_NAME"],
        "--",
        "env",
        f"RIGID_BENCH_SETTINGS={trial['CONFIG']}/rigid-bench.env",
    ]
    port = free_port()
    commands = (["serve", "--port", str(port)], ["worker"])
    running = [subprocess.Popen([*as_user, program, *arguments], cwd="/") for arguments in commands]
    try:
        wait_until_ready(port)
        subprocess.run([*as_user, program, "backup", f"{trial['STATE']}/backups", "--keep", "3"], check=True, cwd="/")
        assert list(Path(trial["STATE"], "backups").iterdir())
    finally:
        subprocess.run(["pkill", "-f", trial["PREFIX"]], check=False)
        for process in running:
            process.wait(timeout=PATIENCE_S)


def wait_until_ready(port: int) -> None:
    end = time.monotonic() + PATIENCE_S
    while True:
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{port}/readyz", timeout=5):
                return
        except urllib.error.HTTPError as exc:  # no worker yet
            exc.close()
        except OSError:
            pass
        assert time.monotonic() < end
        time.sleep(1)
