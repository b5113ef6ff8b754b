"""What is still free? A small assembly with its mates; what one part can still do is told on the rose."""

import random
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.freedom.spaces import scaled_span
from rigid_bench.core.formats.message import phrase
from rigid_bench.core.practice.drill import Choice, Drill
from rigid_bench.core.practice.exercise_source import ExerciseSource
from rigid_bench.core.practice.kind import DrillKind
from rigid_bench.core.practice.mechanisms.families import of_level
from rigid_bench.core.practice.mechanisms.maker import Mechanism
from rigid_bench.core.practice.offered import offered
from rigid_bench.core.practice.solved import (
    LENGTH,
    freedom_of,
    is_same,
    ladder_words,
    mate_texts,
    motions_of,
    open_petals,
    reports_of,
    said,
)  # fmt: skip
from rigid_bench.core.practice.unfit import Unfit
from rigid_bench.core.wording.language import N_, _
from rigid_bench.core.wording.phrases import motion_phrase
from rigid_bench.core.wording.quantities import number
from rigid_bench.core.wording.saying import say

#: Wrong answers beside the right one.
_WRONG = 3


def make(chance: random.Random, level: int) -> Drill:
    """Make one by lot."""
    return _about(chance, level, chance.choice(of_level(level))(chance))


def make_from(chance: random.Random, level: int, source: ExerciseSource) -> Drill:
    """Make one of an exercise's assembly by lot."""
    return _about(chance, level, source.mechanism())


def _about(chance: random.Random, level: int, mechanism: Mechanism) -> Drill:
    instance = chance.choice(mechanism.asked)
    freedom = freedom_of(mechanism.build)
    motions = motions_of(freedom, instance)
    petals = open_petals(freedom, instance)
    about = Drill(
        kind="", seed=0, level=level,
        question=_("What can {mechanism} still do?", mechanism=said(mechanism, instance)),
        given={"build": mechanism.build, "instance": instance, "to": "ground"},
        form="rose", answer=petals or [], explanation=ladder_words(freedom, instance, mechanism),
        shapes=mechanism.shapes, mates=mate_texts(mechanism),
    )  # fmt: skip
    if petals is not None:
        return about
    choices, answer = offered(chance, [_choice(motions)], [_choice(wrong) for wrong in _others(chance, motions)])
    return about.model_copy(update={"form": "choice", "choices": choices, "answer": answer})


def _choice(motions: Sequence[Motion]) -> Choice:
    words = [_words(motion) for motion in motions]
    return Choice(id="", text=" and ".join(words) or "nothing", motions=reports_of(motions))


def _words(motion: Motion) -> str:
    if motion.kind != "screw":
        way = ", ".join(number(float(value), 2) for value in motion.direction)
        return say(phrase(motion_phrase(motion).code, way=f"the direction ({way})"))
    hand = "right" if motion.pitch > 0 else "left"
    return _(
        "{say}, {number} mm a turn, {hand}-handed",
        say=say(motion_phrase(motion)),
        number=number(abs(motion.pitch)),
        hand=hand,
    )


def _others(chance: random.Random, motions: Sequence[Motion]) -> list[list[Motion]]:
    """Return motions that the part does not have, near to what it has."""
    if len(motions) != 1:
        raise Unfit
    (right,) = motions
    turn = replace(right, kind="rotation", pitch=0.0)
    slide = Motion(kind="translation", direction=right.direction, point=np.zeros(3))
    pool: list[list[Motion]] = [[turn], [slide], [turn, slide]]
    if right.kind == "screw":
        pool += [[replace(right, pitch=-right.pitch)], [replace(right, pitch=2 * right.pitch)]]
    else:
        axes = [axis for axis in np.eye(3) if abs(axis @ right.direction) > 1e-6]
        slides = [Motion(kind="translation", direction=axis, point=np.zeros(3)) for axis in axes]
        pool += [slides, *([own] for own in slides)] if right.kind == "translation" else []
        pool += [[replace(right, direction=axis)] for axis in axes] if right.kind == "rotation" else []
    own = _space([right])
    wrong = [motions for motions in pool if not is_same(_space(motions), own)]
    if len(wrong) < _WRONG:
        raise Unfit
    return chance.sample(wrong, _WRONG)


def _space(motions: Sequence[Motion]) -> np.ndarray:
    return scaled_span(np.array([motion.twist for motion in motions]).T, LENGTH)


KIND = DrillKind(
    name="what-is-free", title=N_("What is still free?"), levels=(1, 2, 3), make=make,
    make_from=make_from, shows="mates",
    slips=("mate-short", "mate-too-many", "over-held", "fixed-where-it-should-move", "placed-not-held", "cannot-move"),
)  # fmt: skip
