"""What a class's zip holds, as `class.json` says it; files, bundles and reports lie beside it."""

from datetime import datetime
from typing import Any, Literal

from rigid_bench.core.formats.documents import Document

FILE = "class.json"


class StudentRow(Document):
    """A student, by sign-in name."""

    login: str
    name: str
    #: Still in the class, not only with work in it.
    is_member: bool


class LessonRow(Document):
    """A lesson of the plan; exercises name it by its place in the list."""

    starts_at: datetime
    minutes: int
    room: str
    title: str


class ExerciseRow(Document):
    """A version of an exercise: its bundle and what was prepared of it lie in files of these names."""

    bundle: str
    prepared: str


class AssignmentRow(Document):
    """How the class works on an exercise, which is named by its place in the list."""

    exercise: int
    place: int
    due_at: datetime | None
    shows: str
    attempts: int | None
    late: str
    late_percent: float
    return_at: datetime | None
    lesson: int | None
    opens_at: datetime | None
    after: str


class TermsRow(Document):
    """What is agreed with a student for an exercise."""

    student: str
    exercise: int
    due_at: datetime | None
    is_absent: bool
    #: Of zips of before there were groups.
    partner: str | None = None


class GroupRow(Document):
    """That a student was in a group for an exercise, from when until when."""

    student: str
    exercise: int
    number: int
    joined_at: datetime | None
    left_at: datetime | None


class StageRow(Document):
    """In which lesson a stage of an exercise is worked on; both by their place in their lists."""

    exercise: int
    stage: str
    lesson: int


class WithdrawalRow(Document):
    """A check that counts for nobody."""

    exercise: str
    check_id: str
    reason: str
    teacher: str
    made_at: datetime


class FileRow(Document):
    """A file of a build, and where it lies."""

    name: str
    is_evidence: bool
    path: str


class RunRow(Document):
    """A run of the grader; its report lies in a file."""

    exercise: int
    engine_version: str
    made_at: datetime
    is_trial: bool
    report: str


class BuildRow(Document):
    """A build with all that was said of it; decisions, returns and questions field by field."""

    student: str
    exercise: int
    handed_in_at: datetime
    state: str
    counts: bool
    error: dict[str, Any] | None
    files: list[FileRow]
    runs: list[RunRow]
    overrides: list[dict[str, Any]]
    returns: list[dict[str, Any]]
    questions: list[dict[str, Any]]


class ClassDocument(Document):
    """A class."""

    format: Literal["rigid-bench/class"]
    version: Literal[1]
    name: str
    settings: dict[str, Any]
    students: list[StudentRow]
    lessons: list[LessonRow]
    exercises: list[ExerciseRow]
    assignments: list[AssignmentRow]
    terms: list[TermsRow]
    groups: list[GroupRow] = []
    stages: list[StageRow] = []
    withdrawals: list[WithdrawalRow]
    builds: list[BuildRow]
