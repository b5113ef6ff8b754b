"""Names that come from files: shown as plain text, made unique, turned into ids."""

import re
import unicodedata

_LONGEST = 120


def plain_name(text: str) -> str:
    """Drop control characters, fold white space, and cut what is too long to show.

    Examples
    --------
    >>> plain_name("Base" + chr(7) + "   plate")
    'Base plate'
    >>> plain_name("")
    ''
    """
    text = text.encode("utf-8", "replace").decode("utf-8")  # bytes of a file name that were no text
    kept = "".join(" " if char.isspace() else char for char in text if char.isspace() or char.isprintable())
    return " ".join(kept.split())[:_LONGEST]


def slug(name: str) -> str:
    """Turn a name into an id of lower-case letters, digits and hyphens.

    Examples
    --------
    >>> slug("Base plate (Größe 2)")
    'base-plate-grosse-2'
    >>> slug("部品")
    'part'
    """
    ascii_only = unicodedata.normalize("NFKD", name.replace("ß", "ss")).encode("ascii", "ignore").decode()
    return re.sub(r"[^a-z0-9]+", "-", ascii_only.lower()).strip("-") or "part"


def unique(wanted: str, taken: set[str]) -> str:
    """Return `wanted`, or with the first free number behind it, and note it as taken.

    Examples
    --------
    >>> unique("rod", {"rod"})
    'rod-2'
    """
    name, number = wanted, 2
    while name in taken:
        name, number = f"{wanted}-{number}", number + 1
    taken.add(name)
    return name
