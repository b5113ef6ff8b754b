"""The exercise bundle: parts, checks, stages and marks, with its reference files."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Any, Literal, get_args

from pydantic import ConfigDict, Field, ValidationError, model_validator

from rigid_bench.core.formats.build import Build, read_build
from rigid_bench.core.formats.documents import (
    CheckedFeature,
    Document,
    FeatureModel,
    Identifier,
    document_error,
    nested,
    read_json,
)
from rigid_bench.core.values.datums import Feature
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.units import MM_PER_UNIT
from rigid_bench.core.wording.language import _

FORMAT = "rigid-bench/exercise"
#: The file that makes a folder or zip an exercise bundle.
FILE = "exercise.json"

Grounding = Literal["declared", "first", "origin"]


class PartModel(Document):
    """One part of the exercise."""

    id: Identifier
    name: str
    #: Its reference model; without one the part is asked for by description: overall sizes, holes, volume.
    file: str | None = None
    origin: Literal["made", "supplied", "bought"] = "made"
    count: Annotated[int, Field(ge=1, le=1000)] = 1
    #: Features besides those asked for: taken for a fault, shown and not marked, or hoped for.
    extras: Literal["forbidden", "allowed", "wanted"] = "forbidden"
    #: How it is to be made, such as "printed"; decides which cautions the sheet carries.
    process: str | None = None
    #: Of what, such as "PLA" or "birch plywood": stands in the parts list.
    material: Annotated[str, Field(max_length=80)] = ""
    #: Planes about which the sheet says that the part is symmetric.
    symmetric: Annotated[list[FeatureModel], Field(max_length=3)] = []


#: From where a part may be seen square on a sheet.
SquareView = Literal["front", "top", "right side", "left side", "back", "bottom"]


class ViewChoice(Document):
    """A view of a part that the sheet has, as a person chose it."""

    view: SquareView
    #: Degrees by which it is turned on the paper, counter-clockwise.
    turn: Literal[0, 90, 180, 270] = 0
    #: mm on paper by which it is moved from its place by the projection.
    moved: tuple[float, float] = (0.0, 0.0)
    #: Cut, where the program would cut the part in this direction.
    cut: bool = True


class DrawingModel(Document):
    """How the exercise's sheets are drawn."""

    #: How views are projected (ISO 5456-2).
    angle: Literal["third", "first"] = "third"
    #: None takes A4, or A3 where A4 would need a scale under 1:2.
    paper: Literal["A4", "A3"] | None = None
    upright: bool = False
    #: Sizes from one datum each on a line of its own, or all on one.
    arrangement: Literal["parallel", "running"] = "parallel"
    #: mm: bought lengths that sawn parts are cut from, and what a cut takes away (common practice, no source).
    stock_length: Annotated[float, Field(gt=0, le=20_000)] = 1000.0
    kerf: Annotated[float, Field(ge=0, le=20)] = 2.0
    #: By part: its views in place of those that the program chooses.
    views: dict[str, Annotated[list[ViewChoice], Field(min_length=1, max_length=6)]] = {}


class CheckModel(Document):
    """What every check has; the rest of its fields belong to its kind."""

    model_config = ConfigDict(frozen=True, extra="allow")

    id: Identifier
    title: str
    kind: str
    marks: Annotated[float, Field(ge=0, le=1000, allow_inf_nan=False)]
    hint: str = ""

    @property
    def fields(self) -> dict[str, Any]:
        """The fields of the check's own kind."""
        return dict(self.model_extra or {})

    @property
    def is_shown(self) -> bool:
        """It stands on the sheet and is not checked."""
        return self.kind == "dimension" and self.fields.get("value") in ("shown", "auxiliary")


class StageModel(Document):
    """A named set of checks; `*` stands for all."""

    name: str
    checks: list[str]


#: Slips that may cap the mark of a whole build.
Cap = Literal["wrong unit", "missing part", "nothing mated"]
CAPS: tuple[Cap, ...] = get_args(Cap)


class ExerciseModel(Document):
    """The file `exercise.json` as in `docs/schemas/exercise.json`."""

    format: Literal["rigid-bench/exercise"]
    version: Literal[1] = 1
    id: Identifier
    title: str
    intro: str = ""
    units: Literal["mm", "in"] = "mm"
    parts: Annotated[list[PartModel], Field(min_length=1, max_length=200)]
    reference: str | None = None
    flow: Literal["required", "either", "position only"] = "required"
    #: Where the geometry speaks: a face that meets another holds it, or only against.
    contacts: Literal["hold", "against"] = "hold"
    grounding: list[Grounding] = ["declared", "first", "origin"]
    #: Whose marks one slip takes that reaches several checks: of the first only, or of all.
    slips: Literal["first only", "all"] = "first only"
    #: Percent of all marks that a slip leaves at most, until it is put right.
    caps: dict[Cap, Annotated[float, Field(ge=0, le=100)]] = {}
    #: The tolerance of sizes that give none: as modelled, or a class such as "ISO 2768-m".
    tolerance: str = "as modelled"
    #: Gaps a side in mm, by process and by what the fit does, before the program's own classroom values.
    allowances: dict[str, dict[str, tuple[float, float]]] = {}
    #: How exact a model is, in the exercise's unit, where the tolerance is "as modelled".
    as_modelled: Annotated[float, Field(gt=0, le=10)] = 0.01
    checks: Annotated[list[CheckModel], Field(max_length=1000)]
    stages: list[StageModel] = []
    #: What the finished thing does that can hurt, such as "springs": the sheet carries the cautions.
    uses: Annotated[list[str], Field(max_length=20)] = []
    #: On the bench, mates are suggested from what the parts' faces show.
    suggestions: bool = True
    #: By check: how far a person has moved its dimension on the sheet, mm on paper.
    shifts: dict[str, tuple[float, float]] = {}
    drawing: DrawingModel = DrawingModel()

    @model_validator(mode="after")
    def _names_are_sound(self) -> "ExerciseModel":
        for what, ids in (("part", [p.id for p in self.parts]), ("check", [c.id for c in self.checks])):
            twice = next((identifier for identifier in ids if ids.count(identifier) > 1), None)
            if twice:
                raise ValueError(_("the {what} id '{twice}' is used twice", what=what, twice=twice))
        known = {"*", *(check.id for check in self.checks)}
        for stage in self.stages:
            unknown = next((check for check in stage.checks if check not in known), None)
            if unknown:
                raise ValueError(
                    _("stage '{stage}' names the check '{check}', which there is not", stage=stage.name, check=unknown)
                )
        return self


