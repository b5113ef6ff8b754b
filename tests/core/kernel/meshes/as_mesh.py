"""Hand-ins of solids handed in as meshes instead."""

from collections.abc import Mapping

import numpy as np
import trimesh

from rigid_bench.core.kernel.meshes.triangulation import meshed
from rigid_bench.core.kernel.read_model import read_model

#: mm and rad: coarse, as programs set it at first, and fine.
FINENESSES = {"coarse": 0.2, "middle": 0.05, "fine": 0.01}


def as_meshes(files: Mapping[str, bytes], within_mm: float) -> dict[str, bytes]:
    """Return a hand-in with each STEP file as 3MF: the same parts where they stood, the build file naming them."""
    submitted = {}
    for name, data in files.items():
        if name.endswith(".step"):
            submitted[name.replace(".step", ".3mf")] = step_as_3mf(data, name, within_mm)
        else:
            submitted[name] = data.replace(b".step", b".3mf") if name.endswith(".build.json") else data
    return submitted


def step_as_3mf(data: bytes, name: str, within_mm: float) -> bytes:
    """Write the parts of a STEP file as triangles, placed as they were; all bodies of a part in one mesh."""
    model = read_model(data, name=name)
    scene = trimesh.Scene()
    shapes = {part.id: part for part in model.parts}
    bodies: dict[str, list[trimesh.Trimesh]] = {}
    for part in model.parts:
        bodies.setdefault(part.product, []).append(meshed(part.shape, within_mm=within_mm))
    first = {part.product: part.id for part in reversed(model.parts)}
    for instance in model.instances:
        part, matrix = shapes[instance.part], np.eye(4)
        if first[part.product] != part.id:
            continue
        matrix[:3, :3], matrix[:3, 3] = instance.pose.rotation, instance.pose.position
        if part.name not in scene.geometry:
            whole = trimesh.util.concatenate(bodies[part.product])
            scene.add_geometry(whole, node_name=instance.id, geom_name=part.name, transform=matrix)
        else:
            scene.graph.update(frame_to=instance.id, matrix=matrix, geometry=part.name)
    written = scene.export(file_type="3mf")
    assert isinstance(written, bytes)
    return written
