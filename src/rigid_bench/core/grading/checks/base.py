"""What a kind of check is, and the helpers that every kind uses."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Generic, Literal, TypeVar

from pydantic import ValidationError

from rigid_bench.core.exercise.bundle import FILE, CheckModel, Exercise
from rigid_bench.core.formats.documents import Document, document_error
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.context import Context
from rigid_bench.core.grading.matching.swapped_parts import merged
from rigid_bench.core.grading.report.models import Cause, CheckResult, Verdict
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.wording.language import _, series

Strip = Literal["parts", "assembly", "fit", "by hand"]
Fields = TypeVar("Fields", bound=Document)

#: What a check that needs mates says where none were handed in.
HAND_IN_BUILD = phrase("step.hand-in-build")
#: What a check that needs geometry says where only a build file was handed in.
HAND_IN_STEP = phrase("step.hand-in-step")


@dataclass(frozen=True, slots=True, kw_only=True)
class CheckKind(Generic[Fields]):
    """One kind of check; a module in this package that has a `KIND` is found by itself."""

    name: str
    #: Which strip of the card its rows stand on.
    strip: Strip
    #: The fields of this kind, beside those that all checks have.
    fields: type[Fields]
    #: What is asked, as the sheet and the card say it.
    required: Callable[[CheckModel, Fields, Exercise], Message]
    #: Judge one check of one submission.
    judge: Callable[["Task[Fields]"], CheckResult]
    #: What it is about.
    subject: Literal["part", "mate", "assembly"] = "assembly"
    #: A slip that is found here may be the reason why other rows of the same part are off.
    spreads: bool = False
    #: It falls with any wrong size of its part.
    follows_sizes: bool = False
    #: A change of mates may put it right.
    mended_by_mates: bool = False
    #: A person judges it.
    by_person: bool = False
    #: It needs a second model of the build, changed or moved.
    needs_second_model: bool = False
    #: It is asked again of a build in which a size was changed.
    outlives_change: bool = True
    #: Refuse what cannot be meant before anything is measured.
    verify: Callable[[CheckModel, Fields, Exercise], None] = lambda check, fields, exercise: None

    def read(self, check: CheckModel) -> Fields:
        """Read the fields of a check.

        Raises
        ------
        InvalidDocument
            A field is missing or wrong.
        """
        try:
            return self.fields.model_validate(check.fields)
        except ValidationError as exc:
            raise document_error(f"{FILE}, check '{check.id}'", exc) from exc


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Task(Generic[Fields]):
    """One check to be judged on one submission."""

    kind: CheckKind[Fields]
    check: CheckModel
    fields: Fields
    context: Context

    @property
    def where(self) -> str:
        """Name the check in errors."""
        return f"{FILE}, check '{self.check.id}'"

    def result(
        self,
        verdict: Verdict,
        measured: Message,
        *,
        next_step: Message | None = None,
        cause: Cause | None = None,
        **more: Any,
    ) -> CheckResult:
        """Make the check's result; marks follow the verdict unless `awarded` is given."""
        awarded = more.pop("awarded", self.check.marks if verdict == "met" else 0.0)
        return CheckResult(
            id=self.check.id,
            title=self.check.title,
            kind=self.check.kind,
            strip=self.kind.strip,
            verdict=verdict,
            awarded=awarded,
            available=self.check.marks,
            required_message=self.kind.required(self.check, self.fields, self.context.exercise),
            measured_message=measured,
            next_step_message=None if verdict == "met" else next_step,
            cause=cause,
            hint=self.check.hint,
            **more,
        )

    def missing_part(self, part: str) -> CheckResult:
        """Make the result of a check whose part was not handed in, or came without geometry."""
        name = self.context.exercise.part_name(part)
        if joined := merged(self.context, part) if part not in self.context.matching.parts else None:
            step = phrase("step.part-of-its-own", name=name)
            return self.result("missed", phrase("measured.joined"), cause=joined, next_step=step)
        if self.context.matching.copies.get(part) and part not in self.context.matching.parts:
            return self.no_geometry()
        if part in self.context.matching.parts:
            return self.result(
                "missed",
                phrase("measured.not-in-build"),
                cause=Cause(code="part-missing", message=phrase("cause.fewer-parts", name=name)),
                next_step=phrase("step.add-another", name=name),
            )
        return self.result(
            "missed",
            phrase("measured.part-not-found"),
            cause=Cause(code="part-missing", message=phrase("cause.part-not-found", name=name)),
            next_step=phrase("step.add-part", name=name),
        )

    def lacking(self, said: str, name: str) -> CheckResult:
        """Make the result of a check whose feature a part lacks; `said` is the code of the cause's sentence."""
        cause = Cause(code="feature-missing", message=phrase(said, name=name))
        return self.result(
            "missed", phrase("measured.not-found"), cause=cause, next_step=phrase("step.add-to", name=name)
        )

    def absent(self, *instances: str, shape: bool = False) -> CheckResult | None:
        """Make the result of a check that needs instances of which one is missing; None where all are there.

        With `shape`, one that came without geometry counts as missing too.
        """
        for instance in instances:
            index = self.context.student_index(instance, where=self.where)
            if index is None:
                return self.missing_part(self.context.part_of(instance, where=self.where))
            if shape and not self.context.registrations(index):
                return self.no_geometry()
        return None

    def no_mates(self) -> CheckResult:
        """Make the result of a check that needs mates, where only positions were handed in."""
        return self.result("unchecked", phrase("measured.no-mates-in-step"), next_step=HAND_IN_BUILD)

    def no_geometry(self) -> CheckResult:
        """Make the result of a check that needs geometry, where only a build file was handed in."""
        return self.result("unchecked", phrase("measured.no-geometry"), next_step=HAND_IN_STEP)


def known_part(check: CheckModel, exercise: Exercise, part: str, *, described: bool = False) -> None:
    """Refuse a check that names a part which the exercise has not, or has no model of unless that will do.

    Raises
    ------
    InvalidDocument
        Naming those that there are.
    """
    known = [known_part.id for known_part in exercise.model.parts]
    if part not in known:
        where = f"{FILE}, check '{check.id}'"
        raise InvalidDocument(
            where, _("the exercise has no part '{part}'", part=part), _("Name one of: {known}", known=series(known))
        )
    if exercise.part(part).file is None and not described:
        where = f"{FILE}, check '{check.id}'"
        raise InvalidDocument(
            where, _("part '{part}' has no reference model to compare with", part=part), _("Name its file")
        )


def known_instances(check: CheckModel, exercise: Exercise, *instances: str) -> None:
    """Refuse a check that names an instance which the reference build has not.

    Raises
    ------
    InvalidDocument
        Naming those that there are.
    """
    known = [instance.id for instance in exercise.reference.instances] if exercise.reference else []
    for instance in instances:
        if instance not in known:
            next_step = (
                _("Name one of: {known}", known=series(known))
                if known
                else _('Add a "reference" build to the exercise')
            )
            raise InvalidDocument(
                _("{file}, check '{id}'", file=FILE, id=check.id),
                _("the reference build has no instance '{instance}'", instance=instance),
                next_step,
            )
