"""Features of a student's own, where the exercise lets a part have some: shown, and left out of the sums."""

from dataclasses import replace
from functools import lru_cache

from rigid_bench.core.kernel.editing.defeature import without_faces
from rigid_bench.core.kernel.read_model import read_part
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.values.tolerance import Tolerance


@lru_cache(maxsize=32)
def without_extras(registered: RegisteredPart, tolerance: Tolerance) -> RegisteredPart:
    """Return a part as it would be without the faces that answer to none of the reference's.

    Parameters
    ----------
    registered
        The reference laid over the part.
    tolerance
        For reading what is left.

    Returns
    -------
    RegisteredPart
        The part itself where it has no extras, came as a mesh, or cannot be closed without them.
    """
    if registered.part.is_mesh or not registered.unasked:
        return registered
    plain = without_faces(registered.part.shape, sorted(registered.unasked))
    return registered if plain is None else replace(registered, part=read_part(plain, tolerance=tolerance))
