"""What a card shows, gathered: rows with marks, comments and questions; what changed; how much a student sees yet."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Literal

from sqlalchemy.orm import Session

from rigid_bench.core.grading.intake.statements import FILE as STATEMENTS
from rigid_bench.core.grading.intake.statements import MENDED, read_statements
from rigid_bench.core.grading.report.models import CheckResult, Report
from rigid_bench.core.marking.rules import Rules
from rigid_bench.core.marking.standing import CheckMarks, Standing, before_return, brief
from rigid_bench.core.marking.state import BuildState, build_state, needs_a_person
from rigid_bench.core.wording.language import N_, _, translated
from rigid_bench.core.wording.marking import state_words
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.queries import bench_queries, build_queries, exercise_queries, marking_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.rules import rules_of_class
from rigid_bench.store.standing import comments, newest_overrides, newest_report, standing
from rigid_bench.store.tables import Assignment, Build, BuildFile, Classroom, Override, Question

#: Rows of parts stand by part; the others in these strips, after them.
_OTHERS = ((N_("assembly"), N_("Assembly")), (N_("fit"), N_("Fit")), (N_("by hand"), N_("Marked by hand")))
#: So many things to put right stand first on the card.
_NOW = 3
#: How much of a card is seen: all, stamps without numbers and causes, or that it was handed in.
Seen = Literal["full", "verdicts", "nothing"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """One check on the card: what was measured, and what people said about it."""

    check: CheckResult
    override: Override | None = None
    comments: Sequence[Override] = ()
    questions: Sequence[Question] = ()
    #: Why a person should look at it, or "".
    why: str = ""
    #: The reason why it counts for nobody, or "".
    withdrawn: str = ""
    #: What counts: as measured, or as a teacher decided; "withdrawn" where nothing does.
    verdict: str = "met"
    #: It still needs another look.
    is_off: bool = False
    #: The name of the part that it is about; "" for the assembly's.
    part: str = ""

    @property
    def marks(self) -> float:
        """The marks that count."""
        return self.check.awarded if self.override is None or self.override.marks is None else self.override.marks

    @property
    def is_open(self) -> bool:
        """It is to be put right, and is no consequence of another."""
        return self.is_off and not self.check.follows

    @property
    def is_quiet(self) -> bool:
        """It is right, nobody said anything about it, and no person need look: it is folded with others like it."""
        is_touched = self.override or self.comments or self.questions or self.why or self.withdrawn
        return self.verdict == "met" and not is_touched


@dataclass(frozen=True, slots=True, kw_only=True)
class Changes:
    """What a build changed against the one before, by titles of checks."""

    mended: list[str]
    still: list[str]
    new: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class Strip:
    """Rows that belong together: those of a part, of the assembly, of fits, those marked by hand."""

    title: str
    rows: list[Row]
    #: The part, for its picture; "" for others.
    part: str = ""

    def open_rows(self, without: Sequence[Row]) -> list[Row]:
        """Return the rows that stand unfolded, without those that stand elsewhere."""
        return [row for row in self.rows if not row.is_quiet and row not in without]

    @property
    def quiet_rows(self) -> list[Row]:
        """The rows that are folded."""
        return [row for row in self.rows if row.is_quiet]

    @property
    def left(self) -> int:
        """How many of its checks are still to be put right."""
        return sum(row.is_open for row in self.rows)


@dataclass(frozen=True, slots=True, kw_only=True)
class CardView:
    """A card as the page shows it."""

    build: Build
    report: Report | None
    strips: list[Strip]
    state: BuildState
    rules: Rules
    seen: Seen
    #: How many builds are measured before this one.
    before: int
    attempts: int
    changes: Changes | None
    settings: ClassSettings
    standing: Standing
    #: The number of the exercise's version by which it was measured, or will be.
    version_number: int
    #: The student's hand is up on the check, since when.
    hand: tuple[str, datetime] | None = None
    #: How many hands in the class were up before it.
    hands_before: int = 0
    #: A return just made, that nobody has seen, can be taken back without trace.
    is_fresh: bool = False
    #: Names and sizes of what was handed in beside the model.
    evidence: list[BuildFile] = field(default_factory=list)
    #: What the teacher wrote on mates, looking at the build on a bench: the mate, and the text.
    mate_notes: list[tuple[str, str]] = field(default_factory=list)
    #: What the student found and mended, in their words.
    mended: str = ""

    @property
    def word(self) -> str:
        """Where it stands, in words."""
        if not self.build.counts and self.build.state == "graded":
            return _("checked, not handed in")
        return state_words("returned" if self.build.returns else self.build.state)

    @property
    def is_waiting(self) -> bool:
        """The page looks again by itself."""
        return self.build.state in ("queued", "measuring")

    @property
    def rows(self) -> list[Row]:
        """All rows, in the order of the card."""
        return [row for strip in self.strips for row in strip.rows]

    @property
    def open_rows(self) -> list[Row]:
        """The checks that are not met, in the order to do them; not those that follow from another."""
        return [row for row in self.rows if row.is_open]

    @property
    def now(self) -> list[Row]:
        """The few things to put right first."""
        return self.open_rows[:_NOW]

    @property
    def undecided(self) -> list[Row]:
        """The rows that wait for a person's decision."""
        return [row for row in self.rows if row.why and not row.withdrawn]

    @property
    def strengths(self) -> list[str]:
        """What is right, by titles."""
        return [row.check.title for row in self.rows if row.verdict == "met" and row.check.available]

    @property
    def next_stage(self) -> tuple[str, list[str]] | None:
        """The first stage that is not reached, and the titles of what it still needs."""
        return self.standing.reached(self.rules)[1]

    @property
    def capping(self) -> CheckMarks | None:
        """The open check whose slip caps the marks; None where nothing does."""
        return self.standing.capping(self.rules)

    @property
    def percent(self) -> float:
        """The marks as a percentage."""
        return self.state.percent or 0.0

    @property
    def grade(self) -> str:
        """The class's grade for it, or ""."""
        return self.settings.grade(self.percent) if self.state.available else ""

    @property
    def changed_since_returned(self) -> float | None:
        """The marks as they were returned, where they are others now; None where nothing changed."""
        last = self.build.returns[-1].total if self.build.returns else None
        return None if last is None or last == self.state.awarded else last


