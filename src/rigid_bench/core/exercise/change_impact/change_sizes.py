"""Change sizes of an exercise: the models of its parts, the build, and every feature that is named on them."""

import json
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from rigid_bench.core.assembly.solve.solution import solve
from rigid_bench.core.assembly.solve.solve_report import placed_build
from rigid_bench.core.exercise.bundle import FILE, CheckModel, Exercise, features_of, read_exercise
from rigid_bench.core.exercise.change_impact.models import OF_WALLS, ChangedPart, SizeChange, can_change
from rigid_bench.core.exercise.change_impact.moved_features import ChangedWall, MovedFace, SizeMove, repointed
from rigid_bench.core.exercise.references import read_reference
from rigid_bench.core.formats.build import read_build
from rigid_bench.core.grading.requirement import DimensionFields, requirement_of
from rigid_bench.core.kernel.editing.resize import with_faces_moved, with_radius
from rigid_bench.core.kernel.step_writer import write_step
from rigid_bench.core.part.faces import Cylinder
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.registration.correspond import Flat, reference_flat, reference_wall
from rigid_bench.core.values.datums import AxisFeature
from rigid_bench.core.values.errors import GeometryError, InvalidDocument
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _

#: mm under which a size is as it was.
_SAME = 1e-6


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangedExercise:
    """An exercise after the change of sizes."""

    files: dict[str, bytes]
    #: By part id.
    parts: dict[str, ChangedPart]


def change_sizes(files: Mapping[str, bytes], changes: Sequence[SizeChange], *, tolerance: Tolerance) -> ChangedExercise:
    """Change sizes: those that are given, and those that follow from them by their expressions.

    Holes or pins that are alike, and of which no other dimension speaks, change together.

    Parameters
    ----------
    files
        Of the exercise's bundle.
    changes
        Sizes of round walls that go all round, or between two flat faces.
    tolerance
        For reading the models.

    Raises
    ------
    InvalidDocument
        There is no such size, or the program cannot change the model so.
    """
    before = read_exercise(files)
    document = json.loads(files[FILE])
    dimensions = {check["id"]: check for check in document["checks"] if check["kind"] == "dimension"}
    for change in changes:
        if change.check not in dimensions:
            raise InvalidDocument(change.check, _("the exercise has no such size"), _("Choose one of its sizes"))
        dimensions[change.check]["nominal"] = change.value
    own = {**files, FILE: json.dumps(document).encode()}
    was, wanted = _nominals(before), _nominals(read_exercise(own))
    given = [change.check for change in changes]
    changed = ChangedExercise(files=own, parts={})
    for name in sorted(wanted, key=lambda name: name not in given):
        if abs(wanted[name] - was[name]) * before.mm > _SAME:
            changed = _with_size(changed, name, wanted[name], is_given=name in given, tolerance=tolerance)
    return ChangedExercise(files=_put_together(changed.files, tolerance), parts=changed.parts)


def with_changed_part(
    files: Mapping[str, bytes], part: str, changed: ChangedPart, *, tolerance: Tolerance
) -> dict[str, bytes]:
    """Return the files of an exercise that has the same part, with its changed model in them."""
    exercise = read_exercise(files)
    named = {**files, exercise.part(part).file or "": changed.after}
    return _put_together(_repointed(named, exercise, part, list(changed.moves)), tolerance)


def joined_parts(files: Mapping[str, bytes], parts: Mapping[str, ChangedPart]) -> list[str]:
    """Return the parts that a mate of the reference build joins to a face or wall that was changed; files as before."""
    exercise = read_exercise(files)
    if exercise.model.reference is None or exercise.reference is None:
        return []
    build = json.loads(files[exercise.model.reference])
    mm = 25.4 if build.get("units") == "in" else 1.0
    part_of = {own.id: own.part for own in exercise.reference.instances}
    joined = set()
    for mate in build.get("mates", []):
        for side, other in ((mate["a"], mate["b"]), (mate["b"], mate["a"])):
            changed = parts.get(part_of[side["instance"]])
            if changed and any(move.is_named_by(side, mm) for move in changed.moves):
                joined.add(part_of[other["instance"]])
    return sorted(joined - set(parts))


def _nominals(exercise: Exercise) -> dict[str, float]:
    sizes = [check for check in exercise.model.checks if check.kind == "dimension"]
    return {
        check.id: requirement_of(check, DimensionFields.model_validate(check.fields), exercise).nominal
        for check in sizes
    }


def _with_size(
    changed: ChangedExercise, name: str, value: float, *, is_given: bool, tolerance: Tolerance
) -> ChangedExercise:
    exercise = read_exercise(changed.files)
    check = next(own for own in exercise.model.checks if own.id == name)
    part = exercise.part(check.fields["part"])
    where = f"{FILE}, check '{name}'"
    if part.file is None or not can_change(check.fields):
        if not is_given:
            return changed  # what follows by its expression alone is judged when all is graded
        problem = _("the program changes diameters, radii and distances between flat faces of models, and this is none")
        raise InvalidDocument(where, problem, _("Change the model in your program, and draft a new version of it"))
    reference = read_reference(exercise, part, tolerance=tolerance)
    try:
        resized, moves = _resized(reference, check, exercise, value, where, tolerance)
    except GeometryError as exc:
        raise InvalidDocument(where, exc.problem, exc.next_step) from exc
    data = write_step(resized.shape, name=part.name)
    earlier = changed.parts.get(part.id)
    parts = {
        **changed.parts,
        part.id: ChangedPart(
            before=earlier.before if earlier else exercise.part_files[part.id],
            after=data,
            moves=((*earlier.moves, *moves) if earlier else tuple(moves)),
        ),
    }
    files = _repointed({**changed.files, part.file: data}, exercise, part.id, moves)
    return ChangedExercise(files=files, parts=parts)


