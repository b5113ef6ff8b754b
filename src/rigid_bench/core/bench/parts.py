"""The parts on a bench: triangles that know their faces, features to point at, and collision meshes."""

from collections.abc import Mapping, Sequence

import numpy as np

from rigid_bench.core.bench.documents import (
    BenchFeature,
    BenchMate,
    BenchPart,
    BenchParts,
    BenchState,
    LaidOut,
    Placed,
    labels,
)
from rigid_bench.core.exercise.authoring.pointable import pointables
from rigid_bench.core.exercise.bundle import Exercise
from rigid_bench.core.exercise.references import read_reference
from rigid_bench.core.formats.build import BuildModel, is_build
from rigid_bench.core.formats.documents import read_json
from rigid_bench.core.formats.pointing import Pointable
from rigid_bench.core.grading.intake.submission import Submission, read_submission
from rigid_bench.core.kernel.meshes.collision_meshes import pack_collision_meshes
from rigid_bench.core.kernel.meshes.triangulation import face_triangles
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.recognition.holes import find_holes
from rigid_bench.core.values.errors import UnreadableFile
from rigid_bench.core.values.names import slug, unique
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.datums import number
from rigid_bench.core.wording.language import _

#: Triangles stay this near to a part, as a share of its size.
_FINE = 0.004


def supplied_parts(exercise: Exercise, *, tolerance: Tolerance) -> LaidOut:
    """Lay an exercise's own parts on the bench, loose: as many of each as it asks for."""
    supplied, collision_meshes = [], {}
    for model in exercise.model.parts:
        if model.file is None:
            continue
        features = read_reference(exercise, model, tolerance=tolerance)
        part, numbers = _part(model.id, model.name, model.count, features, file=model.file)
        supplied.append(part)
        collision_meshes[part.id] = (features, numbers)
    parts = BenchParts(parts=supplied, may_suggest=exercise.model.suggestions)
    return LaidOut(parts=parts, collision_meshes=pack_collision_meshes(collision_meshes))


def drawn_parts(exercise: Exercise, *, tolerance: Tolerance) -> list[BenchPart]:
    """Return an exercise's own parts, to draw and to point at, without their collision meshes."""
    parts = []
    for model in exercise.model.parts:
        if model.file is not None:
            features = read_reference(exercise, model, tolerance=tolerance)
            parts.append(_part(model.id, model.name, model.count, features, file=model.file)[0])
    return parts


def shapes_of(
    exercise: Exercise, files: Mapping[str, bytes] | None, *, tolerance: Tolerance
) -> dict[str, PartFeatures]:
    """Return the shapes of a bench's parts by their ids there: the exercise's, or those of a student's files."""
    if files is not None:
        own = read_submission(files, tolerance=tolerance)
        return dict(zip(_named(own), (part.features for part in own.parts), strict=True))
    models = [part for part in exercise.model.parts if part.file is not None]
    return {model.id: read_reference(exercise, model, tolerance=tolerance) for model in models}


def handed_parts(files: Mapping[str, bytes], *, may_suggest: bool = True, tolerance: Tolerance) -> LaidOut:
    """Lay what a student modelled on the bench, where it stands in the files.

    Parameters
    ----------
    files
        As handed in.
    may_suggest
        The exercise allows mates to be suggested.
    tolerance
        For reading them.

    Raises
    ------
    UnreadableFile, InvalidDocument
        The files cannot be used.
    """
    own = read_submission(files, tolerance=tolerance)
    named = _named(own)
    models = [name for name in files if not name.lower().endswith(".json")]
    parts, collision_meshes = [], {}
    for index, known_part in enumerate(own.parts):
        if known_part.features.is_mesh:
            raise UnreadableFile(
                models[0], _("the bench needs solids, and this holds triangles"), _("Export it as STEP")
            )
        part, numbers = _part(named[index], known_part.name, 0, known_part.features, product=known_part.product)
        parts.append(part)
        collision_meshes[part.id] = (known_part.features, numbers)
    placed: list[Placed] = []
    indices: list[int] = []
    taken: set[str] = set()
    for k, instance in enumerate(own.instances):
        if instance.part is None:
            continue
        placed.append(
            Placed(
                id=unique(slug(instance.id), taken),
                part=named[instance.part],
                grounded=bool(own.build and k < len(own.build.instances) and own.build.instances[k].grounded),
                position=instance.pose.position.tolist(),
                quaternion=instance.pose.quaternion(),
            )
        )
        indices.append(k)
    called = labels(BenchState(placed=placed), BenchParts(parts=parts))
    mates = _declared(files, own, [instance.id for instance in placed], indices, called)
    laid_out = BenchParts(parts=parts, placed=placed, mates=mates, may_suggest=may_suggest)
    return LaidOut(parts=laid_out, collision_meshes=pack_collision_meshes(collision_meshes))


def _named(own: Submission) -> list[str]:
    taken: set[str] = set()
    return [unique(slug(part.name), taken) for part in own.parts]


def _declared(
    files: Mapping[str, bytes], own: Submission, ids: Sequence[str], indices: Sequence[int], called: Mapping[str, str]
) -> list[BenchMate]:
    """Take over the mates of a build file whose two instances are on the bench, just as they are written."""
    if own.build is None:
        return []
    data = next(data for data in files.values() if is_build(data))
    model = BuildModel.model_validate(read_json(data, name="build file"))
    if model.units != "mm":
        return []  # features of inch files would have to be scaled; the suggestions serve as well
    places = {own.instances[k].id: ids[at] for at, k in enumerate(indices)}
    return [
        BenchMate(
            **mate.model_dump(exclude={"a", "b"}),
            words=_(
                "{kind}: {called} to {called_2}",
                kind=mate.kind,
                called=called[places[mate.b.instance]],
                called_2=called[places[mate.a.instance]],
            ),
            a=mate.a.model_copy(update={"instance": places[mate.a.instance]}),
            b=mate.b.model_copy(update={"instance": places[mate.b.instance]}),
        )
        for mate in model.mates
        if mate.a.instance in places and mate.b.instance in places
    ]


def _part(
    part: str, name: str, count: int, features: PartFeatures, *, file: str = "", product: str = ""
) -> tuple[BenchPart, dict[int, int]]:
    """Return a part of the bench, and the number of the feature that each of its faces belongs to."""
    vertices, triangles, face_of = face_triangles(features.shape, within_mm=max(_FINE * features.size, 0.02))
    listed = pointables(features, mm=1.0)
    through = {frozenset(hole.cylinder.faces): hole.through for hole in find_holes(features)}
    numbers = {face: k for k, pointable in enumerate(listed) for face in pointable.faces}
    box = features.box
    own = BenchPart(
        id=part,
        name=name or part,
        count=count,
        file=file,
        product=product,
        vertices=np.round(vertices.ravel(), 3).tolist(),
        triangles=triangles.ravel().tolist(),
        faces=[numbers.get(int(face), -1) for face in face_of],
        features=[
            BenchFeature(
                words=_words(pointable, through),
                kind="round" if pointable.feature.cylinder else "flat",
                feature=pointable.feature,
                is_hollow=pointable.is_hollow if pointable.feature.cylinder else None,
            )
            for pointable in listed
        ],
        box=[box[0].tolist(), box[1].tolist()],
    )
    return own, numbers


def _words(own: Pointable, through: Mapping[frozenset[int], bool]) -> str:
    """Name a face or a round wall, a hole with its depth."""
    if own.depth is None:
        return own.words
    return f"{own.words}, {'through' if through[frozenset(own.faces)] else f'{number(own.depth)} deep'}"
