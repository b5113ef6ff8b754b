"""Read files of triangles: each closed skin is a body."""

import re
from collections.abc import Sequence

import numpy as np
import trimesh
from trimesh import Trimesh

from rigid_bench.core.formats.archive import check_zip, is_zip
from rigid_bench.core.formats.content.mesh_text import EXPORT_AGAIN, check_mesh, mesh_kind
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.kernel.meshes.mending import GAP, is_closed, mended
from rigid_bench.core.kernel.meshes.mesh_scene import load_scene
from rigid_bench.core.kernel.triangle_crossings import crossing
from rigid_bench.core.part.model import Model, ModelInstance, ModelPart
from rigid_bench.core.values.errors import UnreadableFile
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.names import plain_name, slug, unique
from rigid_bench.core.wording.language import _

#: mm in each unit that a file may name, and that a person may.
UNITS = {
    "unknown": 1.0,
    "mm": 1.0,
    "cm": 10.0,
    "m": 1000.0,
    "in": 25.4,
    "ft": 304.8,
    "micron": 1e-3,
    "millimeter": 1.0,
    "millimeters": 1.0,
    "centimeter": 10.0,
    "inch": 25.4,
    "foot": 304.8,
    "meter": 1000.0,
}
#: Names of units as STEP files give them, so that reports use one word.
_WORDS = {
    "mm": "millimetre",
    "cm": "centimetre",
    "m": "metre",
    "in": "inch",
    "ft": "foot",
    "millimeter": "millimetre",
    "millimeters": "millimetre",
    "centimeter": "centimetre",
    "meter": "metre",
}
#: Triangles that enclose less, as a share of their size cubed, are left over from cutting: no body.
_SLIVER = 1e-9
#: What readers call a mesh without a name.
_NO_NAME = re.compile(r"(geometry(_\d+)?)?|world|object ?\d*|.*\.(stl|obj|ply|glb|gltf|amf)", re.IGNORECASE)
#: mm: larger than anything a class models.
_LARGEST = 1e6


def read_mesh(data: bytes, *, name: str, unit: str | None = None) -> Model:
    """Read the bodies of a file of triangles.

    Parameters
    ----------
    data
        The whole file.
    name
        Its name, for messages and for parts without names.
    unit
        One of `UNITS`, for a file that does not say its own; mm without it.

    Returns
    -------
    Model
        Lengths in mm.

    Raises
    ------
    UnreadableFile
        The data is no mesh, is cut off or broken, holds no triangles, or its skin is open.
    """
    check_mesh(data, name=name)
    kind = mesh_kind(data)
    assert kind
    if is_zip(data):
        check_zip(data, name=name)
    scene, said_unit = load_scene(data, kind=kind, name=name)
    if said_unit == "unknown" and unit:
        said_unit = unit
    factor = UNITS.get(said_unit, 1.0)
    collector = _Collector(name)
    for label, mesh, pose in scene:
        collector.add(plain_name(label), mesh, pose, factor)
    notices = [phrase("is-mesh", name=name)]
    if said_unit == "unknown":
        notices.insert(0, phrase("mesh-unit", kind=kind))
    if not collector.parts:
        problem = _("its triangles enclose no volume") if collector.notices else _("there are no triangles in it")
        raise UnreadableFile(name, problem, EXPORT_AGAIN)
    return Model(
        schema=kind,
        source_units=_WORDS.get(said_unit, said_unit),
        parts=tuple(collector.parts),
        instances=tuple(collector.instances),
        notices=(*notices, *collector.notices),
    )


