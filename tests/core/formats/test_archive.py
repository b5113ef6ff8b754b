"""Zips: by content, within limits, never by their own paths."""

import io
import zipfile

import pytest

from rigid_bench.core.formats.archive import read_zip
from rigid_bench.core.values.errors import UnreadableFile


def packed(files: dict[str, bytes]) -> bytes:
    written = io.BytesIO()
    with zipfile.ZipFile(written, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in files.items():
            archive.writestr(name, content)
    return written.getvalue()


def test_paths_are_dropped_and_leftovers_passed_over() -> None:
    data = packed({"etc/kit.step": b"a", "x\\b.json": b"b", "__MACOSX/kit.step": b"c", ".DS_Store": b"d", "f/": b""})
    assert dict(read_zip(data, name="z")) == {"kit.step": b"a", "b.json": b"b"}


def test_two_files_of_one_name_are_refused() -> None:
    with pytest.raises(UnreadableFile, match="two files"):
        read_zip(packed({"a/kit.step": b"1", "b/kit.step": b"2"}), name="z")


def test_a_bomb_is_refused_before_it_is_unpacked() -> None:
    with pytest.raises(UnreadableFile, match="far more"):
        read_zip(packed({"kit.step": b"0" * 50_000_000}), name="z")


# a zip holds the time: by name, the tests are the same in every process
@pytest.mark.parametrize(
    "data",
    [b"PK\x03\x04 nonsense", b"PK\x03\x04", packed({"a": b"1" * 999})[:-30]],
    ids=["nonsense", "its first bytes", "without its end"],
)
def test_a_broken_zip_is_refused(data: bytes) -> None:
    with pytest.raises(UnreadableFile):
        read_zip(data, name="z")
