"""Writes docs/licences.md: the licence of every library that an installation has, and why it may be with ours."""

import re
from collections.abc import Iterator
from importlib.metadata import metadata
from pathlib import Path

ROOT = Path(__file__).parents[1]
PAGE = ROOT / "docs" / "licences.md"
_PINNED = re.compile(r"^([A-Za-z0-9._-]+)==", re.MULTILINE)
#: What a library says of itself -> the licence's SPDX name (spdx.org/licenses), by a word of it; the first that fits.
_NAMES = (
    ("GNU Library or Lesser", "LGPL-2.1-or-later"), ("LGPL", "LGPL-3.0-only"), ("MPL-2.0", "MPL-2.0"),
    ("Mozilla Public License 1.1", "MPL-1.1"), ("Mozilla Public License 2", "MPL-2.0"), ("Apache", "Apache-2.0"),
    ("MIT", "MIT"), ("ISC", "ISC"), ("BSD", "BSD-3-Clause"), ("PSF-2.0", "PSF-2.0"),
)  # fmt: skip
#: Licences of libraries that may be used by a program under the Apache License 2.0 and installed beside it. Libraries
#: under the LGPL and MPL are installed as they are, from their own packages, and can be exchanged: what those ask.
COMPATIBLE = {
    "0BSD", "Apache-2.0", "BSD-2-Clause", "BSD-3-Clause", "CC0-1.0", "ISC", "LGPL-2.1-or-later", "LGPL-3.0-only",
    "LGPL-3.0-or-later", "MIT", "MIT-0", "MIT-CMU", "MPL-1.1", "MPL-2.0", "PSF-2.0", "Zlib",
}  # fmt: skip
_ABOUT = """\
As each library states it; the page is made by `make licences` from `requirements-run.lock`. The program itself stands
under the Apache License 2.0. Libraries under the LGPL and MPL are installed from their own packages, unchanged, and can
be exchanged. Debian's packages (PostgreSQL, fonts, libraries of the system) have theirs in `/usr/share/doc`; scripts
and fonts that ship with the pages have theirs beside them."""


def libraries() -> list[str]:
    """Return the names of what an installation has, in the order of its lock file."""
    return _PINNED.findall((ROOT / "requirements-run.lock").read_text())


def licence_of(library: str) -> str:
    """Return the licence that a library states, as an SPDX expression; of several to choose from, one that is fit."""
    about = metadata(library)
    if "License-Expression" in about:
        return about["License-Expression"]
    classifiers = [text for text in about.get_all("Classifier") or [] if text.startswith("License")]
    stated = [*(text.partition("\n")[0] for text in about.get_all("License") or []), *classifiers]
    choices = [name for word, name in _NAMES if any(word in text for text in stated)]
    if not choices:
        raise LookupError(f"{library} states no licence that is known: look it up, and add it")
    return choices[0]


def names_in(expression: str) -> Iterator[str]:
    """Return the licences that an expression names."""
    yield from (word for word in re.findall(r"[\w.-]+", expression) if word not in ("AND", "OR", "WITH"))


def page() -> str:
    """Return the page."""
    rows = [f"| {library} | {licence_of(library)} |" for library in libraries()]
    return "\n".join(
        (
            "# Licences of what an installation has",
            "",
            _ABOUT,
            "",
            "| library | licence |",
            "| --- | --- |",
            *rows,
            "",
        )
    )  # fmt: skip


if __name__ == "__main__":
    PAGE.write_text(page(), encoding="utf-8")
