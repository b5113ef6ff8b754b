"""Read any file of parts, and any part of it, whichever reader it needs."""

import importlib
from collections.abc import Mapping

from OCP.TopoDS import TopoDS_Shape

from rigid_bench.core.formats.model_formats import format_names, format_of
from rigid_bench.core.kernel.feature_reader import read_features
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.model import Body, Model
from rigid_bench.core.values.errors import UnreadableFile
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _


def read_model(data: bytes, *, name: str, beside: Mapping[str, bytes] | None = None, unit: str | None = None) -> Model:
    """Read the parts and instances of a file of any format that is known.

    Parameters
    ----------
    data
        The whole file.
    name
        Its name, for messages.
    beside
        Files to which it refers, by name.
    unit
        "mm", "cm", "m", "in" or "ft", for a mesh that does not say its own.

    Raises
    ------
    UnreadableFile
        The data is of none of them, is cut off or broken, or holds no body.
    """
    model_format = format_of(name, data)
    if model_format is None:
        raise UnreadableFile(
            name,
            _("this is no {format_names} file", format_names=format_names()),
            _("Export the model again, best as STEP"),
        )
    module, _unused, function = model_format.reader.partition(":")
    more = {"beside": beside} if model_format.is_exact else {"unit": unit}
    given = {key: value for key, value in more.items() if value}
    model: Model = getattr(importlib.import_module(module), function)(data, name=name, **given)
    return model


def read_part(body: Body, *, tolerance: Tolerance) -> PartFeatures:
    """Read a body into named surfaces and its mass properties.

    Parameters
    ----------
    body
        A solid, or a mesh: of a mesh flat surfaces and round walls are named.
    tolerance
        For joining faces.

    Raises
    ------
    GeometryError
        The kernel cannot read a face, or the body encloses nothing.
    """
    if isinstance(body, TopoDS_Shape):
        return read_features(body, tolerance=tolerance)
    from rigid_bench.core.kernel.meshes.mesh_part import read_mesh_part

    return read_mesh_part(body)
