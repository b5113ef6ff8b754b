"""Signs, running sizes, paper and what a draft lacks (ISO 129-1, ISO 3040, ISO 5457: from memory)."""

import json
from dataclasses import replace
from typing import Any

import pytest
from build123d import Align, Box, Cylinder, Pos, RegularPolygon, extrude

from benchmarks.drawn import faults_of
from rigid_bench.core.drawing.layout.sheets import SheetOptions, make_sheets
from rigid_bench.core.drawing.notes.gather import notes_of
from rigid_bench.core.drawing.notes.written import Written
from rigid_bench.core.drawing.report import DrawingReport
from rigid_bench.core.exercise.authoring.propose import propose
from rigid_bench.core.exercise.bundle import CheckModel
from rigid_bench.core.formats.pictures import AskedSize, PartPictures
from rigid_bench.core.standards.scales import scale_of
from rigid_bench.demo.modelling import json_bytes, step_bytes
from tests.core.drawing.drawn_parts import Drawn, demo, proposed, read, sheets
from tests.core.drawing.test_notes import VIEWS
from tests.support.shapes import TOLERANCE

pytestmark = pytest.mark.thorough

CORNER, FOOT = (Align.MIN,) * 3, (Align.CENTER, Align.CENTER, Align.MIN)


def texts(drawn: Drawn, **options: Any) -> list[str]:
    return [own.text for sheet in sheets(drawn, **options) for own in sheet.dimensions]


def with_drawing(drawn: Drawn, **drawing: Any) -> Drawn:
    exercise, pictures, sizes = drawn
    model = exercise.model.model_validate({**exercise.model.model_dump(mode="json"), "drawing": drawing})
    return replace(exercise, model=model), pictures, sizes


def test_a_square_bar_has_one_size_for_both_sides() -> None:
    bar = Box(20, 20, 60, align=FOOT) - Pos(0, 0, 40) * Cylinder(5, 40, align=FOOT)
    written = texts(proposed(bar))
    assert written.count("□20") == 1
    assert "20" not in written


def test_a_hexagon_is_across_flats_and_the_legend_says_so() -> None:
    nut = extrude(RegularPolygon(10, 6, major_radius=False), 8) - Cylinder(5, 40)
    drawn = proposed(nut)
    sheet = sheets(drawn)[0]
    assert "20 AF" in [own.text for own in sheet.dimensions]
    assert any(text.text == "AF across flats" for text in sheet.texts)
    flats = drawn[1].parts["p"].flats
    assert [(own.sides, own.across_flats) for own in flats] == [(6, pytest.approx(20, abs=1e-3))]


def test_a_sheet_is_one_view_with_its_thickness_on_it() -> None:
    sheet = sheets(proposed(Box(80, 50, 2, align=CORNER) - Pos(20, 20, 0) * Cylinder(5, 20)))[0]
    assert [view.kind for view in sheet.views] == ["view", "pictorial"]
    assert "t = 2" in [own.text for own in sheet.dimensions]


def test_a_thick_plate_keeps_the_view_of_its_edge() -> None:
    written = texts(proposed(Box(80, 50, 20, align=CORNER) - Pos(20, 20, 0) * Cylinder(5, 60)))
    assert not any(text.startswith("t = ") for text in written)


def taken_exactly() -> Drawn:
    files = propose(step_bytes(Box(40, 30, 12, align=CORNER), "P"), name="p.step", title="P", tolerance=TOLERANCE)
    document = json.loads(files["exercise.json"])
    document["checks"][0]["tolerance"] = {"minus": 0, "plus": 0}
    return read({**files, "exercise.json": json_bytes(document)})


def test_a_size_that_may_not_differ_is_framed() -> None:
    """ISO 129-1: theoretically exact dimensions stand in a rectangle."""
    sheet = sheets(taken_exactly())[0]
    framed = [line for line in sheet.lines if line.kind == "symbol" and line.dimension]
    assert len(framed) == 1
    own = next(dimension for dimension in sheet.dimensions if dimension.id == framed[0].dimension)
    text = next(text for text in sheet.texts if text.dimension == own.id)
    (left, low), (right, high) = text.corners[0], text.corners[2]
    xs, ys = zip(*framed[0].points, strict=True)
    assert (min(xs), max(xs)) == pytest.approx((min(left, right) - 0.7, max(left, right) + 0.7), abs=0.01)
    assert (min(ys), max(ys)) == pytest.approx((min(low, high) - 0.7, max(low, high) + 0.7), abs=0.01)


