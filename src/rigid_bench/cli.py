"""The command `rigid-bench`: measure, freedom, solve, clearance, grade, demo, serve, worker, add-teacher, ...

Exit codes: 0 done; 2 the input could not be used, with one line on standard error that
says where, what and what to do; 1 a fault of the program.
"""

import os
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from inspect import cleandoc
from pathlib import Path
from typing import Annotated, Any, Literal

import typer

from rigid_bench import administration
from rigid_bench.core.values.errors import RigidBenchError, UnreadableFile
from rigid_bench.core.wording.language import N_, NN_, _, translated, translated_number
from rigid_bench.languages import has_catalogue, speak_language
from rigid_bench.report_lines import (
    audit_lines,
    clearance_lines,
    freedom_lines,
    grade_lines,
    measure_lines,
    solve_lines,
)

app = typer.Typer(
    name="rigid-bench", add_completion=False, no_args_is_help=False, pretty_exceptions_enable=False, help=__doc__
)
app.add_typer(administration.app)
#: Typer's own class for a wrong call of a command; it does not export it by name.
_UsageError: Any = typer.BadParameter.__mro__[2]
_LARGEST = 200_000_000

Json = Annotated[bool, typer.Option("--json", help=N_("Print the report as JSON."))]
MeshUnit = Literal["mm", "cm", "m", "in", "ft"]


def main() -> None:
    """Run the command; every error of the user's becomes one line and exit code 2."""
    try:
        _speak()
        code = _spoken_commands()(standalone_mode=False)
    except RigidBenchError as exc:
        _fail(str(exc))
    except _UsageError as exc:
        _fail(_("rigid-bench: {problem} Try: rigid-bench --help", problem=exc.format_message()))
    except (BrokenPipeError, KeyboardInterrupt):
        sys.exit(130)
    except Exception as exc:  # a fault of ours: one line, and all of it for whoever asks
        if os.environ.get("RIGID_BENCH_TRACEBACK"):
            raise
        what = " ".join(f"{type(exc).__name__}: {exc}".split())
        print(
            _("rigid-bench: a fault of the program ({what}). Please report it with the file.", what=what),
            file=sys.stderr,
        )
        sys.exit(1)
    sys.exit(code if isinstance(code, int) else 0)


def _speak() -> None:
    """Speak the language of the environment: reading all settings takes as long as a quick command."""
    language = os.environ.get("RIGID_BENCH_LANGUAGE") or "en"
    if not has_catalogue(language):
        where, next_step = "RIGID_BENCH_LANGUAGE", _("`rigid-bench settings` explains each")
        raise RigidBenchError(where, _("there is no catalogue of '{language}'", language=language), next_step)
    speak_language(language)


def _spoken_commands() -> Any:
    """Return all commands, what their help says in the language that is spoken."""
    commands: Any = typer.main.get_command(app)
    for command in (commands, *commands.commands.values()):
        command.help = translated(cleandoc(command.help or ""))
        for parameter in command.params:
            parameter.help = translated(getattr(parameter, "help", None) or "")
    return commands


def _fail(line: str) -> None:
    print(" ".join(line.split()), file=sys.stderr)
    sys.exit(2)


@app.command()
def measure(
    file: Annotated[
        Path, typer.Argument(help=N_("A STEP, IGES or BREP file, or a mesh: STL, 3MF, OBJ, PLY, GLB, glTF or AMF."))
    ],
    units: Annotated[MeshUnit | None, typer.Option(help=N_("The unit of a mesh that does not say its own."))] = None,
    json: Json = False,
) -> None:
    """Measure a file of solids or a mesh: parts and their features, sizes, instances."""
    with _sandbox(_("Measuring {file}", file=_name(file)), "measuring", json) as run:
        report = run("measuring.measure_step", _read(file), _name(file), units, name=_name(file))
    _print(report, json, measure_lines)


@app.command()
def freedom(
    file: Annotated[Path, typer.Argument(help=N_("A build file."))],
    to: Annotated[
        str | None, typer.Option(help=N_("Say what can move relative to this instance, not to ground."))
    ] = None,
    json: Json = False,
) -> None:
    """Say what can still move in a build, and which mates are redundant or conflict."""
    from rigid_bench.core.assembly.freedom.freedom_report import freedom_report
    from rigid_bench.core.formats.build import read_build
    from rigid_bench.core.values.tolerance import Tolerance

    report = freedom_report(read_build(_build_of(file), name=_name(file)), to=to, tolerance=Tolerance())
    _print(report, json, freedom_lines, skip_none=True)


