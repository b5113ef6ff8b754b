"""What a submission holds, and what of the exercise it is."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from rigid_bench.core.exercise.bundle import Exercise
from rigid_bench.core.exercise.references import read_reference
from rigid_bench.core.grading.intake.found_unit import in_found_unit
from rigid_bench.core.grading.intake.submission import Submission, read_submission
from rigid_bench.core.grading.matching.match import Matching, match
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class MatchedSubmission:
    """A submission that was read and matched with its exercise."""

    #: In the unit it was found to be in.
    submission: Submission
    #: Features of each required part, by part id.
    references: Mapping[str, PartFeatures]
    matching: Matching


def match_submission(
    exercise: Exercise, files: Mapping[str, bytes], *, tolerance: Tolerance, progress: Callable[[str], None]
) -> MatchedSubmission:
    """Read a submission and find the exercise's parts in it.

    Parameters
    ----------
    exercise
        What is asked, with its reference files.
    files
        What was handed in, by name.
    tolerance
        For reading features and matching parts.
    progress
        Told in a few words what is being done.

    Returns
    -------
    Understood

    Raises
    ------
    UnreadableFile, InvalidDocument, GeometryError
        The exercise or the submission cannot be used.
    """
    submission = read_submission(files, tolerance=tolerance, progress=progress)
    progress(_("Comparing with the exercise"))
    references = read_references(exercise, tolerance=tolerance)
    submission = in_found_unit(submission, references, tolerance=tolerance)
    matching = match(exercise, references, submission, tolerance=tolerance)
    return MatchedSubmission(submission=submission, references=references, matching=matching)


def read_references(exercise: Exercise, *, tolerance: Tolerance) -> dict[str, PartFeatures]:
    """Read the features of every required part that has a reference model, by part id.

    Raises
    ------
    InvalidDocument
        A reference file does not hold exactly one solid.
    UnreadableFile
        A reference file cannot be read.
    """
    return {part.id: read_reference(exercise, part, tolerance=tolerance) for part in exercise.model.parts if part.file}
