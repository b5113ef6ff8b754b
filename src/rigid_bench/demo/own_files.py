"""Sample builds as their students wrote them: each file with its own time and its entities in an order of its own."""

import random
import re
from collections.abc import Mapping
from datetime import datetime
from typing import Literal

from rigid_bench.core.insight.likeness.step_print import is_step

#: How a copy was made: handed in as it was, with other names typed into it, or opened and exported again.
Copied = Literal["as it was", "renamed", "exported again"]
_WRITTEN_AT = re.compile(rb"\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d")
#: A product with its name and number (ISO 10303-41).
_PRODUCT = re.compile(rb"PRODUCT\('([^']*)','([^']*)'")
_ENTITY = re.compile(rb"#\d+\s*=.*?;\s*\n", re.DOTALL)


def as_written_by(login: str, files: Mapping[str, bytes], at: datetime) -> dict[str, bytes]:
    """Return the files as a student wrote them: entities may stand in any order (ISO 10303-21, 7.3)."""
    return {name: _written(content, login, at) if is_step(content) else content for name, content in files.items()}


def as_copied(copied: Copied, login: str, files: Mapping[str, bytes], at: datetime) -> dict[str, bytes]:
    """Return another student's files as somebody hands them in."""
    if copied == "exported again":
        return as_written_by(login, files, at)
    if copied == "renamed":
        return {
            name: _PRODUCT.sub(rb"PRODUCT('\1 by me','\2 by me'", content) if is_step(content) else content
            for name, content in files.items()
        }
    return dict(files)


def _written(content: bytes, login: str, at: datetime) -> bytes:
    header, data, rest = content.partition(b"DATA;\n")
    entities = _ENTITY.findall(rest)
    end = rest[sum(map(len, entities)) :]
    random.Random(f"{login} {at:%H%M%S}").shuffle(entities)
    return _WRITTEN_AT.sub(f"{at:%Y-%m-%dT%H:%M:%S}".encode(), header, count=1) + data + b"".join(entities) + end
