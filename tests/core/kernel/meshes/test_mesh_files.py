"""Files of triangles of every format: the same part from each, mended where it is safe, refused where not."""

import io
import json
import math
import tempfile
import zipfile
from collections.abc import Callable
from pathlib import Path

import meshio
import numpy as np
import pytest
import trimesh
from build123d import Box, Cylinder, Pos, export_stl
from shapely.geometry import Polygon
from trimesh import Trimesh

from rigid_bench.core.formats.measure import MeasureReport
from rigid_bench.core.kernel.meshes.triangulation import meshed
from rigid_bench.core.measurement.measure_report import measure_file
from rigid_bench.core.values.errors import UnreadableFile
from tests.support.shapes import TOLERANCE

pytestmark = pytest.mark.thorough

_BLOCK = Box(40, 30, 10) - Cylinder(4, 20) - Pos(12, 8, 3) * Cylinder(2.5, 8)
MESH = meshed(_BLOCK.solid().wrapped)


def measured(data: bytes | str, name: str, unit: str | None = None) -> MeasureReport:
    submitted = data.encode() if isinstance(data, str) else data
    return measure_file(submitted, name=name, tolerance=TOLERANCE, unit=unit)


def amf(mesh: Trimesh, unit: str = "millimeter") -> str:
    corners = "".join(
        f"<vertex><coordinates><x>{x!r}</x><y>{y!r}</y><z>{z!r}</z></coordinates></vertex>"
        for x, y, z in mesh.vertices.tolist()
    )
    faces = "".join(f"<triangle><v1>{a}</v1><v2>{b}</v2><v3>{c}</v3></triangle>" for a, b, c in mesh.faces.tolist())
    body = f"<mesh><vertices>{corners}</vertices><volume>{faces}</volume></mesh>"
    return f'<amf unit="{unit}"><object id="1"><metadata type="name">Block</metadata>{body}</object></amf>'


def in_metres(mesh: Trimesh) -> Trimesh:
    """Return what a program writes that keeps to glTF: metres, y up."""
    y_up = np.array([[1, 0, 0], [0, 0, 1], [0, -1, 0]]) / 1000
    return Trimesh(mesh.vertices @ y_up.T, mesh.faces, process=False)


def zipped(name: str, content: str) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(name, content)
    return out.getvalue()


