"""One mate too many: which could go and nothing would move more? At level 3: which cannot hold together?"""

import itertools
import random
from typing import Any

from rigid_bench.core.assembly.solve.solution import solve
from rigid_bench.core.practice.drill import Choice, Drill
from rigid_bench.core.practice.exercise_source import ExerciseSource
from rigid_bench.core.practice.kind import DrillKind
from rigid_bench.core.practice.mechanisms.families import of_level
from rigid_bench.core.practice.mechanisms.maker import Mechanism
from rigid_bench.core.practice.offered import offered
from rigid_bench.core.practice.solved import (
    build_of,
    fitting_mates,
    freedom_of,
    instances_of,
    mate_words,
    mates_about,
    without,
)
from rigid_bench.core.practice.unfit import Unfit
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import N_, _

_MOST = 6
#: mm by which a contradiction is off, and how many mates clash at most in a drill.
_OFF, _MOST_CLASHING = (1, 2, 3, 4, 5), 3
_WRONG = 3


def make(chance: random.Random, level: int) -> Drill:
    """Make one by lot."""
    if level == 3:
        return _clash(chance, level)
    return _spare(chance, level, chance.choice(of_level(level))(chance))


def make_from(chance: random.Random, level: int, source: ExerciseSource) -> Drill:
    """Make one of an exercise's assembly by lot: which of a part's mates could go."""
    mechanism = source.mechanism()
    return _spare(chance, level, mechanism, chance.choice(mechanism.asked))


def _spare(chance: random.Random, level: int, mechanism: Mechanism, instance: str = "") -> Drill:
    """Offer all mates of a mechanism, or those of one of its parts."""
    about = mates_about(mechanism, instance) if instance else mechanism
    extra, features = chance.choice(fitting_mates(about, mechanism.build))
    build, texts = _renumbered(chance, mechanism, {"id": "extra", **extra}, features)
    whole = freedom_of(build)
    offers = [mate for mate in build["mates"] if not instance or instance in instances_of(mate)]
    if whole.conflicts or len(offers) > _MOST:
        raise Unfit
    spare: list[Choice] = []
    needed: list[Choice] = []
    for mate in offers:
        keeps = freedom_of(without(build, [mate["id"]])).rank == whole.rank
        choice = Choice(id="", text=f"{mate['id']}: {texts[mate['id']]}", mate=mate["id"])
        (spare if keeps else needed).append(choice)
    choices, answer = offered(chance, spare, needed)
    names = " or ".join(str(choice.mate) for choice in spare)
    return Drill(
        kind="",
        seed=0,
        level=level,
        question=_(
            "One mate could go, and nothing would move more than now. Which? Take every one of which that is true."
        ),
        given={"build": build, **({"instance": instance} if instance else {})},
        form="choice",
        choices=choices,
        answer=answer,
        many=True,
        explanation=_(
            "Without {names} the independent equations stay {rank}. Without any other there are fewer.",
            names=names,
            rank=whole.rank,
        ),
        shapes=mechanism.shapes,
        mates=texts,
    )


def _renumbered(
    chance: random.Random, mechanism: Mechanism, extra: dict[str, Any], features: tuple[str, str]
) -> tuple[dict[str, Any], dict[str, str]]:
    """Return the build with one more mate, in an order by lot under new ids, and what each says."""
    mates = [(mate, mechanism.features[mate["id"]]) for mate in mechanism.build["mates"]]
    mates.append((extra, features))
    texts = [mate_words(mate, mechanism, names) for mate, names in mates]
    if len(set(texts)) < len(texts):
        raise Unfit
    order = list(range(len(mates)))
    chance.shuffle(order)
    built = [{**mates[number][0], "id": f"m{place}"} for place, number in enumerate(order, 1)]
    named = {f"m{place}": texts[number] for place, number in enumerate(order, 1)}
    return {**mechanism.build, "mates": built}, named


def _clash(chance: random.Random, level: int) -> Drill:
    """Make a build in which some mates cannot hold together."""
    mechanism = chance.choice([*of_level(1), *of_level(2)])(chance)
    flats = [mate for mate in mechanism.build["mates"] if "plane" in mate["a"] and "plane" in mate["b"]]
    if not flats or len(mechanism.build["mates"]) < _MOST_CLASHING:
        raise Unfit
    held = chance.choice(flats)
    off = chance.choice(_OFF) + (held.get("value") or 0.0)
    extra = {**held, "id": "extra", "kind": "distance", "value": off}
    build, texts = _renumbered(chance, mechanism, extra, mechanism.features[held["id"]])
    ids = [mate["id"] for mate in build["mates"]]
    solution = solve(build_of(build), tolerance=Tolerance())
    if solution.satisfied or len(solution.conflict_sets) != 1 or len(solution.conflict_set) > _MOST_CLASHING:
        raise Unfit
    right = [name for name in ids if name in solution.conflict_set]
    groups = [list(group) for group in itertools.combinations(ids, len(right)) if list(group) != right]
    chance.shuffle(groups)
    wrong = [group for group in groups if _hold(build, group)][:_WRONG]
    if len(wrong) < _WRONG:
        raise Unfit
    choices, answer = offered(chance, [_set(right)], [_set(group) for group in wrong])
    return Drill(
        kind="",
        seed=0,
        level=level,
        question=_("These mates cannot all hold. Which of them clash?"),
        given={"build": build},
        form="choice",
        choices=choices,
        answer=answer,
        explanation=_(
            "{right} ask two places of one face, {off:g} mm apart. Without one the rest holds.",
            right=" and ".join(right),
            off=off,
        ),
        shapes=mechanism.shapes,
        mates=texts,
    )


def _hold(build: dict[str, Any], names: list[str]) -> bool:
    others = [mate["id"] for mate in build["mates"] if mate["id"] not in names]
    return solve(build_of(without(build, others)), is_quick=True, tolerance=Tolerance()).satisfied


def _set(names: list[str]) -> Choice:
    return Choice(id="", text=" and ".join(names), mate=list(names))


KIND = DrillKind(
    name="one-too-many",
    title=N_("One mate too many"),
    levels=(1, 2, 3),
    make=make,
    make_from=make_from,
    shows="mates",
    slips=("mate-too-many", "over-held", "clash", "mate-does-not-hold"),
)
