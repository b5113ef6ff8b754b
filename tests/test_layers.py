"""Imports only go down, and the kernel stays in its folder."""

import ast
import graphlib
import subprocess
import sys
from collections import Counter
from functools import cache
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "rigid_bench"
MODULES = sorted(path for path in SOURCE.rglob("*.py") if "migrations" not in path.parts)

#: From the ground up. A module may import its own floor and those before it; the longest name that fits counts.
FLOORS = [
    {"core.values", "core.wording.language"},
    {"core.standards"},
    {"core.formats"},
    {"core.part"},
    {"core.kernel"},
    {"core.registration"},
    {"core.measurement"},
    {"core.assembly"},
    {"core.interchange"},
    {
        "core.wording",
        "core.assembly.contact.clearance_report",
        "core.measurement.measure_report",
        "core.interchange.convert",
    },
    {"core.exercise", "core.planning"},
    {"core.drawing"},
    {"core.exercise.authoring"},
    {"core.grading"},
    {"core.exercise.review", "core.exercise.change_impact"},
    {"core.bench", "core.insight", "core.marking", "core.practice"},
    {"languages", "settings", "logs", "processes", "store"},
    {"jobs.enqueue"},
    {"app"},
    {"jobs", "demo.people", "demo.modelling"},
    {"web"},
    {"demo", "sheet_files", "report_lines", "administration"},
    {"cli"},
]
#: A folder of more modules than this is hard to take in; kinds of check and migrations are lists, and may be long.
MOST_MODULES, LISTS = 15, {"checks", "versions"}
#: Lines of a function's body, and of a module.
LONGEST_BODY, LONGEST_MODULE = 50, 500
#: Letters of a template's line.
LONGEST_LINE = 140


@cache
def nodes_of(path: Path) -> tuple[ast.AST, ...]:
    """Return all nodes of a module, read once."""
    return tuple(ast.walk(ast.parse(path.read_text())))


@cache
def imports(path: Path) -> frozenset[str]:
    """Return what a module imports, by full names."""
    names = set[str]()
    for node in nodes_of(path):
        if isinstance(node, ast.Import):
            names |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom):
            assert not node.level, f"{path}: use absolute imports"
            assert node.module
            names |= {f"{node.module}.{alias.name}" for alias in node.names}
    return frozenset(names)


@cache
def floor(module: str) -> int:
    fitting = [
        (len(name), number)
        for number, names in enumerate(FLOORS)
        for name in names
        if module == name or module.startswith(f"{name}.")
    ]
    assert fitting, f"{module} is on no floor"
    return max(fitting)[1]


def name_of(path: Path) -> str:
    parts = path.relative_to(SOURCE).with_suffix("").parts
    return ".".join(parts[:-1] if parts[-1] == "__init__" else parts)


def test_imports_only_go_down() -> None:
    upwards = [
        f"{own} imports {name}"
        for path in MODULES
        if (own := name_of(path)) not in ("", "core", "demo")
        for name in imports(path)
        if name.startswith("rigid_bench.") and floor(name.removeprefix("rigid_bench.")) > floor(own)
    ]
    assert upwards == []


OUTSIDE = {"fastapi", "starlette", "jinja2", "sqlalchemy", "psycopg", "procrastinate", "time", "datetime", "random"}
#: Lots are drawn from a seed that is handed in; dates are values, and what time it is, is told.
ALLOWED = {
    "core.practice": "random",
    "core.marking": "datetime",
    "core.insight": "datetime",
    "core.planning": "datetime",
}


def test_the_core_knows_no_web_no_database_and_no_clock() -> None:
    reached = {
        own: outside
        for path in MODULES
        if (own := name_of(path)).startswith("core")
        if (
            outside := {name.split(".")[0] for name in imports(path)} & OUTSIDE
            - {library for room, library in ALLOWED.items() if own.startswith(room)}
        )
    }  # fmt: skip
    assert reached == {}


#: Libraries of the solid-modelling kernel, of triangles and of collisions.
KERNEL = {"OCP", "trimesh", "fcl", "manifold3d"}


def test_the_kernel_stays_in_its_folder() -> None:
    libraries = {name_of(path): {name.split(".")[0] for name in imports(path)} for path in MODULES}
    kernel = {own for own, names in libraries.items() if names & KERNEL}
    assert {own for own in kernel if not own.startswith("core.kernel")} == set()
    assert kernel, "the rule would hold for nothing"
    assert {own for own, names in libraries.items() if "build123d" in names and not own.startswith("demo")} == set()


def test_imports_go_in_no_circle() -> None:
    known = {name_of(path) for path in MODULES}
    below = {
        name_of(path): {
            target
            for name in imports(path)
            if name.startswith("rigid_bench.")
            for target in (name.removeprefix("rigid_bench."), name.removeprefix("rigid_bench.").rpartition(".")[0])
            if target in known and target != name_of(path)
        }
        for path in MODULES
    }
    graphlib.TopologicalSorter(below).prepare()  # raises CycleError, which names the modules


