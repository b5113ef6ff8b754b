"""Parts whose schemes of dimensions are known: complete, one left out, one too many.

A block takes three sizes and a hole in it three more (two places and a diameter): common practice, no source.
"""

import math
from typing import Any

import numpy as np
import pytest
from build123d import Align, Axis, Box, Cylinder, Plane, Polygon, Pos, extrude, fillet
from hypothesis import given, settings
from hypothesis import strategies as st

from rigid_bench.core.drawing.audit.part_audit import audit_part
from rigid_bench.core.drawing.audit.size_equations import PartAudit
from rigid_bench.core.exercise.bundle import CheckModel, PartModel
from tests.support.shapes import features

pytestmark = pytest.mark.thorough

FOOT = (Align.MIN, Align.MIN, Align.MIN)
X, Y, Z = (1.0, 0, 0), (0, 1.0, 0), (0, 0, 1.0)


def minus(way: tuple[float, ...]) -> list[float]:
    return [-component for component in way]


def plane(point: Any, normal: Any) -> dict[str, Any]:
    return {"plane": {"point": list(point), "normal": list(normal)}}


def wall(point: Any, direction: Any, radius: float) -> dict[str, Any]:
    return {"cylinder": {"point": list(point), "direction": list(direction), "radius": radius}}


def check(measure: str, *between: dict[str, Any], **more: Any) -> CheckModel:
    given: dict[str, Any] = {"of": between[0]} if len(between) == 1 else {"between": list(between)} if between else {}
    name = f"{measure}-{len(str(between))}-{hash(str(between) + str(more)) % 10**6}"
    fields = {"id": name, "title": name, "kind": "dimension", "marks": 1, "part": "p", "measure": measure}
    return CheckModel.model_validate({**fields, "nominal": 1, **given, **more})


def audited(shape: Any, checks: list[CheckModel], **more: Any) -> PartAudit:
    return audit_part(features(shape), PartModel(id="p", name="P", file="p.step", **more), checks, mm=1.0)


def counts(audit: PartAudit) -> tuple[int, int]:
    return len(audit.missing), len(audit.redundant)


LEFT, RIGHT = plane((0, 20, 4), minus(X)), plane((60, 20, 4), X)
FRONT, BACK = plane((30, 0, 4), minus(Y)), plane((30, 40, 4), Y)
LOW, HIGH = plane((30, 20, 0), minus(Z)), plane((30, 20, 8), Z)
BLOCK = [check("length", LEFT, RIGHT), check("length", FRONT, BACK), check("thickness", LOW, HIGH)]
PLACES = [(10, 10), (50, 10), (10, 30), (50, 30)]


def block() -> Any:
    return Box(60, 40, 8, align=FOOT)


def plate() -> Any:
    return block() - [Pos(x, y, 0) * Cylinder(3, 50) for x, y in PLACES]


def bores() -> list[CheckModel]:
    checks = []
    for x, y in PLACES:
        bore = wall((x, y, 0), Z, 3)
        checks += [check("position", bore, LEFT), check("position", bore, FRONT), check("diameter", bore)]
    return checks


def test_a_block_takes_three_sizes_one_less_is_missing_one_more_is_given_twice() -> None:
    assert counts(audited(block(), BLOCK)) == (0, 0)
    loose = audited(block(), BLOCK[:2])
    assert counts(loose) == (1, 0)
    assert abs(float(loose.missing[0].direction @ np.array(Z))) == pytest.approx(1)
    twice = audited(block(), [*BLOCK, check("extent", axis="x")])
    assert (counts(twice), twice.redundant) == ((0, 1), (check("extent", axis="x").id,))
    assert audited(block(), [*BLOCK, check("volume")]).without_tie == (check("volume").id,)


@pytest.mark.parametrize("left_out", range(15))
def test_a_plate_with_four_holes_takes_fifteen(left_out: int) -> None:
    scheme = BLOCK + bores()
    assert len(scheme) == 15
    assert counts(audited(plate(), scheme)) == (0, 0)
    assert counts(audited(plate(), scheme[:left_out] + scheme[left_out + 1 :])) == (1, 0)


def test_four_times_a_diameter_says_all_four() -> None:
    once = [bore for bore in bores() if bore.fields["measure"] != "diameter"] + [
        check("diameter", wall((10, 10, 0), Z, 3))
    ]
    assert counts(audited(plate(), BLOCK + once)) == (3, 0)
    assert counts(audited(plate(), [*BLOCK, *once, check("count", wall((10, 10, 0), Z, 3))])) == (0, 0)


