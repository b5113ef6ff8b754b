"""The sample school: one class, its teacher, its students, and builds at every state. All invented."""

import hashlib
import io
import json
import zipfile
from collections.abc import Callable, Mapping

from rigid_bench.core.grading.report import Prepared
from rigid_bench.demo import drill_jig, pedal_bin, seed_drawer, weather_mast
from rigid_bench.demo.people import STUDENTS, TEACHER, Person
from rigid_bench.jobs.sandbox import Sandbox
from rigid_bench.jobs.tasks import Grader
from rigid_bench.store import queries
from rigid_bench.store.database import Database
from rigid_bench.store.tables import Classroom, ExerciseVersion, User
from rigid_bench.web.passwords import hash_password

#: The exercises in the order in which they are taught.
_EXERCISES = (drill_jig, seed_drawer, pedal_bin, weather_mast)
#: Who handed in what; those who are not named have not handed in yet.
_HANDED_IN = {
    "ada": ("jig-right", "right", "bin-right", "mast-right"),
    "bram": ("jig-radius-for-diameter", "jig-right", "radius-for-diameter", "bin-joint-short", "mast-screw-missing"),
    "chidi": ("jig-own-corners", "right", "bin-pedal-fixed", "mast-collar-tight"),
    "dunya": ("jig-edge-for-centre", "too-wide", "bin-rod-short", "mast-vane-loose"),
    "edda": ("jig-three-corners", "nothing-grounded", "bin-radius-for-diameter", "mast-bearing-wrong"),
    "finn": ("jig-one-dowel", "fixed", "bin-thin-stud"),
    "greta": ("jig-dowel-slides", "no-knob"),
    "hamid": ("thin-wall", "right"),
    "ines": ("step-only",),
}
_RETURNED = ("chidi", "hamid")


def pack(files: Mapping[str, bytes]) -> bytes:
    """Pack a bundle's files into a zip that is the same bytes for the same files."""
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        for name in sorted(files):
            archive.writestr(zipfile.ZipInfo(name), files[name])
    return packed.getvalue()


def add_exercise(database: Database, sandbox: Sandbox, files: Mapping[str, bytes]) -> ExerciseVersion:
    """Check an exercise, draw its sheet and keep it as a version.

    Raises
    ------
    RigidBenchError
        The exercise cannot be used.
    """
    prepared: Prepared = sandbox.run("prepare_exercise", dict(files), name="exercise")
    document = json.loads(files["exercise.json"])
    content = hashlib.sha256(b"".join(name.encode() + files[name] for name in sorted(files)))
    with database.session() as session:
        return queries.add_version(
            session,
            exercise=document["id"],
            title=document["title"],
            digest=content.hexdigest(),
            bundle=pack(files),
            document=document,
            prepared=prepared.model_dump(mode="json"),
        )


def fill(database: Database, sandbox: Sandbox, *, progress: Callable[[str], None]) -> None:
    """Fill an empty database with the sample school, graded by the grader that the queue uses."""
    versions = []
    for module in _EXERCISES:
        progress(f"Making the exercise {module.__name__.rsplit('.', 1)[-1].replace('_', ' ')}")
        versions.append(add_exercise(database, sandbox, module.bundle()))
    with database.session() as session:
        teacher = _add(database, TEACHER, "teacher")
        students = {each.login: _add(database, each, "student") for each in STUDENTS}
        classroom = queries.add_class(session, name="Workshop 9B", teacher=teacher, students=list(students.values()))
        for place, version in enumerate(versions):
            queries.assign(session, class_id=classroom.id, version_id=version.id, place=place)
    grader = Grader(database, sandbox)
    samples = {
        sample.name: (version, sample)
        for module, version in zip(_EXERCISES, versions, strict=True)
        for sample in module.SAMPLES
    }
    for login, names in _HANDED_IN.items():
        for name in names:
            progress(f"Measuring the build of {students[login].name}")
            version, sample = samples[name]
            _hand_in(database, grader, classroom, version, students[login], sample.files())
    drawers = versions[_EXERCISES.index(seed_drawer)]
    _return(database, classroom, drawers, teacher, [students[login] for login in _RETURNED])


def _add(database: Database, person: Person, role: str) -> User:
    with database.session() as session:
        return queries.add_user(
            session, login=person.login, name=person.name, role=role, password_hash=hash_password(person.password)
        )


def _hand_in(
    database: Database,
    grader: Grader,
    classroom: Classroom,
    version: ExerciseVersion,
    student: User,
    files: Mapping[str, bytes],
) -> None:
    with database.session() as session:
        build = queries.add_build(
            session, class_id=classroom.id, version_id=version.id, student_id=student.id, files=files
        )
    grader.grade(build.id)


def _return(
    database: Database, classroom: Classroom, version: ExerciseVersion, teacher: User, students: list[User]
) -> None:
    with database.session() as session:
        newest = queries.newest_builds_of_class(session, classroom.id)
        for student in students:
            queries.return_build(session, newest[student.id, version.id], teacher_id=teacher.id)
