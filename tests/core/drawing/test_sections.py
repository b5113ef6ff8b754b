"""Sections, details and breaks after ISO 128-3 (from memory): what is cut, where, and what is left uncut."""

import math
from dataclasses import replace
from typing import Any

import pytest
import shapely
from build123d import Align, Box, Cylinder, Plane, Polyline, Pos, extrude, make_face

from rigid_bench.core.drawing.layout.part_view import within_circle
from rigid_bench.core.drawing.report import SheetReport, view_name
from rigid_bench.core.formats.pictures import SectionModel
from rigid_bench.core.standards.scales import scale_of
from tests.core.drawing.drawn_parts import proposed, sheets

pytestmark = pytest.mark.thorough

CORNER, FOOT = (Align.MIN,) * 3, (Align.CENTER, Align.CENTER, Align.MIN)


def section_of(solid: Any) -> SectionModel:
    section = proposed(solid)[1].parts["p"].section
    assert section is not None
    return section


def area_of(section: SectionModel) -> float:
    return sum(float(shapely.Polygon(rings[0], rings[1:]).area) for rings in section.areas)


def views_of(sheet: SheetReport, kind: str) -> list[Any]:
    return [view for view in sheet.views if view.kind == kind]


def stepped_block() -> Any:
    block = Box(100, 60, 24, align=CORNER) - Pos(22, 16, 0) * Cylinder(4, 90)
    return block - Pos(22, 16, 14) * Cylinder(8, 20, align=FOOT) - Pos(70, 42, 10) * Cylinder(9, 30, align=FOOT)


def test_features_in_two_planes_are_shown_by_one_stepped_cut() -> None:
    section = section_of(stepped_block())
    assert section.form == "stepped"
    # 100 x 24, less the counterbored hole (8 x 14 and 16 x 10) and the blind one (18 x 14)
    assert area_of(section) == pytest.approx(100 * 24 - 8 * 14 - 16 * 10 - 18 * 14, abs=0.5)
    levels = {round(point[1], 3) for point in section.path}
    assert levels == {16.0, 42.0}
    # the step of the plane is no edge of the part
    step = section.path[1][0]
    assert not any(all(abs(x - step) < 1e-3 for x, _ in line) for line in section.view.visible)


def test_the_cutting_line_turns_where_the_cut_steps_and_carries_its_letters() -> None:
    sheet = sheets(proposed(stepped_block()))[0]
    (section,) = views_of(sheet, "section")
    cutting = [line.points for line in sheet.lines if line.kind == "cutting" and len(line.points) > 2]
    assert (section.form, len(cutting)) == ("stepped", 1)
    assert [len(points) for points in cutting] == [4]
    assert {line.view for line in sheet.lines if line.kind == "cutting"} == {section.of}
    assert sum(text.text == "A" for text in sheet.texts) == 2


def cup() -> Any:
    part = Cylinder(30, 50, align=FOOT) - Pos(0, 0, 20) * Cylinder(18, 50, align=FOOT) - Cylinder(8, 50, align=FOOT)
    for side in (-32, 32):
        part -= Pos(0, side, 35) * Box(20, 20, 16)
    return part + Cylinder(42, 8, align=FOOT) - Cylinder(8, 50, align=FOOT)


def test_a_symmetric_part_whose_outside_has_something_to_show_is_drawn_half_and_half() -> None:
    sheet = sheets(proposed(cup()))[0]
    (section,) = views_of(sheet, "section")
    assert section.form == "half"
    middle = (section.box[0] + section.box[2]) / 2
    hatched = [x for line in sheet.lines if line.kind == "hatching" for x, _ in line.points]
    assert hatched
    assert min(hatched) > middle - 0.01
    between = [line.points for line in sheet.lines if line.kind == "centre" and line.view == section.id]
    assert any(all(abs(x - middle) < 0.01 for x, _ in points) for points in between)


def test_a_part_that_is_not_symmetric_is_cut_whole() -> None:
    part = cup() - Pos(25, 0, 45) * Box(30, 6, 20)
    assert section_of(part).form in ("full", "stepped")


def test_a_rib_that_the_plane_runs_through_lengthwise_is_left_unhatched() -> None:
    base = Box(90, 40, 8, align=CORNER) + Pos(30, 20, 8) * Cylinder(14, 40, align=FOOT)
    base -= Pos(30, 20, -1) * Cylinder(8, 90, align=FOOT)
    base -= Pos(30, 20, 30) * Cylinder(10, 90, align=FOOT)
    rib = extrude(Plane.XZ.offset(-23) * make_face(Polyline((44, 8), (88, 8), (44, 40), close=True)), 6)
    plain, ribbed = section_of(base), section_of(base + rib)
    assert area_of(ribbed) == pytest.approx(area_of(plain), rel=0.005)
    # its own outline is drawn, though
    assert len(ribbed.view.visible) > len(plain.view.visible)