def test_what_is_assumed_is_not_on_the_sheet_and_what_is_free_needs_nothing() -> None:
    assert counts(audited(block(), [*BLOCK[:2], check("thickness", LOW, HIGH, value="assumed")])) == (1, 0)
    assert counts(audited(block(), [*BLOCK[:2], check("thickness", LOW, HIGH, value="free")])) == (0, 0)


def test_symmetry_that_the_sheet_states_saves_dimensions() -> None:
    middle = [plane((30, 0, 0), X), plane((0, 20, 0), Y)]
    one = [bore for bore in bores() if str([10, 10, 0]) in str(bore.fields)]
    assert len(one) == 3
    assert counts(audited(plate(), BLOCK + one)) == (9, 0)
    assert counts(audited(plate(), BLOCK + one, symmetric=middle)) == (0, 0)
    apart = check("position", wall((10, 10, 0), Z, 3), wall((50, 10, 0), Z, 3))
    assert counts(audited(plate(), [*BLOCK, *one, apart], symmetric=middle)) == (0, 1)


def flange() -> Any:
    disc = Cylinder(30, 6, align=(Align.CENTER, Align.CENTER, Align.MIN)) - Cylinder(8, 50)
    turns = [math.radians(30 + 60 * k) for k in range(6)]
    return disc - [Pos(20 * math.cos(turn), 20 * math.sin(turn), 0) * Cylinder(2.5, 50) for turn in turns]


def test_a_hole_circle_is_its_diameter_and_the_holes_of_one_size() -> None:
    first = wall((20 * math.cos(math.radians(30)), 10, 0), Z, 2.5)
    thick = check("thickness", plane((0, 0, 0), minus(Z)), plane((0, 0, 6), Z))
    scheme = [check("diameter", wall((0, 0, 0), Z, 30)), check("diameter", wall((0, 0, 0), Z, 8)), thick]
    scheme += [check("pitch_circle", first), check("diameter", first), check("pattern_count", first)]
    assert counts(audited(flange(), scheme)) == (0, 0)
    assert counts(audited(flange(), scheme[:3] + scheme[4:]))[0] > 0
    assert counts(audited(flange(), scheme[:1] + scheme[2:])) == (1, 0)


def shaft() -> Any:
    foot = (Align.CENTER, Align.CENTER, Align.MIN)
    return (
        Cylinder(10, 20, align=foot)
        + Pos(0, 0, 20) * Cylinder(8, 30, align=foot)
        + Pos(0, 0, 50) * Cylinder(5, 15, align=foot)
    )


ENDS = [plane((0, 0, 0), minus(Z)), plane((0, 9, 20), Z), plane((0, 7, 50), Z), plane((0, 0, 65), Z)]
ROUNDS = [check("diameter", wall((0, 0, z), Z, r)) for z, r in ((5, 10), (30, 8), (60, 5))]


@pytest.mark.parametrize(
    "pairs", [[(0, 1), (1, 2), (2, 3)], [(0, 1), (0, 2), (0, 3)], [(3, 2), (3, 1), (0, 3)]],
    ids=["chain", "baseline", "from the other end"],
)  # fmt: skip
def test_a_stepped_shaft_by_chain_and_by_baseline(pairs: list[tuple[int, int]]) -> None:
    """A chain that is closed by the overall length has one size too many."""
    scheme = [*ROUNDS, *(check("length", ENDS[a], ENDS[b]) for a, b in pairs)]
    assert counts(audited(shaft(), scheme)) == (0, 0)
    assert counts(audited(shaft(), scheme[:-1])) == (1, 0)
    closed = check("extent", axis="z") if (0, 3) not in pairs else check("length", ENDS[0], ENDS[1], marks=2)
    assert counts(audited(shaft(), [*scheme, closed])) == (0, 1)


def wedge() -> Any:
    """60 long, 20 high at the back, 8 at the front, 30 wide."""
    return extrude(Plane.XZ * Polygon((0, 0), (60, 0), (60, 20), (0, 8), align=None), -30)