@app.command()
def solve(
    file: Annotated[Path, typer.Argument(help=N_("A build file."))],
    out: Annotated[Path | None, typer.Option("-o", help=N_("Where to write the build with its new poses."))] = None,
    json: Json = False,
) -> None:
    """Move the ungrounded instances the least so that all mates hold, and write the build with its new poses."""
    from rigid_bench.core.assembly.solve.solution import solve as solve_build
    from rigid_bench.core.assembly.solve.solve_report import placed_build, solve_report
    from rigid_bench.core.formats.build import read_build
    from rigid_bench.core.values.tolerance import Tolerance

    data = _build_of(file)
    build = read_build(data, name=_name(file))
    solution = solve_build(build, tolerance=Tolerance())
    placed = placed_build(data, build, solution)
    if out:
        _write(out, placed)
    elif not json:
        print(placed.decode(), end="")
        return
    _print(solve_report(solution), json, solve_lines)


@app.command()
def convert(
    file: Annotated[Path, typer.Argument(help=N_("A .build.json, .urdf, .sdf or .mjcf.xml file."))],
    out: Annotated[Path, typer.Option("-o", help=N_("What to write; its ending says which of them."))],
) -> None:
    """Convert a build to another description of mechanisms, or back."""
    from rigid_bench.core.interchange.convert import converted

    data = _read(file)
    written, notes = converted(data, name=_name(file), to=_name(out), measured=_measured_parts(file, data))
    _write(out, written)
    for note in notes:
        print(" ".join(note.split()), file=sys.stderr)


def _measured_parts(file: Path, data: bytes) -> dict[str, Any]:
    """Measure the parts' files that lie beside a build file, by part; those that cannot be read are left out."""
    from rigid_bench.core.formats.build import is_build, read_build

    if not is_build(data):
        return {}
    parts = read_build(data, name=_name(file)).parts
    paths = {part.file: file.parent / part.file.replace("\\", "/") for part in parts if part.file}
    reports: dict[str, Any] = {}
    with _sandbox(_("Measuring the parts of {file}", file=_name(file)), "measuring", json=False) as run:
        for name, path in paths.items():
            if path.is_file():
                # what cannot be read has a placeholder for its inertia, which is said
                with suppress(RigidBenchError):
                    reports[name] = run("measuring.measure_step", _read(path), _name(path), None, name=_name(path))
    measured_parts = {}
    for part in parts:
        models = reports[part.file].parts if part.file in reports else []
        own = next((model for model in models if part.product in (None, model.name, model.id)), None)
        if own is not None:
            measured_parts[part.id] = {"volume": own.volume, "centroid": own.centroid, "extents": own.extents}
    return measured_parts


def _build_of(file: Path) -> bytes:
    """Read a build file, or another description of a mechanism as one."""
    from rigid_bench.core.interchange.convert import as_build

    return as_build(_read(file), name=_name(file))


@app.command("check-build")
def check_build(file: Annotated[Path, typer.Argument(help=N_("A build file."))]) -> None:
    """Say whether a build file is well formed, with the place of each fault."""
    from rigid_bench.core.assembly.build_faults import build_faults

    faults = build_faults(_read(file), name=_name(file))
    for fault in faults[:-1]:
        print(" ".join(str(fault).split()), file=sys.stderr)
    if faults:
        _fail(str(faults[-1]))
    print(_("{file}: well formed", file=_name(file)))


@app.command()
def practice(
    kind: Annotated[str, typer.Argument(help=N_("A kind of drill; --list names them."))] = "",
    seed: Annotated[int, typer.Option(help=N_("The same seed gives the same drill."))] = 0,
    level: Annotated[int, typer.Option(help=N_("How hard."))] = 1,
    every: Annotated[bool, typer.Option("--list", help=N_("List the kinds and their levels."))] = False,
    exercise: Annotated[Path | None, typer.Option(help=N_("An exercise that it is made of."))] = None,
    json: Json = False,
) -> None:
    """Make a drill from a seed: its question, what is given, its answer and the explanation."""
    from rigid_bench.core.practice.drill import drill_json
    from rigid_bench.core.practice.registry import KINDS, drill_of

    if every or not kind:
        kinds = [{"kind": name, "levels": list(own.levels)} for name, own in sorted(KINDS.items())]
        if json:
            print(_json(kinds))
            return
        for own in KINDS.values():
            levels = _("levels {levels}", levels=", ".join(map(str, own.levels)))
            print(f"{own.name}  {translated(own.title)}  {levels}")
        return
    if exercise is not None:
        with _sandbox(_("Reading {file}", file=_name(exercise)), "practising", json=False) as run:
            drill = run("practising.drill_of_exercise", _read_bundle(exercise), kind, seed, level, name=kind)
    else:
        drill = drill_of(kind, seed, level)
    if KINDS[kind].files and exercise is None:
        with _sandbox(_("Making {kind}", kind=kind), "practising", json=False) as run:
            drill = run("practising.drill_with_files", kind, seed, level, name=kind)
    if json:
        print(_json(drill_json(drill)))
        return
    print(drill.question)
    for choice in drill.choices:
        print(f"  {choice.id}  {choice.text}")
    values = ", ".join(map(str, drill.answer)) or _("nothing")
    values += f" {drill.unit}" if drill.unit else ""
    print(_("Answer: {values}", values=values))
    print(drill.explanation)


