"""The cutting list: pieces from the model, laid into bought lengths."""

import pytest
from build123d import Align, Box, Cylinder, Plane, RegularPolygon, extrude, split
from hypothesis import given
from hypothesis import strategies as st

from rigid_bench.core.drawing.cutting_list import cut_plan, cutting_list
from rigid_bench.core.drawing.stock_pieces import stock_piece
from rigid_bench.core.exercise.bundle import PartModel
from rigid_bench.core.kernel.feature_reader import read_features
from rigid_bench.core.values.errors import InvalidDocument
from tests.support.shapes import TOLERANCE

CORNER, FOOT = (Align.MIN,) * 3, (Align.CENTER, Align.CENTER, Align.MIN)


def piece(shape: object) -> object:
    return stock_piece(read_features(shape.solid().wrapped, tolerance=TOLERANCE))  # type: ignore[attr-defined]


@pytest.mark.parametrize(("shape", "section", "sizes"), [
    (Cylinder(4, 120, align=FOOT), "round", [8.0]),
    (Box(10, 10, 200, align=CORNER), "square", [10.0]),
    (Box(300, 20, 3, align=CORNER), "rectangle", [3.0, 20.0]),
    (extrude(RegularPolygon(6, 6, major_radius=False), 90), "hexagon", [12.0]),
])  # fmt: skip
def test_the_section_is_what_is_bought(shape: object, section: str, sizes: list[float]) -> None:
    cut = piece(shape)
    assert cut.section == section  # type: ignore[attr-defined]
    assert cut.sizes == pytest.approx(sizes, abs=1e-3)  # type: ignore[attr-defined]
    assert cut.end_angles == [0.0, 0.0]  # type: ignore[attr-defined]


def test_a_mitred_end_leans_by_its_angle_and_the_length_is_from_tip_to_tip() -> None:
    bar = Box(200, 20, 20, align=CORNER)
    mitre = Plane(origin=(180, 0, 0), z_dir=(1, 1, 0))
    cut = split(bar, mitre, keep=__import__("build123d").Keep.BOTTOM)
    sawn = piece(cut)
    assert sawn.length == pytest.approx(180, abs=1e-3)  # type: ignore[attr-defined]
    assert sorted(sawn.end_angles) == [0.0, 45.0]  # type: ignore[attr-defined]


def test_pieces_of_one_section_and_material_stand_together_with_their_mass() -> None:
    """Steel 7.85 g/cm3: 3 x 20 x 100 mm is 47.1 g."""
    strip = piece(Box(100, 20, 3, align=CORNER))
    rod = piece(Cylinder(4, 120, align=FOOT))
    parts = [
        PartModel(id="rail", name="Rail", count=4, material="steel"),
        PartModel(id="pin", name="Pin", material="unknown stuff"),
    ]
    flat, round_bar = cutting_list(parts, {"rail": strip, "pin": rod}, bought=1000, kerf=2)  # type: ignore[dict-item]
    (line,) = flat.pieces
    assert (line.count, line.mass) == (4, pytest.approx(4 * 47.1, rel=1e-6))
    assert [len(bar.pieces) for bar in flat.bars] == [4]
    assert flat.bars[0].left == pytest.approx(1000 - 4 * 102)
    assert round_bar.pieces[0].mass is None


def test_a_piece_longer_than_what_is_bought_is_refused() -> None:
    with pytest.raises(InvalidDocument, match="'rail' is 1200 mm long"):
        cut_plan([("rail", 1200.0)], bought=1000, kerf=2)


@given(st.lists(st.floats(10, 900), min_size=1, max_size=25), st.floats(0, 5))
def test_nothing_is_lost_and_no_bar_is_overfull(lengths: list[float], kerf: float) -> None:
    bars = cut_plan([(str(k), length) for k, length in enumerate(lengths)], bought=1000, kerf=kerf)
    names = [name for bar in bars for name, _ in bar.pieces]
    assert sorted(names) == sorted(str(k) for k in range(len(lengths)))
    for bar in bars:
        used = sum(length for _, length in bar.pieces) + kerf * (len(bar.pieces) - 1)
        assert used <= 1000 + 1e-6
    # first fit decreasing: no two bars less than half full
    assert sum(sum(length for _, length in bar.pieces) < 500 - kerf * 25 for bar in bars) <= 1
