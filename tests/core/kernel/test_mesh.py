"""STL and 3MF: what a mesh can carry, and that it says what it cannot."""

import io
import re
import tempfile
import zipfile
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh
from build123d import Box, Compound, Cylinder, Pos, Rot, export_stl

from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.kernel.distance import measure_gap, overlap_volume
from rigid_bench.core.kernel.meshes.triangulation import meshed
from rigid_bench.core.measurement.measure_report import measure_file
from rigid_bench.core.part.model import Body
from rigid_bench.core.values.errors import UnreadableFile
from rigid_bench.demo import seed_drawer
from rigid_bench.demo.drawer_parts import Sizes, drawer, housing, knob
from tests.support.samples import bundle_of
from tests.support.shapes import TOLERANCE, plate_with_four_holes

pytestmark = pytest.mark.thorough


def stl(shape: Any, *, is_text: bool = False) -> bytes:
    with tempfile.TemporaryDirectory() as folder:
        export_stl(shape, path := Path(folder) / "m.stl", tolerance=0.005, angular_tolerance=0.1, ascii_format=is_text)
        return path.read_bytes()


def threemf(meshes: dict[str, trimesh.Trimesh], unit: str) -> bytes:
    scene = trimesh.Scene()
    for name, mesh in meshes.items():
        scene.add_geometry(mesh, node_name=name, geom_name=name)
    data = scene.export(file_type="3mf")
    assert isinstance(data, bytes)
    return data if unit == "millimeter" else with_unit(data, unit)


def with_unit(data: bytes, unit: str) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
        for name in old.namelist():
            content = old.read(name)
            new.writestr(name, content.replace(b'unit="millimeter"', f'unit="{unit}"'.encode()))
    return out.getvalue()


def solid(shape: Any) -> Body:
    return shape.solid().wrapped


PLATE = plate_with_four_holes()


@pytest.mark.parametrize("is_text", [True, False])
def test_an_stl_carries_sizes_volume_and_bodies(is_text: bool) -> None:
    report = measure_file(stl(Pos(5, 6, 7) * PLATE, is_text=is_text), name="plate.stl", tolerance=TOLERANCE)
    (part,) = report.parts
    assert (report.step_schema, report.source_units, part.name) == ("STL", "unknown", "plate")
    assert part.extents == pytest.approx([80, 60, 6], abs=1e-4)
    assert part.volume == pytest.approx(PLATE.volume, rel=1e-4)
    assert (part.mesh, len(part.holes), len(part.planes)) == (True, 4, 6)
    for hole in part.holes:
        assert hole.diameter_band is not None
        low, high = hole.diameter_band
        assert low <= hole.diameter <= high
        assert high == pytest.approx(8, abs=1e-5)
    assert ["does not say its unit" in warning or "is a mesh" in warning for warning in report.warnings] == [True, True]


def test_bodies_cavities_and_copies_are_told_apart() -> None:
    cube = Box(4, 4, 4)
    hollow = Box(8, 8, 8) - Box(2, 2, 2)
    shapes = [cube.solid(), (Pos(15, 0, 0) * Rot(0, 0, 30) * cube).solid(), (Pos(30, 0, 0) * hollow).solid()]
    report = measure_file(stl(Compound(shapes)), name="three.stl", tolerance=TOLERANCE)
    assert sorted(round(part.volume, 3) for part in report.parts) == [64, 64, 504]
    assert len({part.shape for part in report.parts}) == 2
    assert len({part.product for part in report.parts}) == 1


@pytest.mark.parametrize(("unit", "factor"), [("millimeter", 1), ("inch", 25.4), ("meter", 1000)])
def test_3mf_says_its_unit_and_its_instances(unit: str, factor: float) -> None:
    block = trimesh.creation.box(extents=(3, 2, 1))
    report = measure_file(threemf({"Block": block}, unit), name="b.3mf", tolerance=TOLERANCE)
    (part,) = report.parts
    assert part.extents == pytest.approx([3 * factor, 2 * factor, factor])
    assert (part.name, report.step_schema) == ("Block", "3MF")
    assert report.source_units == {"millimeter": "millimetre", "inch": "inch", "meter": "metre"}[unit]


