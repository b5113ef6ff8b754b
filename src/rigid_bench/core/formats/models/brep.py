"""BREP: solids as the kernel's own text, without a unit."""

from rigid_bench.core.formats.content.shape_text import check_brep, is_brep
from rigid_bench.core.formats.model_format import ModelFormat

FORMAT = ModelFormat(
    name="BREP",
    extensions=(".brep", ".brp"),
    is_content=is_brep,
    check=check_brep,
    reader="rigid_bench.core.kernel.shape_file:read_brep",
    is_exact=True,
)
