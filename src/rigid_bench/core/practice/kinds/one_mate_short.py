"""One mate short: of the mates that are offered, which leaves exactly the motion that is wanted?"""

import random
from typing import Any

from rigid_bench.core.practice.drill import Choice, Drill
from rigid_bench.core.practice.exercise_source import ExerciseSource
from rigid_bench.core.practice.kind import DrillKind
from rigid_bench.core.practice.mechanisms.families import of_level
from rigid_bench.core.practice.mechanisms.maker import Mechanism
from rigid_bench.core.practice.offered import offered
from rigid_bench.core.practice.solved import (
    fitting_mates,
    freedom_of,
    is_same,
    mate_texts,
    mate_words,
    mates_about,
    motions_of,
    reports_of,
    said,
    space_of,
    without,
)
from rigid_bench.core.practice.unfit import Unfit
from rigid_bench.core.wording.language import N_, _
from rigid_bench.core.wording.phrases import motions_phrase
from rigid_bench.core.wording.saying import say

_WRONG = 3


def make(chance: random.Random, level: int) -> Drill:
    """Make one by lot."""
    mechanism = chance.choice(of_level(level))(chance)
    return _about(chance, level, mechanism, chance.choice(mechanism.asked), mechanism)


def make_from(chance: random.Random, level: int, source: ExerciseSource) -> Drill:
    """Make one of an exercise's assembly by lot."""
    mechanism = source.mechanism()
    instance = chance.choice(mechanism.asked)
    return _about(chance, level, mechanism, instance, mates_about(mechanism, instance))


def _about(chance: random.Random, level: int, mechanism: Mechanism, instance: str, about: Mechanism) -> Drill:
    """Take away one of the mates of `about`, and offer others between what they join."""
    whole = freedom_of(mechanism.build)
    wanted, space = motions_of(whole, instance), space_of(whole, instance)
    taken = chance.choice(about.build["mates"])
    build = without(mechanism.build, [taken["id"]])
    before = freedom_of(build)
    if is_same(space_of(before, instance), space):
        raise Unfit
    right: dict[str, Choice] = {}
    wrong: dict[str, Choice] = {}
    for mate, features in fitting_mates(about, build):
        text = mate_words(mate, mechanism, features)
        if text in right or text in wrong:
            continue
        after = freedom_of({**build, "mates": [*build["mates"], {"id": "new", **mate}]})
        if after.conflicts:
            continue
        fits = is_same(space_of(after, instance), space)
        (right if fits else wrong)[text] = Choice(id="", text=text, mate={"id": "new", **mate})
    if not right or len(wrong) < _WRONG:
        raise Unfit
    own = chance.choice(sorted(right))
    others = chance.sample(sorted(wrong), _WRONG)
    choices, answer = offered(chance, [right[own]], [wrong[text] for text in others])
    now = say(motions_phrase(motions_of(before, instance)))
    left = say(motions_phrase(wanted))
    return Drill(
        kind="",
        seed=0,
        level=level,
        question=_(
            "{part} should be left so: {left}. Which mate is still missing?",
            part=said(mechanism, instance).capitalize(),
            left=left,
        ),
        given={"build": build, "instance": instance, "to": "ground", "wanted": _wanted(reports_of(wanted))},
        form="choice",
        choices=choices,
        answer=answer,
        explanation=_("Without it: {now}. With “{own}”: {left}.", now=now, own=own, left=left),
        shapes=mechanism.shapes,
        mates={name: text for name, text in mate_texts(mechanism).items() if name != taken["id"]},
    )


def _wanted(motions: list[dict[str, Any]]) -> dict[str, Any]:
    return {"to": "ground", "motions": motions}


KIND = DrillKind(
    name="one-mate-short",
    title=N_("One mate short"),
    levels=(1, 2, 3),
    make=make,
    make_from=make_from,
    shows="mates",
    slips=("mate-short", "placed-not-held"),
)
