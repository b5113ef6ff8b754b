"""Drills of a class's own exercises: read once, remembered while they are practised."""

import threading
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from rigid_bench.core.formats.archive import read_zip
from rigid_bench.core.grading.report.models import Prepared
from rigid_bench.core.practice.exercise_source import ExerciseSource, source_of
from rigid_bench.core.practice.kind import DrillKind
from rigid_bench.core.practice.registry import KINDS
from rigid_bench.core.values.errors import NotFound
from rigid_bench.core.wording.language import _
from rigid_bench.store.queries import exercise_queries, practice_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.tables import ExerciseVersion

#: Exercises that are remembered.
_MOST = 8


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class PractisedExercise:
    """A version of an exercise, read; equal only to itself, for drills to be remembered by it."""

    version_id: int
    title: str
    source: ExerciseSource
    prepared: Prepared


@dataclass(frozen=True, slots=True, kw_only=True)
class OfferedExercise:
    """An exercise with the kinds of drill that a person may have of it."""

    version: ExerciseVersion
    kinds: Sequence[DrillKind]


_read: dict[int, PractisedExercise] = {}
_lock = threading.Lock()


def offered_exercises(session: Session, user: Person) -> list[OfferedExercise]:
    """List the exercises of a person's classes with the kinds that can be made of each, the newest version of each."""
    offered: dict[str, OfferedExercise] = {}
    for version, shows_mates in practice_queries.versions_to_practise(session, user):
        kinds = [own for own in KINDS.values() if own.make_from and (shows_mates or own.shows != "mates")]
        offered.setdefault(version.exercise, OfferedExercise(version=version, kinds=kinds))
    return list(offered.values())


def practised_exercise(session: Session, user: Person, version_id: int, kind: str) -> PractisedExercise:
    """Return an exercise of a person's classes, of which a drill is made.

    Raises
    ------
    NotFound
        No class of theirs works on it, or it shows how the assembly is mated before a card was returned.
    """
    versions = practice_queries.versions_to_practise(session, user)
    own = next(((version, shows) for version, shows in versions if version.id == version_id), None)
    if own is None:
        raise NotFound(_("practice"), _("no class of yours works on this exercise"), _("Go back to practice"))
    if kind in KINDS and KINDS[kind].shows == "mates" and KINDS[kind].make_from and not own[1]:
        problem, step = _("this shows how the exercise is mated"), _("Practise its sheets until your card is returned")
        raise NotFound(_("practice"), problem, step)
    with _lock:
        known = _read.get(version_id)
    if known is None:
        known = _read_version(exercise_queries.version(session, version_id))
        with _lock:
            while len(_read) >= _MOST:
                _read.pop(next(iter(_read)))
            _read[version_id] = known
    return known


def _read_version(version: ExerciseVersion) -> PractisedExercise:
    prepared = Prepared.model_validate(version.prepared)
    sizes = {check.id: check.size for check in prepared.checks if check.size}
    source = source_of(read_zip(version.bundle, name=version.title), prepared.sheet, sizes)
    return PractisedExercise(version_id=version.id, title=version.title, source=source, prepared=prepared)