def test_gaps_of_meshes_agree_with_those_of_solids() -> None:
    a, b = solid(Box(10, 10, 10)), solid(Pos(13, 0, 0) * Rot(0, 0, 30) * Box(4, 4, 4))
    exact = measure_gap(a, b)
    for pair in ((meshed(a), meshed(b)), (a, meshed(b))):
        gap = measure_gap(*pair)
        assert gap.gap_mm == pytest.approx(exact.gap_mm, abs=1e-6)
        np.testing.assert_allclose(np.linalg.norm(gap.at[0] - gap.at[1]), exact.gap_mm, atol=1e-6)
    peg = solid(Pos(4, 0, 0) * Cylinder(3, 30))
    assert overlap_volume(meshed(a), meshed(peg)) == pytest.approx(overlap_volume(a, peg), rel=2e-3)
    assert measure_gap(meshed(a), meshed(solid(Box(2, 2, 2)))).gap_mm == 0  # one within the other


GOOD = stl(Box(3, 4, 5))
GOOD_TEXT = stl(Box(3, 4, 5), is_text=True)


@pytest.mark.parametrize(
    "data",
    [
        b"",
        b"\0" * 100,
        b"solid x\nfacet normal 0 0",
        GOOD[:-30],
        GOOD_TEXT[:-300],
        b"PK\x03\x04 no zip",
        re.sub(rb"vertex \S+", b"vertex NaN", GOOD_TEXT),
        GOOD_TEXT.replace(b"e+00", b"e+30"),
        b"solid empty\nfacet\nendsolid empty\n",
        GOOD[:84] + b"\0" * 50 * 12,
    ],
)
def test_broken_meshes_are_refused_in_one_line(data: bytes) -> None:
    with pytest.raises(UnreadableFile) as caught:
        measure_file(data, name="m.stl", tolerance=TOLERANCE)
    assert str(caught.value).startswith("m.stl: ")
    assert "\n" not in str(caught.value)


def test_grading_a_mesh_answers_what_it_can() -> None:
    turned = Rot(10, 20, 30)
    files = {
        "a.stl": stl(turned * housing()),
        "b.stl": stl(turned * drawer(Sizes(length=88))),
        "c.stl": stl(turned * knob(Sizes())),
    }
    report = grade(read_exercise(bundle_of(seed_drawer)), files, tolerance=TOLERANCE)
    verdicts = {check.id: (check.verdict, check.measured) for check in report.checks}
    assert verdicts["drawer.width"] == ("met", "60 mm")
    assert verdicts["drawer.length"] == ("missed", "88 mm")
    assert verdicts["knob.spigot.length"] == ("met", "10 mm")
    assert verdicts["parts"][0] == "met"
    assert verdicts["drawer.hole"][0] == "met"
    assert re.match(r"8.4 mm, to the corners of \d+ flats in place of a round", verdicts["drawer.hole"][1] or "")


NAMESPACE = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02"


def raw_3mf(model: str) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("3D/3dmodel.model", model)
    return out.getvalue()


ENTITIES = "".join(f'<!ENTITY {chr(98 + k)} "{f"&{chr(97 + k)};" * 10}">' for k in range(9))
TO_ITSELF = "".join(
    f'<object id="{k}"><components><component objectid="{3 - k}"/></components></object>' for k in (1, 2)
)


@pytest.mark.parametrize(
    "model",
    [
        "hello",
        "",
        f'<model xmlns="{NAMESPACE}"></model>',
        f'<model xmlns="{NAMESPACE}"><resources>{TO_ITSELF}</resources><build><item objectid="1"/></build></model>',
        f'<!DOCTYPE x [<!ENTITY a "aaaaaaaaaa">{ENTITIES}]><model xmlns="{NAMESPACE}">&j;</model>',
        "<model>" + " " * 250_000_000,
    ],
    ids=["no xml", "empty", "no build", "within itself", "entities", "zip bomb"],
)
def test_hostile_3mf_files_are_refused_in_one_line(model: str) -> None:
    with pytest.raises(UnreadableFile) as caught:
        measure_file(raw_3mf(model), name="m.3mf", tolerance=TOLERANCE)
    assert "\n" not in str(caught.value)
