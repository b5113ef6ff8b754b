"""The tables: people, classes, exercises and their versions, builds, runs of the grader, what teachers add."""

from datetime import datetime
from typing import Any

from sqlalchemy import CheckConstraint, ForeignKey, Index, LargeBinary, UniqueConstraint, func, text
from sqlalchemy.dialects.postgresql import JSONB, TIMESTAMP
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship


class Base(DeclarativeBase):
    """Base of all tables."""

    type_annotation_map = {datetime: TIMESTAMP(timezone=True), dict[str, Any]: JSONB}


#: Roles of people who teach.
TEACHING = ("administrator", "teacher")


class User(Base):
    """A person of the school: a display name and what signing in needs, no more.

    An administrator is a teacher who also looks after the school's accounts.
    """

    __tablename__ = "users"
    __table_args__ = (CheckConstraint("role in ('administrator', 'teacher', 'student')", name="role_is_known"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    login: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str]
    role: Mapped[str]
    password_hash: Mapped[str]
    #: The teacher who made a student's account and answers for it; None leaves it to the administrators.
    home_teacher_id: Mapped[int | None] = mapped_column(ForeignKey("users.id", ondelete="SET NULL"), index=True)
    #: Since when the person may not sign in.
    disabled_at: Mapped[datetime | None]

    @property
    def is_teacher(self) -> bool:
        """A teacher, or an administrator, who is one too."""
        return self.role in TEACHING


class SignIn(Base):
    """A signed-in session; only a hash of its token is kept."""

    __tablename__ = "sign_ins"

    token_hash: Mapped[str] = mapped_column(primary_key=True)
    user_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"))
    expires_at: Mapped[datetime]
    user: Mapped[User] = relationship(lazy="joined")


class Classroom(Base):
    """A class; its teachers are in `class_teachers`."""

    __tablename__ = "classes"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    #: With which students join.
    code: Mapped[str] = mapped_column(unique=True)
    #: `ClassSettings` in JSON: its word for mate, grades, time zone, decimal sign.
    settings: Mapped[dict[str, Any]] = mapped_column(JSONB, server_default="{}")


class ClassTeacher(Base):
    """A teacher of a class; several may share one.

    Its owner answers for it; a teacher does all but end others' share; an assistant marks and helps.
    """

    __tablename__ = "class_teachers"
    __table_args__ = (
        CheckConstraint("role in ('owner', 'teacher', 'assistant')", name="class_role_is_known"),
        Index("one_owner_a_class", "class_id", unique=True, postgresql_where=text("role = 'owner'")),
    )

    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), primary_key=True)
    teacher_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"), primary_key=True, index=True)
    role: Mapped[str] = mapped_column(server_default="teacher", default="teacher")
    teacher: Mapped[User] = relationship()


class Membership(Base):
    """A student in a class."""

    __tablename__ = "memberships"

    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), primary_key=True)
    student_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"), primary_key=True, index=True)


class ExerciseVersion(Base):
    """One version of an exercise; a version never changes."""

    __tablename__ = "exercise_versions"
    __table_args__ = (UniqueConstraint("exercise", "number"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    #: The exercise's own id, such as "seed-drawer".
    exercise: Mapped[str]
    number: Mapped[int]
    title: Mapped[str]
    #: SHA-256 of the bundle.
    digest: Mapped[str]
    #: The bundle as a zip.
    bundle: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)
    #: `exercise.json`, and `Prepared` in JSON: what pages show without loading the kernel.
    document: Mapped[dict[str, Any]] = mapped_column(JSONB, deferred=True)
    prepared: Mapped[dict[str, Any]] = mapped_column(JSONB, deferred=True)


class Assignment(Base):
    """An exercise version that a class works on."""

    __tablename__ = "assignments"

    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), primary_key=True)
    version_id: Mapped[int] = mapped_column(ForeignKey("exercise_versions.id"), primary_key=True)
    place: Mapped[int] = mapped_column(default=0)
    due_at: Mapped[datetime | None]
    #: What a student sees before it is returned: the full card, verdicts only, or nothing.
    shows: Mapped[str] = mapped_column(server_default="full")
    #: So many hand-ins count at most; None for any number.
    attempts: Mapped[int | None]
    #: What happens to late builds: taken, taken with so many percent off, or refused.
    late: Mapped[str] = mapped_column(server_default="taken")
    late_percent: Mapped[float] = mapped_column(server_default="0")
    #: All cards that are ready are returned then; None for by hand.
    return_at: Mapped[datetime | None]