class _Collector:
    """Sort placed meshes into parts, one for each body, and instances."""

    def __init__(self, file: str) -> None:
        self.file = file
        self.parts: list[ModelPart] = []
        self.instances: list[ModelInstance] = []
        self.notices: list[Message] = []
        self._of_label: dict[str, list[ModelPart]] = {}
        self._shown: dict[str, int] = {}
        self._taken: set[str] = set()

    def add(self, label: str, mesh: Trimesh, pose: Pose, factor: float) -> None:
        """Add one placed mesh."""
        if label not in self._of_label:
            self._of_label[label] = self._read(label, mesh, factor)
            self.parts += self._of_label[label]
        placed = Pose(pose.rotation, pose.position * factor)
        for part in self._of_label[label]:
            number = self._shown[part.id] = self._shown.get(part.id, 0) + 1
            self.instances.append(
                ModelInstance(
                    id=unique(f"{part.id}-{number}", self._taken),
                    name=f"{part.name}:{number}",
                    part=part.id,
                    pose=placed,
                )
            )

    def _read(self, label: str, mesh: Trimesh, factor: float) -> list[ModelPart]:
        vertices = np.asarray(mesh.vertices, dtype=float) * factor
        if not len(mesh.faces):
            return []
        if not np.isfinite(vertices).all() or np.abs(vertices).max() > _LARGEST:
            raise UnreadableFile(self.file, _("its numbers are absurd: not finite, or above a kilometre"), EXPORT_AGAIN)
        scaled, mends = mended(Trimesh(vertices, mesh.faces, process=False))
        if not np.any(scaled.area_faces > 0):
            return []
        name = self.file.rsplit(".", 1)[0] if _NO_NAME.fullmatch(label) else label
        product = unique(slug(name), self._taken)
        shells = list(scaled.split(only_watertight=False, repair=False)) or [scaled]
        solid = [shell for shell in shells if not _is_sliver(shell)]
        bodies = _bodies(solid)
        if not bodies:
            self.notices.append(phrase("no-volume", name=name))
            return []
        if len(solid) < len(shells):
            self.notices.append(phrase("slivers", name=name))
        if not all(is_closed(body) for body in bodies):
            raise UnreadableFile(
                self.file,
                _("the skin of '{name}' is open: it encloses no body", name=name),
                _("Close it, then export it again"),
            )
        for body in bodies:
            self._check_crossings(body, name)
        if len(solid) == len(shells):  # of slivers enough is said
            self.notices += [phrase(code, name=name) for code in mends]
        if len(bodies) == 1:
            return [ModelPart(id=product, name=name, product=product, shape=bodies[0], solids=1)]
        return [
            ModelPart(
                id=unique(f"{product}-b{k}", self._taken), name=f"{name} ({k})", product=product, shape=body, solids=1
            )
            for k, body in enumerate(bodies, 1)
        ]

    def _check_crossings(self, body: Trimesh, name: str) -> None:
        """Refuse a body whose shell passes through itself: it is not certain what it encloses."""
        vertices, faces = np.asarray(body.vertices), np.asarray(body.faces)
        pair = crossing(vertices, faces, deeper_mm=GAP)
        if pair is not None:
            x, y, z = vertices[faces[pair[0]]].mean(axis=0)
            problem = _(
                "the skin of '{name}' passes through itself near ({x:.1f}, {y:.1f}, {z:.1f})", name=name, x=x, y=y, z=z
            )
            raise UnreadableFile(self.file, problem, _("Join what overlaps there to one body, then export it again"))


def _bodies(shells: Sequence[Trimesh]) -> list[Trimesh]:
    """Return the bodies that shells enclose; a shell within another that looks inward is a cavity of it."""
    solid = [shell for shell in shells if shell.volume > 0 or not shell.is_watertight]
    hollow = [shell for shell in shells if shell.volume <= 0 and shell.is_watertight]
    for cavity in hollow:
        around = [k for k, shell in enumerate(solid) if _holds(shell.bounds, cavity.bounds)]
        if around:
            innermost = min(around, key=lambda k: float(solid[k].volume))
            solid[innermost] = trimesh.util.concatenate([solid[innermost], cavity])
        else:  # inside out: every triangle looks into the material
            solid.append(Trimesh(cavity.vertices, cavity.faces[:, ::-1]))
    return solid


def _is_sliver(mesh: Trimesh) -> bool:
    """Say whether a shell encloses next to nothing, for its size."""
    size = float(np.linalg.norm(np.ptp(mesh.bounds, axis=0)))
    corners = np.asarray(mesh.triangles) - mesh.bounds[0]
    volume = float(np.linalg.det(corners).sum()) / 6
    return abs(volume) < _SLIVER * size**3


def _holds(outer: Sequence[Sequence[float]], inner: Sequence[Sequence[float]]) -> bool:
    return bool(np.all(np.less(outer[0], inner[0])) and np.all(np.greater(outer[1], inner[1])))
