"""Sort what was handed in by content: files of parts and a build file, also out of a zip.

Loads no kernel, so that a page can refuse a wrong file at once.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from rigid_bench.core.assembly.mates.registry import check_mate
from rigid_bench.core.formats.archive import is_zip, read_zip
from rigid_bench.core.formats.build import is_build, read_build
from rigid_bench.core.formats.mate_table import is_mate_table, read_mate_table
from rigid_bench.core.formats.message import Message
from rigid_bench.core.formats.model_formats import format_names, format_of, is_model
from rigid_bench.core.grading.intake.statements import FILE as STATEMENTS
from rigid_bench.core.grading.intake.statements import read_statements
from rigid_bench.core.interchange.convert import build_and_notices
from rigid_bench.core.values.errors import UnreadableFile
from rigid_bench.core.wording.language import _


def what_to_hand_in() -> str:
    """Say what can be handed in."""
    return _("Hand in {formats} files, a build file, or a zip of them", formats=format_names())


@dataclass(frozen=True, slots=True, kw_only=True)
class Files:
    """The files of a submission, sorted by what they are."""

    models: Mapping[str, bytes]
    #: The same assembly exported again after dragging: files whose name ends in "moved".
    moved: Mapping[str, bytes]
    #: The model after a size was changed, with its build file: files whose name ends in "changed".
    changed: Mapping[str, bytes]
    #: Name and bytes of the build file, or None.
    build: tuple[str, bytes] | None
    #: What the student says beside it, by check id.
    statements: Mapping[str, str]
    #: Name and bytes of a table of mates instead of a build file, or None.
    mate_table: tuple[str, bytes] | None = None
    #: Names of files out of a zip that nobody asked for: pictures, texts.
    left_aside: tuple[str, ...] = ()
    #: What a description of a mechanism says and no build does.
    notices: tuple[Message, ...] = ()


def sort_files(files: Mapping[str, bytes]) -> Files:
    """Sort what was handed in by content, whatever the names say.

    Parameters
    ----------
    files
        By name; a zip counts as the files in it.

    Returns
    -------
    Files

    Raises
    ------
    UnreadableFile
        There is nothing in it, a file of another kind beside a zip, or more than one build file.
    """
    notices: list[Message] = []
    unpacked, left_aside = _wanted(files, notices)
    changed = {name: data for name, data in unpacked.items() if _ends_in(name, "changed")}
    if len(changed) == len(unpacked):
        changed = {}
    models: dict[str, bytes] = {}
    builds: list[tuple[str, bytes]] = []
    statements: dict[str, str] = {}
    tables: list[tuple[str, bytes]] = []
    for name, data in unpacked.items():
        if name in changed and not name.lower().endswith(".build.json"):
            _known_kind(name, data)
        elif name in changed:
            continue
        elif is_build(data):
            builds.append((name, data))
        elif is_mate_table(name):
            tables.append((name, data))
        elif name.rsplit("/", 1)[-1] == STATEMENTS:
            statements |= read_statements(data)
        else:
            _known_kind(name, data)
            models[name] = data
    if len(builds) > 1:
        raise UnreadableFile(builds[1][0], _("there is more than one build file"), _("Hand in just one"))
    if tables and (builds or len(tables) > 1):
        problem = _("there is more than one table of mates") if len(tables) > 1 else _("there is a build file, too")
        raise UnreadableFile(tables[-1][0], problem, _("Hand in just one of them"))
    if tables and not models:
        raise UnreadableFile(tables[0][0], _("there is no model whose parts it mates"), _("Hand in the STEP file, too"))
    if not models and not builds:
        raise UnreadableFile(_("submission"), _("there is no file in it"), what_to_hand_in())
    moved = {name: data for name, data in models.items() if _ends_in(name, "moved")}
    if len(moved) == len(models):
        moved = {}
    rest = {name: data for name, data in models.items() if name not in moved}
    return Files(
        models=rest,
        moved=moved,
        changed=changed,
        build=builds[0] if builds else None,
        mate_table=tables[0] if tables else None,
        statements=statements,
        left_aside=left_aside,
        notices=tuple(notices),
    )


def _wanted(files: Mapping[str, bytes], notices: list[Message]) -> tuple[dict[str, bytes], tuple[str, ...]]:
    """Return the files to be read, and the names of those in zips that are none: they are left where they are."""
    unpacked = _unpacked(files, notices)
    aside = [
        name
        for name, data in unpacked.items()
        if name not in files
        and format_of(name, data) is None
        and not is_build(data)
        and not is_mate_table(name)
        and not name.lower().endswith(".json")
    ]
    if len(aside) == len(unpacked):  # nothing is left: say what was expected
        return unpacked, ()
    return {name: data for name, data in unpacked.items() if name not in aside}, tuple(aside)


def _known_kind(name: str, data: bytes) -> None:
    """Refuse what is no model."""
    if format_of(name, data) is not None:
        return
    if name.lower().endswith(".json"):
        raise UnreadableFile(name, _("this JSON file is not a build file"), what_to_hand_in())
    raise UnreadableFile(
        name,
        _("this is neither a {format_names} file nor a build file", format_names=format_names()),
        what_to_hand_in(),
    )


def _ends_in(name: str, word: str) -> bool:
    return name.lower().rsplit("/", 1)[-1].split(".", 1)[0].endswith(word)


def _unpacked(files: Mapping[str, bytes], notices: list[Message]) -> dict[str, bytes]:
    """Return the files, also out of zips, descriptions of mechanisms as build files; adds what these do not say."""
    flat: dict[str, bytes] = {}
    for name, data in files.items():
        holds_files = is_zip(data) and not is_model(data) and not is_mate_table(name)
        for inner, content in (read_zip(data, name=name) if holds_files else {name: data}).items():
            if inner in flat:
                raise UnreadableFile(inner, _("two files have this name"), _("Give each file its own name"))
            flat[inner], own = build_and_notices(content, name=inner)
            notices += own
    return flat


#: A build file of a class has some ten thousand letters; beyond this it is refused unread, bytes.
_LARGEST_BUILD = 2_000_000
#: What is larger than this is read by the worker that looks at it: a page is not held up by it, bytes.
_READ_AT_ONCE = {"build": 100_000, "model": 600_000}


def check_files(files: Mapping[str, bytes]) -> None:
    """Refuse at once what can be refused without measuring, and in no time.

    Raises
    ------
    UnreadableFile, InvalidDocument, NotSupported
        Saying which file, which place in it, and what to do.
    """
    sorted_files = sort_files(_checked_sizes(files))
    changed = {name: data for name, data in sorted_files.changed.items() if not is_build(data)}
    for name, data in {**sorted_files.models, **sorted_files.moved, **changed}.items():
        if len(data) > _READ_AT_ONCE["model"]:
            continue
        if known := format_of(name, data):
            known.check(data, name=name)
    if sorted_files.mate_table and len(sorted_files.mate_table[1]) <= _READ_AT_ONCE["build"]:
        read_mate_table(sorted_files.mate_table[1], name=sorted_files.mate_table[0])
    if sorted_files.build and len(sorted_files.build[1]) <= _READ_AT_ONCE["build"]:
        for mate in read_build(sorted_files.build[1], name=sorted_files.build[0]).mates:
            check_mate(mate)


def _checked_sizes(files: Mapping[str, bytes]) -> dict[str, bytes]:
    """Refuse JSON that is too large to be a build file, also out of a zip."""
    unpacked = _unpacked(files, [])
    for name, data in unpacked.items():
        if len(data) > _LARGEST_BUILD and (name.lower().endswith(".json") or is_build(data)):
            problem = _(
                "it has {count:.1f} MB, more than the {largest_build:g} MB of a build file",
                count=len(data) / 1000000.0,
                largest_build=_LARGEST_BUILD / 1000000.0,
            )
            raise UnreadableFile(name, problem, _("Write it again from your program, without what is not asked for"))
    return unpacked
