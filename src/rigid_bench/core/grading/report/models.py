"""The grade report: verdicts, marks, stages. Field names as in the published format."""

from collections.abc import Callable, Sequence
from typing import Any, Literal

from pydantic import model_validator

from rigid_bench.core.assembly.freedom.freedom_report import MotionReport
from rigid_bench.core.assembly.freedom.states import State
from rigid_bench.core.exercise.bundle import ExerciseModel
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.message import Message, OnceSentence, as_said
from rigid_bench.core.formats.pictures import AskedSize, PictureModel, Sheet
from rigid_bench.core.wording.saying import can_say

#: Written into every run; raise it when the same submission may get another report.
ENGINE_VERSION = "5"

Verdict = Literal["met", "near", "missed", "unchecked"]


def _as_kept(message: Any, sentence: Any) -> Any:
    """Return a message of a kept report: one of another version says what it said then."""
    if message is None:
        return as_said(sentence) if sentence else None
    if sentence and isinstance(message, dict) and not can_say(Message.model_validate(message)):
        return {**message, "text": sentence}
    return message


class Cause(Document):
    """The likely reason for a wrong value, with its arithmetic."""

    code: str
    message: Message
    #: The sentence of `message`.
    text: str = ""
    #: The check whose slip this one follows from, or "".
    root: str = ""

    @model_validator(mode="before")
    @classmethod
    def _of_earlier_versions(cls, data: Any) -> Any:
        return {**data, "message": _as_kept(data.get("message"), data.get("text"))} if isinstance(data, dict) else data


class Gauge(Document):
    """A measured value on its scale, in the exercise's unit."""

    low: float | None
    high: float | None
    measured: float | None
    unit: str


class DofStepModel(Document):
    """What one mate took from a part's six motions."""

    mate: str
    before: int
    after: int


class RoseModel(Document):
    """Three slides and three turns along the axes of the part it is judged to: open or closed."""

    state: State
    slides: list[bool]
    turns: list[bool]
    required_slides: list[bool]
    required_turns: list[bool]
    #: What is left, said.
    words: OnceSentence
    motions: list[MotionReport] = []
    #: Mate by mate, in the order in which they were made.
    ladder: list[DofStepModel] = []


def _with_messages(*names: str) -> Callable[[Any], Any]:
    """Give the messages of a report of another version what they said then."""

    def completed(data: Any) -> Any:
        if not isinstance(data, dict):
            return data
        kept = {f"{name}_message": _as_kept(data.get(f"{name}_message"), data.get(name)) for name in names}
        return {**data, **kept}

    return completed


class CheckText(Document):
    """What the sheet says of one check, before anything is handed in."""

    id: str
    title: str
    kind: str
    strip: str
    #: The part that a dimension is of, or None.
    part: str | None
    required: str = ""
    #: What `required` says.
    required_message: Message
    marks: float
    hint: str
    #: What a dimension asks; None for other checks.
    size: AskedSize | None = None
    #: A student may say something for it: the value assumed, or why it was left out.
    takes_note: bool = False

    _of_earlier_versions = model_validator(mode="before")(_with_messages("required"))


class Prepared(Document):
    """What pages show of an exercise: its pictures, and what each check asks."""

    sheet: Sheet
    checks: list[CheckText]


class CheckResult(Document):
    """One row of the card."""

    id: str
    title: str
    kind: str
    #: "parts", "assembly", "fit" or "by hand": the strip of the card that it stands on.
    strip: str = "parts"
    verdict: Verdict
    awarded: float
    available: float
    #: What `required_message`, `measured_message` and `next_step_message` say.
    required: str = ""
    measured: str = ""
    difference: float | None = None
    cause: Cause | None = None
    next_step: str = ""
    required_message: Message
    measured_message: Message
    next_step_message: Message | None = None
    hint: str = ""
    gauge: Gauge | None = None
    rose: RoseModel | None = None
    #: A small picture of the place.
    picture: PictureModel | None = None
    #: The check whose slip is the reason for this one too: its marks are not taken twice.
    follows: str | None = None
    #: Of a row that a person marks: its levels, each with `name`, `text` and `marks`.
    levels: list[dict[str, Any]] = []
    #: Titles of the checks that follow from this one's slip.
    leads_to: list[str] = []
    #: Percent of all marks that this slip leaves at most.
    caps_at: float | None = None

    _of_earlier_versions = model_validator(mode="before")(_with_messages("required", "measured", "next_step"))


class StageResult(Document):
    """Whether a stage is reached, and which of its checks still stand open."""

    name: str
    complete: bool
    open_checks: list[str] = []


class Report(Document):
    """What the grader found, as in `docs/schemas/grade-report.json`."""

    exercise: str
    title: str = ""
    awarded: float
    available: float
    percent: float
    #: The last stage reached, or "" before the first.
    stage: str
    checks: list[CheckResult]
    stages: list[StageResult] = []
    #: What was understood of the submission: parts, with the name they had and the part they were taken for.
    parts: list[dict[str, Any]] = []
    #: The sentences of `notices`.
    warnings: list[str] = []
    notices: list[Message] = []


def add_up(
    exercise: ExerciseModel,
    results: Sequence[CheckResult],
    *,
    parts: Sequence[dict[str, Any]] = (),
    notices: Sequence[Message] = (),
) -> Report:
    """Add up the marks and find the stage that is reached.

    Parameters
    ----------
    exercise
        Gives the stages, in the order in which they are reached.
    results
        One per check.
    parts, notices
        What was understood, to be shown with the marks.

    Returns
    -------
    Report

    Examples
    --------
    >>> model = ExerciseModel.model_validate({"format": "rigid-bench/exercise", "id": "e", "title": "E",
    ...     "parts": [{"id": "p", "name": "P", "file": "p.step"}], "checks": []})
    >>> add_up(model, []).percent
    0.0
    """
    available = sum(result.available for result in results)
    limits = [result.caps_at / 100 * available for result in results if result.caps_at is not None]
    awarded = min([sum(result.awarded for result in results), *limits])
    stages, reached, is_open = [], "", False
    for stage in exercise.stages:
        # a row that a person marks holds up no stage
        wanted = [
            result for result in results if ("*" in stage.checks or result.id in stage.checks) and not result.levels
        ]
        missing = [result.id for result in wanted if result.verdict != "met"]
        is_open = is_open or bool(missing)
        reached = reached if is_open else stage.name
        stages.append(StageResult(name=stage.name, complete=not is_open, open_checks=missing))
    return Report(
        exercise=exercise.id,
        title=exercise.title,
        awarded=round(awarded, 4),
        available=round(available, 4),
        percent=round(100 * awarded / available, 2) if available else 0.0,
        stage=reached,
        checks=list(results),
        stages=stages,
        parts=list(parts),
        warnings=[message.text for message in notices],
        notices=list(notices),
    )