@pytest.mark.parametrize(("angle", "words"), [(5.72481, "▷1:10"), (90.0, "90°"), (3.0, "3°")])
def test_a_slender_cone_is_written_by_its_taper(angle: float, words: str) -> None:
    """1:10 is an angle of 5°43'29" (ISO 1119, table of tapers; from memory)."""
    cone = {"cone": {"point": [0, 0, 0], "direction": [0, 0, 1], "angle": angle}}
    check = CheckModel.model_validate(
        {"id": "c", "title": "Cone", "kind": "dimension", "marks": 1, "measure": "cone_angle", "of": cone}
    )
    size = AskedSize(nominal=angle, minus=0.1, plus=0.1)
    (note,) = notes_of([check], {"c": size}, PartPictures(views=VIEWS), mm=1.0, written=Written(units="mm"))
    assert note.text == words


def test_the_class_has_its_decimal_sign() -> None:
    part = Box(40.5, 30, 12, align=CORNER) - Pos(20, 15, 0) * Cylinder(2.75, 60)
    written = texts(proposed(part), decimal=",")
    assert {"40,5", "Ø5,5 through"} <= set(written)
    assert not any("." in text for text in written)


def test_running_sizes_stand_on_one_line_from_one_origin() -> None:
    bar = Box(120, 20, 12, align=CORNER)
    for x in (12, 38, 70, 101):
        bar -= Pos(x, 10, 0) * Cylinder(3, 60)
    drawn = proposed(bar)
    sheet = sheets(with_drawing(drawn, arrangement="running"))[0]
    run = {text: own.id for own in sheet.dimensions for text in ["12", "38", "70", "101"] if own.text == text}
    assert set(run) == {"12", "38", "70", "101"}
    levels = {
        round(point[1], 3)
        for line in sheet.lines
        if line.kind == "dimension" and line.dimension in run.values()
        for point in line.points
    }
    assert len(levels) == 1
    origins = [line for line in sheet.lines if line.kind == "symbol" and line.dimension in run.values()]
    assert len(origins) == 1
    faults = faults_of(DrawingReport(sheets=[sheet]), list(drawn[2]))
    assert (faults.texts_on_lines, faults.texts_on_texts, faults.checks_not_shown, faults.twice) == (0, 0, 0, 0)


@pytest.mark.parametrize(("paper", "size"), [(None, (210, 297)), ("A3", (297, 420))])
def test_paper_may_stand_upright(paper: Any, size: tuple[float, float]) -> None:
    drawn = proposed(Box(60, 50, 20, align=CORNER) - Pos(20, 20, 0) * Cylinder(5, 60))
    sheet = sheets(drawn, upright=True, paper=paper)[0]
    assert (sheet.orientation, sheet.frame) == ("portrait", [20, 10, size[0] - 10, size[1] - 10])
    for line in sheet.lines:
        assert all(-0.01 <= x <= size[0] + 0.01 and -0.01 <= y <= size[1] + 0.01 for x, y in line.points)
    faults = faults_of(DrawingReport(sheets=[sheet]), list(drawn[2]))
    assert (faults.texts_on_lines, faults.texts_on_texts, faults.checks_not_shown) == (0, 0, 0)


def two_parts() -> Drawn:
    files: dict[str, bytes] = {}
    checks: list[Any] = []
    parts: list[Any] = []
    document: dict[str, Any] = {}
    for name, own in (
        (
            "Pin",
            Cylinder(8, 30, align=FOOT) + Cylinder(13, 5, align=FOOT) - Pos(0, 0, 15) * Cylinder(3, 30, align=FOOT),
        ),
        ("Cap", Box(22, 18, 12, align=CORNER) - Pos(11, 9, 5) * Cylinder(4, 20, align=FOOT)),
    ):
        made = propose(step_bytes(own, name), name=f"{name}.step", title=name, tolerance=TOLERANCE)
        document = json.loads(made.pop("exercise.json"))
        files |= made
        parts += document["parts"]
        checks += document["checks"]
    whole = {**document, "id": "two", "title": "Two", "parts": parts, "checks": checks, "stages": []}
    return read({**files, "exercise.json": json_bytes(whole)})


