"""Every drill has one right answer: proved seed by seed by another road than the one that made it.

`SEEDS` of each kind are tried; `PRACTICE_SEEDS=1000` tries a thousand.
"""

import itertools
import os
import random
from collections import Counter
from typing import Any

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from rigid_bench.core.practice.drill import Drill, drill_json
from rigid_bench.core.practice.kinds.predict_the_motion import driven_poses
from rigid_bench.core.practice.mechanisms.families import ALL
from rigid_bench.core.practice.mechanisms.linkages import parallelogram
from rigid_bench.core.practice.registry import KINDS, drill_of
from rigid_bench.core.practice.unfit import Unfit
from rigid_bench.core.values.errors import NotFound
from tests.core.practice import independent
from tests.core.practice.independent import SIZE, Placed, same_space

pytestmark = pytest.mark.thorough

SEEDS = int(os.environ.get("PRACTICE_SEEDS", "9"))


def drills(kind: str, level: int | None = None) -> list[Drill]:
    levels = KINDS[kind].levels if level is None else (level,)
    return [drill_of(kind, seed, levels[seed % len(levels)]) for seed in range(SEEDS)]


def is_right(drill: Drill, choice: Any) -> bool:
    return choice.id in drill.answer


def with_mate(build: dict[str, Any], mate: dict[str, Any]) -> dict[str, Any]:
    return {**build, "mates": [*build["mates"], mate]}


def space_of(motions: list[dict[str, Any]], origin: np.ndarray) -> np.ndarray:
    """Return the span of motions as a report writes them, about a place of the world."""
    columns = []
    for motion in motions:
        if motion["kind"] == "translation":
            columns.append(np.concatenate([np.zeros(3), motion["direction"]]))
            continue
        point, way = (np.array(motion["axis"][name], dtype=float) for name in ("point", "direction"))
        linear = np.cross(way, origin - point) + motion.get("pitch", 0.0) / (2 * np.pi) * way
        columns.append(np.concatenate([SIZE * way, linear]))
    if not columns:
        return np.zeros((6, 0))
    left, sizes, _ = np.linalg.svd(np.array(columns).T, full_matrices=False)
    return left[:, sizes > 1e-6]


def test_the_same_seed_is_the_same_drill_and_choices_differ() -> None:
    for kind, own in KINDS.items():
        for level in own.levels:
            first, second = (drill_json(drill_of(kind, 11, level)) for _ in range(2))
            assert first == second
            assert (first["kind"], first["seed"], first["level"]) == (kind, 11, level)
            assert list(first)[:4] == ["kind", "seed", "level", "question"]


@pytest.mark.parametrize("kind", KINDS)
def test_no_choice_is_another_and_none_is_told_by_its_place(kind: str) -> None:
    places: Counter[str] = Counter()
    for drill in drills(kind):
        for step in (drill, drill.then):
            if step is None or step.form not in ("choice", "point"):
                continue
            texts = [choice.text for choice in step.choices]
            assert len(set(texts)) == len(texts) > 1
            assert [choice.id for choice in step.choices] == list("abcdefgh"[: len(texts)])
            assert 0 < len(step.answer) < len(texts)
            places.update(step.answer)
    if sum(places.values()) >= SEEDS:
        assert len(places) > 1, "the answer stands now here, now there"


def test_a_kind_level_or_seed_that_is_not_there_is_refused() -> None:
    for kind, seed, level in (
        ("nothing", 1, 1),
        ("what-is-free", 1, 9),
        ("what-is-free", -1, 1),
        ("work-it-out", 2**31, 1),
    ):
        with pytest.raises(NotFound):
            drill_of(kind, seed, level)


def test_there_are_as_many_families_as_are_asked() -> None:
    assert len(ALL) >= 25
    assert len({family.__name__ for family in ALL}) == len(ALL)
    assert len(KINDS) == 12


def test_what_is_free_is_so_by_finite_differences() -> None:
    for drill in drills("what-is-free"):
        placed = Placed(drill.given["build"])
        twists = placed.twists(drill.given["instance"])
        origin = placed.start[drill.given["instance"]][1]
        if drill.form == "rose":
            assert independent.petals(twists) == drill.answer
            assert len(drill.answer) == twists.shape[1]
            continue
        for choice in drill.choices:
            assert choice.motions is not None
            assert same_space(space_of(choice.motions, origin), twists) == is_right(drill, choice), drill.seed


def test_exactly_the_right_mate_leaves_what_is_wanted() -> None:
    for drill in drills("one-mate-short"):
        build, name = drill.given["build"], drill.given["instance"]
        origin = Placed(build).start[name][1]
        wanted = space_of(drill.given["wanted"]["motions"], origin)
        assert not same_space(Placed(build).twists(name), wanted)
        for choice in drill.choices:
            assert isinstance(choice.mate, dict)
            placed = Placed(with_mate(build, choice.mate))
            assert np.abs(placed.residuals(np.zeros(6 * len(placed.moving)))).max() < 1e-6, "it holds as they stand"
            assert same_space(placed.twists(name), wanted) == is_right(drill, choice), (drill.seed, choice.text)


