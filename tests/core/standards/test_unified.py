"""Unified threads against the basic dimensions of ASME B1.1 (from memory)."""

import pytest

from rigid_bench.core.standards.unified import UNIFIED

#: Designation: basic major and minor diameter of the internal thread, inches.
BASIC = {
    "#4-40 UNC": (0.1120, 0.0849),
    "#6-32 UNC": (0.1380, 0.1042),
    "#8-32 UNC": (0.1640, 0.1302),
    "#10-24 UNC": (0.1900, 0.1449),
    "#10-32 UNF": (0.1900, 0.1562),
    "1/4-20 UNC": (0.2500, 0.1959),
    "1/4-28 UNF": (0.2500, 0.2113),
    "5/16-18 UNC": (0.3125, 0.2524),
    "3/8-16 UNC": (0.3750, 0.3073),
    "1/2-13 UNC": (0.5000, 0.4167),
    "1/2-20 UNF": (0.5000, 0.4459),
}


@pytest.mark.parametrize("designation", BASIC)
def test_diameters_are_the_basic_ones(designation: str) -> None:
    major, minor = BASIC[designation]
    thread = UNIFIED[designation]
    assert thread.major == pytest.approx(major, abs=5e-5)
    assert thread.minor_mm / 25.4 == pytest.approx(minor, abs=1e-4)
    assert thread.major_mm == pytest.approx(25.4 * major, abs=2e-3)
    assert thread.is_coarse is designation.endswith("UNC")


def test_each_size_is_finer_in_the_fine_series() -> None:
    coarse = [thread for thread in UNIFIED.values() if thread.is_coarse]
    for thread in coarse:
        fine = [other for other in UNIFIED.values() if other.major == thread.major and not other.is_coarse]
        assert [other.per_inch > thread.per_inch for other in fine] == [True], thread.designation
