"""Read a zip into memory: by content, within limits, never by its own paths."""

import io
import zipfile
import zlib
from collections.abc import Mapping
from pathlib import PurePosixPath

from rigid_bench.core.values.errors import UnreadableFile
from rigid_bench.core.values.names import plain_name
from rigid_bench.core.wording.language import N_, _

#: Beyond these a zip is no build of a class.
MOST_FILES, MOST_BYTES = 500, 200_000_000
#: How many times larger than packed a member may become; STEP text packs about 5 to 15 to 1.
_MOST_RATIO = 200
_PACK_AGAIN = N_("Put just the STEP files and the build file into a new zip")


def is_zip(data: bytes) -> bool:
    """Say whether the data is a zip, by content."""
    return data.startswith(b"PK\x03\x04")


def read_zip(
    data: bytes, *, name: str, most_files: int = MOST_FILES, most_bytes: int = MOST_BYTES
) -> Mapping[str, bytes]:
    """Read the files in a zip.

    Parameters
    ----------
    data
        The zip.
    name
        Its own name, for messages.
    most_files, most_bytes
        That it may hold.

    Returns
    -------
    mapping of str to bytes
        By the last part of each path; folders, links and what systems leave beside files
        are passed over.

    Raises
    ------
    UnreadableFile
        It is broken, encrypted, too large, leads out of its folder, or two files in it have one name.
    """
    files: dict[str, bytes] = {}
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            members = [entry for entry in archive.infolist() if _is_wanted(entry)]
            _check_paths(members, name)
            _check_sizes(members, name, most_files, most_bytes)
            for member in members:
                base = plain_name(PurePosixPath(member.filename.replace("\\", "/")).name)
                if base in files:
                    raise UnreadableFile(name, _("two files in it are called '{base}'", base=base), _PACK_AGAIN)
                files[base] = archive.read(member)
    except (zipfile.BadZipFile, zlib.error, EOFError, RuntimeError, NotImplementedError, OSError) as exc:
        raise UnreadableFile(name, _("the zip is broken, encrypted or of an unusual kind"), _PACK_AGAIN) from exc
    return files


def check_zip(data: bytes, *, name: str) -> None:
    """Refuse a zip that unpacks to far more than it should.

    Raises
    ------
    UnreadableFile
        It is broken or too large.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            _check_sizes(archive.infolist(), name, MOST_FILES, MOST_BYTES)
    except (zipfile.BadZipFile, NotImplementedError, OSError) as exc:
        raise UnreadableFile(name, _("the zip is broken, encrypted or of an unusual kind"), _PACK_AGAIN) from exc


def _is_wanted(member: zipfile.ZipInfo) -> bool:
    path = PurePosixPath(member.filename.replace("\\", "/"))
    is_link = (member.external_attr >> 16) & 0o170000 == 0o120000
    return not (member.is_dir() or is_link or "__MACOSX" in path.parts or path.name.startswith("."))


def _check_paths(members: list[zipfile.ZipInfo], name: str) -> None:
    """Refuse paths that lead out of the folder into which a zip is unpacked: no program writes them by accident."""
    for member in members:
        path = member.filename.replace("\\", "/")
        if path.startswith("/") or ".." in path.split("/") or path[1:2] == ":":
            raise UnreadableFile(
                name, _("the path '{path}' in it leads out of its folder", path=plain_name(path)), _PACK_AGAIN
            )


def _check_sizes(members: list[zipfile.ZipInfo], name: str, most_files: int, most_bytes: int) -> None:
    total = sum(member.file_size for member in members)
    if len(members) > most_files or total > most_bytes:
        raise UnreadableFile(
            name,
            _("it holds {count} files of {total:.0f} MB in all", count=len(members), total=total / 1000000.0),
            _PACK_AGAIN,
        )
    for member in members:
        if member.file_size > 1_000_000 and member.file_size > _MOST_RATIO * max(member.compress_size, 1):
            raise UnreadableFile(
                name,
                _("'{filename}' unpacks to far more than it should", filename=plain_name(member.filename)),
                _PACK_AGAIN,
            )


def write_zip(files: Mapping[str, bytes]) -> bytes:
    """Pack files into a zip that is the same bytes for the same files."""
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED, compresslevel=9) as archive:
        for name in sorted(files):
            archive.writestr(zipfile.ZipInfo(name), files[name], zipfile.ZIP_DEFLATED)
    return packed.getvalue()
