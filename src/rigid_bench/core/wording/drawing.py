"""What stands printed on a drawing besides its sizes."""

from collections.abc import Collection

#: Fields of the title block (ISO 7200), in the order in which they stand.
OWNER, TITLE, PART, DOCUMENT, DRAWN, CHECKED, DATE = "Class", "Title", "Part", "Kind", "Drawn by", "Checked by", "Date"
VERSION, SCALE, UNITS, TOLERANCE, SHEET = "Version", "Scale", "Sizes in", "Tolerances", "Sheet"
PART_DRAWING, ASSEMBLY_DRAWING, EXPLODED_DRAWING = "Part drawing", "Assembly drawing", "Exploded drawing"
PARTS_LIST = ("Item", "Qty", "Name", "Material", "How")
ORIGINS = {"made": "made", "supplied": "supplied", "bought": "bought in"}


def turned(degrees: int) -> str:
    """Say by how much a view is turned.

    Examples
    --------
    >>> turned(90)
    'turned 90°'
    """
    return f"turned {degrees}°"


def sheet_of(number: int, total: int) -> str:
    """Write which sheet of how many it is.

    Examples
    --------
    >>> sheet_of(1, 3)
    '1/3'
    """
    return f"{number}/{total}"


#: What the legend says of values that a check does not simply require, and of what follows from other sizes.
_SIGNS = {
    "shown": "* shown, not checked",
    "free": "free: make it your own",
    "assumed": "yours: decide it and state it",
    "flats": "AF across flats",
    "missing": "? missing: no check asks it yet",
    "auxiliary": "( ) follows from other sizes",
}


def legend(signs: Collection[str]) -> list[str]:
    """Explain the signs that stand in a drawing: "shown", "free", "assumed", "auxiliary".

    Examples
    --------
    >>> legend({"shown", "required"})
    ['* shown, not checked']
    """
    return [words for sign, words in _SIGNS.items() if sign in signs]
