"""A teacher's exercise of which drills are made: its assembly as a mechanism, its sheets with their sizes."""

import json
import random
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.exercise.bundle import CheckModel, Exercise, read_exercise
from rigid_bench.core.formats.pictures import AskedSize, RoundModel, Sheet
from rigid_bench.core.grading.diagnosis.causes import LENGTHS
from rigid_bench.core.practice.mechanisms.maker import Mechanism
from rigid_bench.core.practice.unfit import Unfit
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, Feature, FrameFeature
from rigid_bench.core.wording.language import _
from rigid_bench.core.wording.phrases import feature_phrase
from rigid_bench.core.wording.quantities import number
from rigid_bench.core.wording.saying import say

#: What of an exercise a kind of drill shows: its sheets, which a class has anyway, or how its assembly is mated.
Shows = Literal["sheets", "mates"]
#: mm: an axis runs along another's line.
_ON_LINE = 1e-3


@dataclass(frozen=True, slots=True, kw_only=True)
class ExerciseSource:
    """An exercise that drills are made of."""

    exercise: Exercise
    #: The solved assembly as the bundle holds it; None for single parts.
    reference: dict[str, Any] | None
    sheet: Sheet
    #: By check: what a dimension asks, in the exercise's unit.
    sizes: Mapping[str, AskedSize]
    #: The slip that a drill plants, where it can; "" for any.
    slip: str = ""

    def part_with_sizes(self, chance: random.Random, least: int) -> tuple[str, list[tuple[CheckModel, float]]]:
        """Draw by lot a part whose sheet asks so many lengths at least; raises `Unfit` where there is none."""
        offers = [(part, sizes) for part in sorted(self.sheet.parts) if len(sizes := self.sizes_of(part)) >= least]
        if not offers:
            raise Unfit
        return chance.choice(offers)

    def sizes_of(self, part: str) -> list[tuple[CheckModel, float]]:
        """Return the lengths that are asked of a part, with their nominals, each under a title of its own."""
        checks = [check for check in self.exercise.model.checks if check.fields.get("part") == part]
        titles = Counter(check.title for check in checks)
        return [
            (check, self.sizes[check.id].nominal)
            for check in checks
            if check.id in self.sizes
            and check.fields.get("measure") in LENGTHS
            and check.fields.get("value", "required") == "required"
            and self.sizes[check.id].nominal > 0
            and titles[check.title] == 1
        ]

    def part_name(self, part: str) -> str:
        """Return what a part is called in a sentence."""
        return _in_a_sentence(self.exercise.part_name(part))

    def mechanism(self) -> Mechanism:
        """Return the solved assembly as a mechanism, its mates under short ids.

        Raises
        ------
        Unfit
            The exercise has no assembly, nothing of it is grounded, or nothing is mated.
        """
        built = self.exercise.reference
        if (
            built is None
            or self.reference is None
            or not built.mates
            or all(not own.grounded for own in built.instances)
        ):
            raise Unfit
        names = {own.id: _in_a_sentence(self.exercise.instance_name(own.id)) for own in built.instances}
        mates = [{**mate, "id": f"m{place}"} for place, mate in enumerate(self.reference["mates"], 1)]
        mated = {built.instances[index].id for mate in built.mates for index in (mate.a, mate.b)}
        return Mechanism(
            build={**self.reference, "mates": mates},
            names=names,
            shapes={},
            features={
                f"m{place}": (
                    self._feature_words(built.instances[mate.a].part, mate.feature_a),
                    self._feature_words(built.instances[mate.b].part, mate.feature_b),
                )
                for place, mate in enumerate(built.mates, 1)
            },
            asked=[own.id for own in built.instances if not own.grounded and own.id in mated],
        )

    def _feature_words(self, part: str, feature: Feature) -> str:
        """Say which feature of a part is meant: an axis by the nearest of what is round about it, the smaller first."""
        if not isinstance(feature, AxisFeature | CylinderFeature | FrameFeature) or part not in self.sheet.parts:
            return say(feature_phrase(feature))
        about = [
            (_beyond(own, feature.point), own.diameter, own.kind)
            for own in self.sheet.parts[part].rounds
            if _is_about(own, feature)
        ]
        if not about:
            return say(feature_phrase(feature))
        _away, diameter, kind = min(about)
        return _("the axis of the Ø{diameter} {kind}", diameter=number(diameter), kind=kind)


def _in_a_sentence(name: str) -> str:
    """Write a name small at its front, unless it begins as an abbreviation: "Screw M5" becomes "screw M5"."""
    return name if name[1:2].isupper() else name[:1].lower() + name[1:]


def _line(own: RoundModel) -> tuple[NDArray[np.float64], NDArray[np.float64], float]:
    """Return where something round begins, its direction, and how long it is."""
    start, along = np.array(own.start), np.array(own.end) - np.array(own.start)
    length = float(np.linalg.norm(along))
    return start, along / max(length, 1e-9), length


def _is_about(own: RoundModel, feature: AxisFeature | CylinderFeature | FrameFeature) -> bool:
    """Say whether something round has a feature's axis for its own."""
    start, way, length = _line(own)
    off = np.linalg.norm(np.cross(feature.point - start, way)), np.linalg.norm(np.cross(way, feature.direction))
    return length > 0 and bool(max(off) < _ON_LINE)


def _beyond(own: RoundModel, place: NDArray[np.float64]) -> float:
    """Return how far a place on its line lies beyond its ends, mm, to a tenth."""
    start, way, length = _line(own)
    along = float((place - start) @ way)
    return round(max(-along, along - length, 0.0), 1)


def source_of(files: Mapping[str, bytes], sheet: Sheet, sizes: Mapping[str, AskedSize]) -> ExerciseSource:
    """Read an exercise that drills are made of.

    Parameters
    ----------
    files
        Its bundle, by name.
    sheet, sizes
        What is seen of its parts, and what its dimensions ask by check.

    Raises
    ------
    InvalidDocument
        The bundle cannot be read.
    """
    exercise = read_exercise(files)
    reference = exercise.model.reference
    return ExerciseSource(
        exercise=exercise, reference=json.loads(files[reference]) if reference else None, sheet=sheet, sizes=sizes
    )
