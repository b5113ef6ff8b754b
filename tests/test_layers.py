"""Imports only go down, and the kernel stays in its folder."""

import ast
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

SOURCE = Path(__file__).parents[1] / "src" / "rigid_bench"
MODULES = sorted(path for path in SOURCE.rglob("*.py") if "migrations" not in path.parts)

#: From the ground up. A module may import its own floor and those before it.
FLOORS = [
    {"core.errors", "core.tolerance", "core.names", "core.frames", "core.feature", "core.units"},
    {"core.documents", "core.archive", "core.standards"},
    {"core.geometry"},
    {"core.assembly"},
    {"core.exercise"},
    {"core.grading"},
    {"core.bench"},
    {"settings", "logs", "store"},
    {"jobs", "demo.people", "demo.modelling"},
    {"web"},
    {"demo"},
    {"cli"},
]
#: Of the assembly, these are pure mathematics and must never load the kernel.
PURE = ["assembly/build", "assembly/mates", "assembly/system", "assembly/solve", "assembly/freedom", "assembly/motions"]


def imports(path: Path) -> Iterator[str]:
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names)
        elif isinstance(node, ast.ImportFrom):
            assert not node.level, f"{path}: use absolute imports"
            assert node.module
            yield from (f"{node.module}.{alias.name}" for alias in node.names)


def floor(module: str) -> int:
    found = [
        (len(name), number)
        for number, names in enumerate(FLOORS)
        for name in names
        if module == name or module.startswith(f"{name}.")
    ]
    assert found, f"{module} is on no floor"
    return max(found)[1]


def name_of(path: Path) -> str:
    parts = path.relative_to(SOURCE).with_suffix("").parts
    return ".".join(parts[:-1] if parts[-1] == "__init__" else parts)


@pytest.mark.parametrize("path", MODULES, ids=name_of)
def test_imports_only_go_down(path: Path) -> None:
    own = name_of(path)
    if own in ("", "core", "demo"):
        return
    for name in imports(path):
        if name.startswith("rigid_bench."):
            assert floor(name.removeprefix("rigid_bench.")) <= floor(own), f"{own} imports {name}"


@pytest.mark.parametrize("path", MODULES, ids=name_of)
def test_the_core_knows_no_web_no_database_and_no_clock(path: Path) -> None:
    outside = {"fastapi", "starlette", "jinja2", "sqlalchemy", "psycopg", "procrastinate", "time", "datetime", "random"}
    if name_of(path).startswith("core"):
        assert not {name.split(".")[0] for name in imports(path)} & outside


@pytest.mark.parametrize("path", MODULES, ids=name_of)
def test_the_kernel_appears_only_where_geometry_is(path: Path) -> None:
    own = name_of(path)
    found = {name.split(".")[0] for name in imports(path)}
    if not own.startswith("core.geometry"):
        # these pass shapes on by their type, and do nothing with them themselves
        allowed = {"OCP"} if own in ("core.assembly.clearance", "core.exercise.sheet") else set()
        assert not ({"OCP"} & found) - allowed
    if not own.startswith("demo"):
        assert "build123d" not in found


@pytest.mark.parametrize("name", PURE)
def test_freedom_is_pure_mathematics(name: str) -> None:
    assert not [
        each for each in imports(SOURCE / "core" / f"{name}.py") if "geometry" in each or each.startswith("OCP")
    ]


#: The kernel, the mesh and collision libraries, and what else is slow to load and needed by few.
HEAVY = ("OCP", "trimesh", "fcl", "manifold3d", "shapely", "scipy.spatial", "weasyprint", "build123d")


@pytest.mark.parametrize(
    "module",
    ["web.app", "web.server", "store.queries", "jobs.tasks", "jobs.worker", "cli", "core.assembly.freedom_report"],
)
def test_what_needs_no_geometry_loads_no_kernel(module: str) -> None:
    """In a fresh process: what some other test has loaded does not count."""
    asked = f"import sys, rigid_bench.{module}; print([name for name in {HEAVY!r} if name in sys.modules])"
    done = subprocess.run([sys.executable, "-c", asked], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"
