"""A toy format: blocks by their three sizes, "BLOCK name 10 20 30" to a line."""

from rigid_bench.core.formats.model_format import ModelFormat
from rigid_bench.core.part.model import Model, ModelInstance, ModelPart
from rigid_bench.core.values.errors import UnreadableFile
from rigid_bench.core.values.frames import Pose


def check(data: bytes, *, name: str) -> None:
    """Refuse a line without three sizes."""
    for number, line in enumerate(data.decode().splitlines(), 1):
        if len(line.split()) != 5:
            raise UnreadableFile(name, f"line {number} has no three sizes", "Write: BLOCK name 10 20 30")


def read(data: bytes, *, name: str) -> Model:
    """Read the blocks."""
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox

    parts, instances = [], []
    for line in data.decode().splitlines():
        _, block, *sizes = line.split()
        solid = BRepPrimAPI_MakeBox(*map(float, sizes)).Solid()
        parts.append(ModelPart(id=block, name=block, product=block, shape=solid, solids=1))
        instances.append(ModelInstance(id=f"{block}-1", name=f"{block}:1", part=block, pose=Pose.identity()))
    return Model(schema="BLOCKS", source_units="millimetre", parts=tuple(parts), instances=tuple(instances), notices=())


FORMAT = ModelFormat(
    name="BLOCKS",
    extensions=(".blocks",),
    is_content=lambda data: data.startswith(b"BLOCK "),
    check=check,
    reader=f"{__name__}:read",
    is_exact=True,
)
