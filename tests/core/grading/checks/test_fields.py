"""What each kind of check is told: what cannot be meant is refused by check and field, what can is asked for."""

from typing import Any

import pytest

from rigid_bench.core.exercise.bundle import CheckModel, Exercise, read_exercise
from rigid_bench.core.grading.checks import (
    KINDS,
    bodies,
    change,
    dimension,
    end_position,
    extras,
    fit,
    freedom,
    gap,
    grounded,
    holes,
    interference,
    judged,
    mate,
    mobility,
    moved,
    parts,
    relation,
    ring,
    shape,
    side,
    stack,
    thread,
    travel,
    way_in,
)  # fmt: skip
from rigid_bench.core.grading.checks.base import CheckKind
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.wording.saying import say

SLIDE = {"kind": "translation", "direction": [1, 0, 0]}
WALL = {"cylinder": {"point": [0, 30, 15], "direction": [1, 0, 0], "radius": 4.2}}
FLOOR = {"plane": {"point": [40, 30, 0], "normal": [0, 0, 1]}}
TOP, SIDE = {"instance": "housing-1", **FLOOR}, {"instance": "drawer-1", **FLOOR}

#: A module, fields of a check of its kind that can be meant, and changes of them that cannot: None leaves one out.
WRONG: list[tuple[Any, dict[str, Any], list[dict[str, Any]]]] = [
    (bodies, {"part": "knob", "count": 2}, [{"count": 0}, {"count": 101}, {"count": 1.5}, {"part": None}]),
    (change, {"set": {"drawer.length": 95}}, [{"set": {}}, {"set": None}, {"set": {"drawer.length": "long"}}]),
    (
        dimension, {"part": "drawer", "measure": "extent", "axis": "x", "nominal": 90},
        [{"part": None}, {"measure": "extend"}, {"measure": None}],
    ),
    (
        end_position, {"instance": "drawer-1", "motion": SLIDE, "end": "along"},
        [{"instance": None}, {"motion": None}, {"end": "middle"}, {"within": 0}, {"within": -1}],
    ),
    (extras, {"part": "knob"}, [{"part": None}, {"part": 3}]),
    (
        fit, {"pocket": {"part": "housing", **FLOOR}, "peg": {"part": "drawer", **FLOOR}, "min": 0.1, "max": 0.3},
        [{"min": 0.4}, {"pocket": None}, {"peg": {"part": "drawer"}}, {"max": None}],
    ),
    (freedom, {"instance": "drawer-1", "motions": [SLIDE]}, [{"motions": None}, {"redundant": -1}, {"instance": None}]),
    (
        gap, {"a": "housing-1", "b": "drawer-1", "min": 0.3, "max": 0.6},
        [{"min": 0.7}, {"min": None, "max": None}, {"fit": "H7/g6"}, {"per": "corner"}, {"along": [0, 0, 0]},
         {"between": [FLOOR]}, {"a": None}, {"min": "wide"}],
    ),
    (grounded, {"instance": "housing-1"}, [{"instance": None}]),
    (
        holes, {"part": "drawer", "holes": [{"diameter": 8.4, "at": [30, 15]}]},
        [{"holes": []}, {"holes": [{"depth": 3}]}, {"holes": [{"diameter": "wide"}]}, {"part": None}],
    ),
    (
        interference, {"expected": [{"a": "drawer-1", "b": "knob-1", "max": 5}]},
        [{"expected": [{"a": "drawer-1", "b": "knob-1"}]}, {"expected": [{"a": "drawer-1", "b": "knob-1", "max": 0}]}],
    ),
    (
        judged, {"levels": [{"name": "Neat", "marks": 2}, {"name": "Rough", "marks": 0}]},
        [{"levels": [{"name": "Neat", "marks": 2}]}, {"levels": [{"name": "", "marks": 1}] * 2}, {"levels": None}],
    ),
    (mate, {"a": "housing-1", "b": "drawer-1", "kinds": ["coincident"]}, [{"kinds": []}, {"a": None}, {"kinds": None}]),
    (mobility, {"count": 1}, [{"count": -1}, {"count": None}, {"count": "one"}]),
    (moved, {"instance": "drawer-1", "motions": [SLIDE]}, [{"motions": [SLIDE] * 7}, {"motions": None}]),
    (parts, {"components": True}, [{"components": "perhaps"}]),
    (
        relation, {"relation": "coincident", "a": TOP, "b": SIDE},
        [{"a": None}, {"relation": None}, {"sense": "both"}, {"a": {"instance": "housing-1"}}],
    ),
    (ring, {"instance": "knob-1", "bearing": "drawer-1", "ring": "inner"}, [{"ring": "middle"}, {"bearing": None}]),
    (shape, {"part": "knob"}, [{"part": None}]),
    (side, {"part": "drawer", "of": WALL, "side": FLOOR}, [{"of": None}, {"of": FLOOR}, {"side": WALL}]),
    (
        stack, {"instance": "knob-1", "of": WALL, "into": "drawer-1", "min": 5},
        [{"min": None}, {"measure": "depth"}, {"of": FLOOR}, {"into": None}],
    ),
    (
        thread, {"part": "drawer", "of": WALL, "thread": "M8", "depth": 12},
        [{"depth": 0}, {"hand": "both"}, {"thread": "M"}, {"of": None}],
    ),
    (travel, {"instance": "drawer-1", "motion": SLIDE, "min": 70}, [{"min": None}, {"motion": None}, {"min": "far"}]),
    (way_in, {"instance": "knob-1", "how": "straight"}, [{"how": "bent"}, {"instance": None}]),
]  # fmt: skip
RIGHT = [(module.KIND, fields) for module, fields, _ in WRONG]