def test_a_wedge_takes_its_slant() -> None:
    tilt = math.atan2(12, 60)
    slanted = plane((30, 15, 14), (-math.sin(tilt), 0, math.cos(tilt)))
    low, front, back = plane((30, 15, 0), minus(Z)), plane((0, 15, 4), minus(X)), plane((60, 15, 10), X)
    sides = check("length", plane((30, 0, 5), minus(Y)), plane((30, 30, 5), Y))
    scheme = [sides, check("length", front, back), check("angle", slanted, low), check("extent", axis="z")]
    assert counts(audited(wedge(), scheme)) == (0, 0)
    for k in range(4):
        assert counts(audited(wedge(), scheme[:k] + scheme[k + 1 :])) == (1, 0)
    assert [missing.unknown.kind for missing in audited(wedge(), [*scheme[:2], scheme[3]]).missing] == ["slant"]


def test_equal_roundings_are_said_once() -> None:
    shape = fillet(block().edges().filter_by(Axis.Z), 5)
    assert counts(audited(shape, BLOCK)) == (1, 0)
    assert counts(audited(shape, [*BLOCK, check("radius", wall((5, 5, 0), Z, 5))])) == (0, 0)


def test_a_slots_round_ends_are_tangent_without_a_word() -> None:
    """A slot is its width or radius, its length between the middles, its depth and place: here through."""
    slot = Box(20, 8, 50) + Pos(10, 0, 0) * Cylinder(4, 50) + Pos(-10, 0, 0) * Cylinder(4, 50)
    shape = block() - Pos(30, 20, 0) * slot
    one, two = wall((20, 20, 0), Z, 4), wall((40, 20, 0), Z, 4)
    scheme = [*BLOCK, check("radius", one), check("position", one, two, axis="x")]
    scheme += [check("position", one, LEFT), check("position", one, FRONT)]
    assert counts(audited(shape, scheme)) == (0, 0)
    for k in range(3, 7):
        assert counts(audited(shape, scheme[:k] + scheme[k + 1 :])) == (1, 0)


@st.composite
def stairs(draw: st.DrawFn) -> tuple[Any, list[CheckModel]]:
    """A staircase of random steps with blind holes in them, and a random scheme: a tree over its faces each way."""
    steps = draw(st.integers(1, 4))
    widths = [draw(st.integers(6, 15)) + 0.5 * k for k in range(steps)]
    heights = sorted(draw(st.lists(st.integers(5, 40), min_size=steps, max_size=steps, unique=True)), reverse=True)
    shape, x, tops, rights = None, 0.0, [], []
    for width, height in zip(widths, heights, strict=True):
        body = Pos(x, 0, 0) * Box(width, 20, height, align=FOOT)
        shape = body if shape is None else shape + body
        tops.append(plane((x + width / 2, 10, height), Z))
        rights.append(plane((x + width, 10, height - 0.5), X))
        x += width
    across = [plane((0, 10, 1), minus(X)), *rights]
    up = [plane((x / 2, 10, 0), minus(Z)), *tops]
    scheme = [check("length", plane((x / 2, 0, 1), minus(Y)), plane((x / 2, 20, 1), Y))]
    for faces in (across, up):
        scheme += [check("length", faces[draw(st.integers(0, k - 1))], faces[k]) for k in range(1, len(faces))]
    at = widths[0] / 2
    # its floor is level with no step: faces in line are one height, and its depth would be told by theirs
    shape = shape - Pos(at, 10, heights[0]) * Cylinder(2, 6.5)
    bore = wall((at, 10, heights[0] - 1), Z, 2)
    scheme += [
        check("diameter", bore),
        check("depth", bore),
        check("position", bore, across[draw(st.integers(0, steps))]),
    ]
    scheme.append(check("position", bore, plane((x / 2, draw(st.sampled_from([0, 20])), 1), minus(Y))))
    side = scheme[-1].fields["between"][1]["plane"]
    side["normal"] = list(Y) if side["point"][1] else minus(Y)
    return shape, scheme


@given(stairs(), st.integers(0, 30))
@settings(max_examples=25)
def test_a_random_complete_scheme_is_rigid_and_loose_by_one_without_any_one(
    made: tuple[Any, list[CheckModel]], which: int
) -> None:
    shape, scheme = made
    assert counts(audited(shape, scheme)) == (0, 0)
    left_out = which % len(scheme)
    assert counts(audited(shape, scheme[:left_out] + scheme[left_out + 1 :])) == (1, 0)
