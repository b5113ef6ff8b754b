"""The reference models of an exercise, their features read once."""

from functools import lru_cache

from rigid_bench.core.exercise.bundle import Exercise, PartModel
from rigid_bench.core.kernel.feature_reader import read_features
from rigid_bench.core.kernel.read_model import read_model
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _


def read_reference(exercise: Exercise, part: PartModel, *, tolerance: Tolerance) -> PartFeatures:
    """Read the features of a required part that has a reference model.

    Raises
    ------
    InvalidDocument
        The file does not hold exactly one solid.
    UnreadableFile
        The file cannot be read.
    """
    name = part.file or ""
    return _read(
        exercise.part_files[part.id], name, _("exercise part '{id}', file '{name}'", id=part.id, name=name), tolerance
    )


@lru_cache(maxsize=128)  # a class hands in thirty builds of one exercise
def _read(data: bytes, name: str, where: str, tolerance: Tolerance) -> PartFeatures:
    solids = [part for part in read_model(data, name=name).parts if part.solids]
    if len(solids) != 1:
        raise InvalidDocument(where, _("it holds {count} solids", count=len(solids)), _("Give one solid per part file"))
    return read_features(solids[0].shape, tolerance=tolerance)
