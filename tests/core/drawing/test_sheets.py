"""Sheets by the standards: paper, views, sections, centre lines, dimensions; faults counted over generated parts."""

import itertools
import json
import math
from typing import Any

import pytest
from build123d import Align, Box, Cylinder, Pos, Rot

from benchmarks.drawn import faults_of
from benchmarks.generated_parts import generated_parts
from rigid_bench.core.drawing.layout.sheets import SheetOptions, make_sheets
from rigid_bench.core.drawing.report import SheetReport
from rigid_bench.core.exercise.authoring.propose import propose
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.demo.modelling import json_bytes, step_bytes
from tests.core.drawing.drawn_parts import demo, proposed, read, sheets
from tests.support.shapes import TOLERANCE

pytestmark = pytest.mark.thorough

CORNER, FOOT = (Align.MIN,) * 3, (Align.CENTER, Align.CENTER, Align.MIN)


@pytest.mark.parametrize("name", ["jig", "drawer", "mast"])
def test_demo_sheets_have_no_fault_and_show_every_size(name: str) -> None:
    exercise, pictures, sizes = demo(name)
    bought = {part.id for part in exercise.model.parts if part.origin == "bought"}
    required = [check.id for check in exercise.model.checks if check.id in sizes and check.fields["part"] not in bought]
    report = make_sheets(exercise.model, pictures, sizes, SheetOptions())
    faults = faults_of(report, required)
    assert (faults.texts_on_lines, faults.texts_on_texts, faults.leaders_crossing) == (0, 0, 0)
    assert (faults.holes_without_centre, faults.checks_not_shown, faults.twice) == (0, 0, 0)


@pytest.mark.parametrize("angle", ["third", "first"])
def test_generated_parts_have_sheets_without_fault(angle: Any) -> None:
    for solid in generated_parts(6, seed=7):
        exercise, pictures, sizes = proposed(solid)
        faults = faults_of(make_sheets(exercise.model, pictures, sizes, SheetOptions(angle=angle)), list(sizes))
        assert (faults.texts_on_lines, faults.texts_on_texts, faults.leaders_crossing) == (0, 0, 0)
        assert (faults.holes_without_centre, faults.checks_not_shown, faults.twice) == (0, 0, 0)


@pytest.mark.parametrize(("paper", "frame"), [("A4", [20, 10, 287, 200]), ("A3", [20, 10, 410, 287])])
def test_the_frame_leaves_20_mm_to_file_it_and_10_elsewhere(paper: Any, frame: list[float]) -> None:
    """ISO 5457: margins of 20 and 10 mm, from memory; sizes of paper from ISO 216."""
    sheet = sheets(demo("jig"), paper=paper)[0]
    assert (sheet.paper, sheet.frame) == (paper, frame)
    for points in [line.points for line in sheet.lines if line.kind == "outline"]:
        assert all(frame[0] < x < frame[2] and frame[1] < y < frame[3] for x, y in points)


def test_the_top_view_stands_above_in_third_angle_and_below_in_first() -> None:
    """ISO 5456-2: first and third angle."""
    for angle, above in (("third", True), ("first", False)):
        views = {
            view.up[1] == 1: view for view in sheets(demo("jig"), angle=angle)[0].views if view.kind != "pictorial"
        }
        assert (views[True].box[1] > views[False].box[3]) == above
        assert views[True].box[0] == pytest.approx(views[False].box[0])


def test_a_stepped_bore_is_cut_with_its_line_letters_and_hatching() -> None:
    """ISO 128-3: cutting plane with arrows and letters, the cut face hatched, no hidden lines in the section."""
    part = (
        Box(60, 40, 20, align=CORNER) - Pos(30, 20, 0) * Cylinder(4, 60) - Pos(30, 20, 12) * Cylinder(9, 20, align=FOOT)
    )
    sheet = sheets(proposed(part))[0]
    (section,) = [view for view in sheet.views if view.kind == "section"]
    assert (section.form, section.letter) == ("full", "A")
    assert section.of in {view.id for view in sheet.views if view.kind == "view"}
    assert [text.text for text in sheet.texts if text.role == "label"].count("A") == 2
    assert any(text.text.startswith("A") and text.text.endswith("A") and len(text.text) == 3 for text in sheet.texts)
    kinds = {line.kind for line in sheet.lines if line.view == section.id}
    assert "hatching" in kinds
    assert "hidden" not in kinds
    hatched = [line.points for line in sheet.lines if line.kind == "hatching"]
    angles = {round(math.degrees(math.atan2(b[1] - a[1], b[0] - a[0]))) % 180 for a, b in hatched}
    assert angles == {45}


