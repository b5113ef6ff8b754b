"""What a student handed in and what it says: parts with geometry, instances with poses, mates."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

from rigid_bench.core.formats.build import Build, Part, read_build
from rigid_bench.core.formats.content.step_text import referred_files
from rigid_bench.core.formats.mate_table import read_mate_table
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.intake.files import Files, sort_files, what_to_hand_in
from rigid_bench.core.grading.intake.step_build import build_of_mechanisms
from rigid_bench.core.grading.intake.submitted_parts import SubmittedInstance, SubmittedPart
from rigid_bench.core.grading.intake.table_build import build_of_table, with_grounded
from rigid_bench.core.grading.intake.two_exports import where_moved
from rigid_bench.core.kernel.read_model import read_model, read_part
from rigid_bench.core.part.model import Model, ModelPart
from rigid_bench.core.part.symmetry import is_same_shape
from rigid_bench.core.values.errors import GeometryError, InvalidDocument
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _, series

#: A STEP pose and a build pose that differ by more are two different placings.
_SAME_MM, _SAME_RAD = 1e-2, 1e-3


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Submission:
    """What a student says: parts with geometry, instances with poses, mates if declared."""

    parts: tuple[SubmittedPart, ...]
    #: Those of the build file first, in its order, so that they share its indices.
    instances: tuple[SubmittedInstance, ...]
    build: Build | None
    #: Each unit of length that the files of parts are in.
    units: tuple[str, ...]
    notices: tuple[Message, ...]
    #: What the student says beside the model, by check id.
    statements: Mapping[str, str]
    #: Where each instance stands in the export after dragging, or None; empty without such an export.
    moved: tuple[Pose | None, ...] = ()
    #: The files of the model after a size was changed; empty without such.
    changed: Mapping[str, bytes] = field(default_factory=dict)


def read_submission(
    files: Mapping[str, bytes], *, tolerance: Tolerance, progress: Callable[[str], None] = lambda text: None
) -> Submission:
    """Read what a student handed in.

    Parameters
    ----------
    files
        By name: STEP files, at most one build file, or a zip of them.
    tolerance
        For reading features.
    progress
        Told what is being read.

    Returns
    -------
    Submission

    Raises
    ------
    UnreadableFile, InvalidDocument
        Saying which file, which place in it, and what to do.
    """
    sorted_files = sort_files(files)
    build = read_build(sorted_files.build[1], name=sorted_files.build[0]) if sorted_files.build else None
    models = _read_all(sorted_files.models, progress)
    reader = _Reader(models, tolerance, progress, sorted_files.statements)
    submission = reader.declared(build, sorted_files) if build else reader.placed()
    if sorted_files.mate_table:
        submission = _with_table(submission, *sorted_files.mate_table)
    elif build is None:
        submission = _with_mechanisms(submission, sorted_files.models)
    notices = (*submission.notices, *sorted_files.notices)
    submission = replace(submission, changed=sorted_files.changed, notices=notices)
    if sorted_files.left_aside:
        aside = phrase("left-aside", names=series(sorted_files.left_aside))
        submission = replace(submission, notices=(*submission.notices, aside))
    if not sorted_files.moved:
        return submission
    moved = _read_all(sorted_files.moved, progress)
    return replace(submission, moved=where_moved(submission.instances, submission.parts, moved, tolerance=tolerance))


def _with_table(placed: Submission, name: str, data: bytes) -> Submission:
    """Declare what a table of mates says of a positioned model."""
    build = build_of_table(read_mate_table(data, name=name), name, placed.parts, placed.instances)
    return replace(placed, build=build, instances=with_grounded(placed.instances, build))


def _with_mechanisms(placed: Submission, files: Mapping[str, bytes]) -> Submission:
    """Declare what the joints in STEP files say."""
    build, notices = build_of_mechanisms(files, placed.parts, placed.instances)
    placed = replace(placed, notices=(*placed.notices, *notices))
    return replace(placed, build=build, instances=with_grounded(placed.instances, build)) if build else placed


def _read_all(files: Mapping[str, bytes], progress: Callable[[str], None]) -> dict[str, Model]:
    named = {name.lower(): name for name in files}
    referred = {
        name: [named.get(other.lower(), other) for other in referred_files(data)] for name, data in files.items()
    }
    joined = {other for others in referred.values() for other in others}
    models = {}
    for name, data in files.items():
        if name in joined:  # its parts are read with the assembly that refers to it
            continue
        progress(f"Reading {name}")
        beside = {other: files[other] for other in referred[name] if other in files}
        models[name] = read_model(data, name=name, beside=beside)
    return models


class _Reader:
    """Reads each part's features once, however often it is used."""

    def __init__(
        self,
        models: Mapping[str, Model],
        tolerance: Tolerance,
        progress: Callable[[str], None],
        statements: Mapping[str, str],
    ) -> None:
        self.statements = statements
        self.models, self.tolerance, self.progress = models, tolerance, progress
        self.parts: list[SubmittedPart] = []
        self.notices = [
            message.model_copy(update={"params": {**message.params, "file": name}})
            for name, model in models.items()
            for message in model.notices
        ]
        self.units = tuple(dict.fromkeys(model.source_units for model in models.values()))
        self._index: dict[tuple[str, str], int] = {}
        #: Parts that enclose nothing: left out.
        self._empty: set[tuple[str, str]] = set()

    def part(self, file: str, part_id: str) -> int | None:
        """Return the index of a part of a file, read now if it was not yet."""
        step_part = next(part for part in self.models[file].parts if part.id == part_id)
        if not step_part.solids or (file, part_id) in self._empty:
            return None
        if (file, part_id) not in self._index:
            self.progress(_("Reading the faces of {name}", name=step_part.name))
            try:
                features = read_part(step_part.shape, tolerance=self.tolerance)
            except GeometryError:
                self._empty.add((file, part_id))
                self.notices.append(phrase("no-volume", name=step_part.name, file=file))
                return None
            self._index[file, part_id] = len(self.parts)
            self.parts.append(
                SubmittedPart(
                    id=step_part.id,
                    name=step_part.name,
                    file=file,
                    product=f"{file}:{step_part.product}",
                    features=features,
                    has_unit=not features.is_mesh or self.models[file].source_units != "unknown",
                )
            )
        return self._index[file, part_id]

    def placed(self) -> Submission:
        """Read the STEP files alone: parts and poses, nothing declared."""
        instances = [
            SubmittedInstance(
                id=instance.id,
                name=instance.name,
                part=self.part(file, instance.part),
                pose=instance.pose,
                grounded=False,
            )
            for file, model in self.models.items()
            for instance in model.instances
        ]
        kept = tuple(instance for instance in instances if instance.part is not None)
        return Submission(
            parts=tuple(self.parts),
            instances=kept,
            build=None,
            units=self.units,
            notices=tuple(self.notices),
            statements=self.statements,
        )

    def declared(self, build: Build, files: Files) -> Submission:
        """Read the build file, with the geometry that its parts name."""
        by_id = {part.id: part for part in build.parts}
        indices = {part.id: self._geometry(part, files) for part in build.parts}
        if not build.parts:
            indices = self._by_name(sorted({instance.part for instance in build.instances}))
        instances = tuple(
            SubmittedInstance(
                id=instance.id,
                name=by_id[instance.part].name if instance.part in by_id else instance.part,
                part=indices.get(instance.part),
                pose=instance.pose,
                grounded=instance.grounded,
            )
            for instance in build.instances
        )
        self._compare_poses(instances)
        if confirmed := sum(mate.confirmed for mate in build.mates):
            self.notices.append(phrase("mates-confirmed", confirmed=confirmed, mates=len(build.mates)))
        instances += tuple(self._left_out())
        return Submission(
            parts=tuple(self.parts),
            instances=instances,
            build=build,
            units=self.units,
            notices=tuple(self.notices),
            statements=self.statements,
        )

    def _left_out(self) -> Iterator[SubmittedInstance]:
        """Yield the placings of parts that the STEP files hold and the build file does not name.

        A program may write each copy of a part as a product of its own: a part that is called
        like one the build names, or has its shape, is that one.
        """
        named = set(self._index)
        for file, model in self.models.items():
            for instance in model.instances:
                if (file, instance.part) in named or (index := self.part(file, instance.part)) is None:
                    continue
                if not self._is_copy(index, named):
                    self.notices.append(phrase("not-in-build", name=instance.name, in_file=file))
                    yield SubmittedInstance(
                        id=instance.id, name=instance.name, part=index, pose=instance.pose, grounded=False
                    )

    def _is_copy(self, index: int, named: set[tuple[str, str]]) -> bool:
        own = self.parts[index]
        others = [self.parts[self._index[key]] for key in named]
        return any(
            own.name.lower() == other.name.lower()
            or is_same_shape(own.features, other.features, tolerance=self.tolerance)
            for other in others
        )

    def _geometry(self, part: Part, files: Files) -> int | None:
        """Find the geometry of one part of the build file."""
        if not self.models:
            return None
        if part.file is None:
            shape = self._by_name([part.id, part.name])
            return next((index for index in shape.values() if index is not None), None)
        file = self._file(part.file, files)
        return self.part(file, self._product(part, file, files).id)

    def _file(self, wanted: str, files: Files) -> str:
        base = wanted.replace("\\", "/").rsplit("/", 1)[-1].lower()
        for name in self.models:
            if name.lower() == base:
                return name
        build = files.build[0] if files.build else "build file"
        submitted = series(self.models)
        raise InvalidDocument(
            build,
            _(
                "it names the file '{wanted}', which was not handed in (there is: {submitted})",
                wanted=wanted,
                submitted=submitted,
            ),
            what_to_hand_in(),
        )

    def _product(self, part: Part, file: str, files: Files) -> ModelPart:
        parts = self.models[file].parts
        wanted = [name for name in (part.product, part.name, part.id) if name]
        for name in wanted:
            for known_part in parts:
                if name.lower() in (known_part.name.lower(), known_part.id):
                    return known_part
        if len(parts) == 1:
            return parts[0]
        build = files.build[0] if files.build else "build file"
        names = series(known_part.name for known_part in parts)
        raise InvalidDocument(
            _("{build}, part '{id}'", build=build, id=part.id),
            _("'{file}' has no product '{wanted}'", file=file, wanted=wanted[0]),
            _("Name one of: {names}", names=names),
        )

    def _by_name(self, names: Sequence[str]) -> dict[str, int | None]:
        return {
            name: self.part(file, part.id)
            for name in names
            for file, model in self.models.items()
            for part in model.parts
            if name.lower() in (part.name.lower(), part.id)
        }

    def _compare_poses(self, instances: Sequence[SubmittedInstance]) -> None:
        """Warn where the STEP assembly places an instance elsewhere than the build file does."""
        for model in self.models.values():
            if len(model.instances) < 2:
                continue
            for index, part in enumerate(self.parts):
                self._compare_part(index, part, model, instances)

    def _compare_part(
        self, index: int, part: SubmittedPart, model: Model, instances: Sequence[SubmittedInstance]
    ) -> None:
        names = {known_part.id: known_part.name.lower() for known_part in model.parts}
        placed = [instance.pose for instance in model.instances if names[instance.part] == part.name.lower()]
        for instance in instances:
            if instance.part != index or not placed:
                continue
            if not any(instance.pose.is_close(pose, mm=_SAME_MM, rad=_SAME_RAD) for pose in placed):
                self.notices.append(phrase("stands-elsewhere", instance=instance.id))
