"""Check the text of a STEP file before the kernel sees it.

The kernel takes some broken files in silence, and ends the process on others. Loads no
kernel itself.
"""

import re
from collections.abc import Iterator, Mapping

import numpy as np

from rigid_bench.core.values.errors import UnreadableFile
from rigid_bench.core.wording.language import N_, _

EXPORT_AGAIN = N_("Export the model again as STEP (AP214 or AP242) and hand in the new file")
#: Brackets deeper than this end the process inside the kernel's reader.
_DEEPEST = 64
#: More leaves than a class ever hands in; reading them would only wear out the worker.
MOST_INSTANCES = 10_000
_ENTITY = re.compile(rb"^\s*#(\d+)\s*=", re.MULTILINE)
_STRING = re.compile(rb"'[^']*'")
#: Some programs write these for a size that they could not work out; the kernel may never end on them.
_NO_NUMBER = re.compile(rb"[(,]\s*[-+]?(?:NAN|INF|INFINITY|1\.#\w+)\s*[,)]", re.IGNORECASE)
#: Numbers with so large an exponent, and what no number in a file is above, in whatever unit. Zero may have any
#: exponent, and some exporters write three digits of it always.
_LARGE = re.compile(rb"(\d[\d.]*E\+?0*(?:[3-9]\d|[1-9]\d{2,}))\s*[,)]", re.IGNORECASE)
_LARGEST = 1e30


def check_text(data: bytes, *, name: str) -> None:
    """Refuse what the kernel would take in silence, or end the process on.

    Raises
    ------
    UnreadableFile
        Saying what is wrong with the text.
    """

    def refuse(problem: str) -> UnreadableFile:
        return UnreadableFile(name, problem, EXPORT_AGAIN)

    text = data.removeprefix(b"\xef\xbb\xbf").strip()
    if not text:
        raise refuse(_("the file is empty"))
    if not text.startswith(b"ISO-10303-21;"):
        raise refuse(_("this is not a STEP file, whatever its name says: it does not begin with ISO-10303-21"))
    if b"\x00" in text:
        raise refuse(_("the file holds NUL bytes, so it was damaged on the way"))
    if not text.endswith(b"END-ISO-10303-21;"):
        raise refuse(_("the STEP file is cut off: its last line is missing"))
    if text.count(b"END-ISO-10303-21;") > 1:
        raise refuse(_("two STEP files were joined into one"))
    numbers = _ENTITY.findall(text)
    if len(numbers) != len(set(numbers)):
        raise refuse(_("an entity number is used twice"))
    bare = _STRING.sub(b"''", text)
    if _bracket_depth(bare) > _DEEPEST:
        raise refuse(_("brackets are nested more than {deepest} deep", deepest=_DEEPEST))
    if _NO_NUMBER.search(bare):
        raise refuse(_("a coordinate or size in it is not a number"))
    if any(not float(number) <= _LARGEST for number in _LARGE.findall(bare)):
        raise refuse(_("a coordinate or size in it is larger than anything that can be made"))
    leaves = _count_leaves(bare)
    if leaves is None:
        raise refuse(_("the assembly contains itself"))
    if leaves > MOST_INSTANCES:
        raise too_many_instances(name, leaves)


_HIGH = re.compile(rb"[\x80-\xff]")


def with_plain_letters(data: bytes) -> bytes:
    r"""Return the text with what old exporters write as single bytes of ISO 8859-1 in the standard's own way.

    ISO 10303-21, 6.4.3.3: ``\X\`` and two hexadecimal digits. UTF-8, which newer exporters write, stays as it is.

    Examples
    --------
    >>> with_plain_letters("Größe".encode("latin-1")), with_plain_letters("Größe".encode()) == "Größe".encode()
    (b'Gr\\X\\F6\\X\\DFe', True)
    """
    try:
        data.decode("utf-8")
    except UnicodeDecodeError:
        return _HIGH.sub(lambda byte: b"\\X\\%02X" % ord(byte[0]), data)
    return data


_REFERRED = re.compile(rb"DOCUMENT_FILE\s*\(\s*'([^']*)'", re.IGNORECASE)
_APPLIED = re.compile(rb"APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT\s*\(\s*'([^']*\.(?:stp|step|p21))'", re.IGNORECASE)


def referred_files(data: bytes) -> list[str]:
    """List the files in which a STEP file says that its parts lie, by their bare names.

    Examples
    --------
    >>> referred_files(b"#1=DOCUMENT_FILE('ROD.stp','','',#2,'',$);")
    ['ROD.stp']
    """
    named = [*_REFERRED.findall(data), *_APPLIED.findall(data)]
    bare = [name.decode("utf-8", "replace").replace("\\", "/").rsplit("/", 1)[-1] for name in named]
    return [name for name in dict.fromkeys(bare) if name.lower().endswith((".stp", ".step", ".p21"))]


def too_many_instances(name: str, count: int) -> UnreadableFile:
    """Return the refusal of an assembly that stands for more instances than a class ever hands in."""
    return UnreadableFile(
        name,
        _("the assembly has {count} instances, more than {most_instances}", count=count, most_instances=MOST_INSTANCES),
        _("Hand in the build without the patterns that multiply it"),
    )


