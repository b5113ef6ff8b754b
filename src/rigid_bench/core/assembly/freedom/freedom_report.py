"""The freedom report: what can still move in a build, in the published format."""

import math
from collections.abc import Sequence
from typing import Literal

from rigid_bench.core.assembly.freedom.analysis import Freedom, freedom
from rigid_bench.core.assembly.freedom.dof_steps import ladder
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.freedom.states import State, state_of
from rigid_bench.core.assembly.freedom.travel import reach
from rigid_bench.core.assembly.mates.joints import Standing
from rigid_bench.core.formats.build import Build
from rigid_bench.core.formats.documents import Coordinate, Document, Vector
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _, series


class AxisReport(Document):
    """A line: a point in mm, a unit direction."""

    point: Vector = [0, 0, 0]
    direction: Vector


class MotionReport(Document):
    """One motion; fields that do not belong to its kind are left out."""

    kind: Literal["rotation", "translation", "screw"]
    axis: AxisReport | None = None
    direction: Vector | None = None
    #: mm per turn, of a screw.
    pitch: Coordinate | None = None
    #: False where the motion does not carry on to finite size.
    finite: bool | None = None
    #: How far it carries on, where joints of the build have limits.
    range: "RangeReport | None" = None


class RangeReport(Document):
    """How far a motion carries on both ways: degrees for a turn, else mm; and which mates' limits stop it."""

    back: float
    forward: float
    stopped_by: list[str | None]


class JointReport(Document):
    """Where a joint that has limits stands: degrees or mm."""

    mate: str
    kind: Literal["rotation", "translation"]
    value: float
    least: float
    greatest: float
    state: Literal["within", "at least", "at greatest", "beyond"]


class InstanceFreedom(Document):
    """What one instance can do relative to ground."""

    degrees: int
    motions: list[MotionReport]


class ConflictReport(Document):
    """A mate that does not hold in the given pose."""

    mate: str
    residual_mm: float
    residual_deg: float


class RungReport(Document):
    """What one mate took from one instance, when the mates are put in in the file's order."""

    mate: str
    instance: str
    #: Degrees of freedom relative to ground, without and with the mate.
    before: int
    after: int


class FreedomReport(Document):
    """The whole build, as in `docs/schemas/freedom-report.json`."""

    mobility: int
    equations: int
    rank: int
    redundancy: int
    grounded: list[str]
    satisfied: bool
    instances: dict[str, InstanceFreedom]
    redundant_mates: list[str]
    conflicts: list[ConflictReport]
    ladder: list[RungReport]
    #: How each instance stands, in a word.
    states: dict[str, State]
    #: Joints that have limits.
    limits: list[JointReport] = []


def freedom_report(build: Build, *, to: str | None = None, tolerance: Tolerance) -> FreedomReport:
    """Work out what can still move in a build.

    Parameters
    ----------
    build
        Instances and mates.
    to
        Id of the instance that motions are relative to; None is the ground.
    tolerance
        As for `freedom`.

    Returns
    -------
    FreedomReport

    Raises
    ------
    NotSupported, InvalidDocument
        A mate is of an unknown kind, or cannot be meant; or there is no such instance.
    """
    other = None if to is None else _place(build, to)
    result = freedom(build, tolerance=tolerance)
    names = [instance.id for instance in build.instances]
    instances, states = {}, {}
    for index, instance in enumerate(build.instances):
        motions = result.motions(index, other) if index != other else []
        reports = [_with_range(result, motion, index, other) for motion in motions]
        states[instance.id] = state_of(result, index, len(motions))
        instances[instance.id] = InstanceFreedom(degrees=len(motions), motions=reports)
    return FreedomReport(
        mobility=result.mobility,
        equations=result.equations,
        rank=result.rank,
        redundancy=result.equations - result.rank,
        grounded=[instance.id for instance in build.instances if instance.grounded],
        satisfied=not result.conflicts,
        instances=instances,
        redundant_mates=list(result.redundant_mates),
        conflicts=[
            ConflictReport(
                mate=conflict.mate,
                residual_mm=round(conflict.residual.mm, 9),
                residual_deg=round(math.degrees(conflict.residual.rad), 9),
            )
            for conflict in result.conflicts
        ],
        ladder=[
            RungReport(mate=step.mate, instance=names[step.instance], before=step.before, after=step.after)
            for step in ladder(result)
        ],
        states=states,
        limits=joint_reports([standing for _, standing, _ in result.system.limited(result.poses)]),
    )


def joint_reports(standings: Sequence[Standing]) -> list[JointReport]:
    """Write where joints stand between their limits."""
    reports = []
    for standing in standings:
        scale = 180 / math.pi if standing.kind == "rotation" else 1.0
        value, least, greatest = (
            round(scale * own, 9) + 0.0 for own in (standing.value, standing.least, standing.greatest)
        )
        reports.append(
            JointReport(
                mate=standing.mate,
                kind=standing.kind,
                value=value,
                least=least,
                greatest=greatest,
                state=standing.state,
            )
        )
    return reports


def _place(build: Build, instance: str) -> int:
    try:
        return build.index_of(instance)
    except KeyError as exc:
        known = series(known_instance.id for known_instance in build.instances)
        raise InvalidDocument(
            _("build"),
            _("there is no instance '{instance}'", instance=instance),
            _("Name one of: {known}", known=known),
        ) from exc


def _with_range(freedom: Freedom, motion: Motion, index: int, to: int | None) -> MotionReport:
    """Write a motion; where joints have limits, with how far it carries on both ways."""
    report = motion_report(motion)
    if freedom.conflicts or not freedom.system.has_limits:
        return report
    back, forward = (reach(freedom, motion, index, to, way=way) for way in (-1, 1))
    scale = 180 / math.pi if motion.kind == "rotation" else 1.0
    own = RangeReport(
        back=round(scale * back.amount, 4),
        forward=round(scale * forward.amount, 4),
        stopped_by=[back.stopped_by, forward.stopped_by],
    )
    return report.model_copy(update={"range": own})


def motion_report(motion: Motion) -> MotionReport:
    """Write one motion; `finite` stands only where it is false, as the format says."""
    finite = None if motion.finite else False
    direction = [round(float(value), 9) + 0.0 for value in motion.direction]
    if motion.kind == "translation":
        return MotionReport(kind=motion.kind, direction=direction, finite=finite)
    axis = AxisReport(point=[round(float(value), 9) + 0.0 for value in motion.point], direction=direction)
    pitch = round(motion.pitch, 9) if motion.kind == "screw" else None
    return MotionReport(kind=motion.kind, axis=axis, pitch=pitch, finite=finite)
