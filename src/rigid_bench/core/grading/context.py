"""What the checks look at: exercise, reference, submission, and what was worked out once for all."""

from collections.abc import Callable, Hashable, Mapping
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from rigid_bench.core.assembly.contact.clearance import Clearance, PlacedSolid, clearances, place
from rigid_bench.core.assembly.contact.contacts import Contact, contact_build, find_contacts
from rigid_bench.core.assembly.freedom.analysis import Freedom, freedom
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.freedom.path import Path
from rigid_bench.core.assembly.motion.removal import Placing, Way, removal_sequence
from rigid_bench.core.assembly.motion.sweep import ROUND, Stop, run
from rigid_bench.core.assembly.motion.watch import Watch
from rigid_bench.core.exercise.bundle import Exercise
from rigid_bench.core.formats.build import Build, Instance
from rigid_bench.core.grading.intake.submission import Submission
from rigid_bench.core.grading.matching.match import Matching
from rigid_bench.core.grading.report.models import CheckResult, Report
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _, series


@dataclass(frozen=True, eq=False)
class Context:
    """One submission beside its exercise, matched."""

    exercise: Exercise
    references: Mapping[str, PartFeatures]
    submission: Submission
    matching: Matching
    tolerance: Tolerance
    #: Results of the checks before this one, in the exercise's order: a gap may name a size as its cause.
    done: list[CheckResult]
    progress: Callable[[str], None]
    #: Grades other files by another exercise: a changed model by what is asked after the change.
    regrade: Callable[[Exercise, Mapping[str, bytes]], Report]
    #: By check: the build with the one step taken that puts its freedom right.
    repairs: dict[str, Build] = field(default_factory=dict)
    #: Parts that are off together: the check that said so first.
    groups: dict[tuple[str, ...], str] = field(default_factory=dict)
    _stops: dict[Hashable, Stop] = field(default_factory=dict)
    _watches: dict[Path, Watch] = field(default_factory=dict)

    def registered(self, part: str, *, where: str) -> RegisteredPart | None:
        """Return the reference laid over the student's part, or None where that part is missing.

        Raises
        ------
        InvalidDocument
            The exercise has no such part.
        """
        known = series(known_part.id for known_part in self.exercise.model.parts)
        if not any(known_part.id == part for known_part in self.exercise.model.parts):
            raise InvalidDocument(
                where, _("the exercise has no part '{part}'", part=part), _("Name one of: {known}", known=known)
            )
        index = self.matching.parts.get(part)
        return None if index is None else self.matching.registered[index][0]

    def part_of(self, instance: str, *, where: str) -> str:
        """Return the part id of a required instance.

        Raises
        ------
        InvalidDocument
            The reference build has no such instance.
        """
        reference = self.exercise.reference
        known = {known_instance.id: known_instance.part for known_instance in reference.instances} if reference else {}
        if instance not in known:
            named = (
                _("Name one of: {known}", known=series(known))
                if known
                else _('Add a "reference" build to the exercise')
            )
            raise InvalidDocument(
                where, _("the reference build has no instance '{instance}'", instance=instance), named
            )
        return known[instance]

    def stop(self, motion: Motion, index: int, to: int | None, *, way: int) -> Stop:
        """Return what ends a motion of `freedom` on one way, worked out once for all checks that ask; as `run`."""
        assert self.freedom is not None
        key, back = ((index, to, side, motion.kind, np.round(motion.twist, 9).tobytes()) for side in (way, -way))
        came_round = back in self._stops and self._stops[back].amount > ROUND
        if came_round and motion.kind == "rotation" and not self.freedom.system.has_limits:
            return self._stops[back]  # what meets nothing one way meets nothing the other
        if key not in self._stops:
            self._stops[key] = run(
                self.freedom,
                motion,
                index,
                to,
                self.solids,
                way=way,
                tolerance=self.tolerance,
                overlaps=lambda a, b: frozenset((a, b)) in self._overlaps,
                watches=self._watches,
            )
        return self._stops[key]

    def registrations(self, instance: int) -> tuple[RegisteredPart, ...]:
        """Return all equal ways in which the reference lies over a student's instance."""
        part = self.submission.instances[instance].part
        return () if part is None else self.matching.registered.get(part, ())

    def student_index(self, instance: str, *, where: str) -> int | None:
        """Return the student's instance for a required one, or None where it is missing."""
        self.part_of(instance, where=where)
        return self.matching.instances.get(instance)

    @cached_property
    def base(self) -> tuple[int, Pose] | None:
        """The student's instance of the reference's base, and the base's pose in the reference; None without one."""
        reference = self.exercise.reference
        for instance in reference.instances if reference else ():
            if instance.grounded and instance.id in self.matching.instances:
                return self.matching.instances[instance.id], instance.pose
        return None

    @cached_property
    def freedom(self) -> Freedom | None:
        """What the student's mates leave free, or the contacts where the exercise lets the geometry speak.

        None where mates are asked for and no build file was handed in.
        """
        flow, build = self.exercise.model.flow, self.submission.build
        if flow == "position only" or (flow == "either" and not (build and build.mates)):
            build = self._held_by_contacts()
        if build is None:
            return None
        self.progress(_("Working out what can still move"))
        return freedom(build, tolerance=self.tolerance)

    @cached_property
    def contacts(self) -> list[Contact]:
        """What the student's parts show of their relations where they stand."""
        self.progress(_("Looking which faces meet"))
        return find_contacts(self._shapes, tolerance=self.tolerance)

    @cached_property
    def _shapes(self) -> list[tuple[PartFeatures, Pose]]:
        """The shape and place of every instance that has one."""
        parts = self.submission.parts
        return [
            (parts[instance.part].features, instance.pose)
            for instance in self.submission.instances
            if instance.part is not None
        ]

    def _held_by_contacts(self) -> Build | None:
        """Return the build as its contacts hold it; None where a part came without its faces."""
        own = self.submission.instances
        if len(self._shapes) < len(own) or any(part.is_mesh for part, _ in self._shapes):
            return None
        declared = {k for k, instance in enumerate(own) if instance.grounded}
        reference = self.exercise.reference
        bases = [instance.id for instance in reference.instances if instance.grounded] if reference else []
        grounded = declared or {self.matching.instances[base] for base in bases if base in self.matching.instances}
        instances = [
            Instance(id=instance.id, part=str(instance.part), grounded=k in grounded, pose=instance.pose)
            for k, instance in enumerate(own)
        ]
        return contact_build(instances, self.contacts, is_against=self.exercise.model.contacts == "against")

    @cached_property
    def solids(self) -> dict[int, PlacedSolid]:
        """The student's solids where they stand, by instance."""
        return {
            index: place(str(index), self.submission.parts[instance.part].features, instance.pose)
            for index, instance in enumerate(self.submission.instances)
            if instance.part is not None
        }

    @cached_property
    def clearances(self) -> list[Clearance]:
        """Gaps and overlaps of all near pairs of the student's solids."""
        return clearances(list(self.solids.values()), tolerance=self.tolerance, progress=self.progress)

    @cached_property
    def _overlaps(self) -> set[frozenset[int]]:
        """The pairs of instances that pass through each other where they stand."""
        return {frozenset((int(gap.a), int(gap.b))) for gap in self.clearances if gap.overlap_mm3}

    @cached_property
    def placings(self) -> dict[int, Placing]:
        """Each instance's part and place, where it has a shape."""
        return {index: (solid.part, solid.pose) for index, solid in self.solids.items()}

    @cached_property
    def removal_sequence(self) -> list[Way]:
        """How the student's build comes apart, one instance after the other, the base last."""
        self.progress(_("Looking how it comes apart"))
        freedom = self.freedom
        motions = {k: freedom.motions(k) for k in self.placings if k < len(freedom.poses)} if freedom else {}
        last = None if self.base is None else self.base[0]
        return removal_sequence(self.placings, motions, tolerance=self.tolerance, last=last)

    def name_of(self, index: int) -> str:
        """Return what a student's instance is called: the required instance's name where it was matched."""
        for required, matched in self.matching.instances.items():
            if matched == index:
                return self.exercise.instance_name(required)
        return self.submission.instances[index].name