def _bracket_depth(text: bytes) -> int:
    marks = np.frombuffer(text, dtype=np.uint8)
    steps = (marks == ord("(")).astype(np.int32) - (marks == ord(")")).astype(np.int32)
    return int(np.cumsum(steps).max(initial=0))


_USAGE = re.compile(rb"NEXT_ASSEMBLY_USAGE_OCCURRENCE\s*\([^#;]*#(\d+)\s*,\s*#(\d+)")


def _count_leaves(text: bytes) -> int | None:
    """Count the leaves of the assembly by multiplying, not expanding; None where it contains itself."""
    below: dict[bytes, list[bytes]] = {}
    for above, part in _USAGE.findall(text):
        below.setdefault(above, []).append(part)
    counts: dict[bytes, int] = {}
    open_now: set[bytes] = set()
    stack = [(root, False) for root in set(below) - {part for parts in below.values() for part in parts}]
    if below and not stack:
        return None
    roots = [root for root, _ in stack]
    while stack:
        node, is_done = stack.pop()
        if is_done:
            counts[node] = sum(counts[known_node] for known_node in below[node])
            open_now.discard(node)
        elif node not in counts and node not in below:
            counts[node] = 1
        elif node not in counts:
            open_now.add(node)
            stack.append((node, True))
            if open_now & set(below[node]):
                return None
            stack += [(known_node, False) for known_node in below[node]]
    return sum(counts[root] for root in roots)


_STATEMENT = re.compile(rb"#(\d+)\s*=([^;]*?UNIT[^;]*);")
_PREFIXES = {b"$": 1.0, b".MILLI.": 1e-3, b".CENTI.": 1e-2, b".DECI.": 0.1, b".MICRO.": 1e-6, b".KILO.": 1e3}
#: metres -> name
_UNIT_NAMES = {
    1.0: "metre",
    1e-3: "millimetre",
    1e-2: "centimetre",
    0.1: "decimetre",
    1e-6: "micrometre",
    1e3: "kilometre",
    0.0254: "inch",
    0.3048: "foot",
    0.9144: "yard",
    2.54e-5: "thousandth of an inch",
}


def length_units(data: bytes) -> list[str]:
    """Name the units of length that the contexts of a STEP file are in, each once.

    Parameters
    ----------
    data
        The whole file.

    Returns
    -------
    list of str
        As in "millimetre" or "inch"; "" where a context names none, or one that leads nowhere.

    Examples
    --------
    >>> length_units(b"#1=(LENGTH_UNIT()NAMED_UNIT(*)SI_UNIT($,.METRE.));#2=(GLOBAL_UNIT_ASSIGNED_CONTEXT((#1)));")
    ['metre']
    >>> length_units(b"#2=(GLOBAL_UNIT_ASSIGNED_CONTEXT((#1)));")
    ['']
    """
    names = [_UNIT_NAMES.get(round(size, 9), f"{size * 1000:g} mm") if size else "" for size in _unit_sizes(data)]
    return list(dict.fromkeys(names))


def length_unit_mm(data: bytes) -> float:
    """Return how long the unit of length of a STEP file is, mm; 1 where it names none.

    Examples
    --------
    >>> length_unit_mm(b"#1=(LENGTH_UNIT()NAMED_UNIT(*)SI_UNIT($,.METRE.));#2=(GLOBAL_UNIT_ASSIGNED_CONTEXT((#1)));")
    1000.0
    """
    return next((1000 * size for size in _unit_sizes(data) if size), 1.0)


def _unit_sizes(data: bytes) -> Iterator[float | None]:
    """Yield how long the unit of each context is, m; None where it names none, or one that leads nowhere."""
    statements = {int(number): body for number, body in _STATEMENT.findall(_STRING.sub(b"''", data))}
    for body in statements.values():
        context = re.search(rb"GLOBAL_UNIT_ASSIGNED_CONTEXT\s*\(\s*\(([^)]*)\)", body)
        if context:
            sizes = [_metres(int(match_), statements, ()) for match_ in re.findall(rb"#(\d+)", context[1])]
            yield next((size for size in sizes if size), None)


def _metres(number: int, statements: Mapping[int, bytes], above: tuple[int, ...]) -> float | None:
    """Return how long a unit is, m; None for a unit of something else, or one that leads nowhere."""
    body = statements.get(number, b"")
    if number in above or (not above and b"LENGTH_UNIT" not in body):
        return None
    si = re.search(rb"SI_UNIT\s*\(\s*([.\w$]+)\s*,\s*\.METRE\.", body)
    if si:
        return _PREFIXES.get(si[1])
    other = re.search(rb"CONVERSION_BASED_UNIT\s*\([^#]*#(\d+)", body)
    if other:
        return _metres(int(other[1]), statements, (*above, number))
    # with a type, LENGTH_MEASURE(25.4), or without one
    measure = re.search(rb"MEASURE_WITH_UNIT\s*\(\s*(?:\w+\s*\(\s*)?([-+.\dE]+)\s*\)?\s*,\s*#(\d+)", body)
    base = _metres(int(measure[2]), statements, (*above, number)) if measure else None
    return float(measure[1]) * base if measure and base else None
