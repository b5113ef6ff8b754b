"""The sample school: two classes, their teachers and students, and builds at every state. All invented."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy.orm import Session

from rigid_bench.core.grading.report.models import ENGINE_VERSION
from rigid_bench.core.marking.state import tally
from rigid_bench.core.planning.lessons import moved_by
from rigid_bench.core.practice.registry import drill_of
from rigid_bench.demo.graded import GradedExercise, GradedSample, read_graded
from rigid_bench.demo.own_files import Copied, as_copied, as_written_by
from rigid_bench.demo.people import OLDER_STUDENTS, SECOND_TEACHER, STUDENTS, TEACHER, Person
from rigid_bench.store.database import Database
from rigid_bench.store.log import log
from rigid_bench.store.queries import (
    build_queries,
    class_queries,
    exercise_queries,
    group_queries,
    marking_queries,
    people_queries,
    plan_queries,
    practice_queries,
    work_queries,
)
from rigid_bench.store.rules import rules_of_class
from rigid_bench.store.standing import standing
from rigid_bench.store.tables import Build, Classroom, ExerciseVersion, PracticeAnswer, User
from rigid_bench.store.versions import keep_version
from rigid_bench.web.security.passwords import hash_password

JIG, DRAWER, BIN, MAST = range(4)
#: The slip that most of the younger class made, and the size that they read alike from a sheet that has it wrong.
COMMON_SLIP, READ_ALIKE = "radius-for-diameter", "bin-rod-short"
#: Who handed in what, one exercise after the other; several builds of one exercise in a row.
_YOUNGER: dict[str, dict[int, tuple[str, ...]]] = {
    "ada": {JIG: ("jig-right",), DRAWER: ("a-shade-wide", "right"), BIN: ("bin-right",), MAST: ("mast-right",)},
    "bram": {
        JIG: ("jig-radius-for-diameter", "jig-right"),
        DRAWER: (COMMON_SLIP,),
        BIN: ("bin-joint-short",),
    },
    "chidi": {JIG: ("jig-recess-below", "jig-own-corners"), DRAWER: ("right",), BIN: ("bin-pedal-fixed",)},
    "dunya": {JIG: ("jig-edge-for-centre",), DRAWER: ("too-wide", "too-wide", "too-wide"), BIN: (READ_ALIKE,)},
    "edda": {JIG: ("jig-three-corners",), DRAWER: ("nothing-grounded",), BIN: (READ_ALIKE,)},
    "finn": {JIG: ("jig-one-dowel",), DRAWER: ("fixed",), BIN: ("bin-thin-stud",)},
    "greta": {JIG: ("jig-dowel-slides",), DRAWER: ("unjoined", "no-knob"), BIN: (READ_ALIKE,)},
    "hamid": {JIG: ("jig-pattern-length", "jig-right"), DRAWER: ("thin-wall", COMMON_SLIP), BIN: (READ_ALIKE,)},
    "ines": {
        JIG: ("jig-misread", "jig-radius-for-diameter", "jig-right"),
        DRAWER: ("step-only", COMMON_SLIP),
        BIN: (READ_ALIKE,),
    },
    "kira": {JIG: ("jig-mirrored", "jig-right"), DRAWER: ("one-part", "thin-floor"), BIN: ("bin-right",)},
    "lasse": {
        JIG: ("jig-guides-at-edge", "jig-edge-for-centre", "jig-right"),
        DRAWER: (COMMON_SLIP,),
        BIN: (READ_ALIKE,),
    },
    "mina": {JIG: ("jig-chip-45", "jig-right"), DRAWER: ("a-shade-wide",), BIN: ("bin-joint-short",)},
    "noor": {JIG: ("jig-faceted",), DRAWER: ("decimal-point",), BIN: (READ_ALIKE,)},
}
_OLDER: dict[str, dict[int, tuple[str, ...]]] = {
    "otis": {JIG: ("jig-no-chip-edge", "jig-right"), DRAWER: ("rounded-before-hollowing", "right"), BIN: ("bin-right",),
             MAST: ("mast-screw-twice", "mast-screw-missing")},
    "priya": {JIG: ("jig-four-guides", "jig-right"), DRAWER: ("through-both", "one-gap-only", "right"),
              BIN: ("bin-right",), MAST: ("mast-right",)},
    "quinn": {JIG: ("jig-one-dowel",), DRAWER: ("radius-for-diameter",), BIN: ("bin-joint-short",),
              MAST: ("mast-rotor-over", "mast-vane-loose", "mast-right")},
    "rosa": {JIG: ("jig-neighbour",), DRAWER: ("centre-to-flat", "wall-outward"), BIN: ("bin-rod-short",),
             MAST: ("mast-collar-inches", "mast-collar-tight")},
    "sven": {JIG: ("jig-blind-guides", "jig-right"), DRAWER: ("edge-for-face", "edge-for-centre"),
             BIN: ("bin-pedal-fixed",), MAST: ("mast-bearing-left", "mast-bearing-wrong")},
    "tess": {JIG: ("jig-edge-for-centre",), DRAWER: ("not-confirmed", "right"), BIN: ("bin-right",),
             MAST: ("mast-vane-inside", "mast-vane-radius")},
    "umar": {JIG: ("jig-dowel-slides", "jig-right"), DRAWER: ("fixed", "right"), BIN: ("bin-thin-stud",),
             MAST: ("mast-lifted", "mast-vane-dragged")},
    "vera": {JIG: ("jig-right",), DRAWER: ("offset-sign",), BIN: ("bin-right",),
             MAST: ("mast-mast-grounded", "mast-no-dowels")},
    "wim": {JIG: ("jig-three-corners",), DRAWER: ("offset-forgotten",), MAST: ("mast-merged", "mast-turning")},
}  # fmt: skip
#: Who hands in another's newest build as their own: (who, exercise) -> (whose, how).
COPIES: dict[tuple[str, int], tuple[str, Copied]] = {
    ("wim", JIG): ("quinn", "as it was"),
    ("vera", DRAWER): ("sven", "renamed"),
    ("tess", MAST): ("umar", "exported again"),
}
#: Days from now when each exercise is due, in each class.
_DUE = {JIG: -12, DRAWER: -1, BIN: 4, MAST: 11}
_DUE_OLDER = {JIG: -40, DRAWER: -30, BIN: -12, MAST: -1}
_SETTINGS: dict[str, Any] = {
    "time_zone": "Europe/Dublin",
    "grades": [{"name": name, "at_least": least} for name, least in (("A", 85), ("B", 70), ("C", 55), ("D", 40))],
}


@dataclass(frozen=True, slots=True, kw_only=True)
class _Class:
    """A class of the sample school, as it is filled."""

    classroom: Classroom
    teacher: User
    students: Mapping[str, User]
    plan: Mapping[str, Mapping[int, tuple[str, ...]]]
    due: Mapping[int, int]
    #: Exercises whose cards are returned.
    returned: Sequence[int]


def fill(database: Database, *, progress: Callable[[str], None]) -> None:
    """Fill an empty database with the sample school, its builds as the grader found them."""
    graded = read_graded()
    with database.session() as session:
        versions = [keep_version(session, exercise.bundle, exercise.prepared) for exercise in graded]
        teacher, second = _add(session, TEACHER, "administrator"), _add(session, SECOND_TEACHER, "teacher")
        classes = [
            _open(session, "Workshop 9B", teacher, STUDENTS, versions, _YOUNGER, _DUE, (JIG,)),
            _open(session, "Workshop 10A", teacher, OLDER_STUDENTS, versions, _OLDER, _DUE_OLDER, (JIG, DRAWER, BIN)),
        ]
        class_queries.share_class(session, classes[1].classroom.id, second.id)
        for sample_class in classes:
            progress(f"Handing in the builds of {sample_class.classroom.name}")
            builds = dict(_hand_in_all(session, sample_class, versions, graded))
            _return_all(session, sample_class, versions)
            _talk(session, sample_class, versions, builds)
            _practise(session, sample_class, versions)
            _plan(session, sample_class, versions)


def _add(session: Session, person: Person, role: str, *, home_teacher: User | None = None) -> User:
    user = people_queries.add_user(
        session,
        login=person.login,
        name=person.name,
        role=role,
        password_hash=hash_password(person.password),
        home_teacher_id=home_teacher.id if home_teacher else None,
    )
    user.sourced_id = person.login
    return user


def _open(
    session: Session,
    name: str,
    teacher: User,
    people: Sequence[Person],
    versions: Sequence[ExerciseVersion],
    plan: Mapping[str, Mapping[int, tuple[str, ...]]],
    due: Mapping[int, int],
    returned: Sequence[int],
) -> _Class:
    students = {person.login: _add(session, person, "student", home_teacher=teacher) for person in people}
    classroom = class_queries.add_class(session, name=name, teacher=teacher, students=list(students.values()))
    class_queries.change_class(session, classroom, name=name, settings=_SETTINGS)
    for place, version in enumerate(versions):
        assignment = exercise_queries.assign(session, class_id=classroom.id, version_id=version.id, place=place)
        assignment.due_at = _noon(due[place])
    session.flush()
    return _Class(classroom=classroom, teacher=teacher, students=students, plan=plan, due=due, returned=returned)


def _noon(days: float) -> datetime:
    today = datetime.now(UTC).replace(hour=12, minute=0, second=0, microsecond=0)
    return today + timedelta(days=days)


def _hand_in_all(
    session: Session, room: _Class, versions: Sequence[ExerciseVersion], graded: Sequence[GradedExercise]
) -> Iterator[tuple[tuple[str, int], Build]]:
    """Keep every build of the plan, the earlier ones earlier; yield the newest of each student and exercise."""
    newest: dict[tuple[str, int], tuple[GradedSample, Mapping[str, bytes]]] = {}
    # who copies comes after whoever was copied from
    copiers = {login for login, _ in COPIES}
    order = sorted(enumerate(room.plan.items()), key=lambda own: own[1][0] in copiers)
    for number, (login, work) in order:
        for place, names in work.items():
            for attempt, name in enumerate(names):
                # the last ones in the list come late
                before = timedelta(minutes=190 - 17 * number + 1440 * (len(names) - 1 - attempt))
                at = min(_noon(room.due[place]) - before, datetime.now(UTC) - timedelta(minutes=number))
                sample = graded[place].samples[name]
                files: Mapping[str, bytes] = as_written_by(login, sample.files, at)
                if attempt == len(names) - 1 and (login, place) in COPIES:
                    whose, copied = COPIES[login, place]
                    sample, files = newest[whose, place]
                    files = as_copied(copied, login, files, at)
                newest[login, place] = sample, files
                build = build_queries.add_build(
                    session,
                    class_id=room.classroom.id,
                    version_id=versions[place].id,
                    student_id=room.students[login].id,
                    files=files,
                )
                build.handed_in_at = at
                session.flush()
                work_queries.finish_measuring(
                    session,
                    build.id,
                    version_id=versions[place].id,
                    engine_version=ENGINE_VERSION,
                    report=sample.report,
                    scene=sample.scene,
                )
                yield (login, place), build


def _return_all(session: Session, room: _Class, versions: Sequence[ExerciseVersion]) -> None:
    session.expire_all()
    rules = rules_of_class(session, room.classroom.id)
    for place in room.returned:
        for build in build_queries.builds_of_exercise(session, room.classroom.id, versions[place].id):
            total = tally(standing(build), rules.of(build.version, build.student_id))[0]
            marking_queries.return_build(session, build, teacher_id=room.teacher.id, total=total)


#: Kinds that the sample students practise, and drills of each.
_PRACTISED, _DRILLS = ("what-is-free", "find-the-fault", "work-it-out", "one-mate-short"), 6


def _practise(session: Session, room: _Class, versions: Sequence[ExerciseVersion]) -> None:
    """Give two sets, and answer drills over three weeks: most get better, some slips come back."""
    free = practice_queries.give_set(
        session, room.classroom.id, title="Freedom, once more", kinds=["what-is-free", "one-mate-short"], level=None,
        number=8, until=_noon(5), version_id=None, seconds=None, marks=None,
    )  # fmt: skip
    practice_queries.give_set(
        session, room.classroom.id, title="Sizes of the drawer", kinds=["find-the-fault", "read-the-sheet"], level=1,
        number=4, until=_noon(6), version_id=versions[DRAWER].id, seconds=60, marks=4.0,
    )  # fmt: skip
    for number, student in enumerate(room.students.values()):
        for place, kind in enumerate(_PRACTISED[: 1 + number % len(_PRACTISED)]):
            for k in range(_DRILLS):
                seed = 100 * number + k
                session.add(
                    PracticeAnswer(
                        student_id=student.id,
                        set_id=free.id if kind in free.kinds and k < 4 else None,
                        kind=kind,
                        level=1,
                        seed=seed,
                        is_right=(number + k + place) % 3 > 0 or k > 3,
                        slip=drill_of(kind, seed, 1).slip,
                        answered_at=_noon(-18 + 3 * k) - timedelta(minutes=7 * number + place),
                    )
                )


#: Weeks of the plan before and after this one; the lesson's weekday, from Monday, its hour and minute, and its length.
_WEEKS, _WEEKDAY, _BELL, _LESSON_MIN = range(-6, 4), 1, (9, 15), 100


def _plan(session: Session, room: _Class, versions: Sequence[ExerciseVersion]) -> None:
    """Plan a double lesson each week; each exercise is worked on in the last one before it is due."""
    zone = ZoneInfo(_SETTINGS["time_zone"])
    monday = datetime.now(zone).replace(hour=_BELL[0], minute=_BELL[1], second=0, microsecond=0)
    monday -= timedelta(days=monday.weekday())
    starts = [moved_by(monday, 7 * week + _WEEKDAY, zone) for week in _WEEKS]
    plan_queries.add_lessons(session, room.classroom.id, starts, minutes=_LESSON_MIN, room="W2", title="")
    session.flush()
    assignments = class_queries.assignments_of_class(session, room.classroom.id)
    lessons = plan_queries.lessons_of_class(session, room.classroom.id)
    for place, version in enumerate(versions):
        lesson = max((own for own in lessons if own.ends_at < _noon(room.due[place])), key=lambda own: own.starts_at)
        before = versions[place - 1].exercise if place else ""
        earlier = next((own for own in reversed(lessons) if own.starts_at < lesson.starts_at), lesson)
        plan_queries.plan_exercise(
            session, assignments[version.id], lesson_id=lesson.id, opens_at=None, after=before,
            stages={version.document["stages"][0]["name"]: earlier.id},
        )  # fmt: skip


def _talk(
    session: Session, room: _Class, versions: Sequence[ExerciseVersion], builds: Mapping[tuple[str, int], Build]
) -> None:
    """Let people ask, answer, agree and raise hands, so that every state is there."""
    if "bram" not in room.students:
        for login in ("otis", "priya"):
            build = builds[login, MAST]
            marking_queries.add_override(
                session,
                build,
                check_id="explained",
                marks=3.0,
                comment="sound: each fit with its gap and why",
                teacher_id=room.teacher.id,
            )
        return
    drawer = versions[DRAWER].id
    people = {login: student.id for login, student in room.students.items()}
    terms: dict[str, Any] = {"due_at": None, "is_absent": False}
    for login, agreed in (
        ("jory", {"is_absent": True}),
        ("greta", {"due_at": _noon(3)}),
    ):
        class_queries.agree(
            session, class_id=room.classroom.id, version_id=drawer, student_id=people[login], **(terms | agreed)
        )
    group_queries.keep_group(session, room.classroom.id, drawer, [people["mina"], people["noor"]])
    asked = "My gap is 0.4 on the left. Why is the right one wrong?"
    marking_queries.ask(
        session, builds["bram", DRAWER], check_id="knob.pilot", text="I drew a Ø4 drill. Is 2 its radius?"
    )
    marking_queries.ask(session, builds["dunya", DRAWER], check_id="gap.right", text=asked)
    marking_queries.raise_hand(session, builds["finn", DRAWER], student_id=people["finn"], check_id="drawer.free")
    for text, code in (
        ("Type the diameter: the sheet gives Ø.", "radius-for-diameter"),
        ("Both gaps come off the width, left and right.", "follows"),
        ("Drag it before you hand in: if it does not move, a mate is one too many.", "fixed-where-it-should-move"),
    ):
        marking_queries.bank_comment(session, room.teacher.id, text, code)
    log(session, "class-made", who_id=room.teacher.id, class_id=room.classroom.id)