def test_a_turned_part_lies_with_its_end_view_beside_it() -> None:
    shaft = Cylinder(15, 30, align=FOOT) + Pos(0, 0, 30) * Cylinder(9, 50, align=FOOT)
    sheet = sheets(proposed(shaft))[0]
    across = next(view for view in sheet.views if view.kind == "view" and view.right == [0, 0, 1])
    wide, high = across.box[2] - across.box[0], across.box[3] - across.box[1]
    assert wide > high
    assert not any("Width" in text.text for text in sheet.texts)
    assert {"Ø30", "Ø18"} <= {text.text for text in sheet.texts}


def test_every_hole_has_a_cross_past_its_edge_and_an_axis_from_the_side() -> None:
    """ISO 128-2: centre lines reach a little past the feature."""
    part = Box(60, 40, 10, align=CORNER) - Pos(15, 12, 0) * Cylinder(4, 60)
    sheet = sheets(proposed(part))[0]
    ends = [feature for feature in sheet.features if feature.kind == "hole" and feature.seen == "end"]
    assert ends
    for feature in ends:
        scale = 2.0 if sheet.scale == "2:1" else 1.0
        through = [
            line.points
            for line in sheet.lines
            if line.kind == "centre" and line.view == feature.view and line.dimension is None
            and math.isclose(line.points[0][1], feature.centre[1], abs_tol=0.1)
        ]  # fmt: skip
        assert max(abs(points[1][0] - points[0][0]) for points in through) >= feature.diameter * scale + 4


def test_a_large_part_takes_a3_by_itself() -> None:
    """A4 would need a scale under 1:2."""
    assert sheets(proposed(Box(700, 300, 20)))[0].paper == "A3"
    assert sheets(proposed(Box(200, 40, 20)))[0].paper == "A4"


def test_the_assembly_has_a_parts_list_and_balloons_that_do_not_cross() -> None:
    sheet = next(own for own in sheets(demo("mast")) if own.views[0].kind == "assembly")
    exercise = demo("mast")[0]
    assert [item.part for item in sheet.items] == [part.id for part in exercise.model.parts]
    assert {item.part: item.quantity for item in sheet.items}["screw"] == 4
    numbers = [text.text for text in sheet.texts if text.role == "balloon"]
    assert len(numbers) == len(set(numbers)) >= 6
    assert (
        faults_of(make_sheets(exercise.model, demo("mast")[1], demo("mast")[2], SheetOptions()), []).leaders_crossing
        == 0
    )


@pytest.mark.parametrize(("moved_by", "expected"), [((7.5, 15.0), (7.5, 15.0)), ((9.0, 12.0), (7.5, 12.0))])
def test_a_dimension_that_was_moved_stays_moved_and_rows_catch_it(
    moved_by: tuple[float, float], expected: tuple[float, float]
) -> None:
    """Along its line it goes where it is put; across it, from row to row, which are 7.5 mm apart."""
    exercise, pictures, sizes = demo("drawer")
    plain = sheets((exercise, pictures, sizes))[1]
    own = next(dimension for dimension in plain.dimensions if dimension.view)
    model = exercise.model.model_copy(update={"shifts": {own.checks[0]: moved_by}})
    moved = make_sheets(model, pictures, sizes, SheetOptions()).sheets[1]

    def middle(sheet: SheetReport) -> tuple[float, float]:
        view = next(view for view in sheet.views if view.id == own.view)
        text = next(text for text in sheet.texts if text.dimension == own.id)
        xs, ys = zip(*text.corners, strict=True)
        return sum(xs) / 4 - view.origin[0], sum(ys) / 4 - view.origin[1]

    before, after = middle(plain), middle(moved)
    assert (after[0] - before[0], after[1] - before[1]) == pytest.approx(expected, abs=0.01)


def test_one_part_alone_and_one_that_there_is_not() -> None:
    (sheet,) = sheets(demo("drawer"), part="drawer")
    assert sheet.parts == ["drawer"]
    with pytest.raises(InvalidDocument, match="there is no part 'lid'"):
        sheets(demo("drawer"), part="lid")