def _resized(
    reference: PartFeatures, check: CheckModel, exercise: Exercise, value: float, where: str, tolerance: Tolerance
) -> tuple[PartFeatures, list[SizeMove]]:
    if check.fields["measure"] in OF_WALLS:
        radius = value * exercise.mm / OF_WALLS[check.fields["measure"]]
        return _with_walls(reference, list(_walls(reference, check, exercise, where)), radius, tolerance)
    return _with_face(reference, features_of(check, exercise.mm), value * exercise.mm, where, tolerance)


def _walls(reference: PartFeatures, check: CheckModel, exercise: Exercise, where: str) -> Iterator[Cylinder]:
    """Yield the wall that a size is of, and those like it of which no other size speaks."""
    own = reference_wall(reference, _axis(check, exercise), where=where)
    others = [
        other
        for other in exercise.model.checks
        if other.kind == "dimension" and other.id != check.id and other.fields.get("part") == check.fields["part"]
        and other.fields["measure"] in OF_WALLS and can_change(other.fields)
    ]  # fmt: skip
    taken = {reference_wall(reference, _axis(other, exercise), where=where) for other in others} - {own}
    wall = reference.cylinders[own]
    for number, other_wall in enumerate(reference.cylinders):
        if number == own or (number not in taken and _alike(wall, other_wall)):
            if not other_wall.goes_round:
                raise GeometryError(where, _("the wall does not go all round"), _("Change the model in your program"))
            yield other_wall


def _axis(check: CheckModel, exercise: Exercise) -> AxisFeature:
    feature = features_of(check, exercise.mm)[0]
    assert isinstance(feature, AxisFeature)
    return feature


def _alike(one: Cylinder, other: Cylinder) -> bool:
    is_parallel = abs(abs(float(one.direction @ other.direction)) - 1) < 1e-9
    same = abs(one.radius - other.radius) < _SAME and abs(one.length - other.length) < _SAME
    return is_parallel and same and one.is_hollow == other.is_hollow


def _with_walls(
    reference: PartFeatures, walls: list[Cylinder], radius: float, tolerance: Tolerance
) -> tuple[PartFeatures, list[SizeMove]]:
    part, moves = reference, []
    for wall in walls:
        part = with_radius(part, wall, radius, tolerance=tolerance)
        moves.append(ChangedWall(point=wall.point, direction=wall.direction, before=wall.radius, radius=radius))
    return part, list(moves)


def _with_face(
    reference: PartFeatures, features: Sequence[Any], value: float, where: str, tolerance: Tolerance
) -> tuple[PartFeatures, list[SizeMove]]:
    """Move the second of two faces, or the first where other features stand in the way of that."""
    first, second = (reference_flat(reference, feature, where=where) for feature in features)
    try:
        return _moved(reference, first, second, value, tolerance)
    except GeometryError:
        return _moved(reference, second, first, value, tolerance)


def _moved(
    reference: PartFeatures, still: Flat, moving: Flat, value: float, tolerance: Tolerance
) -> tuple[PartFeatures, list[SizeMove]]:
    apart = float((moving.point - still.point) @ moving.normal)
    by = (value - abs(apart)) * float(np.sign(apart))
    part = with_faces_moved(reference, moving.faces, moving.normal, by, tolerance=tolerance)
    return part, [MovedFace(point=moving.point, normal=moving.normal, by=by)]


def _repointed(files: Mapping[str, bytes], exercise: Exercise, part: str, moves: list[SizeMove]) -> dict[str, bytes]:
    """Name features of a part where they are now, in what is asked and in the reference build."""
    instances = {own.id: own.part for own in exercise.reference.instances} if exercise.reference else {}
    files_after = dict(files)

    def part_of(instance: str) -> str:
        return instances.get(instance, "")

    document = json.loads(files[FILE])
    document["checks"] = repointed(document["checks"], part=part, moves=moves, part_of=part_of, mm=exercise.mm)
    files_after[FILE] = json.dumps(document, indent=1).encode()
    if exercise.model.reference:
        build = json.loads(files[exercise.model.reference])
        mm = 25.4 if build.get("units") == "in" else 1.0
        build["mates"] = repointed(build.get("mates", []), part=part, moves=moves, part_of=part_of, mm=mm)
        files_after[exercise.model.reference] = json.dumps(build, indent=1).encode()
    return files_after


def _put_together(files: Mapping[str, bytes], tolerance: Tolerance) -> dict[str, bytes]:
    """Move the parts of the reference build so that its mates hold again."""
    name = json.loads(files[FILE]).get("reference")
    if not name:
        return dict(files)
    build = read_build(files[name], name=name)
    return {**files, name: placed_build(files[name], build, solve(build, tolerance=tolerance))}