def test_parts_share_a_paper_where_they_fit_at_one_scale() -> None:
    drawn = two_parts()
    alone = sheets(drawn, paper="A3")
    assert [sheet.parts for sheet in alone] == [["pin"], ["cap"]]
    together = sheets(drawn, paper="A3", shared=True)
    assert [sheet.parts for sheet in together] == [["pin", "cap"]]
    (sheet,) = together
    assert scale_of(sheet.scale) >= 1
    assert all(scale_of(own.scale) >= scale_of(sheet.scale) for own in alone)
    assert sheet.views[0].scale == sheet.views[-2].scale
    letters = [view.letter for view in sheet.views if view.letter]
    assert len(set(letters)) == len(letters)
    ids = [own.id for own in sheet.dimensions]
    assert len(set(ids)) == len(ids)
    assert {view.part for view in sheet.views} == {"pin", "cap"}
    assert {"Pin", "Cap"} <= {text.text for text in sheet.texts if text.role == "label"}
    faults = faults_of(DrawingReport(sheets=together), list(drawn[2]))
    assert (faults.texts_on_lines, faults.texts_on_texts, faults.checks_not_shown, faults.twice) == (0, 0, 0, 0)


def test_what_a_draft_lacks_is_drawn_in_lines_of_its_own_kind() -> None:
    exercise, pictures, sizes = proposed(Box(40, 30, 12, align=CORNER))
    lacking = exercise.model.checks[0]
    model = exercise.model.model_copy(update={"checks": exercise.model.checks[1:]})
    missing = lacking.model_copy(update={"id": "missing-1"})
    (sheet,) = make_sheets(model, pictures, sizes, SheetOptions(), [missing]).sheets
    ghost = next(own for own in sheet.dimensions if "missing-1" in own.checks)
    assert ghost.text == "?"
    kinds = {line.kind for line in sheet.lines if line.dimension == ghost.id}
    assert "phantom" in kinds
    assert "dimension" not in kinds
    assert any(text.text.startswith("? missing") for text in sheet.texts)


def test_an_assembly_is_cut_where_its_fits_lie() -> None:
    """ISO 128-3: neighbouring parts are hatched differently; shafts and fasteners are not cut lengthwise."""
    sheet = next(own for own in sheets(demo("jig")) if own.views[0].kind == "assembly")
    section = next(view for view in sheet.views if view.kind == "section")
    assert section.of in {view.id for view in sheet.views}
    assert any(line.kind == "cutting" and line.view == section.of for line in sheet.lines)
    pictures = demo("jig")[1].assembly
    assert pictures is not None
    assert pictures.section is not None
    cut = {own.part for own in pictures.section.cut if own.areas}
    assert cut == {"jig"}
    mast = demo("mast")[1].assembly
    assert mast is not None
    assert mast.section is not None
    assert {"dowel", "screw"}.isdisjoint({own.part for own in mast.section.cut if own.areas})
    drawn = next(own for own in sheets(demo("mast")) if own.views[0].kind == "assembly")
    fits = [own for own in drawn.dimensions if own.checks]
    assert [(own.checks, own.text) for own in fits] == [(["collar.gap"], "Ø20.4/Ø20")]


def test_the_step_list_says_what_goes_where_and_what_can_move_then() -> None:
    sheet = next(own for own in sheets(demo("drawer"), steps=True) if own.views[0].kind == "exploded")
    lines = [text.text for text in sheet.texts if text.role == "note"]
    assert lines == [
        "1  Housing: put it down",
        "2  Drawer: along +X, onto Housing; can slide along X",
        "3  Knob: along +X, onto Drawer; can slide along X",
    ]
