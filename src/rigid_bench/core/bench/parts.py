"""The parts on a bench: triangles that know their faces, the features that can be pointed at, what contacts suggest."""

from collections.abc import Mapping, Sequence

import numpy as np

from rigid_bench.core.assembly.build import BuildModel, is_build
from rigid_bench.core.assembly.contact_words import contact_words
from rigid_bench.core.assembly.contacts import find_contacts
from rigid_bench.core.bench.documents import BenchFeature, BenchMate, BenchPart, BenchParts, Placed, Suggestion, side
from rigid_bench.core.documents import read_json
from rigid_bench.core.errors import UnreadableFile
from rigid_bench.core.exercise.exercise import Exercise
from rigid_bench.core.exercise.pointable import pointables
from rigid_bench.core.exercise.references import read_reference
from rigid_bench.core.geometry.features import PartFeatures
from rigid_bench.core.geometry.mesh_body import face_triangles
from rigid_bench.core.grading.submission import Submission, read_submission
from rigid_bench.core.names import slug, unique
from rigid_bench.core.tolerance import Tolerance

#: Triangles stay this near to a part, as a share of its size.
_FINE = 0.004
#: Suggestions that are made at most.
_MOST = 120


def supplied_parts(exercise: Exercise, *, tolerance: Tolerance) -> BenchParts:
    """Lay an exercise's own parts on the bench, loose: as many of each as it asks for."""
    found = []
    for model in exercise.model.parts:
        if model.file is None:
            continue
        features = read_reference(exercise, model, tolerance=tolerance)
        found.append(_part(model.id, model.name, model.count, features, file=model.file))
    return BenchParts(parts=found)


def shapes_of(
    exercise: Exercise, files: Mapping[str, bytes] | None, *, tolerance: Tolerance
) -> dict[str, PartFeatures]:
    """Return the shapes of a bench's parts by their ids there: the exercise's, or those of a student's files."""
    if files is not None:
        own = read_submission(files, tolerance=tolerance)
        return dict(zip(_named(own), (each.features for each in own.parts), strict=True))
    models = [each for each in exercise.model.parts if each.file is not None]
    return {each.id: read_reference(exercise, each, tolerance=tolerance) for each in models}


def handed_parts(files: Mapping[str, bytes], *, tolerance: Tolerance) -> BenchParts:
    """Lay what a student modelled on the bench, where it stands in the files, with what its contacts suggest.

    Raises
    ------
    UnreadableFile, InvalidDocument
        The files cannot be used.
    """
    own = read_submission(files, tolerance=tolerance)
    named = _named(own)
    models = [name for name in files if not name.lower().endswith(".json")]
    parts = []
    for index, each in enumerate(own.parts):
        if each.features.is_mesh:
            raise UnreadableFile(models[0], "the bench needs solids, and this holds triangles", "Export it as STEP")
        parts.append(_part(named[index], each.name, 0, each.features, product=each.product))
    placed: list[Placed] = []
    indices: list[int] = []
    taken: set[str] = set()
    for k, instance in enumerate(own.instances):
        if instance.part is not None:
            grounded = bool(own.build and k < len(own.build.instances) and own.build.instances[k].grounded)
            pose = instance.pose
            placed.append(
                Placed(
                    id=unique(slug(instance.id), taken),
                    part=named[instance.part],
                    grounded=grounded,
                    position=pose.position.tolist(),
                    quaternion=pose.quaternion(),
                )
            )
            indices.append(k)
    ids = [each.id for each in placed]
    shapes = [(own.parts[own.instances[k].part or 0].features, own.instances[k].pose) for k in indices]
    suggestions = []
    for number, contact in enumerate(find_contacts(shapes, tolerance=tolerance)[:_MOST], 1):
        mate = contact.mate(f"s{number}")
        words = contact_words(contact, ids[contact.a], ids[contact.b])
        made = BenchMate(
            id=mate.id,
            kind=mate.kind,
            sense=mate.sense,
            value=mate.value,
            words=words,
            a=side(ids[mate.a], mate.feature_a),
            b=side(ids[mate.b], mate.feature_b),
        )
        if contact.touches or contact.kind == "seated":
            suggestions.append(Suggestion(words=words, mate=made))
    return BenchParts(parts=parts, placed=placed, mates=_declared(files, own, ids, indices), suggestions=suggestions)


def _named(own: Submission) -> list[str]:
    taken: set[str] = set()
    return [unique(slug(each.name), taken) for each in own.parts]


def _declared(
    files: Mapping[str, bytes], own: Submission, ids: Sequence[str], indices: Sequence[int]
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
            **each.model_dump(exclude={"a", "b"}),
            words=f"{each.kind}: {places[each.b.instance]} to {places[each.a.instance]}",
            a=each.a.model_copy(update={"instance": places[each.a.instance]}),
            b=each.b.model_copy(update={"instance": places[each.b.instance]}),
        )
        for each in model.mates
        if each.a.instance in places and each.b.instance in places
    ]


def _part(part: str, name: str, count: int, features: PartFeatures, *, file: str = "", product: str = "") -> BenchPart:
    vertices, triangles, face_of = face_triangles(features.shape, within_mm=max(_FINE * features.size, 0.02))
    listed = pointables(features, mm=1.0)
    number = {face: k for k, each in enumerate(listed) for face in each.faces}
    box = features.box
    return BenchPart(
        id=part,
        name=name or part,
        count=count,
        file=file,
        product=product,
        vertices=np.round(vertices.ravel(), 3).tolist(),
        triangles=triangles.ravel().tolist(),
        faces=[number.get(int(face), -1) for face in face_of],
        features=[
            BenchFeature(words=each.words, kind="round" if each.feature.cylinder else "flat", feature=each.feature)
            for each in listed
        ],
        box=[box[0].tolist(), box[1].tolist()],
    )
