"""A build drawn apart: the order in which its parts come, clear of each other, and what does not come apart."""

from typing import Any

import pytest
from build123d import Box, Cylinder, Pos

from benchmarks.drawn import faults_of
from rigid_bench.core.bench.documents import BenchPart, BenchParts, BenchState, Exploded, Placed, labels
from rigid_bench.core.bench.exploded import explode, find_ways
from rigid_bench.core.kernel.feature_reader import read_features
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.web.print.apart import apart_report
from tests.support.shapes import TOLERANCE


def features(shape: Any) -> PartFeatures:
    return read_features(shape.solid().wrapped, tolerance=TOLERANCE)


#: A block with a blind hole, a pin in it, a lid with a bore on the block; a shut box with a ball-like block in it.
PARTS = {
    "block": features(Box(40, 30, 20) - Pos(0, 0, 5) * Cylinder(4, 20)),
    "pin": features(Cylinder(4, 24)),
    "lid": features(Box(40, 30, 6) - Cylinder(4.5, 20)),
    "box": features(Box(30, 30, 30) - Box(24, 24, 24)),
    "core": features(Box(24, 24, 24)),
}


def drawn(*placed: tuple[str, float]) -> Exploded:
    instances = [
        Placed(id=f"{part}-1", part=part, grounded=k == 0, position=[0, 0, z]) for k, (part, z) in enumerate(placed)
    ]
    return explode(PARTS, BenchState(placed=instances), tolerance=TOLERANCE)


def test_parts_leave_along_their_own_lines_the_last_to_come_first() -> None:
    exploded = drawn(("block", 0), ("pin", 7), ("lid", 13))
    assert exploded.order[0] == "block-1"
    assert set(exploded.order[1:]) == {"pin-1", "lid-1"}
    assert (exploded.stuck, exploded.hidden) == ([], [])
    assert [balloon.number for balloon in exploded.balloons] == [1, 2, 3]
    levels = {balloon.instance: balloon.at[1] for balloon in exploded.balloons}
    assert levels["block-1"] < min(levels["pin-1"], levels["lid-1"])
    assert len(exploded.trails) == 2
    for (x, _), (to_x, _) in exploded.trails:  # straight up, as the view has it
        assert x == pytest.approx(to_x, abs=1e-3)


def test_what_nothing_lets_out_is_said_and_what_is_inside_is_hidden() -> None:
    exploded = drawn(("box", 0), ("core", 0))
    assert (exploded.stuck, exploded.hidden) == (["core-1"], ["core-1"])
    assert exploded.order == ["box-1"]
    alone = drawn(("block", 0))
    assert (alone.order, alone.trails, alone.stuck) == (["block-1"], [], [])


def test_parts_are_drawn_as_far_apart_as_is_asked() -> None:
    placed = [Placed(id=f"{part}-1", part=part, grounded=not z, position=[0, 0, z])
              for part, z in (("block", 0), ("pin", 7), ("lid", 13))]  # fmt: skip
    state = BenchState(placed=placed)
    whole, half = (explode(PARTS, state, share=share, tolerance=TOLERANCE) for share in (1.0, 0.5))
    ways = find_ways(PARTS, state, tolerance=TOLERANCE)
    assert whole.distances == {name: pytest.approx(abs(shift[2]), abs=1e-3) for name, shift in ways.shifts.items()}
    assert half.distances == {name: pytest.approx(far / 2, abs=1e-3) for name, far in whole.distances.items()}
    assert (half.order, half.order[0]) == (ways.order, "block-1")


def test_it_is_printed_at_a_standard_scale_with_its_order_and_what_is_hidden() -> None:
    """Scales of ISO 5455 (from memory)."""
    placed = [Placed(id=f"{part}-1", part=part, position=[0, 0, z])
              for part, z in (("block", 0), ("pin", 7), ("lid", 13))]  # fmt: skip
    state = BenchState(placed=placed)
    exploded = explode(PARTS, state, share=1.0, tolerance=TOLERANCE)
    parts = BenchParts(parts=[BenchPart(id=name, name=name.title(), count=1, features=[], box=[])
                              for name in ("block", "pin", "lid")])  # fmt: skip
    called = labels(state, parts)
    report = apart_report(exploded, state, parts, title="Gate", name="Sam Sill", called=called)
    (sheet,) = report.sheets
    assert sheet.scale in ("5:1", "2:1", "1:1")
    texts = [text.text for text in sheet.texts]
    assert [text for text in texts if text.endswith(("  Block", "  Pin", "  Lid"))] == [
        f"{number}  {called[name]}" for number, name in enumerate(exploded.order, 1)
    ]
    assert not faults_of(report, []).texts_on_texts
    gone = exploded.model_copy(update={"hidden": ["pin-1"]})
    (warned,) = apart_report(gone, state, parts, title="Gate", name="Sam Sill", called=called).sheets
    assert any(text.text == "Pin: hidden in this view" for text in warned.texts)
    assert len([text for text in warned.texts if text.role == "balloon"]) == 2