@dataclass(frozen=True, slots=True, kw_only=True)
class Exercise:
    """An exercise with the files that it names."""

    model: ExerciseModel
    #: The STEP file of each part, by part id.
    part_files: Mapping[str, bytes]
    #: The solved assembly, or None for an exercise of single parts.
    reference: Build | None
    #: A size was changed on purpose: faces may stand far from where the references have them.
    is_changed: bool = False

    @property
    def mm(self) -> float:
        """Millimetres in the exercise's unit of length."""
        return MM_PER_UNIT[self.model.units]

    def part(self, part: str) -> PartModel:
        """Return a part that there is, by its id."""
        return next(candidate for candidate in self.model.parts if candidate.id == part)

    def part_name(self, part: str) -> str:
        """Return the name of a part, by its id."""
        return next((candidate.name for candidate in self.model.parts if candidate.id == part), part)

    def instance_name(self, instance: str) -> str:
        """Return an instance's part name, with its number where the part is used more than once."""
        if self.reference is None:
            return instance
        named = next((candidate for candidate in self.reference.instances if candidate.id == instance), None)
        if named is None:
            return instance
        alike = [candidate.id for candidate in self.reference.instances if candidate.part == named.part]
        name = self.part_name(named.part)
        return name if len(alike) == 1 else f"{name} {alike.index(instance) + 1}"


def after_change(exercise: Exercise, checks: Sequence[CheckModel]) -> Exercise:
    """Return an exercise that asks these checks of the same parts after a size was changed; it has no stages."""
    model = exercise.model.model_copy(update={"checks": list(checks), "stages": []})
    return replace(exercise, model=model, is_changed=True)


def read_exercise(files: Mapping[str, bytes]) -> Exercise:
    """Read an exercise from the files of its bundle.

    Parameters
    ----------
    files
        By their names in the bundle.

    Returns
    -------
    Exercise

    Raises
    ------
    InvalidDocument
        `exercise.json` is missing or wrong, or names a file that is not in the bundle.
    """
    if FILE not in files:
        raise InvalidDocument(
            _("exercise bundle"), _("there is no {file} in it", file=FILE), _("Put it beside the part files")
        )
    document = read_json(files[FILE], name=FILE)
    if document.get("format") != FORMAT:
        raise InvalidDocument(
            _("{file}, at format", file=FILE),
            _('it is not "{format}"', format=FORMAT),
            _("Give the format and version 1"),
        )
    try:
        model = ExerciseModel.model_validate(document)
    except ValidationError as exc:
        raise document_error(FILE, exc) from exc
    reference = (
        read_build(_file(files, model.reference, "reference"), name=model.reference) if model.reference else None
    )
    exercise = Exercise(
        model=model,
        part_files={part.id: _file(files, part.file, f"parts, '{part.id}'") for part in model.parts if part.file},
        reference=reference,
    )
    _check_reference(exercise)
    return exercise


def _file(files: Mapping[str, bytes], name: str, place: str) -> bytes:
    if name not in files:
        raise InvalidDocument(
            _("{file}, at {place}", file=FILE, place=place),
            _("the file '{name}' is not in the bundle", name=name),
            _("Add it to the bundle"),
        )
    return files[name]


def _check_reference(exercise: Exercise) -> None:
    """The reference's instances must be of the exercise's parts."""
    known = {part.id for part in exercise.model.parts if part.file}
    for instance in exercise.reference.instances if exercise.reference else ():
        if instance.part not in known:
            where = f"{exercise.model.reference}, at instance '{instance.id}'"
            problem = _("the exercise has no part '{part}' with a file", part=instance.part)
            raise InvalidDocument(where, problem, _("Name one of {known}", known=sorted(known)))


def features_of(check: CheckModel, mm: float = 1.0) -> list[Feature]:
    """Return the features that a dimension names, in mm where `mm` is that of the exercise's unit."""
    given = [*(check.fields.get("between") or []), *([check.fields["of"]] if check.fields.get("of") else [])]
    return [CheckedFeature.model_validate(nested(feature)).feature(mm=mm) for feature in given]
