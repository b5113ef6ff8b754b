"""Mates for a build without any, proposed from where its parts stand; each with a picture to confirm it by."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.contact.contacts import Contact
from rigid_bench.core.assembly.contact.propose_mates import MOST, propose_mates
from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.build import (
    Build,
    BuildModel,
    Instance,
    InstanceModel,
    Mate,
    MateModel,
    OperandModel,
    PartModel,
    PoseModel,
)
from rigid_bench.core.formats.documents import feature_document
from rigid_bench.core.formats.message import phrase
from rigid_bench.core.formats.pictures import PictureModel
from rigid_bench.core.formats.preview import Proposal, ProposedBuild
from rigid_bench.core.grading.checks import kind_of
from rigid_bench.core.grading.intake.submission import Submission
from rigid_bench.core.grading.matching.match import Matching
from rigid_bench.core.grading.report.lit_picture import LitPicture, corner_towards, surface_of
from rigid_bench.core.part.faces import Cylinder
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.values.datums import AxisFeature, PlaneFeature
from rigid_bench.core.values.errors import RigidBenchError
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.names import unique
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.contacts import contact_message

#: Two parts are drawn apart by this share of the smaller one's size, so that both faces are seen.
_APART = 0.5
#: Of a part that is so much smaller than the other its neighbourhood alone is drawn.
_SMALL = 0.4
#: Digits of a pose, mm and of a quaternion.
_DIGITS = 9


def propose(
    exercise: Exercise, submission: Submission, matching: Matching, contacts: Sequence[Contact], *, tolerance: Tolerance
) -> ProposedBuild | None:
    """Propose a base and mates for a positioned build that declares none.

    Parameters
    ----------
    exercise
        What was asked.
    submission
        What was handed in.
    matching
        What was found of the exercise in it.
    contacts
        Of the instances, all of which have a shape.
    tolerance
        For ranks and residuals.

    Returns
    -------
    ProposedBuild or None
        None where mates were declared or no check needs them, where the exercise allows no suggestions, where a part
        has no shape, or where the places show nothing, or more than anybody would go through.
    """
    reference = exercise.reference
    is_asked = reference is not None and exercise.model.flow != "position only" and exercise.model.suggestions
    placed = submission.instances
    if submission.build is not None or not is_asked or not any(map(_needs_mates, exercise.model.checks)):
        return None
    if len(placed) > MOST or any(own.part is None for own in placed):
        return None
    ids = _ids([own.id for own in placed])
    base = _base(exercise, matching)
    instances = [
        Instance(id=ids[k], part=str(own.part), grounded=k == base, pose=own.pose) for k, own in enumerate(placed)
    ]
    try:
        chosen = propose_mates(instances, contacts, _asked(exercise, submission, matching), tolerance=tolerance)
    except RigidBenchError:
        return None  # a help; without it the student mates on a bench
    if chosen is None or not chosen.mates:
        return None
    names = _names(exercise, submission, matching)
    shapes = [(submission.parts[own.part].features, own.pose) for own in placed if own.part is not None]
    proposals = [] if base is None else [_ground(ids[base], names[base], shapes[base])]
    for (mate, contact), other in zip(chosen.mates, chosen.stand_ins, strict=True):
        instead = _proposal(*other, names, ids, shapes) if other else None
        own = _proposal(mate, contact, names, ids, shapes)
        proposals.append(own.model_copy(update={"instead": instead}))
    return ProposedBuild(build=_document(submission, ids), proposals=proposals, too_many=chosen.too_many)


def _needs_mates(check: CheckModel) -> bool:
    kind = kind_of(check)
    return kind.mended_by_mates or kind.subject == "mate"


def _ids(given: Sequence[str]) -> list[str]:
    """Return ids of which no two are the same: files beside each other may use one twice."""
    taken: set[str] = set()
    return [unique(own, taken) for own in given]


def _base(exercise: Exercise, matching: Matching) -> int | None:
    """Return the student's instance of what the reference grounds; None without one."""
    reference = exercise.reference
    grounded = [instance.id for instance in reference.instances if instance.grounded] if reference else []
    return next((matching.instances[base] for base in grounded if base in matching.instances), None)


def _names(exercise: Exercise, submission: Submission, matching: Matching) -> list[str]:
    called = {index: exercise.instance_name(required) for required, index in matching.instances.items()}
    return [called.get(k, own.name) for k, own in enumerate(submission.instances)]


def _asked(exercise: Exercise, submission: Submission, matching: Matching) -> list[Mate] | None:
    """Return the reference's mates on the student's own parts; None where parts are of another size."""
    reference = exercise.reference
    if reference is None or not reference.mates:
        return None
    own = {
        k: matching.instances[instance.id]
        for k, instance in enumerate(reference.instances)
        if instance.id in matching.instances and _lays(submission, matching, matching.instances[instance.id])
    }
    if any(_lays(submission, matching, index)[0].scale != 1.0 for index in own.values()):
        return None
    placed = _nearest_poses(reference, submission, matching, own)
    return [
        replace(
            mate,
            a=own[mate.a],
            feature_a=mate.feature_a.moved(placed[mate.a]),
            b=own[mate.b],
            feature_b=mate.feature_b.moved(placed[mate.b]),
        )
        for mate in reference.mates
        if mate.a in own and mate.b in own
    ]


