"""What a STEP file holds, and what a broken one says."""

import re
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from build123d import Box, Compound, Face, Pos

from rigid_bench.core.kernel.step_file import read_step
from rigid_bench.core.measurement.measure_report import measure_file
from rigid_bench.core.values.errors import UnreadableFile
from tests.support.shapes import (
    TOLERANCE,
    handed_bracket,
    in_schema,
    inch_step,
    kit,
    metre_step,
    mirrored,
    plate_with_four_holes,
    step,
)


def test_instances_are_the_leaves_with_poses_composed_to_the_root() -> None:
    model = read_step(step(kit(), "Kit"), name="kit.step")
    assert [instance.name for instance in model.instances] == ["Base plate", "Rod 0", "Rod 1"]
    # the frame turns x to -z and stands 50 up: the second rod's 10 along x is 10 down
    np.testing.assert_allclose(model.instances[2].pose.position, [0, 0, 40], atol=1e-9)
    assert model.schema == "AP214"


@pytest.mark.parametrize(
    ("write", "unit"), [(step, "millimetre"), (inch_step, "inch"), (metre_step, "metre")], ids=["mm", "inch", "metre"]
)
def test_every_unit_comes_out_as_millimetres(write: Callable[[Any], bytes], unit: str) -> None:
    report = measure_file(write(Box(25.4, 50.8, 76.2)), name="b.step", tolerance=TOLERANCE)
    assert (report.source_units, report.warnings) == (unit, [])
    assert report.parts[0].extents == pytest.approx([25.4, 50.8, 76.2], abs=1e-4)


_UNIT = re.compile(rb"SI_UNIT\(\.MILLI\.,\.METRE\.\)")


def test_units_that_are_mixed_missing_or_lead_nowhere_get_a_warning() -> None:
    assembly = step(kit(), "Kit")
    second = list(_UNIT.finditer(assembly))[1]
    mixed = assembly[: second.start()] + b"SI_UNIT($,.METRE.)" + assembly[second.end() :]
    missing = re.sub(rb"#\d+ = \( LENGTH_UNIT\(\).*?;", b"", assembly, flags=re.DOTALL)
    cyclic = re.sub(
        rb"#(\d+) = \( LENGTH_UNIT\(\).*?;",
        rb"#\1 = (CONVERSION_BASED_UNIT('LOOP',#900001) LENGTH_UNIT() NAMED_UNIT(*));"
        rb"#900001 = LENGTH_MEASURE_WITH_UNIT(LENGTH_MEASURE(2.),#\1);",
        GOOD,
        flags=re.DOTALL,
    )
    assert [message.code for message in read_step(mixed, name="k").notices] == ["unit-mixed"]
    for data in (missing, cyclic):
        model = read_step(data, name="k")
        assert (model.source_units, model.notices[0].code) == ("unknown", "unit-unknown")


@pytest.mark.parametrize(
    ("schema", "said"), [("AP203", "AP203"), ("AP214IS", "AP214"), ("AP242DIS", "AP242")], ids=["203", "214", "242"]
)
def test_every_application_protocol_is_read(schema: str, said: str) -> None:
    report = measure_file(in_schema(plate_with_four_holes(), schema), name="p.step", tolerance=TOLERANCE)
    assert (report.step_schema, len(report.parts[0].holes)) == (said, 4)


def nested(levels: int, copies: int) -> bytes:
    """The text of an assembly of assemblies that stands for copies ** levels parts."""
    usages = [
        f"#{910_000 + level * copies + k}"
        f"=NEXT_ASSEMBLY_USAGE_OCCURRENCE('','','',#{900_000 + level},#{900_001 + level},$);"
        for level in range(levels)
        for k in range(copies)
    ]
    return GOOD.replace(b"DATA;", ("DATA;\n" + "\n".join(usages)).encode(), 1)


@pytest.mark.parametrize(("levels", "copies", "count"), [(9, 10, 10**9), (30, 2, 2**30), (1, 20_000, 20_000)])
def test_an_assembly_that_multiplies_is_counted_and_not_expanded(levels: int, copies: int, count: int) -> None:
    with pytest.raises(UnreadableFile, match=f"has {count} instances"):
        read_step(nested(levels, copies), name="kit.step")


def test_an_assembly_within_itself_is_refused() -> None:
    data = nested(3, 2).replace(b"DATA;", b"DATA;\n#1=NEXT_ASSEMBLY_USAGE_OCCURRENCE('','','',#900003,#900001,$);", 1)
    with pytest.raises(UnreadableFile, match="contains itself"):
        read_step(re.sub(rb"\n#1 = .*?;", b"", data, count=1, flags=re.DOTALL), name="kit.step")


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
