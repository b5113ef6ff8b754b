"""Writes the digests of all files that pip may take into requirements-run.lock: an installation takes no others.

pip-compile could do it, by fetching each file; the index tells the digests at once (the simple API as JSON, PEP 691).
"""

import json
import re
import urllib.request
from collections.abc import Iterator
from pathlib import Path

from pip._internal.models.index import PyPI

LOCK = Path(__file__).parents[1] / "requirements-run.lock"
_PIN = re.compile(r"^([A-Za-z0-9._-]+)==(\S+)", re.MULTILINE)
#: Files that a Debian machine may take: sources, and wheels for any machine or for Linux with glibc.
_TAKEN = re.compile(r"\.tar\.gz$|-any\.whl$|manylinux[^-]*\.whl$")
#: Of Python versions older than ours asks for, there is no need.
_TOO_OLD = re.compile(r"-(cp(27|3\d|310)|pp\d+)-")


def digests(name: str, version: str) -> Iterator[str]:
    """Return the digests of a version's files."""
    asked = urllib.request.Request(
        f"{PyPI.simple_url}/{name}/", headers={"Accept": "application/vnd.pypi.simple.v1+json"}
    )
    with urllib.request.urlopen(asked, timeout=60) as answer:
        files = json.load(answer)["files"]
    for file in files:
        filename = file["filename"]
        is_meant = _version_of(filename) == version and _TAKEN.search(filename) and not _TOO_OLD.search(filename)
        if is_meant or ("-abi3-" in filename and _version_of(filename) == version and _TAKEN.search(filename)):
            yield file["hashes"]["sha256"]


def _version_of(filename: str) -> str:
    if filename.endswith(".tar.gz"):
        return filename.removesuffix(".tar.gz").rpartition("-")[2]
    return filename.split("-")[1]


def with_digests(text: str) -> str:
    """Return a lock file with the digests of every pin.

    Raises
    ------
    LookupError
        The index has no file of a pinned version.
    """

    def pinned(match: re.Match[str]) -> str:
        hashes = sorted(set(digests(match[1], match[2])))
        if not hashes:
            raise LookupError(f"the index has no file of {match[0]}")
        return " \\\n".join((match[0], *(f"    --hash=sha256:{digest}" for digest in hashes)))

    return _PIN.sub(pinned, text)


if __name__ == "__main__":
    LOCK.write_text(with_digests(LOCK.read_text(encoding="utf-8")), encoding="utf-8")
