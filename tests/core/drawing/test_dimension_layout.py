"""Dimensions in the views: none lies on another, on every sample sheet; lines as ISO 129-1 has them (from memory)."""

import itertools
import json
from typing import Any

import pytest

from rigid_bench.core.drawing.dimension_layout import DrawnView, box_of, crosses, draw_dimensions, text_box
from rigid_bench.core.exercise.bundle import CheckModel, ExerciseModel
from rigid_bench.core.formats.pictures import ViewModel
from rigid_bench.core.grading.report.models import Prepared
from rigid_bench.demo.graded import read_graded
from rigid_bench.web.print.sheet import dimension_text

VIEWS = [
    ViewModel(name="front", visible=[], hidden=[], box=[[0, 0], [60, 10]]),
    ViewModel(name="top", visible=[], hidden=[], box=[[0, 0], [60, 40]]),
    ViewModel(name="right side", visible=[], hidden=[], box=[[0, 0], [40, 10]]),
]


def plane(x: float, way: int = 1) -> dict[str, Any]:
    return {"plane": {"point": [x, 20, 5], "normal": [way, 0, 0]}}


def check(name: str, **fields: Any) -> CheckModel:
    return CheckModel.model_validate({"id": name, "title": name, "kind": "dimension", "marks": 1, **fields})


def drawn(*checks: CheckModel, **more: Any) -> dict[str, DrawnView]:
    return draw_dimensions(VIEWS, checks, {each.id: "12.5" for each in checks}, scale=1.0, **more)


@pytest.mark.parametrize("scale", [0.5, 1.0, 2.0])
@pytest.mark.parametrize("exercise", range(4))
def test_no_text_lies_on_a_text_or_a_line_on_any_sample_sheet(exercise: int, scale: float) -> None:
    graded = read_graded()[exercise]
    model, prepared = ExerciseModel.model_validate(json.loads(graded.bundle["exercise.json"])), graded.prepared
    required = {each.id: each.required for each in Prepared.model_validate(prepared).checks}
    count = 0
    for part, views in Prepared.model_validate(prepared).sheet.parts.items():
        own = [each for each in model.checks if each.kind == "dimension" and each.fields["part"] == part]
        texts = {each.id: dimension_text(each, required[each.id], "mm") for each in own}
        for view in draw_dimensions(views, own, texts, scale=scale).values():
            count += len(view.dimensions)
            for a, b in itertools.combinations(view.dimensions, 2):
                one, other = text_box(a), text_box(b)
                apart = [one[k + 2] <= other[k] or other[k + 2] <= one[k] for k in (0, 1)]
                assert any(apart), (part, a.text, b.text)
            for a, b in itertools.product(view.dimensions, repeat=2):
                if a is not b:
                    assert not any(crosses(line, text_box(a)) for line in (b.line, *b.extensions)), (part, a.text)
    assert count > 5


def test_the_shorter_dimension_stands_nearer_and_extensions_reach_beyond() -> None:
    found = drawn(
        check("long", measure="length", between=[plane(0, -1), plane(60)]),
        check("short", measure="length", between=[plane(0, -1), plane(30)]),
    )
    lines = {each.check: each for each in found["front"].dimensions}
    levels = {name: each.line[0][1] for name, each in lines.items()}
    assert levels["short"] > levels["long"] or levels["long"] > 10
    for each in lines.values():
        assert all(abs(line[1][1]) > abs(each.line[0][1]) for line in each.extensions if line[1][1] < 0)
        assert sorted(tip[0] for tip in each.arrows) == [0, {"long": 60, "short": 30}[each.check]]
    assert found["front"].reach[1] > 9


def test_a_bore_is_pointed_at_where_it_is_seen_end_on() -> None:
    bore = {"cylinder": {"point": [20, 10, 0], "direction": [0, 0, 1], "radius": 4}}
    found = drawn(check("bore", measure="diameter", of=bore))
    (only,) = found["top"].dimensions
    x, y, _, _ = only.arrows[0]
    assert (x - 20) ** 2 + (y - 10) ** 2 == pytest.approx(16)
    assert not found["front"].dimensions


def test_a_person_moves_it_and_what_no_drawing_shows_is_left_out() -> None:
    length = check("length", measure="length", between=[plane(0, -1), plane(60)])
    whole = check("volume", measure="volume")
    before, after = drawn(length, whole), drawn(length, whole, shifts={"length": (3.0, -6.0)})
    (a,), (b,) = before["front"].dimensions, after["front"].dimensions
    assert (b.at[0] - a.at[0], b.at[1] - a.at[1]) == pytest.approx((3, -6))
    assert (b.line[0][0] - a.line[0][0], b.line[0][1] - a.line[0][1]) == pytest.approx((0, -6))
    assert box_of(b.extensions[0])[1] < box_of(a.extensions[0])[1]


def test_inches_are_drawn_to_the_same_scale() -> None:
    length = check("length", measure="length", between=[plane(0, -1), plane(60 / 25.4)])
    (only,) = drawn(length, mm=25.4)["front"].dimensions
    assert [round(each[0], 6) for each in only.line] == [0, 60]
