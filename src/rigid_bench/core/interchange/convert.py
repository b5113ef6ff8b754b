"""Descriptions of mechanisms by their endings: read as builds, and written."""

import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from rigid_bench.core.formats.message import Message
from rigid_bench.core.interchange import mjcf, sdf, urdf
from rigid_bench.core.interchange.chain import Abilities, Chain
from rigid_bench.core.interchange.from_build import chain_of
from rigid_bench.core.interchange.inertia import Inertia, inertia_of
from rigid_bench.core.interchange.to_build import build_document
from rigid_bench.core.values.errors import NotSupported
from rigid_bench.core.wording.language import _, series
from rigid_bench.core.wording.notices import said


@dataclass(frozen=True, slots=True, kw_only=True)
class Description:
    """One format."""

    read: Callable[..., Chain]
    write: Callable[[Chain, dict[str, Inertia]], bytes]
    abilities: Abilities


#: By ending.
DESCRIPTIONS = {
    ".urdf": Description(read=urdf.read, write=urdf.write, abilities=urdf.ABILITIES),
    ".sdf": Description(read=sdf.read, write=sdf.write, abilities=sdf.ABILITIES),
    ".mjcf.xml": Description(read=mjcf.read, write=mjcf.write, abilities=mjcf.ABILITIES),
}
BUILD = ".build.json"


def _advice() -> str:
    return _("The endings are: {endings}", endings=series([BUILD, *DESCRIPTIONS]))


def ending_of(name: str) -> str:
    """Return by which ending a file is read; "" for none of ours."""
    return next((ending for ending in (*DESCRIPTIONS, BUILD) if name.lower().endswith(ending)), "")


def as_build(data: bytes, *, name: str) -> bytes:
    """Return a description of a mechanism as a build file; what is none is returned as it is.

    Raises
    ------
    InvalidDocument
        It cannot be used.
    """
    return build_and_notices(data, name=name)[0]


def build_and_notices(data: bytes, *, name: str) -> tuple[bytes, list[Message]]:
    """Return a description as `as_build` does, and what of it no build says.

    A joint that follows another, as fingers do, is read as one that is free.
    """
    ending = ending_of(name)
    if ending not in DESCRIPTIONS:
        return data, []
    chain = DESCRIPTIONS[ending].read(data, name=name)
    return json.dumps(build_document(chain), indent=1, ensure_ascii=False).encode(), chain.notices


def converted(
    data: bytes, *, name: str, to: str, measured: Mapping[str, Mapping[str, Any]] | None = None
) -> tuple[bytes, list[str]]:
    """Convert a build from one form to another.

    Parameters
    ----------
    data, name
        The file, and its name: its ending says what it is.
    to
        The name of the file that is wanted.
    measured
        By part: volume, centroid and extents, for inertia.

    Returns
    -------
    bytes
    notes : list of str
        A line for each mate that no joint says, for what no mate says, and for placeholders.

    Raises
    ------
    NotSupported
        There is no such ending.
    InvalidDocument
        The file cannot be used.
    """
    if not ending_of(name):
        raise NotSupported(name, _("its ending is none that is known"), _advice())
    if not ending_of(to):
        raise NotSupported(to, _("its ending is none that is known"), _advice())
    build, notices = build_and_notices(data, name=name)
    lost = [f"{to}: {message.text}" for message in said(notices)]
    if ending_of(to) == BUILD:
        return build, lost
    description = DESCRIPTIONS[ending_of(to)]
    chain = chain_of(build, name=name, abilities=description.abilities)
    inertia = inertia_of(chain, measured or {})
    notes = lost + [
        _("{to}: no joint says mate '{mate}'; it travels in an element of its own", to=to, mate=mate["id"])
        for mate in chain.mates
    ]
    small = [name for name, own in inertia.items() if own.is_placeholder]
    if small:
        notes.append(
            _(
                "{to}: mass and inertia of {small} are placeholders: no geometry was at hand",
                to=to,
                small=series(small),
            )
        )
    return description.write(chain, inertia), notes
