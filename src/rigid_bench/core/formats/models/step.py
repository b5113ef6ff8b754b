"""STEP, ISO 10303-21: exact solids, and assemblies of them."""

from rigid_bench.core.formats.content.step_text import check_text
from rigid_bench.core.formats.model_format import ModelFormat

_BYTE_ORDER_MARK = b"\xef\xbb\xbf"


def _is_content(data: bytes) -> bool:
    return data.removeprefix(_BYTE_ORDER_MARK).lstrip().startswith(b"ISO-10303-21")


FORMAT = ModelFormat(
    name="STEP",
    extensions=(".step", ".stp", ".p21"),
    is_content=_is_content,
    check=check_text,
    reader="rigid_bench.core.kernel.step_file:read_step",
    is_exact=True,
)