def test_folders_can_be_taken_in_at_a_glance() -> None:
    modules = [*MODULES, *Path(__file__).parent.rglob("*.py")]
    counts = Counter(path.parent for path in modules if path.name != "__init__.py" and path.parent.name not in LISTS)
    assert {str(folder): count for folder, count in counts.items() if count > MOST_MODULES} == {}


def test_functions_and_modules_stay_short() -> None:
    long = [name_of(path) for path in MODULES if len(path.read_text().splitlines()) > LONGEST_MODULE]
    for path in MODULES:
        for node in nodes_of(path):
            if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
                body = node.body[1:] if ast.get_docstring(node) else node.body
                length = (body[-1].end_lineno or 0) - body[0].lineno + 1 if body else 0
                long += [f"{name_of(path)}.{node.name} has {length} lines"] if length > LONGEST_BODY else []
    assert long == []


PAGES = [path for path in MODULES if name_of(path).startswith("web.pages")]


def test_pages_only_show() -> None:
    """What people do is done in `app`, for pages, jobs and commands alike: pages keep, log and queue nothing."""
    doing = {"rigid_bench.store.log.log", "rigid_bench.jobs.enqueue.enqueue"}
    assert PAGES
    assert [name_of(path) for path in PAGES if imports(path) & doing] == []
    assert {
        f"{name_of(path)}: session.{node.func.attr}"
        for path in PAGES
        for node in nodes_of(path)
        if isinstance(node, ast.Call)
        and isinstance(node.func, ast.Attribute)
        and isinstance(node.func.value, ast.Name)
        and node.func.value.id == "session"
        and node.func.attr in {"add", "add_all", "delete", "flush", "commit"}
    } == set()


def is_form_field(argument: ast.arg) -> bool:
    annotation = ast.unparse(argument.annotation) if argument.annotation else ""
    return "Form(" in annotation or annotation in {"FormId", "OpenCard", "_Text"}


def test_a_form_of_more_than_two_fields_is_a_model() -> None:
    fields = {
        f"{name_of(path)}.{node.name}": [argument.arg for argument in node.args.args if is_form_field(argument)]
        for path in PAGES
        for node in nodes_of(path)
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef) and node.decorator_list
    }
    assert any(fields.values())
    assert {page: names for page, names in fields.items() if len(names) > 2} == {}


#: The kernel, the mesh and collision libraries, and what else is slow to load and needed by few.
HEAVY = ("OCP", "trimesh", "fcl", "manifold3d", "shapely", "scipy.spatial", "weasyprint", "build123d")


@pytest.mark.thorough
@pytest.mark.parametrize(
    "module",
    [
        "web.app",
        "web.server",
        "store.queries.build_queries",
        "jobs.enqueue",
        "jobs.worker",
        "cli",
        "core.assembly.freedom.freedom_report",
    ],
)
def test_what_needs_no_geometry_loads_no_kernel(module: str) -> None:
    """In a fresh process: what some other test has loaded does not count."""
    asked = f"import sys, rigid_bench.{module}; print([name for name in {HEAVY!r} if name in sys.modules])"
    done = subprocess.run([sys.executable, "-c", asked], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"


@pytest.mark.thorough
@pytest.mark.parametrize("module", ["core.bench.suggest", "core.kernel.meshes.collision_meshes"])
def test_the_web_servers_own_geometry_loads_no_solid_modelling_kernel(module: str) -> None:
    """Contacts under a drag are looked for in the server: they need triangles, no solids."""
    asked = f"import sys, rigid_bench.{module}; print('OCP' in sys.modules)"
    done = subprocess.run([sys.executable, "-c", asked], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "False"


def test_a_local_is_named_for_what_it_holds() -> None:
    """And not `each` or `found`, which say nothing of it, nor by a picture that has to be explained."""
    riddles = {"each", "found", "handed", "laid", "lays", "rung", "shadows", "skin", "skins"}
    called = [
        f"{path.relative_to(ROOT)}:{node.lineno}"
        for folder in ("src", "tests", "benchmarks", "scripts")
        for path in sorted((ROOT / folder).rglob("*.py"))
        for node in nodes_of(path)
        if (isinstance(node, ast.Name) and isinstance(node.ctx, ast.Store) and node.id in riddles)
        or (isinstance(node, ast.arg) and node.arg in riddles)
        or (isinstance(node, ast.FunctionDef) and node.name in riddles)
    ]
    assert not called


def test_no_line_of_a_template_is_longer_than_a_page_is_wide() -> None:
    templates = sorted((SOURCE / "web" / "templates").glob("*.html"))
    long = [f"{path.name}:{k}" for path in templates for k, line in enumerate(path.read_text().split("\n"), 1)
            if len(line) > LONGEST_LINE]  # fmt: skip
    assert templates
    assert not long