def _lays(submission: Submission, matching: Matching, index: int) -> tuple[RegisteredPart, ...]:
    part = submission.instances[index].part
    return () if part is None else matching.registered.get(part, ())


def _nearest_poses(
    reference: Build, submission: Submission, matching: Matching, own: Mapping[int, int]
) -> dict[int, Pose]:
    """Return how the reference lies over each part; of a symmetric part's equal ways, as it stands.

    Parameters
    ----------
    own
        The student's instance for each of the reference's, by its place in the reference.
    """
    if not own:
        return {}
    first = next((k for k in own if reference.instances[k].grounded), next(iter(own)))
    best: dict[int, Pose] = {}
    least = np.inf
    for base in _lays(submission, matching, own[first]):
        world = submission.instances[own[first]].pose @ base.pose @ reference.instances[first].pose.inverse()
        off, placed = 0.0, dict[int, Pose]()
        for k, index in own.items():
            wanted = world @ reference.instances[k].pose
            ways = [base] if k == first else _lays(submission, matching, index)
            here = submission.instances[index].pose
            distances = [_distance(here @ registered.pose, wanted, registered.part.size) for registered in ways]
            nearest = int(np.argmin(distances))
            off, placed[k] = off + distances[nearest], ways[nearest].pose
        if off < least:
            least, best = off, placed
    return best


def _distance(one: Pose, other: Pose, size: float) -> float:
    turned = size * float(np.linalg.norm(one.rotation - other.rotation))
    return turned + float(np.linalg.norm(one.position - other.position))


def _ground(instance: str, name: str, shape: tuple[PartFeatures, Pose]) -> Proposal:
    picture = LitPicture(corner_towards([]))
    picture.add(*shape)
    return Proposal(said=phrase("stands-still", part=name), picture=picture.model(""), grounds=instance)


def _proposal(
    mate: Mate,
    contact: Contact,
    names: Sequence[str],
    ids: Sequence[str],
    shapes: Sequence[tuple[PartFeatures, Pose]],
) -> Proposal:
    sides = [
        OperandModel.model_validate({"instance": ids[index], **feature_document(feature)})
        for index, feature in ((mate.a, mate.feature_a), (mate.b, mate.feature_b))
    ]
    model = MateModel(
        id=mate.id, kind=mate.kind, a=sides[0], b=sides[1], value=mate.value, sense=mate.sense, confirmed=True
    )
    said = contact_message(contact, names[mate.a], names[mate.b])
    return Proposal(said=said, picture=_picture(contact, shapes), mate=model)


def _picture(contact: Contact, shapes: Sequence[tuple[PartFeatures, Pose]]) -> PictureModel:
    """Draw two parts with what joins them lit: a little apart where one hides the other's face."""
    (one, here), (other, there) = shapes[contact.a], shapes[contact.b]
    assert isinstance(contact.feature_a, PlaneFeature | AxisFeature)
    way = here.direction(contact.feature_a.direction)
    is_flat = isinstance(contact.feature_a, PlaneFeature)
    if not is_flat and float(way @ _out_of_the_hole(contact, shapes)) < 0:
        way = -way
    if contact.kind in ("meet", "seated"):
        there = Pose(there.rotation, there.position + _APART * min(one.size, other.size) * way)
    picture = LitPicture(corner_towards([way] if is_flat else []))
    for part, pose, feature in ((one, here, contact.feature_a), (other, there, contact.feature_b)):
        picture.add(part, pose)
        picture.light(part, feature, pose)
    small, pose = min(((one, here), (other, there)), key=lambda placed: placed[0].size)
    if small.size < _SMALL * max(one.size, other.size):
        picture.come_near(pose.point(small.corners), margin=small.size)
    return picture.model("")


def _out_of_the_hole(contact: Contact, shapes: Sequence[tuple[PartFeatures, Pose]]) -> NDArray[np.float64]:
    """Return the way, (3,), on which the second part is drawn away from the first: a pin's head goes first."""
    sides = list(zip((shapes[contact.a], shapes[contact.b]), (contact.feature_a, contact.feature_b), strict=True))
    middles, is_hollow = [], []
    for (part, pose), feature in sides:
        surface = surface_of(part, feature)
        wall = None if surface is None else part.surfaces[surface]
        is_hollow.append(isinstance(wall, Cylinder) and wall.is_hollow)
        middle = wall.point + wall.direction * wall.length / 2 if isinstance(wall, Cylinder) else part.centroid
        middles.append(pose.point(middle) if is_hollow[-1] else pose.point(part.centroid))
    return middles[1] - middles[0]


def _document(submission: Submission, ids: Sequence[str]) -> BuildModel:
    """Write the build that was handed in, without mates."""
    parts = submission.parts
    names = _ids([part.id for part in parts])
    return BuildModel(
        format="rigid-bench/build",
        parts=[
            PartModel(id=name, name=part.name, file=part.file, part=part.id)
            for name, part in zip(names, parts, strict=True)
        ],
        instances=[
            InstanceModel(id=name, part=names[own.part], pose=_pose(own.pose))
            for name, own in zip(ids, submission.instances, strict=True)
            if own.part is not None
        ],
    )


def _pose(pose: Pose) -> PoseModel:
    return PoseModel(
        position=np.round(pose.position, _DIGITS).tolist(), quaternion=np.round(pose.quaternion(), 12).tolist()
    )