def check_of(kind: CheckKind[Any], fields: dict[str, Any]) -> CheckModel:
    given = {name: value for name, value in fields.items() if value is not None}
    return CheckModel.model_validate({"id": "own", "title": "Own", "kind": kind.name, "marks": 2, **given})


@pytest.fixture(scope="module")
def exercise(seed_drawer: dict[str, bytes]) -> Exercise:
    return read_exercise(seed_drawer)


def test_every_kind_has_its_fields_here() -> None:
    elsewhere = {"names", "pattern", "step"}  # they are told little, and have tests beside their judging
    assert {kind.name for kind, _ in RIGHT} == set(KINDS) - elsewhere


@pytest.mark.parametrize(("kind", "fields"), RIGHT, ids=lambda own: getattr(own, "name", ""))
def test_what_can_be_meant_is_read_as_it_is_and_asked_for(
    kind: CheckKind[Any], fields: dict[str, Any], exercise: Exercise
) -> None:
    check = check_of(kind, fields)
    own = kind.read(check)
    again = kind.read(check_of(kind, own.model_dump(mode="json", exclude_none=True)))
    assert again == own
    asked = say(kind.required(check, own, exercise))
    assert asked
    assert "{" not in asked


@pytest.mark.parametrize(
    ("kind", "fields", "change"),
    [(module.KIND, fields, changed) for module, fields, changes in WRONG for changed in changes],
    ids=lambda own: getattr(own, "name", "") or ",".join(own) if not isinstance(own, list) else "",
)
def test_what_cannot_be_meant_is_refused_by_the_checks_id_and_field(
    kind: CheckKind[Any], fields: dict[str, Any], change: dict[str, Any], exercise: Exercise
) -> None:
    check = check_of(kind, {**fields, **change})
    with pytest.raises(InvalidDocument) as refused:
        kind.verify(check, kind.read(check), exercise)
    assert "check 'own'" in refused.value.where
    assert refused.value.problem
    assert refused.value.next_step


@pytest.mark.parametrize(
    ("kind", "fields", "name"),
    [
        (kind, fields, name)
        for kind, fields in RIGHT
        for name in ("instance", "a", "b", "part", "to", "bearing", "into")
        if isinstance(fields.get(name), str)
    ],
    ids=lambda own: getattr(own, "name", "") or (own if isinstance(own, str) else ""),
)
def test_what_the_exercise_does_not_have_is_named(
    kind: CheckKind[Any], fields: dict[str, Any], name: str, exercise: Exercise
) -> None:
    check = check_of(kind, {**fields, name: "nobody"})
    with pytest.raises(InvalidDocument, match="nobody"):
        kind.verify(check, kind.read(check), exercise)