@pytest.mark.parametrize("pocket", [
    Pos(20, 12, 8) * Box(40, 26, 30, align=CORNER),
    Pos(40, 25, 8) * Cylinder(12, 30, align=FOOT),
])  # fmt: skip
def test_a_pocket_or_blind_hole_asks_for_a_section(pocket: Any) -> None:
    section = section_of(Box(80, 50, 20, align=CORNER) - pocket)
    assert section.form == "full"


def test_a_plain_plate_has_none() -> None:
    assert proposed(Box(80, 50, 20) - Cylinder(6, 60))[1].parts["p"].section is None


def test_what_is_too_small_for_the_scale_is_drawn_larger_beside_it() -> None:
    plate = Box(180, 90, 12, align=CORNER) - Pos(120, 45, 0) * Cylinder(20, 60)
    for k in range(3):
        plate -= Pos(20 + 2.6 * k, 20, 0) * Cylinder(0.8, 60)
    sheet = sheets(proposed(plate))[0]
    (detail,) = views_of(sheet, "detail")
    parent = next(view for view in sheet.views if view.id == detail.of)
    assert scale_of(detail.scale) > scale_of(parent.scale)
    assert detail.letter == "A"
    assert {"A", f"A ({detail.scale})"} <= {text.text for text in sheet.texts if text.role == "label"}
    assert any(line.kind == "detail" and line.view == parent.id for line in sheet.lines)
    note = next(own for own in sheet.dimensions if own.text.startswith("3 × Ø1.6"))
    assert note.view == detail.id
    holes = [feature for feature in sheet.features if feature.view == detail.id and feature.kind == "hole"]
    assert len(holes) == 3


def test_within_a_circle_is_what_lies_in_it() -> None:
    (piece,) = within_circle([(0.0, 0.0), (3.0, 4.0), (30.0, 4.0)], (0.0, 0.0), 5.0)
    assert piece == ((0.0, 0.0), (3.0, 4.0))
    assert within_circle([(6.0, 0.0), (6.0, 9.0)], (0.0, 0.0), 5.0) == []


def test_a_long_plain_part_is_broken_so_that_its_ends_are_larger() -> None:
    bar = Box(400, 20, 12, align=CORNER)
    for x in (12, 28, 388):
        bar -= Pos(x, 10, 0) * Cylinder(3, 60)
    sheet = sheets(proposed(bar))[0]
    broken = [view for view in sheet.views if view.form == "broken"]
    assert len(broken) == 2
    scale = scale_of(sheet.scale)
    assert scale >= 1
    for view in broken:
        assert view.box[2] - view.box[0] < 400 * scale / 2
        assert sum(line.kind == "break" and line.view == view.id for line in sheet.lines) == 2
    assert {"400", "388"} <= {own.text for own in sheet.dimensions}
    holes = [feature for feature in sheet.features if feature.seen == "end"]
    # as far from the near end as they are
    near = min(feature.centre[0] for feature in holes)
    assert near - broken[0].box[0] == pytest.approx(12 * scale, abs=0.02)


def test_a_long_part_with_something_all_along_is_not_broken() -> None:
    bar = Box(400, 20, 12, align=CORNER)
    for x in range(20, 400, 40):
        bar -= Pos(x, 10, 0) * Cylinder(3, 60)
    assert not any(view.form == "broken" for view in sheets(proposed(bar))[0].views)


def test_a_person_chooses_turns_and_moves_views() -> None:
    exercise, pictures, sizes = proposed(stepped_block())
    given: dict[str, Any] = {
        "views": {"p": [{"view": "front", "cut": False}, {"view": "left side", "turn": 90}, {"view": "bottom"}]}
    }
    model = exercise.model.model_validate({**exercise.model.model_dump(mode="json"), "drawing": given})
    chosen = replace(exercise, model=model)
    sheet = sheets((chosen, pictures, sizes))[0]
    names = {view_name(view): view for view in sheet.views if view.kind == "view"}
    assert set(names) == {"front", "left side", "bottom"}
    assert not views_of(sheet, "section")
    assert names["left side"].right == [0, 0, -1] or names["left side"].right == [0, 0, 1]
    assert any(text.text == "turned 90°" for text in sheet.texts)
    # third angle: what is seen from below stands below
    assert names["bottom"].box[3] < names["front"].box[1]
    given["views"]["p"][2]["moved"] = [4.0, -3.0]
    model = exercise.model.model_validate({**exercise.model.model_dump(mode="json"), "drawing": given})
    moved = sheets((replace(exercise, model=model), pictures, sizes))[0]
    after = next(view for view in moved.views if view_name(view) == "bottom")
    assert math.dist(after.origin, names["bottom"].origin) == pytest.approx(5.0, abs=0.01)