def test_what_the_title_block_says_is_on_the_sheet() -> None:
    texts = {text.text for text in sheets(demo("jig"), owner="9B", version="v3", date="2026-01-02")[0].texts}
    assert {"9B", "v3", "2026-01-02", "Drill jig", "Jig", "1:1", "1/3", "mm"} <= texts


def test_a_thread_is_three_quarters_of_a_circle_about_the_drilled_hole_and_is_noted() -> None:
    """ISO 6410-1: the root of an internal thread is a narrow line; M6 is drilled 5.0 (ISO 2306)."""
    files = propose(
        step_bytes(Box(40, 30, 12, align=CORNER) - Pos(20, 15, 0) * Cylinder(2.5, 60), "P"),
        name="p.step", title="P", tolerance=TOLERANCE,
    )  # fmt: skip
    document = json.loads(files["exercise.json"])
    bore = next(check for check in document["checks"] if check.get("measure") == "diameter")
    document["checks"].append(
        {"id": "thread", "title": "Thread", "kind": "thread", "marks": 1, "part": bore["part"], "of": bore["of"],
         "thread": "M6", "depth": 10}
    )  # fmt: skip
    sheet = sheets(read({**files, "exercise.json": json_bytes(document)}))[0]
    scale = {"1:1": 1.0, "2:1": 2.0, "5:1": 5.0}[sheet.scale]
    (end,) = [feature for feature in sheet.features if feature.kind == "thread" and feature.seen == "end"]
    (arc,) = [line.points for line in sheet.lines if line.kind == "thread" and len(line.points) > 2]
    radii = {round(math.dist(point, end.centre) / scale, 2) for point in arc}
    assert radii == {3.0}
    turned = sum(math.dist(a, b) for a, b in itertools.pairwise(arc)) / (3.0 * scale)
    assert turned == pytest.approx(1.5 * math.pi, rel=0.06)
    assert any(dimension.text.startswith("M6 ↧10") for dimension in sheet.dimensions)


def test_a_hole_in_the_left_wall_is_seen_from_the_left() -> None:
    """The view is chosen in which it is not hidden; it stands at the left in third angle."""
    tray = Box(60, 40, 30, align=CORNER) - Pos(3, 3, 3) * Box(54, 34, 40, align=CORNER)
    tray -= Pos(0, 20, 15) * Rot(0, 90, 0) * Cylinder(4, 10)
    views = {tuple(view.right): view for view in sheets(proposed(tray))[0].views if view.kind != "pictorial"}
    left, front = views[0, -1, 0], views[1, 0, 0]
    assert left.box[2] < front.box[0]
    views = {tuple(view.right): view for view in sheets(proposed(tray), angle="first")[0].views}
    assert views[0, -1, 0].box[0] > views[1, 0, 0].box[2]


def test_an_assembly_is_drawn_apart_with_trails_and_every_part_in_sight() -> None:
    """The drawer leaves its housing along the slide, the knob the drawer; nothing is hidden (ISO 6433: items named)."""
    exploded = next(own for own in sheets(demo("drawer")) if own.views[0].kind == "exploded")
    assert sum(line.kind == "trail" for line in exploded.lines) == 2
    assert {text.text for text in exploded.texts if text.role == "balloon"} == {"1", "2", "3"}
    pictures = demo("drawer")[1]
    assert pictures.exploded is not None
    assert all(seen.point is not None for seen in pictures.exploded.instances)
    together, apart = pictures.assembly, pictures.exploded
    assert together is not None
    wide = [box[1][0] - box[0][0] for box in (together.view.box, apart.view.box)]
    assert wide[1] > wide[0]


def test_the_legend_explains_what_is_asked_and_not_what_a_title_says() -> None:
    """A title with a bracket and the word free in it is no sign."""
    files = propose(step_bytes(Box(40, 30, 12, align=CORNER), "P"), name="p.step", title="P", tolerance=TOLERANCE)
    document = json.loads(files["exercise.json"])
    mass = {"id": "mass", "title": "Mass (2), free of burrs*", "kind": "dimension", "marks": 1, "part": "p",
            "measure": "volume", "nominal": 14400, "tolerance": {"minus": 1, "plus": 1}}  # fmt: skip
    part = document["checks"][0]["part"]
    document["checks"].append({**mass, "part": part})
    notes = [text.text for text in sheets(read({**files, "exercise.json": json_bytes(document)}))[0].texts
             if text.role == "note"]  # fmt: skip
    assert notes == ["Mass (2), free of burrs*: 14400 ±1"]
