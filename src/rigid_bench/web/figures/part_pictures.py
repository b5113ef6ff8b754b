"""The parts of an exercise, each as a small picture: drawn once, since a version does not change."""

from collections import OrderedDict

from markupsafe import Markup

from rigid_bench.store.tables import ExerciseVersion
from rigid_bench.web.figures.views import thumbnails

#: So many exercises are remembered; a school has a few dozen at work at once.
_MOST = 64
_drawn: OrderedDict[str, dict[str, Markup]] = OrderedDict()


def part_pictures(version: ExerciseVersion) -> dict[str, Markup]:
    """Return a small picture of each part of an exercise; what was prepared is read and drawn the first time alone."""
    pictures = _drawn.pop(version.digest, None)
    if pictures is None:
        pictures = thumbnails(version.prepared)
    _drawn[version.digest] = pictures
    while len(_drawn) > _MOST:
        _drawn.popitem(last=False)
    return pictures
