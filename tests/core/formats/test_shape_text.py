"""IGES and BREP by their text: columns, sections and units of IGES 5.3 (from memory)."""

import pytest

from rigid_bench.core.formats.content.shape_text import check_brep, check_iges, iges_unit, is_brep, is_iges
from rigid_bench.core.values.errors import UnreadableFile


def line(text: str, section: str, number: int) -> str:
    return f"{text:<72}{section}{number:7d}\n"


def iges(unit: int = 2, *, receiver: str = "10Hpart, one;", is_whole: bool = True) -> bytes:
    """A file without entities; the unit's flag is the 14th of the global parameters."""
    given = f"1H,,1H;,{receiver},5Hx.igs,4HUNIT,1H1,32,38,6,308,15,3Hown,1.0,{unit},2HMM,1,0.1;"
    parts = [given[k : k + 72] for k in range(0, len(given), 72)]
    whole = line("A sample", "S", 1) + "".join(line(part, "G", k) for k, part in enumerate(parts, 1))
    return (whole + (line("S      1G      2D      0P      0", "T", 1) if is_whole else "")).encode()


@pytest.mark.parametrize(
    ("flag", "unit"),
    [(1, "inch"), (2, "millimetre"), (4, "foot"), (6, "metre"), (9, "micrometre"), (10, "centimetre"), (99, "unknown")],
)
def test_the_unit_is_read_past_strings_with_delimiters(flag: int, unit: str) -> None:
    assert iges_unit(iges(flag, receiver="10Hpart, on;e")) == unit


def test_a_file_without_a_global_section_has_no_unit() -> None:
    assert iges_unit(line("A sample", "S", 1).encode()) == "unknown"


def test_a_whole_file_is_taken_and_one_cut_off_is_refused() -> None:
    check_iges(iges(), name="a.igs")
    with pytest.raises(UnreadableFile, match="cut off"):
        check_iges(iges(is_whole=False), name="a.igs")
    with pytest.raises(UnreadableFile, match="no IGES file"):
        check_iges(b"solid cube", name="a.igs")
    assert not is_iges(line("A sample", "G", 1).encode())


@pytest.mark.parametrize("head", [b"DBRep_DrawableShape\n", b"\nCASCADE Topology V1, (c) x\n"])
def test_a_brep_begins_with_its_name_and_ends_with_its_root(head: bytes) -> None:
    assert is_brep(head)
    check_brep(head + b"Locations 0\nTShapes 1\nSo\n\n+1 0 \n", name="a.brep")
    with pytest.raises(UnreadableFile, match="root is missing"):
        check_brep(head + b"Locations 0\nTShapes 1\nSo\n", name="a.brep")
    with pytest.raises(UnreadableFile, match="no BREP file"):
        check_brep(b"ISO-10303-21;", name="a.brep")
