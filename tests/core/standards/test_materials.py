"""Densities against what is published of pure elements, and bounds of handbooks for the rest."""

import pytest

from rigid_bench.core.standards.materials import DENSITIES

#: g/cm3 at 20 C: CRC Handbook of Chemistry and Physics (from memory).
ELEMENTS = {"aluminium": 2.70, "copper": 8.96, "zinc": 7.14}
#: g/cm3: Ashby, Materials Selection in Mechanical Design, appendix of material properties (from memory).
BOUNDS = {
    "steel": (7.8, 7.9), "stainless steel": (7.6, 8.1), "cast iron": (7.05, 7.25), "brass": (7.95, 8.6),
    "bronze": (8.5, 9.0), "ABS": (1.01, 1.21), "nylon": (1.12, 1.14), "polycarbonate": (1.14, 1.21),
    "polypropylene": (0.89, 0.91), "HDPE": (0.939, 0.965), "acrylic": (1.16, 1.22), "acetal": (1.39, 1.43),
    "polystyrene": (1.04, 1.05),
}  # fmt: skip


@pytest.mark.parametrize("name", ELEMENTS)
def test_an_element_has_its_density(name: str) -> None:
    assert DENSITIES[name] == pytest.approx(ELEMENTS[name], abs=0.01)


@pytest.mark.parametrize("name", BOUNDS)
def test_a_material_lies_within_its_bounds(name: str) -> None:
    low, high = BOUNDS[name]
    assert low <= DENSITIES[name] <= high


def test_wood_swims() -> None:
    assert all(DENSITIES[name] < 1 for name in ("beech", "birch plywood", "pine", "oak", "MDF"))
