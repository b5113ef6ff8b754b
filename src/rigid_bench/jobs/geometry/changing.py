"""What a change of sizes touches: runs in the sandbox, files in, changed files and what is found of them out."""

from collections.abc import Mapping, Sequence

from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.exercise.change_impact.change_sizes import change_sizes, joined_parts, with_changed_part
from rigid_bench.core.exercise.change_impact.models import ChangedPart, SizeChange
from rigid_bench.core.exercise.change_impact.touched_checks import touched, with_new_sizes
from rigid_bench.core.exercise.review.examine import examine
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _
from rigid_bench.jobs.geometry.progress import noting
from rigid_bench.jobs.graded import Impact


def change_exercise(files: Mapping[str, bytes], changes: Sequence[SizeChange], note: str) -> Impact:
    """Change sizes of an exercise, and say what that touches in it."""
    noting(note)(_("Changing the models"))
    changed = change_sizes(files, changes, tolerance=Tolerance())
    return _impact(files, changed.files, changed.parts, note)


def take_changed_parts(files: Mapping[str, bytes], parts: Mapping[str, ChangedPart], note: str) -> Impact:
    """Put changed models of parts into another exercise that has them, and say what that touches in it."""
    noting(note)(_("Putting the changed parts in"))
    after = dict(files)
    for part, changed in parts.items():
        after = with_changed_part(after, part, changed, tolerance=Tolerance())
    return _impact(files, after, parts, note)


def _impact(
    before: Mapping[str, bytes], after: Mapping[str, bytes], parts: Mapping[str, ChangedPart], note: str
) -> Impact:
    tolerance, progress = Tolerance(), noting(note)
    progress(_("Measuring what has changed"))
    files = with_new_sizes(before, after, tolerance=tolerance)
    return Impact(
        files=files,
        parts=dict(parts),
        joined=joined_parts(before, parts),
        checks=touched(before, files, tolerance=tolerance),
        examined=examine(read_exercise(files), files, tolerance=tolerance, progress=progress),
    )
