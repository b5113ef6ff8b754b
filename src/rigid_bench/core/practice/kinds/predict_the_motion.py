"""Predict the motion: one part is driven; how far does the other go, and which way?"""

import math
import random
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.mates.linearised import linearise
from rigid_bench.core.assembly.mates.relax import relax
from rigid_bench.core.assembly.mates.system import System
from rigid_bench.core.practice.drill import Choice, Drill, Near, Step
from rigid_bench.core.practice.kind import DrillKind
from rigid_bench.core.practice.mechanisms import linkages, turning
from rigid_bench.core.practice.mechanisms.maker import Mechanism
from rigid_bench.core.practice.offered import offered
from rigid_bench.core.practice.solved import build_of, freedom_of, mate_texts, motions_of, said
from rigid_bench.core.practice.unfit import Unfit
from rigid_bench.core.values.frames import Pose, rotation_by, turn_of
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import N_, _
from rigid_bench.core.wording.quantities import number

_Array = NDArray[np.float64]
_LEVELS = {
    1: (turning.nut_on_spindle, linkages.parallelogram),
    2: (linkages.slotted_yoke, linkages.slider_crank, linkages.double_slider),
    3: (linkages.four_bar, linkages.swinging_block, linkages.six_bar, linkages.scissor_lift),
}
#: Degrees and mm by which the driving part goes, and in what steps.
_TURNS, _SLIDES, _STEP_DEG, _STEP_MM = (15, 20, 30, 40, 45, 60), (4, 5, 6, 8, 10), 2.5, 0.5
#: mm: mates hold.
_HOLDS = 1e-6
#: What an answer may be off: a share, and at least so much.
_SHARE, _LEAST = {1: 0.01, 2: 0.05, 3: 0.15}, {1: 0.05, 2: 0.5, 3: 1.5}
#: A motion smaller than this is no question.
_SMALL = 3.0
#: Share of how surely the start decides what follows; below it a way comes near to where it could go on otherwise.
_DECIDED = 0.2
#: Degrees of a turn that is seen; how nearly a way lies along an axis of the world.
_LEAST_TURN, _ALONG = 0.01, 0.999


def make(chance: random.Random, level: int) -> Drill:
    """Make one by lot."""
    mechanism = chance.choice(_LEVELS[level])(chance)
    if mechanism.drive is None:
        raise Unfit
    driver, motion = mechanism.drive
    is_turn = motion["kind"] == "rotation"
    if mechanism.driven == [driver]:
        return _of_screw(chance, mechanism, level)
    by = float(chance.choice(_TURNS if is_turn else _SLIDES) * chance.choice((1, -1)))
    driven = chance.choice(mechanism.driven)
    start, end = driven_poses(mechanism.build, driver, motion, by)[driven]
    gone, unit = _gone(start, end)
    if gone < _SMALL:
        raise Unfit
    value = round(gone, 2)
    drive = f"{'turns' if is_turn else 'slides'} by {abs(by):g}{'°' if is_turn else ' mm'}"
    way = "turn" if unit == "deg" else "go"
    return Drill(
        kind="",
        seed=0,
        level=level,
        question=_(
            "{driver} {drive}, as the arrow shows. How far does {part} {way}?",
            driver=said(mechanism, driver).capitalize(),
            drive=drive,
            part=said(mechanism, driven),
            way=way,
        ),
        given={
            "build": mechanism.build,
            "instance": driven,
            "to": "ground",
            "drive": {"instance": driver, "motion": motion, "by": by},
        },
        form="number",
        answer=[value],
        unit=unit,
        tolerance=max(_LEAST[level], round(_SHARE[level] * value, 2)),
        near=[Near(value=abs(by), text=_("That is what the driving part does; the other does not go as far."))]
        if is_turn == (unit == "deg") and abs(value - abs(by)) > 2 * max(_LEAST[level], _SHARE[level] * value)
        else [],
        then=_way(chance, start, end),
        explanation=_(
            "It goes {value} {unit}; the dashes show where it comes to.",
            value=number(value, 2),
            unit="°" if unit == "deg" else "mm",
        ),
        shapes=mechanism.shapes,
        mates=mate_texts(mechanism),
    )


def _way(chance: random.Random, start: Pose, end: Pose) -> Step | None:
    """Ask which way an instance went; None for what goes neither along nor about one of the world's axes."""
    turn = turn_of(end.rotation @ start.rotation.T)
    is_turn = float(np.linalg.norm(turn)) > math.radians(_LEAST_TURN)
    gone = turn if is_turn else end.position - start.position
    along = int(np.argmax(np.abs(gone)))
    if abs(gone[along]) < _ALONG * np.linalg.norm(gone):
        return None
    axis, is_positive = "XYZ"[along], bool(gone[along] > 0)
    if is_turn:
        right, *wrong = ("anticlockwise", "clockwise") if is_positive else ("clockwise", "anticlockwise")
        question = _("Which way does it turn, as seen with {axis} pointing at you?", axis=axis)
    else:
        right = f"along {'+' if is_positive else '−'}{axis}"
        wrong = [f"along {sign}{name}" for name in "XYZ" for sign in "+−" if f"along {sign}{name}" != right]
        question = _("Which way does it go?")
    choices, answer = offered(chance, [Choice(id="", text=right)], [Choice(id="", text=text) for text in wrong])
    return Step(
        question=question, form="choice", choices=choices, answer=answer, explanation=_("It goes {right}.", right=right)
    )


