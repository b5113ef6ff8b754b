"""Which material a student says a part is of, and whether it is the one that was asked."""

from rigid_bench.core.formats.message import phrase
from rigid_bench.core.grading.context import Context
from rigid_bench.core.grading.report.models import Cause
from rigid_bench.core.standards.materials import DENSITIES


def stated_material(context: Context, part: str, check: str) -> str:
    """Return the material that the build file gives a part, or a note names; "" where nothing says it.

    Parameters
    ----------
    context
        The submission, matched.
    part, check
        Ids of the required part, and of the check that a note may be for.
    """
    build, submitted = context.submission.build, context.matching.parts.get(part)
    for own, instance in zip(context.submission.instances, build.instances if build else (), strict=False):
        if own.part == submitted:
            said = (
                next((candidate.material for candidate in build.parts if candidate.id == instance.part), "")
                if build
                else ""
            )
            if said:
                return _known(said) or said
    return _known(context.submission.statements.get(check, ""))


def _known(text: str) -> str:
    """Return the material of the table that a text names, the longest name first; "" without one."""
    names = sorted(DENSITIES, key=len, reverse=True)
    return next((name for name in names if name.lower() in text.lower()), "")


def wrong_material(stated: str, asked: str, volume_mm3: float) -> Cause | None:
    """Name the wrong material, or that none was set; None where it is the one that was asked.

    Examples
    --------
    >>> wrong_material("PLA", "steel", 1000.0).code
    'other-material'
    >>> wrong_material("steel", "steel", 1000.0) is None
    True
    """
    if stated == asked:
        return None
    if not stated:
        return Cause(code="material-not-set", message=phrase("cause.material-not-set", asked=asked))
    density = DENSITIES.get(stated)
    if not density:
        return Cause(code="other-material", message=phrase("cause.other-material", stated=stated, asked=asked))
    cm3 = volume_mm3 / 1000
    text = phrase(
        "cause.other-material-mass", stated=stated, asked=asked, volume=cm3, density=density, mass=cm3 * density
    )
    return Cause(code="other-material", message=text)
