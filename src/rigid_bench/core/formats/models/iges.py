"""IGES 5.3: solids, or trimmed surfaces that are sewn."""

from rigid_bench.core.formats.content.shape_text import check_iges, is_iges
from rigid_bench.core.formats.model_format import ModelFormat

FORMAT = ModelFormat(
    name="IGES",
    extensions=(".igs", ".iges"),
    is_content=is_iges,
    check=check_iges,
    reader="rigid_bench.core.kernel.shape_file:read_iges",
    is_exact=True,
)