def _of_screw(chance: random.Random, mechanism: Mechanism, level: int) -> Drill:
    """Ask how far a nut travels, or how far it must be turned."""
    assert mechanism.drive is not None
    driver, motion = mechanism.drive
    (screw,) = motions_of(freedom_of(mechanism.build), driver)
    by = float(chance.choice((45, 90, 120, 180, 270, 360, 540, 720)))
    value = round(abs(screw.pitch) * by / 360, 4)
    hand = "right" if screw.pitch > 0 else "left"
    end = Pose(np.eye(3), screw.pitch * by / 360 * np.array(motion["axis"]["direction"]))
    return Drill(
        kind="",
        seed=0,
        level=level,
        question=_(
            "The thread's pitch is {pitch} mm, {hand}-handed. {driver} is turned by "
            "{by:g}° as the arrow shows. How far does it travel?",
            pitch=number(abs(screw.pitch)),
            hand=hand,
            driver=said(mechanism, driver).capitalize(),
            by=by,
        ),
        given={
            "build": mechanism.build,
            "instance": driver,
            "to": "ground",
            "drive": {"instance": driver, "motion": motion, "by": by},
            "expression": f"pitch * {by:g} / 360",
            "values": {"pitch": abs(screw.pitch)},
        },
        form="number",
        answer=[value],
        unit="mm",
        tolerance=0.01,
        near=[Near(value=abs(screw.pitch), text=_("That is one whole turn."))] if by != 360 else [],
        then=_way(chance, Pose.identity(), end),
        explanation=_(
            "{pitch} mm a turn × {by:g}/360 = {value} mm.",
            pitch=number(abs(screw.pitch)),
            by=by,
            value=number(value, 4),
        ),
        shapes=mechanism.shapes,
        mates=mate_texts(mechanism),
    )


def driven_poses(
    document: Mapping[str, Any], driver: str, motion: Mapping[str, Any], by: float
) -> dict[str, tuple[Pose, Pose]]:
    """Return where every instance stands before and after a drive: the driver is taken along step by step."""
    path = driven_path(document, driver, motion, by)
    names = [own["id"] for own in document["instances"]]
    return {name: (path[0][name], path[-1][name]) for name in names}


def driven_path(
    document: Mapping[str, Any], driver: str, motion: Mapping[str, Any], by: float
) -> list[dict[str, Pose]]:
    """Return where every instance stands along a drive, step by step, the first before it.

    Parameters
    ----------
    document
        The build.
    driver, motion, by
        The instance that is driven, its motion in the world, and how far: degrees of a rotation, which travels by its
        `pitch` (mm a turn, none without), or mm.

    Raises
    ------
    Unfit
        The mates do not let it go so far, or it comes near to a place where it could go on in two ways.
    """
    build = build_of(document)
    index = build.index_of(driver)
    held = replace(
        build,
        instances=tuple(replace(own, grounded=own.grounded or k == index) for k, own in enumerate(build.instances)),
    )
    system = System(held, Tolerance())
    poses: Sequence[Pose] = [own.pose for own in build.instances]
    step = _STEP_DEG if motion["kind"] == "rotation" else _STEP_MM
    count = math.ceil(abs(by) / step)
    path = [poses]
    least = _DECIDED * _decided(system, poses)
    for _unused in range(count):
        moved = [_moved(motion, by / count) @ pose if k == index else pose for k, pose in enumerate(poses)]
        poses, error, _system = relax(system, moved)
        if error > _HOLDS or _decided(system, poses) < least:
            raise Unfit
        path.append(poses)
    names = [own.id for own in build.instances]
    return [dict(zip(names, here, strict=True)) for here in path]


def _decided(system: System, poses: Sequence[Pose]) -> float:
    """Return how surely the mates say where the driven instances go: 0 at a point where there are two ways on."""
    rows = linearise(system, poses).dense[:, system.free_columns]
    return float(np.linalg.svd(rows, compute_uv=False).min(initial=1.0))


def _moved(motion: Mapping[str, Any], amount: float) -> Pose:
    if motion["kind"] == "translation":
        return Pose(np.eye(3), amount * np.array(motion["direction"]))
    place, way = (np.array(motion["axis"][name], dtype=float) for name in ("point", "direction"))
    turn = rotation_by(math.radians(amount) * way)
    return Pose(turn, place - turn @ place + motion.get("pitch", 0.0) * amount / 360 * way)


def _gone(start: Pose, end: Pose) -> tuple[float, str]:
    """Return how far an instance went, degrees where it turned, else mm."""
    turned = start.rotation.T @ end.rotation
    angle = math.degrees(math.acos(max(-1.0, min(1.0, (float(np.trace(turned)) - 1) / 2))))
    return (angle, "deg") if angle > 0.01 else (float(np.linalg.norm(end.position - start.position)), "mm")


KIND = DrillKind(
    name="predict-the-motion",
    title=N_("Predict the motion"),
    levels=(1, 2, 3),
    make=make,
    slips=("did-not-move", "offset-sign", "cannot-move"),
)