class Terms(Base):
    """What is agreed with one student for one exercise: more time, absence, a partner."""

    __tablename__ = "terms"
    #: Nobody is the partner of two.
    __table_args__ = (UniqueConstraint("class_id", "version_id", "partner_id"),)

    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), primary_key=True)
    version_id: Mapped[int] = mapped_column(ForeignKey("exercise_versions.id"), primary_key=True)
    student_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"), primary_key=True)
    due_at: Mapped[datetime | None]
    is_absent: Mapped[bool] = mapped_column(server_default="false")
    partner_id: Mapped[int | None] = mapped_column(ForeignKey("users.id", ondelete="SET NULL"))


#: States of a build that was chosen and does not count: being looked at, looked at, refused.
UNCOUNTED = ("looking", "looked", "refused")
COUNTED = ("queued", "measuring", "graded", "failed")


class Build(Base):
    """One handing-in by a student; at first only chosen, and counted when the student says so."""

    __tablename__ = "builds"
    __table_args__ = (
        CheckConstraint(f"state in ({', '.join(map(repr, (*UNCOUNTED, *COUNTED)))})", name="state_is_known"),
        Index("builds_by_student", "class_id", "version_id", "student_id", "id"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"))
    version_id: Mapped[int] = mapped_column(ForeignKey("exercise_versions.id"))
    student_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"))
    handed_in_at: Mapped[datetime] = mapped_column(server_default=func.now())
    state: Mapped[str] = mapped_column(default="queued")
    #: Handed in; a build that was only checked is measured and does not count.
    counts: Mapped[bool] = mapped_column(server_default="true", default=True)
    #: `Preview` in JSON, once the files were looked at.
    understood: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    #: What is being done just now, for the live line.
    progress: Mapped[str] = mapped_column(default="")
    #: Where, problem and next step, when the build could not be measured.
    error: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    version: Mapped[ExerciseVersion] = relationship()
    student: Mapped[User] = relationship()
    files: Mapped[list["BuildFile"]] = relationship(order_by="BuildFile.id")
    questions: Mapped[list["Question"]] = relationship(order_by="Question.id")
    runs: Mapped[list["Run"]] = relationship(order_by="Run.id")
    overrides: Mapped[list["Override"]] = relationship(order_by="Override.id")
    #: Those that were not taken back.
    returns: Mapped[list["Return"]] = relationship(
        order_by="Return.id",
        primaryjoin="and_(Build.id == Return.build_id, Return.taken_back_at.is_(None))",
        viewonly=True,
    )


class BuildFile(Base):
    """A file of a build, as it was handed in."""

    __tablename__ = "build_files"

    id: Mapped[int] = mapped_column(primary_key=True)
    build_id: Mapped[int] = mapped_column(ForeignKey("builds.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    size: Mapped[int]
    #: A picture, drawing or PDF beside the model: kept and shown, never measured.
    is_evidence: Mapped[bool] = mapped_column(server_default="false", default=False)
    content: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)


class Scene(Base):
    """The triangles of a build and of its reference, for the comparison in 3D: gzipped JSON."""

    __tablename__ = "scenes"

    build_id: Mapped[int] = mapped_column(ForeignKey("builds.id", ondelete="CASCADE"), primary_key=True)
    content: Mapped[bytes] = mapped_column(LargeBinary)


class Run(Base):
    """One run of the grader over a build: the report is never altered."""

    __tablename__ = "runs"

    id: Mapped[int] = mapped_column(primary_key=True)
    build_id: Mapped[int] = mapped_column(ForeignKey("builds.id", ondelete="CASCADE"), index=True)
    version_id: Mapped[int] = mapped_column(ForeignKey("exercise_versions.id"))
    engine_version: Mapped[str]
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    #: A trial with another version of the exercise, until the teacher applies it.
    is_trial: Mapped[bool] = mapped_column(server_default="false", default=False)
    report: Mapped[dict[str, Any]] = mapped_column(JSONB)
    version: Mapped[ExerciseVersion] = relationship()


class Override(Base):
    """A teacher's marks for one check, with the reason; the newest of a check that is not undone counts."""

    __tablename__ = "overrides"

    id: Mapped[int] = mapped_column(primary_key=True)
    build_id: Mapped[int] = mapped_column(ForeignKey("builds.id", ondelete="CASCADE"), index=True)
    check_id: Mapped[str]
    #: None for a comment that leaves the measured marks as they are.
    marks: Mapped[float | None]
    comment: Mapped[str]
    teacher_id: Mapped[int] = mapped_column(ForeignKey("users.id"))
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    #: Decisions made at once for several builds share it, and are undone at once.
    batch: Mapped[str | None] = mapped_column(index=True)
    undone_at: Mapped[datetime | None]
    teacher: Mapped[User] = relationship()


class Return(Base):
    """A build's card was returned to its student."""

    __tablename__ = "returns"
    #: A second press, or a second teacher, who knew of as many returns, returns nothing more.
    __table_args__ = (UniqueConstraint("build_id", "number"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    build_id: Mapped[int] = mapped_column(ForeignKey("builds.id", ondelete="CASCADE"), index=True)
    teacher_id: Mapped[int] = mapped_column(ForeignKey("users.id"))
    returned_at: Mapped[datetime] = mapped_column(server_default=func.now())
    #: The marks as they were returned: what changes afterwards is said.
    total: Mapped[float | None]
    #: The how-manieth return of the build, from 1; those taken back count.
    number: Mapped[int] = mapped_column(server_default="1", default=1)
    #: Cards that were returned at once share it, and are taken back at once.
    batch: Mapped[str | None] = mapped_column(index=True)
    #: When one of its students first opened the card after it.
    seen_at: Mapped[datetime | None]
    taken_back_at: Mapped[datetime | None]


class Question(Base):
    """A student's question about one check, and the teacher's answer."""

    __tablename__ = "questions"
    #: The same question is asked once, however often the button is pressed.
    __table_args__ = (Index("one_question_once", "build_id", "check_id", text("md5(text)"), unique=True),)

    id: Mapped[int] = mapped_column(primary_key=True)
    build_id: Mapped[int] = mapped_column(ForeignKey("builds.id", ondelete="CASCADE"), index=True)
    check_id: Mapped[str]
    text: Mapped[str]
    asked_at: Mapped[datetime] = mapped_column(server_default=func.now())
    answer: Mapped[str | None]
    answered_at: Mapped[datetime | None]


class Hand(Base):
    """A student's raised hand in a lesson."""

    __tablename__ = "hands"

    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    build_id: Mapped[int] = mapped_column(ForeignKey("builds.id", ondelete="CASCADE"))
    student_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"))
    check_id: Mapped[str]
    raised_at: Mapped[datetime] = mapped_column(server_default=func.now())
    lowered_at: Mapped[datetime | None]
    student: Mapped[User] = relationship()


class BankComment(Base):
    """A comment that a teacher used before, offered again where the same cause is found."""

    __tablename__ = "bank_comments"
    __table_args__ = (UniqueConstraint("teacher_id", "text"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    teacher_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"))
    text: Mapped[str]
    #: Code of the cause it was written for, or "".
    code: Mapped[str] = mapped_column(server_default="")
    used: Mapped[int] = mapped_column(server_default="1")


class Withdrawal(Base):
    """A check of an exercise that counts for nobody of a class any more."""

    __tablename__ = "withdrawals"

    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), primary_key=True)
    exercise: Mapped[str] = mapped_column(primary_key=True)
    check_id: Mapped[str] = mapped_column(primary_key=True)
    reason: Mapped[str]
    teacher_id: Mapped[int] = mapped_column(ForeignKey("users.id"))
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())


class Notice(Base):
    """Something that a student is told on the start page."""

    __tablename__ = "notices"

    id: Mapped[int] = mapped_column(primary_key=True)
    user_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"), index=True)
    build_id: Mapped[int | None] = mapped_column(ForeignKey("builds.id", ondelete="CASCADE"))
    #: The return that it tells of: taken back without trace, it takes the notice along.
    return_id: Mapped[int | None] = mapped_column(ForeignKey("returns.id", ondelete="CASCADE"), index=True)
    text: Mapped[str]
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    seen_at: Mapped[datetime | None]
    build: Mapped[Build | None] = relationship()


class LogEntry(Base):
    """Who saw or changed what in a class: people by id, what was done as a code with parameters."""

    __tablename__ = "log_entries"

    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int | None] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    #: What was done; `web/log_words.py` has the words of each.
    action: Mapped[str]
    #: Who did it; None for one who was erased, or for the program itself.
    who_id: Mapped[int | None] = mapped_column(ForeignKey("users.id", ondelete="SET NULL"), index=True)
    is_by_program: Mapped[bool] = mapped_column(server_default="false", default=False)
    #: Whom it was done to; None for one who was erased, or where it was nobody.
    person_id: Mapped[int | None] = mapped_column(ForeignKey("users.id", ondelete="SET NULL"), index=True)
    #: What else the words need, never a person's name.
    params: Mapped[dict[str, Any]] = mapped_column(JSONB, server_default="{}", default=dict)
    who: Mapped[User | None] = relationship(foreign_keys=who_id)
    person: Mapped[User | None] = relationship(foreign_keys=person_id)


class StartCode(Base):
    """A one-time code that a server printed, with which the first person is made; only its hash is kept."""

    __tablename__ = "start_codes"

    code_hash: Mapped[str] = mapped_column(primary_key=True)
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())


class SentForm(Base):
    """A form that was sent and done: sent a second time, by a second press, it does nothing."""

    __tablename__ = "sent_forms"

    token: Mapped[str] = mapped_column(primary_key=True)
    sent_at: Mapped[datetime] = mapped_column(server_default=func.now(), index=True)


class StudentList(Base):
    """A list of students that a teacher typed, before it is taken."""

    __tablename__ = "student_lists"

    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    teacher_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"))
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    content: Mapped[str]


class SignInCards(Base):
    """Sign-in names with new passwords, to be printed: sealed with a key that only their maker's session has."""

    __tablename__ = "sign_in_cards"

    id: Mapped[int] = mapped_column(primary_key=True)
    maker_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"), index=True)
    class_id: Mapped[int | None] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"))
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    sealed: Mapped[bytes] = mapped_column(LargeBinary)


class Printout(Base):
    """All cards of an exercise as one PDF, made by a worker."""

    __tablename__ = "printouts"
    __table_args__ = (CheckConstraint("state in ('waiting', 'ready', 'refused')", name="printout_state_is_known"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    version_id: Mapped[int] = mapped_column(ForeignKey("exercise_versions.id"))
    maker_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"))
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    state: Mapped[str] = mapped_column(server_default="waiting", default="waiting")
    #: So many of so many cards are drawn.
    done: Mapped[int] = mapped_column(server_default="0", default=0)
    total: Mapped[int] = mapped_column(server_default="0", default=0)
    content: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    error: Mapped[dict[str, Any] | None] = mapped_column(JSONB)


class Draft(Base):
    """An exercise in the making: a teacher's model or bundle, and what was found of it."""

    __tablename__ = "drafts"
    __table_args__ = (CheckConstraint("state in ('waiting', 'ready', 'refused')", name="draft_state_is_known"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    teacher_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"), index=True)
    title: Mapped[str]
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    state: Mapped[str] = mapped_column(server_default="waiting", default="waiting")
    source_name: Mapped[str]
    source: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)
    #: The bundle as a zip, once something was made of the source.
    bundle: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    document: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    #: Earlier documents, oldest first.
    past: Mapped[list[Any]] = mapped_column(JSONB, server_default="[]")
    #: Documents that were undone, the one to be taken again first last.
    undone: Mapped[list[Any]] = mapped_column(JSONB, server_default="[]")
    #: `Examined` in JSON.
    examined: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    error: Mapped[dict[str, Any] | None] = mapped_column(JSONB)


class Allowance(Base):
    """A classroom value for a fit, which the school has changed: gap a side, mm."""

    __tablename__ = "allowances"

    process: Mapped[str] = mapped_column(primary_key=True)
    action: Mapped[str] = mapped_column(primary_key=True)
    least: Mapped[float]
    most: Mapped[float]


class Bench(Base):
    """A student's bench for an exercise: parts to put together, and every step that was taken."""

    __tablename__ = "benches"
    __table_args__ = (
        CheckConstraint("state in ('waiting', 'ready', 'refused')", name="bench_state_is_known"),
        Index("benches_by_student", "class_id", "version_id", "student_id", "id"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"))
    version_id: Mapped[int] = mapped_column(ForeignKey("exercise_versions.id"))
    student_id: Mapped[int] = mapped_column(ForeignKey("users.id", ondelete="CASCADE"))
    #: The build that the teacher looks at on it; None for the student's own bench.
    build_id: Mapped[int | None] = mapped_column(ForeignKey("builds.id", ondelete="CASCADE"), index=True)
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    state: Mapped[str] = mapped_column(server_default="waiting", default="waiting")
    error: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    #: The student's own models as a zip; None for the exercise's parts.
    files: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    #: `BenchParts` without triangles, in JSON; and with them, as gzipped JSON for the browser.
    parts: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    drawn: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    #: What contacts are found by, as `pack_collision_meshes` writes it.
    skins: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    #: `Exploded` in JSON, of the step `apart_at`; or `{"waiting": true}`, or an error's facts.
    apart: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    apart_at: Mapped[int] = mapped_column(server_default="0", default=0)
    #: `Ways` in JSON, of the step `ways_at`; None while they are looked for; or an error's facts.
    ways: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    ways_at: Mapped[int] = mapped_column(server_default="-1", default=-1)
    #: What stood there at the step `step_at` as a STEP file, or why there is none; -1 before one was asked for.
    step_file: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    step_error: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    step_at: Mapped[int] = mapped_column(server_default="-1", default=-1)
    #: By mate: what a teacher wrote on it, and who.
    notes: Mapped[dict[str, Any]] = mapped_column(JSONB, server_default="{}", default=dict)
    #: The number of the step at which it stands; 0 before the first.
    at: Mapped[int] = mapped_column(server_default="0", default=0)
    version: Mapped[ExerciseVersion] = relationship()
    student: Mapped[User] = relationship()


class BenchStep(Base):
    """One step on a bench, kept for good; an undone one too."""

    __tablename__ = "bench_steps"

    bench_id: Mapped[int] = mapped_column(ForeignKey("benches.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    #: The step from which it was taken.
    parent: Mapped[int]
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    who: Mapped[str]
    words: Mapped[str]
    #: `BenchState` in JSON, after it.
    document: Mapped[dict[str, Any]] = mapped_column(JSONB)
