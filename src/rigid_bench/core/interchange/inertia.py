"""Mass and inertia of links for simulators: from a part's volume and density, else a small placeholder."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.interchange.chain import Chain
from rigid_bench.core.standards.materials import DENSITIES

_Array = NDArray[np.float64]
#: g/cm3 where the build names no material: that of PLA by data sheets.
_DENSITY = 1.24
#: kg, and kg m2, of a link whose part has no geometry.
_MASS, _INERTIA = 1e-3, 1e-9


@dataclass(frozen=True, slots=True, kw_only=True)
class Inertia:
    """In the part's own coordinates."""

    #: kg
    mass: float = _MASS
    #: (3,) mm
    centre: _Array = field(default_factory=lambda: np.zeros(3))
    #: kg m2 about the centre: xx, xy, xz, yy, yz, zz.
    tensor: tuple[float, ...] = (_INERTIA, 0.0, 0.0, _INERTIA, 0.0, _INERTIA)
    is_placeholder: bool = True


def inertia_of(chain: Chain, measured: Mapping[str, Mapping[str, Any]]) -> dict[str, Inertia]:
    """Return the inertia of every link.

    Parameters
    ----------
    chain
        The build.
    measured
        By part: its volume (mm3), centroid and extents (mm), as a measure report has them. The tensor is that of a
        block of these extents and this mass: exact for blocks, near enough for a simulator's other parts.
    """
    return {link.id: _of_part(link.part, measured.get(str(link.part.get("id")))) for link in chain.links}


def _of_part(part: Mapping[str, Any], measured: Mapping[str, Any] | None) -> Inertia:
    if measured is None:
        return Inertia()
    names = {name.lower(): value for name, value in DENSITIES.items()}
    density = names.get(str(part.get("material", "")).lower(), _DENSITY)
    mass = float(measured["volume"]) * density * 1e-6
    x, y, z = (float(size) * 1e-3 for size in measured["extents"])
    own = tuple(mass / 12 * (a**2 + b**2) for a, b in ((y, z), (x, z), (x, y)))
    tensor = (own[0], 0.0, 0.0, own[1], 0.0, own[2])
    return Inertia(mass=mass, centre=np.array(measured["centroid"], dtype=float), tensor=tensor, is_placeholder=False)