def _json(document: Any) -> str:
    from json import dumps

    return dumps(document, indent=2, ensure_ascii=False)


def _write(path: Path, data: bytes) -> None:
    """Write a file whole or not at all."""
    beside = path.with_name(f".{path.name}.{os.getpid()}")
    try:
        beside.write_bytes(data)
        os.replace(beside, path)
    except OSError as exc:
        beside.unlink(missing_ok=True)
        problem = _("it cannot be written ({strerror})", strerror=exc.strerror)
        raise UnreadableFile(_shown(path), problem, _("Name a file in a folder of yours")) from exc


@app.command()
def clearance(
    file: Annotated[Path, typer.Argument(help=N_("A build file, a STEP assembly, or a zip of both."))],
    json: Json = False,
    every: Annotated[bool, typer.Option("--all", help=N_("Also pairs more than 1 mm apart."))] = False,
) -> None:
    """Measure gaps and overlaps of all pairs of parts."""
    with _sandbox(_("Measuring {file}", file=_name(file)), "clearances", json) as run:
        report = run("clearances.measure_clearances", _with_named_files(file), every, name=_name(file))
    _print(report, json, clearance_lines)


@app.command()
def audit(
    exercise: Annotated[Path, typer.Argument(help=N_("An exercise bundle: a folder or a zip."))],
    json: Json = False,
) -> None:
    """Say whether an exercise's dimensions fix every size and position of its parts."""
    with _sandbox(_("Auditing {file}", file=_name(exercise)), "auditing", json, skip_none=True) as run:
        report = run("auditing.audit_files", _read_bundle(exercise), name=_name(exercise))
    _print(report, json, audit_lines, skip_none=True)


@app.command()
def grade(
    exercise: Annotated[Path, typer.Argument(help=N_("An exercise bundle: a folder or a zip."))],
    submission: Annotated[Path, typer.Argument(help=N_("A STEP file, a build file, or a zip of both."))],
    json: Json = False,
) -> None:
    """Grade a submission against an exercise."""
    with _sandbox(_("Grading {file}", file=_name(submission)), "grading", json, skip_none=True) as run:
        bundle, files = _read_bundle(exercise), _with_named_files(submission)
        report = run("grading.grade_report", bundle, files, name=_name(submission))
    _print(report, json, grade_lines, skip_none=True)


@app.command()
def sheet(
    exercise: Annotated[Path, typer.Argument(help=N_("An exercise bundle: a folder or a zip."))],
    out: Annotated[Path | None, typer.Option("-o", help=N_("Where to write the drawings: .pdf, .svg or .dxf."))] = None,
    part: Annotated[str | None, typer.Option(help=N_("Draw only this part."))] = None,
    paper: Annotated[str | None, typer.Option(help=N_("a4 or a3; without it, as the scale asks."))] = None,
    angle: Annotated[str | None, typer.Option(help=N_("third or first; without it, as the exercise says."))] = None,
    upright: Annotated[bool, typer.Option(help=N_("Paper higher than wide."))] = False,
    steps: Annotated[bool, typer.Option(help=N_("List at the exploded drawing how it goes together."))] = False,
    both: Annotated[bool, typer.Option(help=N_("Sizes in the other unit, too."))] = False,
    blanks: Annotated[bool, typer.Option(help=N_("Rules to write on in place of the values."))] = False,
    json: Json = False,
) -> None:
    """Draw an exercise's sheets: its parts with their dimensions, the assembly with its parts list."""
    from rigid_bench.sheet_files import check_options, write_sheets

    options = check_options(out, part, paper, angle, upright=upright, steps=steps, both=both, blanks=blanks)
    with _sandbox(_("Drawing {file}", file=_name(exercise)), "drawing", json=False) as run:
        report = run("drawing.draw_exercise", _read_bundle(exercise), options, name=_name(exercise))
    written = write_sheets(report, out) if out else []
    if json:
        print(report.model_dump_json(indent=2))
        return
    for number, drawn in enumerate(report.sheets, 1):
        count = len(drawn.dimensions)
        sizes = translated_number(*NN_("{count} dimension", "{count} dimensions"), count).format(count=count)
        print(f"{number}: {', '.join(drawn.parts)}  {drawn.paper} {drawn.scale}  {sizes}")
    for path in written:
        print(_("Written to {path}", path=path))


@app.command()
def serve(
    port: Annotated[int, typer.Option(help=N_("Where to listen on loopback."), min=0, max=65535)] = 8000,
    host: Annotated[str, typer.Option(help=N_("Address to listen on."))] = "127.0.0.1",
) -> None:
    """Run the web server on the database that RIGID_BENCH_DATABASE_URL names."""
    from rigid_bench.web.server import run_server

    run_server(host=host, port=port)


