"""What stands printed on a drawing besides its sizes."""

from collections.abc import Iterable

#: Fields of the title block (ISO 7200), in the order in which they stand.
OWNER, TITLE, PART, DOCUMENT, DRAWN, CHECKED, DATE = "Class", "Title", "Part", "Kind", "Drawn by", "Checked by", "Date"
VERSION, SCALE, UNITS, TOLERANCE, SHEET = "Version", "Scale", "Sizes in", "Tolerances", "Sheet"
PART_DRAWING, ASSEMBLY_DRAWING, EXPLODED_DRAWING = "Part drawing", "Assembly drawing", "Exploded drawing"
PARTS_LIST = ("Item", "Qty", "Name", "Material", "How")
ORIGINS = {"made": "made", "supplied": "supplied", "bought": "bought in"}


def sheet_of(number: int, total: int) -> str:
    """Write which sheet of how many it is.

    Examples
    --------
    >>> sheet_of(1, 3)
    '1/3'
    """
    return f"{number}/{total}"


def legend(texts: Iterable[str]) -> list[str]:
    """Explain the signs that stand in a drawing.

    Examples
    --------
    >>> legend(["12*", "Ø5"])
    ['* shown, not checked']
    """
    written = list(texts)
    signs = {
        "*": "* shown, not checked",
        "free": "free: make it your own",
        "yours": "yours: decide it and state it",
        "(": "( ) follows from other sizes",
    }
    return [words for sign, words in signs.items() if any(sign in text for text in written)]