def by_meshio(ending: str) -> bytes:
    """The same triangles as meshio writes them: a writer that shares nothing with our reader."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder, f"block.{ending}")
        meshio.Mesh(np.asarray(MESH.vertices), [("triangle", np.asarray(MESH.faces))]).write(path)
        return path.read_bytes()


FILES: dict[str, Callable[[], bytes | str]] = {
    "meshio.stl": lambda: by_meshio("stl"),
    "meshio.obj": lambda: by_meshio("obj"),
    "meshio.ply": lambda: by_meshio("ply"),
    "block.stl": lambda: MESH.export(file_type="stl"),
    "block.obj": lambda: MESH.export(file_type="obj"),
    "block.ply": lambda: MESH.export(file_type="ply"),
    "text.ply": lambda: MESH.export(file_type="ply", encoding="ascii"),
    "block.3mf": lambda: MESH.export(file_type="3mf"),
    "block.glb": lambda: in_metres(MESH).export(file_type="glb"),
    "block.amf": lambda: amf(MESH),
    "zipped.amf": lambda: zipped("block.amf", amf(MESH)),
}


@pytest.mark.parametrize("name", FILES)
def test_each_format_gives_the_same_part(name: str) -> None:
    report = measured(FILES[name](), name)
    (part,) = report.parts
    assert part.mesh is True
    assert part.extents == pytest.approx([40, 30, 10], abs=1e-4)
    assert part.volume == pytest.approx(MESH.volume, rel=1e-5)
    holes = sorted((hole.diameter, hole.depth, hole.through) for hole in part.holes)
    assert [depth for _, depth, _ in holes] == pytest.approx([6, 10], abs=1e-4)
    assert [diameter for diameter, _, _ in holes] == pytest.approx([5, 8], abs=1e-4)
    assert [through for _, _, through in holes] == [False, True]
    upright = [hole.direction for hole in part.holes if not hole.through]
    assert np.abs(upright[0]) == pytest.approx([0, 0, 1], abs=1e-6)


@pytest.mark.parametrize("chords", [8, 9, 16, 33, 64, 256])
def test_a_round_wall_is_given_to_its_corners_with_the_band_of_its_flats(chords: int) -> None:
    turns = np.arange(chords) * 2 * math.pi / chords
    outline = 4 * np.column_stack([np.cos(turns), np.sin(turns)])
    prism = trimesh.creation.extrude_polygon(Polygon(outline), 20)
    (part,) = measured(prism.export(file_type="stl"), "pin.stl").parts
    (boss,) = part.bosses
    across = 8 * math.cos(math.pi / chords)
    low = across if chords % 2 == 0 else (8 + across) / 2
    assert boss.diameter == pytest.approx(8, abs=1e-5)
    assert boss.diameter_band == pytest.approx([low, 8], abs=1e-5)
    assert boss.diameter_band
    assert boss.diameter_band[0] <= boss.diameter <= boss.diameter_band[1]


def test_a_person_may_say_the_unit_of_what_says_none() -> None:
    data = MESH.export(file_type="stl")
    assert measured(data, "b.stl", "in").parts[0].extents == pytest.approx([40 * 25.4, 30 * 25.4, 254], rel=1e-6)
    assert measured(data, "b.stl", "in").source_units == "inch"
    assert measured(FILES["block.3mf"](), "b.3mf", "in").parts[0].extents == pytest.approx([40, 30, 10], abs=1e-4)


def test_what_is_safe_is_mended_and_said() -> None:
    turned = MESH.copy()
    turned.faces[::3] = turned.faces[::3, ::-1]
    doubled = Trimesh(MESH.vertices, np.vstack([MESH.faces, MESH.faces[:5]]), process=False)
    rng = np.random.default_rng(3)
    torn = Trimesh(MESH.triangles.reshape(-1, 3), np.arange(3 * len(MESH.faces)).reshape(-1, 3), process=False)
    torn.vertices = torn.vertices + rng.uniform(-0.002, 0.002, torn.vertices.shape)
    for mesh, said in ((turned, "looked inward"), (doubled, "Double triangles"), (torn, "Gaps")):
        report = measured(mesh.export(file_type="stl"), "b.stl")
        assert any(said in warning for warning in report.warnings), said
        assert report.parts[0].volume == pytest.approx(MESH.volume, rel=1e-3)
        assert report.parts[0].closed


def glb_that_announces(count: float) -> bytes:
    text = json.dumps({"asset": {"version": "2.0"}, "accessors": [{"count": count, "type": "VEC3"}]}).encode()
    text += b" " * (-len(text) % 4)
    head = b"glTF" + (2).to_bytes(4, "little") + (20 + len(text)).to_bytes(4, "little")
    return head + len(text).to_bytes(4, "little") + b"JSON" + text


def spoilt(data: bytes) -> bytes:
    """Return a zip whose file is not what its checksum says."""
    place = len(data) // 2
    return data[:place] + bytes([data[place] ^ 0xFF]) + data[place + 1 :]


PLY = "ply\nformat ascii 1.0\nelement vertex {0}\nproperty float x\nproperty float y\nproperty float z\n"
PLY += "element face {0}\nproperty list uchar int vertex_indices\nend_header\n0 0 0\n"


@pytest.mark.parametrize(
    ("name", "data"),
    [
        ("cut.glb", FILES["block.glb"]()[:-400]),
        ("counts.glb", glb_that_announces(10**9)),
        ("infinite.glb", glb_that_announces(math.inf)),
        ("counts.ply", PLY.format(10**9)),
        ("cut.ply", FILES["block.ply"]()[:-300]),
        ("corners.obj", "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n"),
        ("flat.obj", "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"),
        ("numbers.obj", "v 0 0 nan\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"),
        ("words.amf", "<amf><object id='1'><mesh><vertices><vertex/></vertices></mesh></object></amf>"),
        ("entities.amf", '<!DOCTYPE x [<!ENTITY a "b">]><amf>&a;</amf>'),
        ("zipped.amf", zipped("a.amf", '<!DOCTYPE x [<!ENTITY a "b">]><amf>&a;</amf>')),
        ("spoilt.amf", spoilt(zipped("a.amf", amf(MESH)))),
        ("nothing.gltf", '{"asset": {}, "accessors": []}'),
    ],
)
def test_what_cannot_be_read_is_refused_in_one_line(name: str, data: bytes | str) -> None:
    with pytest.raises(UnreadableFile) as caught:
        measured(data, name)
    assert str(caught.value).startswith(f"{name}: ")
    assert "\n" not in str(caught.value)


def test_an_open_skin_is_refused() -> None:
    mesh = trimesh.creation.box(extents=(3, 2, 1))
    mesh.update_faces(np.arange(len(mesh.faces)) > 0)
    with pytest.raises(UnreadableFile, match="the skin of 'open' is open"):
        measured(mesh.export(file_type="stl"), "open.stl")


def test_another_library_s_triangles_are_read_as_ours(tmp_path: object) -> None:
    path = f"{tmp_path}/block.stl"
    export_stl(_BLOCK, path, tolerance=0.05, angular_tolerance=0.3)
    with open(path, "rb") as file:
        (part,) = measured(file.read(), "block.stl").parts
    assert sorted(hole.diameter for hole in part.holes) == pytest.approx([5, 8], abs=1e-4)


@pytest.mark.parametrize("subdivisions", [3, 5])
def test_a_ball_has_no_round_walls(subdivisions: int) -> None:
    ball = trimesh.creation.icosphere(subdivisions=subdivisions, radius=20)
    (part,) = measured(ball.export(file_type="stl"), "ball.stl").parts
    assert (part.holes, part.bosses, part.round_walls) == ([], [], [])


def test_a_round_wall_whose_ends_have_different_chords_is_found() -> None:
    lower, upper = 20, 24
    turns = [np.arange(count) * 2 * math.pi / count for count in (lower, upper)]
    rings = [
        4 * np.column_stack([np.cos(turn), np.sin(turn), np.full(len(turn), height / 4)])
        for turn, height in zip(turns, (0.0, 10.0), strict=True)
    ]
    pin = trimesh.convex.convex_hull(np.vstack(rings))
    (boss,) = measured(pin.export(file_type="stl"), "pin.stl").parts[0].bosses
    assert boss.diameter == pytest.approx(8, abs=1e-4)
    assert boss.height == pytest.approx(10, abs=1e-4)
    assert boss.diameter_band
    assert boss.diameter_band[0] == pytest.approx(8 * math.cos(math.pi / lower), abs=1e-3)
