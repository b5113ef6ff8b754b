"""Thread tables against published values: ISO 724 (basic diameters), ISO 273 and ISO 2306, from memory."""

import pytest

from rigid_bench.core.standards.threads import clearance_hole, match_diameter, threads


@pytest.mark.parametrize(
    ("nominal", "minor", "root"),
    [
        (3, 2.459, 2.387), (5, 4.134, 4.019), (6, 4.917, 4.773), (8, 6.647, 6.466),
        (10, 8.376, 8.160), (12, 10.106, 9.853), (16, 13.835, 13.546), (20, 17.294, 16.933),
    ],
)  # fmt: skip
def test_basic_diameters_are_those_of_iso_724(nominal: float, minor: float, root: float) -> None:
    thread = next(thread for thread in threads() if thread.is_coarse and thread.nominal == nominal)
    assert (thread.minor_internal, thread.root_external) == (
        pytest.approx(minor, abs=6e-4),
        pytest.approx(root, abs=6e-4),
    )


def test_every_tapping_drill_is_about_major_less_pitch_and_above_the_minor_diameter() -> None:
    """Common practice, no source: drill about D - P; below D1 nothing can be tapped."""
    for thread in threads():
        assert thread.tapping_drill == pytest.approx(thread.nominal - thread.pitch, abs=0.06 + 0.02 * thread.pitch)
        assert thread.tapping_drill >= thread.minor_internal - 1e-9


def test_clearance_holes_grow_with_series_and_screw() -> None:
    rows = [clearance_hole(nominal) for nominal in sorted({thread.nominal for thread in threads()})]
    assert all(row and row[0] < row[1] < row[2] for row in rows)
    assert clearance_hole(8) == (8.4, 9.0, 10.0)
    assert clearance_hole(7.3) is None


@pytest.mark.parametrize(
    ("diameter", "is_hole", "said"),
    [
        (5.0, True, ["M5 nominal", "M6 tapping drill"]),
        (6.647, True, ["M8 minor diameter"]),
        (6.6, True, ["M6 clearance medium"]),
        (8.0, False, ["M8 nominal"]),
        (6.466, False, ["M8 minor diameter"]),
        (6.72, True, []),
        (6.35, False, ["1/4-20 UNC nominal"]),
        (4.976, True, ["1/4-20 UNC minor diameter"]),  # ASME B1.1: 0.1959 in
    ],
)
def test_a_plain_diameter_says_what_it_may_stand_for(diameter: float, is_hole: bool, said: list[str]) -> None:
    assert [f"{thread.designation} {thread.size}" for thread in match_diameter(diameter, is_hole=is_hole)] == said
