"""Drills of an exercise: computed from what it asks and how its reference is mated, checked by another road."""

from contextlib import suppress

import numpy as np
import pytest

from rigid_bench.core.grading.diagnosis.causes import Surroundings, of_dimension
from rigid_bench.core.grading.report.models import Prepared
from rigid_bench.core.practice.drill import Drill
from rigid_bench.core.practice.exercise_source import ExerciseSource, source_of
from rigid_bench.core.practice.registry import KINDS, drill_of
from rigid_bench.core.values.errors import NotFound
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.demo.graded import read_graded
from tests.core.practice import independent
from tests.core.practice.independent import Placed, same_space
from tests.core.practice.test_answers import space_of

pytestmark = pytest.mark.thorough

SEEDS = 8


@pytest.fixture(scope="module")
def sources() -> list[ExerciseSource]:
    """The demo's four exercises, as they were prepared once."""
    exercise_sources = []
    for own in read_graded():
        prepared = Prepared.model_validate(own.prepared)
        sizes = {check.id: check.size for check in prepared.checks if check.size}
        exercise_sources.append(source_of(own.bundle, prepared.sheet, sizes))
    return exercise_sources


def drills(source: ExerciseSource, kind: str) -> list[Drill]:
    drills = []
    for level in KINDS[kind].levels:
        for seed in range(SEEDS):
            with suppress(NotFound):
                drills.append(drill_of(kind, seed, level, source))
    return drills


def test_every_kind_that_can_be_made_of_an_exercise_is_made_of_one(sources: list[ExerciseSource]) -> None:
    kinds = [kind for kind, own in KINDS.items() if own.make_from]
    assert len(kinds) == 6
    for kind in kinds:
        assert any(drills(source, kind) for source in sources), kind


def test_what_is_free_in_the_reference_is_so_by_finite_differences(sources: list[ExerciseSource]) -> None:
    for source in sources:
        for drill in drills(source, "what-is-free"):
            placed = Placed(drill.given["build"])
            twists = placed.twists(drill.given["instance"])
            if drill.form == "rose":
                assert independent.petals(twists) == drill.answer
                continue
            origin = placed.start[drill.given["instance"]][1]
            for choice in drill.choices:
                right = choice.id in drill.answer
                assert same_space(space_of(choice.motions or [], origin), twists) == right


def test_the_mate_that_is_short_leaves_what_is_wanted(sources: list[ExerciseSource]) -> None:
    for drill in drills(sources[1], "one-mate-short"):
        build, name = drill.given["build"], drill.given["instance"]
        wanted = space_of(drill.given["wanted"]["motions"], Placed(build).start[name][1])
        for choice in drill.choices:
            placed = Placed({**build, "mates": [*build["mates"], choice.mate]})
            assert np.abs(placed.residuals(np.zeros(6 * len(placed.moving)))).max() < 1e-4
            assert same_space(placed.twists(name), wanted) == (choice.id in drill.answer)


def test_the_mates_that_could_go_keep_the_rank(sources: list[ExerciseSource]) -> None:
    for source in sources[:3]:
        for drill in drills(source, "one-too-many")[:6]:
            build = drill.given["build"]
            rank = Placed(build).rank()
            for choice in drill.choices:
                left = {**build, "mates": [mate for mate in build["mates"] if mate["id"] != choice.mate]}
                assert (Placed(left).rank() == rank) == (choice.id in drill.answer)


def test_a_size_that_is_wrong_is_named_as_the_card_would(sources: list[ExerciseSource]) -> None:
    seen = 0
    for source in sources:
        for drill in drills(source, "find-the-fault"):
            own = drill.given
            around = Surroundings()
            cause = of_dimension(
                own["measure"], own["nominal"], own["measured"], around, units=own["units"], tolerance=Tolerance()
            )
            assert cause is not None
            assert cause.code == drill.slip
            for choice in drill.choices:
                assert choice.check is not None
                nominal = source.sizes[choice.check["id"]].nominal
                says = float(choice.text.rsplit(": ", 1)[1])
                assert (says != pytest.approx(nominal, abs=1e-3)) == (choice.id in drill.answer)
            assert drill.then is not None
            assert len(drill.then.choices) == 4
            seen += 1
    assert seen >= 20


def test_what_the_sheet_says_is_what_the_check_asks(sources: list[ExerciseSource]) -> None:
    for source in sources:
        for drill in drills(source, "read-the-sheet"):
            values = drill.given["values"]
            wanted = values["size"] - values["less"] if drill.level == 3 else values["size"]
            assert drill.answer == [pytest.approx(wanted)]
            assert values["size"] in {size.nominal for size in source.sizes.values()}


def test_the_same_seed_is_the_same_drill_and_what_cannot_be_made_says_so(sources: list[ExerciseSource]) -> None:
    for kind in ("what-is-free", "find-the-fault"):
        assert drill_of(kind, 5, 1, sources[0]) == drill_of(kind, 5, 1, sources[0])
    with pytest.raises(NotFound, match="has nothing for"):
        drill_of("match-the-views", 1, 1, sources[0])