def test_exactly_the_mates_that_add_no_rank_could_go() -> None:
    for drill in [*drills("one-too-many", 1), *drills("one-too-many", 2)]:
        build = drill.given["build"]
        rank = Placed(build).rank()
        for choice in drill.choices:
            left = {**build, "mates": [mate for mate in build["mates"] if mate["id"] != choice.mate]}
            assert (Placed(left).rank() == rank) == is_right(drill, choice), drill.seed


def test_exactly_the_clashing_mates_cannot_be_solved() -> None:
    for drill in drills("one-too-many", 3)[: max(8, SEEDS // 3)]:
        placed = Placed(drill.given["build"])
        for choice in drill.choices:
            assert isinstance(choice.mate, list)
            _, left = placed.solve(choice.mate)
            assert (left > 1e-3) == is_right(drill, choice), (drill.seed, choice.text)


def test_a_way_that_could_go_on_in_two_is_not_asked() -> None:
    """A parallelogram that comes to lie flat may go on crossed; half a turn always comes there."""
    mechanism = parallelogram(random.Random(3))
    assert mechanism.drive is not None
    with pytest.raises(Unfit):
        driven_poses(mechanism.build, *mechanism.drive, 180.0)
    (name,) = mechanism.driven
    start, end = driven_poses(mechanism.build, *mechanism.drive, 10.0)[name]
    turned = Rotation.from_matrix(end.rotation @ start.rotation.T).magnitude()
    assert np.degrees(turned) == pytest.approx(10.0, abs=1e-6)


def test_a_driven_part_goes_as_far_as_least_squares_say() -> None:
    for drill in drills("predict-the-motion"):
        given = drill.given
        asked = given["drive"]
        if "expression" in given:
            assert eval(given["expression"], {}, dict(given["values"])) == pytest.approx(drill.answer[0], abs=1e-3)
            (twist,) = Placed(given["build"]).twists(given["instance"]).T
            assert drill.tolerance is not None
            pitch = abs(twist[3:] @ twist[:3]) / np.linalg.norm(twist[:3]) ** 2 * SIZE * 2 * np.pi
            assert pitch * asked["by"] / 360 == pytest.approx(drill.answer[0], abs=drill.tolerance)
            about = np.array(asked["motion"]["axis"]["direction"])
            travel = np.sign(twist[:3] @ about) * (twist[3:] @ about) * about
            assert_the_way(drill, travel, is_turn=False)
            continue
        before = Placed(given["build"]).start[given["instance"]]
        after = independent.drive(given["build"], asked["instance"], asked["motion"], asked["by"])[given["instance"]]
        turned = np.degrees(Rotation.from_matrix(before[0].T @ after[0]).magnitude())
        gone = turned if drill.unit == "deg" else float(np.linalg.norm(after[1] - before[1]))
        assert gone == pytest.approx(drill.answer[0], abs=0.01), drill.seed
        turn = Rotation.from_matrix(after[0] @ before[0].T).as_rotvec()
        assert_the_way(drill, turn if drill.unit == "deg" else after[1] - before[1], is_turn=drill.unit == "deg")


def assert_the_way(drill: Drill, gone: np.ndarray, *, is_turn: bool) -> None:
    """The second question is asked where the way lies along an axis of the world, and its answer is that way."""
    if drill.then is None:
        assert np.abs(gone).max() < 0.9995 * np.linalg.norm(gone)
        return
    along = int(np.argmax(np.abs(gone)))
    said = [choice.text for choice in drill.then.choices if choice.id in drill.then.answer]
    if is_turn:
        assert f"with {'XYZ'[along]} pointing at you" in drill.then.question
        assert said == ["anticlockwise" if gone[along] > 0 else "clockwise"]
    else:
        assert said == [f"along {'+' if gone[along] > 0 else '−'}{'XYZ'[along]}"]


@pytest.mark.parametrize("kind", ["work-it-out", "will-it-fit", "read-the-sheet"])
def test_sums_are_what_python_makes_of_them(kind: str) -> None:
    for drill in drills(kind):
        if drill.form != "number":
            continue
        assert drill.tolerance
        value = eval(drill.given["expression"], {}, dict(drill.given["values"]))
        assert value == pytest.approx(drill.answer[0], abs=1e-4)
        for near in drill.near:
            assert abs(near.value - drill.answer[0]) > drill.tolerance, "a near miss is no answer"


def test_fits_are_as_their_limits_say() -> None:
    for drill in drills("will-it-fit"):
        if "hole" in drill.given:
            (low, high), (least, most) = drill.given["hole"], drill.given["shaft"]
            sort = "clearance" if low >= most else "interference" if high <= least else "transition"
            assert {choice.text.split()[0] for choice in drill.choices if is_right(drill, choice)} == {sort}
        elif "bands" in drill.given:
            values = drill.given["values"]
            gap = (values["bore"] - values["pin"]) / 2
            inside = {text for text, (low, high) in drill.given["bands"].items() if low - 1e-9 <= gap <= high + 1e-9}
            assert inside == {choice.text for choice in drill.choices if is_right(drill, choice)}


#: From ISO 286-2 (from memory): Ø20 H7 is +21/0, g6 is -7/-20, p6 is +35/+22 micrometres.
def test_a_clearance_fit_of_the_handbook_is_one() -> None:
    drills = [drill for seed in range(3000) if (drill := drill_of("will-it-fit", seed, 3)).given.get("nominal") == 20]
    by_fit = {drill.given["fit"]: drill for drill in drills}
    assert by_fit["H7/g6"].given["shaft"] == [-0.02, -0.007]
    assert by_fit["H7/g6"].given["hole"] == [0.0, 0.021]


def test_a_view_shows_what_looks_towards_it() -> None:
    toward = {"front": (0, -1, 0), "back": (0, 1, 0), "top": (0, 0, 1), "bottom": (0, 0, -1), "right side": (1, 0, 0),
              "left side": (-1, 0, 0)}  # fmt: skip
    for drill in drills("read-the-sheet"):
        if "feature" not in drill.given:
            continue
        ((kind, own),) = drill.given["feature"].items()
        way = np.array(own.get("direction", own.get("normal")))
        for choice in drill.choices:
            seen = float(way @ np.array(toward[choice.text.removesuffix(" view")]))
            assert (abs(seen) == 1 if kind == "axis" else seen == 1) == is_right(drill, choice)


def test_lines_of_a_view_part_what_lies_at_two_depths() -> None:
    for drill in drills("match-the-views"):
        solids = drill.given["solids"]
        views = ("front", "back", "top", "bottom", "right side", "left side")
        fits = {view for view in views if "lines" in drill.given and draws(solids, view, drill.given["lines"])}
        if drill.level == 1:
            named = {choice.text: is_right(drill, choice) for choice in drill.choices}
            assert {view: named.get(f"the {view} view") for view in fits} == dict.fromkeys(fits, True)
            assert len(fits) == 1
            continue
        assert draws(solids, "front", drill.given["front"])
        # ISO 5456-2: in third angle a view stands on the side from which it is seen, in first angle on the other
        sides = {"right": "right side", "left": "left side", "above": "top", "below": "bottom"}
        others = {"right": "left side", "left": "right side", "above": "bottom", "below": "top"}
        place = drill.given["place"]
        if drill.level == 2:
            method = "third angle" if fits == {sides[place]} else "first angle" if fits == {others[place]} else ""
            assert {choice.text for choice in drill.choices if is_right(drill, choice)} == {method}
        else:
            wanted = (sides if drill.given["angle"] == "third" else others)[place]
            for choice in drill.choices:
                assert choice.lines is not None
                assert draws(solids, wanted, choice.lines) == is_right(drill, choice)


def draws(solids: Any, view: str, lines: list[list[list[float]]]) -> bool:
    """Say whether lines are just those of a view: by looking to either side of the middle of each unit of a grid."""
    least = independent.least_corner(solids, view)
    drawn = set()
    for (ax, ay), (bx, by) in lines:
        low, high = sorted([(ax, ay), (bx, by)])
        for k in range(round(abs(bx - ax) + abs(by - ay))):
            drawn.add((low[0] + k * (high[0] > low[0]), low[1] + k * (high[1] > low[1]), high[0] > low[0]))
    wanted = set()
    for x, y in itertools.product(range(16), range(16)):
        here = independent.seen_depth(solids, view, least[0] + x + 0.5, least[1] + y + 0.5)
        left = independent.seen_depth(solids, view, least[0] + x - 0.5, least[1] + y + 0.5)
        below = independent.seen_depth(solids, view, least[0] + x + 0.5, least[1] + y - 0.5)
        wanted |= {(x, y, False)} if here != left else set()
        wanted |= {(x, y, True)} if here != below else set()
    return {(round(x), round(y), level) for x, y, level in drawn} == wanted


def test_a_part_goes_out_where_no_step_of_its_way_is_barred() -> None:
    for drill in drills("will-it-go-in"):
        solids = drill.given["solids"]
        if drill.level == 1:
            for choice in drill.choices:
                assert choice.motions
                way = np.array(choice.motions[0]["direction"])
                assert leaves(solids, drill.given["instance"], way) == is_right(drill, choice)
            continue
        ways = [sign * axis for axis in np.eye(3) for sign in (-1, 1)]
        for choice in drill.choices:
            assert choice.instance
            free = any(leaves(solids, choice.instance, way) for way in ways)
            assert (free if drill.level == 2 else not free) == is_right(drill, choice)


def leaves(solids: Any, name: str, way: np.ndarray) -> bool:
    """Move a part in half steps until it is far away, and look for an overlap at each."""
    others = [np.array(box, dtype=float) for other, boxes in solids.items() if other != name for box in boxes]
    for step in range(1, 80):
        for low, high in np.array(solids[name], dtype=float):
            moved = (low + step / 2 * way, high + step / 2 * way)
            for box in others:
                if np.all(moved[0] < box[1] - 1e-9) and np.all(box[0] < moved[1] - 1e-9):
                    return False
    return True
