"""Features of a student's own, where the exercise lets a part have some: shown, and left out of the sums."""

from dataclasses import replace
from functools import lru_cache

from rigid_bench.core.kernel.editing.defeature import without_faces
from rigid_bench.core.kernel.read_model import read_part
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.values.tolerance import Tolerance


@lru_cache(maxsize=32)
def without_extras(laid: RegisteredPart, tolerance: Tolerance) -> RegisteredPart:
    """Return a part as it would be without the faces that answer to none of the reference's.

    Parameters
    ----------
    laid
        The reference laid over the part.
    tolerance
        For reading what is left.

    Returns
    -------
    RegisteredPart
        The part itself where it has no extras, came as a mesh, or cannot be closed without them.
    """
    if laid.part.is_mesh or not laid.unasked:
        return laid
    plain = without_faces(laid.part.shape, sorted(laid.unasked))
    return laid if plain is None else replace(laid, part=read_part(plain, tolerance=tolerance))
