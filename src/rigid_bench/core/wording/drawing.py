"""What stands printed on a drawing besides its sizes."""

from collections.abc import Collection, Sequence

import numpy as np

from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.wording.language import N_, _, listed, translated
from rigid_bench.core.wording.phrases import looking, motions_phrase
from rigid_bench.core.wording.quantities import number
from rigid_bench.core.wording.saying import say

#: Fields of the title block (ISO 7200), in the order in which they stand.
OWNER, TITLE, PART, DOCUMENT, DRAWN, CHECKED, DATE = (
    N_("Class"),
    N_("Title"),
    N_("Part"),
    N_("Kind"),
    N_("Drawn by"),
    N_("Checked by"),
    N_("Date"),
)
VERSION, SCALE, UNITS, TOLERANCE, SHEET = N_("Version"), N_("Scale"), N_("Sizes in"), N_("Tolerances"), N_("Sheet")
PART_DRAWING, ASSEMBLY_DRAWING, EXPLODED_DRAWING = N_("Part drawing"), N_("Assembly drawing"), N_("Exploded drawing")
PARTS_LIST = (N_("Item"), N_("Qty"), N_("Name"), N_("Material"), N_("How"))
ORIGINS = {"made": N_("made"), "supplied": N_("supplied"), "bought": N_("bought in")}


def turned(degrees: int) -> str:
    """Say by how much a view is turned.

    Examples
    --------
    >>> turned(90)
    'turned 90°'
    """
    return _("turned {degrees}°", degrees=degrees)


def step(position: int, name: str, onto: Sequence[str], way: Sequence[float] | None, motions: Sequence[Motion]) -> str:
    """Say how a part is put in its place, and what it can still do then.

    Examples
    --------
    >>> step(1, "Base", [], None, [])
    '1  Base: put it down'
    >>> step(2, "Mast", ["Base"], [0, 0, -1.0], [])
    '2  Mast: along −Z, onto Base; nothing can move'
    """
    if way is None:
        return _("{position}  {name}: put it down", position=position, name=name)
    said = {
        "position": position,
        "name": name,
        "way": say(looking(np.array(way))),
        "left": say(motions_phrase(motions)),
    }
    if onto:
        return _("{position}  {name}: along {way}, onto {parts}; {left}", parts=listed(list(onto)), **said)
    return _("{position}  {name}: along {way}; {left}", **said)


def comes(position: int, name: str) -> str:
    """Say when a part comes.

    Examples
    --------
    >>> comes(2, "Mast")
    '2  Mast'
    """
    return f"{position}  {name}"


def shut_in(name: str) -> str:
    """Say that a part does not come out."""
    return _("{name}: shut in, nothing lets it out", name=name)


def hidden(name: str) -> str:
    """Say that a part is not seen."""
    return _("{name}: hidden in this view", name=name)


def section_words(section: str, sizes: Sequence[float]) -> str:
    """Name a section as it is bought.

    Examples
    --------
    >>> section_words("round", [8.0]), section_words("rectangle", [3.0, 20.0]), section_words("hexagon", [10.0])
    ('Ø8', '3 × 20', 'hexagon 10 AF')
    """
    shown = [number(size, 2) for size in sizes]
    return {"round": f"Ø{shown[0]}", "square": f"□{shown[0]}", "hexagon": f"hexagon {shown[0]} AF"}.get(
        section, " × ".join(shown)
    )


def sheet_of(position: int, total: int) -> str:
    """Write which sheet of how many it is.

    Examples
    --------
    >>> sheet_of(1, 3)
    '1/3'
    """
    return f"{position}/{total}"


#: What the legend says of values that a check does not simply require, and of what follows from other sizes.
_SIGNS = {
    "shown": N_("* shown, not checked"),
    "free": N_("free: make it your own"),
    "assumed": N_("yours: decide it and state it"),
    "flats": N_("AF across flats"),
    "missing": N_("? missing: no check asks it yet"),
    "auxiliary": N_("( ) follows from other sizes"),
}


def legend(signs: Collection[str]) -> list[str]:
    """Explain the signs that stand in a drawing: "shown", "free", "assumed", "auxiliary".

    Examples
    --------
    >>> legend({"shown", "required"})
    ['* shown, not checked']
    """
    return [translated(words) for sign, words in _SIGNS.items() if sign in signs]