def view_card(session: Session, build: Build, user: Person) -> CardView:
    """Gather what the card shows to a person."""
    decided = rules_of_class(session, build.class_id)
    report, rules = newest_report(build), decided.of(build.version, build.student_id)
    standing_now = standing(build)
    overrides, said = newest_overrides(build), comments(build)
    looked_at = bench_queries.bench_of_build(session, build.id)
    if user.is_student and not build.returns:
        standing_now, overrides, said, looked_at = before_return(standing_now), {}, {}, None
    document = build.version.document
    names = {part["id"]: part["name"] for part in document["parts"]}
    part_of = {check["id"]: str(check["part"]) for check in document["checks"] if check.get("part") in names}
    rows = [
        Row(
            check=check,
            part=names.get(part_of.get(check.id, ""), ""),
            override=overrides.get(check.id),
            comments=said.get(check.id, ()),
            questions=[asked for asked in build.questions if asked.check_id == check.id],
            why=needs_a_person(brief(check), standing_now),
            withdrawn=rules.withdrawn.get(check.id, ""),
            verdict=standing_now.verdict(brief(check), rules),
            is_off=standing_now.is_open(brief(check), rules),
        )
        for check in (report.checks if report else ())
    ]
    strips = _strips(rows, part_of, names)
    before = build_queries.build_before(session, build) if report else None
    hand = _hand(session, build, user)
    classroom = session.get_one(Classroom, build.class_id)
    return CardView(
        build=build,
        report=report if build.state == "graded" else None,
        strips=strips,
        state=build_state(standing_now, rules),
        rules=rules,
        seen=seen_by(build, decided.assignments.get(build.version_id), user),
        before=build_queries.builds_before(session, build),
        attempts=build_queries.count_attempts(
            session, class_id=build.class_id, version_id=build.version_id, student_id=build.student_id
        ),
        changes=_changes(before, report) if report else None,
        settings=ClassSettings.model_validate(classroom.settings),
        standing=standing_now,
        version_number=_version_number(session, build, standing_now),
        hand=hand,
        hands_before=_hands_before(session, build, hand[1]) if hand else 0,
        is_fresh=marking_queries.is_fresh(build, now=datetime.now(UTC)),
        evidence=[file for file in build.files if file.is_evidence],
        mate_notes=[(mate, own["text"]) for mate, own in (looked_at.notes if looked_at else {}).items()],
        mended=_mended(build),
    )


def _strips(rows: Sequence[Row], part_of: Mapping[str, str], names: Mapping[str, str]) -> list[Strip]:
    """Return the card's rows: part by part, then what they are together."""
    of_parts = [row for row in rows if row.check.strip == "parts"]
    by_part = [
        Strip(title=name, part=part, rows=[row for row in of_parts if part_of.get(row.check.id) == part])
        for part, name in names.items()
    ]
    by_part.append(Strip(title=_("Parts"), rows=[row for row in of_parts if row.check.id not in part_of]))
    others = [
        Strip(title=translated(title), rows=[row for row in rows if row.check.strip == key]) for key, title in _OTHERS
    ]
    return [strip for strip in (*by_part, *others) if strip.rows]


def _version_number(session: Session, build: Build, standing: Standing) -> int:
    """Return the number of the version that the card's numbers are of: builds may be re-marked by another."""
    return (
        exercise_queries.version(session, standing.version_id).number if standing.version_id else build.version.number
    )


def _hand(session: Session, build: Build, user: Person) -> tuple[str, datetime] | None:
    hand = marking_queries.hand_of(session, build.class_id, user.id if user.is_student else build.student_id)
    return (hand.check_id, hand.raised_at) if hand and hand.build_id == build.id else None


def _hands_before(session: Session, build: Build, raised_at: datetime) -> int:
    return sum(hand.raised_at < raised_at for hand in marking_queries.hands_up(session, build.class_id))


def _mended(build: Build) -> str:
    said = next((file for file in build.files if file.name == STATEMENTS), None)
    return read_statements(said.content).get(MENDED, "") if said else ""


def seen_by(build: Build, assignment: Assignment | None, user: Person) -> Seen:
    """Say how much of a card a person sees: a student all of it once it is returned."""
    if user.is_teacher or build.returns or assignment is None:
        return "full"
    shows = assignment.shows
    return "verdicts" if shows == "verdicts" else "nothing" if shows == "nothing" else "full"


def _changes(before: Build | None, report: Report) -> Changes | None:
    old = newest_report(before) if before else None
    if old is None:
        return None
    was = {check.id: check.verdict for check in old.checks}
    known = [check for check in report.checks if check.id in was]
    return Changes(
        mended=[result.title for result in known if result.verdict == "met" and was[result.id] != "met"],
        still=[
            result.title for result in known if result.verdict != "met" and was[result.id] not in ("met", "unchecked")
        ],
        new=[result.title for result in known if result.verdict in ("near", "missed") and was[result.id] == "met"],
    )
