"""What a STEP file holds, and what a broken one says."""

import numpy as np
import pytest
from build123d import Box, Compound, Face, Pos

from rigid_bench.core.errors import UnreadableFile
from rigid_bench.core.geometry.measure_report import measure_file
from rigid_bench.core.geometry.step_file import read_step
from tests.shapes import TOLERANCE, handed_bracket, inch_step, kit, mirrored, plate_with_four_holes, step


def test_instances_are_the_leaves_with_poses_composed_to_the_root() -> None:
    model = read_step(step(kit(), "Kit"), name="kit.step")
    assert [each.name for each in model.instances] == ["Base plate", "Rod 0", "Rod 1"]
    # the frame turns x to -z and stands 50 up: the second rod's 10 along x is 10 down
    np.testing.assert_allclose(model.instances[2].pose.position, [0, 0, 40], atol=1e-9)
    assert model.schema == "AP214"


def test_inches_come_out_as_millimetres() -> None:
    in_inches = measure_file(inch_step(Box(25.4, 50.8, 76.2)), name="b.step", tolerance=TOLERANCE)
    assert in_inches.source_units.startswith("inch")
    assert in_inches.parts[0].extents == pytest.approx([25.4, 50.8, 76.2], abs=1e-4)


def test_a_single_part_has_one_instance_at_the_origin() -> None:
    model = read_step(step(plate_with_four_holes(), "Plate"), name="p.step")
    (instance,) = model.instances
    assert (instance.id, instance.part) == ("plate-1", "plate")
    np.testing.assert_allclose(instance.pose.position, [0, 0, 0])


def test_several_solids_in_one_product_are_parts_of_one_product() -> None:
    model = read_step(step(Compound([Box(1, 1, 1).solid(), (Pos(5, 0, 0) * Box(2, 2, 2)).solid()]), "Pair"), name="p")
    assert len(model.parts) == len(model.instances) == 2
    assert len({part.product for part in model.parts}) == 1
    assert len({part.id for part in model.parts}) == 2


def test_equal_shapes_share_a_number_and_a_mirror_image_has_another() -> None:
    parts = [handed_bracket(), Pos(90, 0, 0) * handed_bracket(), Pos(0, 90, 0) * mirrored(handed_bracket())]
    for number, part in enumerate(parts):
        part.label = f"Bracket {number}"
    report = measure_file(step(Compound(children=parts), "All"), name="all.step", tolerance=TOLERANCE)
    assert [part.shape for part in report.parts] == [1, 1, 2]


def test_markup_and_control_characters_in_a_name_stay_text() -> None:
    data = step(Box(1, 1, 1), "NAME").replace(b"NAME", b"<b>\x01 x")
    assert read_step(data, name="n.step").parts[0].name == "<b> x"


GOOD = step(Box(1, 2, 3), "Block")


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "empty"),
        (b"   \n", "empty"),
        (b"%PDF-1.7 something", "not a STEP file"),
        (b"PK\x03\x04rest", "not a STEP file"),
        (GOOD[: len(GOOD) // 2], "cut off"),
        (GOOD + GOOD, "joined"),
        (GOOD.replace(b"DATA;", b"DATA;\n#1=A(" + b"(" * 500 + b")" * 500 + b");", 1), "twice"),
        (GOOD.replace(b"DATA;", b"DATA;\n#99999=A(" + b"(" * 500 + b")" * 500 + b");", 1), "deep"),
        (GOOD.replace(b"DATA;", b"DATA;\x00", 1), "NUL"),
        (b"ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;\n", ""),
        (step(Face.make_rect(4, 5), "Sheet"), "no solid"),
    ],
)
def test_a_bad_file_is_refused_in_one_line(data: bytes, says: str) -> None:
    with pytest.raises(UnreadableFile) as caught:
        read_step(data, name="kit.step")
    assert says in caught.value.problem
    assert "\n" not in str(caught.value)
    assert str(caught.value).startswith("kit.step: ")


def test_a_byte_order_mark_is_taken() -> None:
    assert len(read_step(b"\xef\xbb\xbf" + GOOD, name="b.step").parts) == 1