@app.command()
def worker() -> None:
    """Measure and grade what is handed in; run as many as you like, on as many machines."""
    from rigid_bench.jobs.worker import run_worker
    from rigid_bench.web.print.cards import cards_of_exercise

    run_worker(print_cards=cards_of_exercise)


@app.command()
def demo(
    port: Annotated[
        int, typer.Option(help=N_("Where to listen on loopback; 0 picks a free port."), min=0, max=65535)
    ] = 0,
    fresh: Annotated[bool, typer.Option("--fresh", help=N_("Start anew, without the data of last time."))] = False,
) -> None:
    """Run the whole program with a sample school, on its own database."""
    from rigid_bench.demo.run import run_demo

    run_demo(port=port, fresh=fresh)


@app.command(hidden=True)
def stand_in(
    port: Annotated[int, typer.Option(help=N_("Where to listen on loopback."), min=1, max=65535)],
    program: Annotated[str, typer.Option(help=N_("The address of the program to which the course's links lead."))],
) -> None:
    """Simulate the sample school's own accounts and course pages."""
    from rigid_bench.demo.stand_in.server import run_stand_in

    run_stand_in(port=port, program=program)


def _shown(path: Path) -> str:
    """Return a path as it can be shown: some systems have names that are no text."""
    return str(path).encode("utf-8", "replace").decode("utf-8")


def _name(path: Path) -> str:
    return _shown(Path(path.name))


def _read(path: Path) -> bytes:
    try:
        if path.stat().st_size > _LARGEST:
            raise UnreadableFile(
                _shown(path),
                _("larger than {largest} MB", largest=_LARGEST // 1000000),
                _("Hand in a smaller file"),
            )
        return path.read_bytes()
    except IsADirectoryError as exc:
        raise UnreadableFile(_shown(path), _("this is a folder"), _("Name the file in it")) from exc
    except (OSError, ValueError) as exc:
        reason = getattr(exc, "strerror", None) or str(exc)
        raise UnreadableFile(_shown(path), reason.lower(), _("Check the path and try again")) from exc


def _read_bundle(path: Path) -> dict[str, bytes]:
    from rigid_bench.core.formats.archive import is_zip, read_zip

    if path.is_dir():
        return {candidate.name: _read(candidate) for candidate in sorted(path.iterdir()) if candidate.is_file()}
    data = _read(path)
    if not is_zip(data):
        raise UnreadableFile(
            _shown(path),
            _("an exercise is a folder or a zip"),
            _("Name the folder that holds exercise.json"),
        )
    return dict(read_zip(data, name=_name(path)))


def _with_named_files(path: Path) -> dict[str, bytes]:
    """Read a submission; beside a build file also the STEP files that it names, from its folder."""
    from rigid_bench.core.formats.build import is_build, read_build
    from rigid_bench.core.interchange.convert import as_build

    data = as_build(_read(path), name=_name(path))
    files = {_name(path): data}
    if not is_build(data):
        return files
    for named in sorted({part.file for part in read_build(data, name=_name(path)).parts if part.file}):
        beside = path.parent / named.replace("\\", "/")
        files[beside.name] = _read(beside)
    return files


@contextmanager
def _sandbox(title: str, module: str, json: bool, *, skip_none: bool = False) -> Iterator[Callable[..., Any]]:
    """Give a function that runs a task of a module of `jobs.geometry`, its progress shown on a terminal only.

    The child begins to load at once, beside reading the file; a report that is asked for as JSON is written there.
    """
    from rich.console import Console
    from rich.progress import Progress, SpinnerColumn, TextColumn, TimeElapsedColumn

    from rigid_bench.jobs.sandbox import Sandbox

    console = Console(stderr=True)
    columns = (SpinnerColumn(), TextColumn("{task.description}"), TimeElapsedColumn())
    with (
        Sandbox(modules=[module]) as sandbox,
        Progress(*columns, console=console, transient=True, disable=not console.is_terminal) as bar,
    ):
        sandbox.start()
        line = bar.add_task(title, total=None)

        def run(task: str, *values: Any, name: str) -> Any:
            asked = ("as_json.as_json", task, skip_none) if json else (task,)
            return sandbox.run(*asked, *values, name=name, progress=lambda text: bar.update(line, description=text))

        yield run


def _print(report: Any, json: bool, lines: Callable[[Any], Iterator[str]], *, skip_none: bool = False) -> None:
    if json:
        is_written = isinstance(report, str)
        print(report if is_written else report.model_dump_json(indent=2, by_alias=True, exclude_none=skip_none))
        return
    for line in lines(report):
        print(line)


if __name__ == "__main__":
    main()
