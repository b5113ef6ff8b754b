"""IGES and BREP: the same part as from STEP, sewn where only surfaces came, in any unit, refused when cut off."""

from pathlib import Path

import pytest
from OCP.BRepTools import BRepTools
from OCP.IGESControl import IGESControl_Writer

from rigid_bench.core.formats.model_formats import format_of
from rigid_bench.core.measurement.measure_report import measure_file
from rigid_bench.core.values.errors import UnreadableFile
from tests.support.shapes import TOLERANCE, plate_with_four_holes

PLATE = plate_with_four_holes()
#: The writer's modes: trimmed surfaces alone, or solids (entity 186).
_SURFACES, _SOLIDS = 0, 1


def iges(folder: Path, unit: str, mode: int) -> bytes:
    writer = IGESControl_Writer(unit, mode)
    writer.AddShape(PLATE.solid().wrapped)
    writer.ComputeModel()
    writer.Write(str(path := folder / "plate.igs"))
    return path.read_bytes()


def brep(folder: Path) -> bytes:
    BRepTools.Write_s(PLATE.solid().wrapped, str(path := folder / "plate.brep"))
    return path.read_bytes()


@pytest.mark.parametrize("mode", [_SURFACES, _SOLIDS])
@pytest.mark.parametrize(("unit", "word"), [("MM", "millimetre"), ("IN", "inch"), ("M", "metre")])
def test_iges_is_read_like_step(tmp_path: Path, unit: str, word: str, mode: int) -> None:
    report = measure_file(iges(tmp_path, unit, mode), name="plate.igs", tolerance=TOLERANCE)
    (part,) = report.parts
    assert (report.step_schema, report.source_units, part.closed) == ("IGES", word, True)
    assert part.extents == pytest.approx([80, 60, 6], abs=1e-4)
    assert part.volume == pytest.approx(PLATE.volume, rel=1e-6)
    assert [(hole.diameter, hole.through) for hole in part.holes] == [(pytest.approx(8, abs=1e-4), True)] * 4
    assert any("sewn" in warning for warning in report.warnings) == (mode == _SURFACES)


def test_brep_is_read_like_step(tmp_path: Path) -> None:
    report = measure_file(brep(tmp_path), name="plate.brep", tolerance=TOLERANCE)
    (part,) = report.parts
    assert (report.step_schema, report.source_units) == ("BREP", "unknown")
    assert part.volume == pytest.approx(PLATE.volume, rel=1e-9)
    assert len(part.holes) == 4
    assert any("does not say its unit" in warning for warning in report.warnings)


def test_the_content_says_what_a_file_is(tmp_path: Path) -> None:
    for data, format_name in ((iges(tmp_path, "MM", _SOLIDS), "IGES"), (brep(tmp_path), "BREP")):
        known = format_of("model.stl", data)
        assert known
        assert known.name == format_name


@pytest.mark.parametrize("share", [0.02, 0.4, 0.99])
def test_what_is_cut_off_is_refused_in_one_line(tmp_path: Path, share: float) -> None:
    for name, data in (("plate.igs", iges(tmp_path, "MM", _SOLIDS)), ("plate.brep", brep(tmp_path))):
        with pytest.raises(UnreadableFile) as caught:
            measure_file(data[: int(share * len(data))], name=name, tolerance=TOLERANCE)
        assert str(caught.value).startswith(f"{name}: ")
        assert "\n" not in str(caught.value)
