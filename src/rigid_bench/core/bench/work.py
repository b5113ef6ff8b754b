"""What a student does on a bench besides mating and moving: place, ground, take away; and what is still free then."""

import json
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.freedom.analysis import Freedom, freedom
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.freedom.states import State, state_of
from rigid_bench.core.bench.documents import BenchMate, BenchPart, BenchParts, BenchState, Placed
from rigid_bench.core.formats.build import Build, Instance, make_mate
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _
from rigid_bench.core.wording.phrases import doing_phrase, motions_phrase

_Array = NDArray[np.float64]
#: mm between a part that is brought in and what stands there.
_ROOM = 10.0
#: Rounding, not motion.
_STILL_MM, _STILL_RAD = 1e-7, 1e-9


def bench_build(state: BenchState) -> Build:
    """Return a bench as a build, without the parts' geometry.

    Raises
    ------
    FormRejected
        Nothing is placed yet.
    """
    if not state.placed:
        raise FormRejected(_("bench"), _("no part is placed yet"), _("Bring in the base first"))
    places = {instance.id: k for k, instance in enumerate(state.placed)}
    return Build(
        parts=(),
        instances=tuple(
            Instance(id=instance.id, part=instance.part, grounded=instance.grounded, pose=instance.pose)
            for instance in state.placed
        ),
        mates=tuple(make_mate(mate, 1.0, places, f"bench, mate '{mate.id}'") for mate in state.mates),
    )


def left_over(state: BenchState, parts: BenchParts) -> dict[str, int]:
    """Return how many of each part still lie beside the bench."""
    used = [instance.part for instance in state.placed]
    return {part.id: max(0, part.count - used.count(part.id)) for part in parts.parts}


def place(state: BenchState, parts: BenchParts, part: str) -> BenchState:
    """Bring in a part, apart from what stands there."""
    own = next((candidate for candidate in parts.parts if candidate.id == part), None)
    if own is None or (left_over(state, parts)[part] == 0):
        raise FormRejected(_("part"), _("none of it is left beside the bench"), _("Choose another part"))
    numbers = [instance.id for instance in state.placed]
    name = next(f"{part}-{k}" for k in range(1, len(numbers) + 2) if f"{part}-{k}" not in numbers)
    at = [0.0, 0.0, 0.0]
    if state.placed:
        at[0] = _right_end(state, parts) + _ROOM - own.box[0][0]
    return state.model_copy(update={"placed": [*state.placed, Placed(id=name, part=part, position=at)]})


def _right_end(state: BenchState, parts: BenchParts) -> float:
    """Return how far to the right what is placed reaches, mm."""
    boxes = {part.id: np.array(part.box) for part in parts.parts}
    ends = []
    for instance in state.placed:
        low, high = boxes[instance.part]
        corners = np.array([[x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])])
        ends.append(float(instance.pose.point(corners)[:, 0].max()))
    return max(ends)


def take_away(state: BenchState, name: str) -> BenchState:
    """Put a part back beside the bench, with its mates."""
    known(state, name)
    mates = [mate for mate in state.mates if name not in (mate.a.instance, mate.b.instance)]
    return BenchState(placed=[instance for instance in state.placed if instance.id != name], mates=mates)


def ground(state: BenchState, name: str) -> BenchState:
    """Make a part the base; the base itself is let go."""
    chosen = known(state, name)
    placed = [
        instance.model_copy(update={"grounded": instance.id == name and not chosen.grounded})
        for instance in state.placed
    ]
    return state.model_copy(update={"placed": placed})


def known(state: BenchState, name: str) -> Placed:
    """Return an instance that must be there.

    Raises
    ------
    FormRejected
        It is not.
    """
    instance = state.instance(name)
    if instance is None:
        raise FormRejected(
            _("part"), _("there is no '{name}' on the bench", name=name[:40]), _("Choose one that is placed")
        )
    return instance


def part_of(parts: BenchParts, own: Placed) -> BenchPart:
    """Return the part of which an instance is one."""
    return next(part for part in parts.parts if part.id == own.part)


def at_poses(state: BenchState, poses: Sequence[Pose]) -> BenchState:
    """Return a bench with its instances elsewhere, one pose for each."""
    placed = [_placed(instance, pose) for instance, pose in zip(state.placed, poses, strict=True)]
    return state.model_copy(update={"placed": placed})


def _placed(own: Placed, pose: Pose) -> Placed:
    """Return an instance at a pose; what has not moved by a hair stays just as it is written."""
    if pose.is_close(own.pose, mm=_STILL_MM, rad=_STILL_RAD):
        return own
    where = {"position": np.round(pose.position, 9).tolist(), "quaternion": np.round(pose.quaternion(), 12).tolist()}
    return own.model_copy(update=where)


def unmate(state: BenchState, name: str) -> BenchState:
    """Take a mate away; nothing moves."""
    mates = [mate for mate in state.mates if mate.id != name]
    if len(mates) == len(state.mates):
        raise FormRejected(_("mate"), _("there is no mate '{name}'", name=name[:40]), _("Choose one of the list"))
    return state.model_copy(update={"mates": mates})


@dataclass(frozen=True, slots=True, kw_only=True)
class Standing:
    """How one instance stands."""

    state: State
    #: Its independent motions relative to the ground; without a base, to the others' common rest.
    degrees: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    """What the mates of a bench leave free."""

    freedom: Freedom
    mobility: int
    instances: dict[str, Standing]
    redundant: tuple[str, ...]
    clashing: tuple[str, ...]

    def motions(self, name: str) -> list[Motion]:
        """Return the motions of one instance."""
        index = next(k for k, instance in enumerate(self.freedom.system.build.instances) if instance.id == name)
        return self.freedom.motions(index)


def answer(state: BenchState, *, tolerance: Tolerance) -> Answer:
    """Work out what is still free on a bench."""
    build = bench_build(state)
    free = freedom(build, tolerance=tolerance)
    standings = {
        instance.id: Standing(state=state_of(free, k, free.degrees(k)), degrees=free.degrees(k))
        for k, instance in enumerate(build.instances)
    }
    return Answer(
        freedom=free,
        mobility=free.mobility,
        instances=standings,
        redundant=free.redundant_mates,
        clashing=tuple(conflict.mate for conflict in free.conflicts),
    )


def difference(name: str, before: list[Motion] | None, after: list[Motion]) -> Message:
    """Return what a mate did to a part.

    Examples
    --------
    >>> difference("Drawer", None, []).code
    'bench.now'
    """
    now = motions_phrase(after)
    if before is None or len(before) == len(after):
        return phrase("bench.now", name=name, now=now)
    was = phrase("bench.could-all-six") if len(before) == 6 else phrase("bench.could", doing=doing_phrase(before))
    return phrase("bench.was-and-now" if after else "bench.was-and-stuck", name=name, was=was, now=now)


def build_bytes(state: BenchState, parts: BenchParts, *, source: str = "") -> bytes:
    """Write the build file of what the bench holds."""
    return json.dumps(state.build_document(parts, source=source), indent=1).encode()


def takes(mate: BenchMate, shown: Answer) -> bool:
    """Say whether a mate would take any motion away."""
    build = shown.freedom.system.build
    places = {instance.id: k for k, instance in enumerate(build.instances)}
    return shown.freedom.takes_any(make_mate(mate, 1.0, places, f"mate '{mate.id}'"))
