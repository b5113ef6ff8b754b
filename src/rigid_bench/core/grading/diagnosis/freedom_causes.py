"""Why a part has another freedom than asked, and the one step that puts it right, in a student's words."""

from collections.abc import Sequence

from rigid_bench.core.assembly.freedom.advice import Advice
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.mates.registry import words_of
from rigid_bench.core.formats.build import Mate
from rigid_bench.core.grading.report.models import Cause
from rigid_bench.core.values.units import MM_PER_UNIT
from rigid_bench.core.wording.quantities import (
    doing_words,
    feature_words,
    listed,
    motion_words,
    motions_words,
    quantity,
)


def explain(
    advice: Advice,
    own: Sequence[Mate],
    *,
    name: str,
    other: str,
    asked: Sequence[Motion],
    seen: Sequence[Motion],
    units: str,
) -> tuple[Cause | None, str]:
    """Say what is too much or too little, and what to do.

    Parameters
    ----------
    advice
        What would put the freedom right.
    own
        The instance's mates.
    name, other
        What the instance and the one it is judged to are called.
    asked, seen
        The motions.
    units
        Of the exercise.

    Returns
    -------
    cause : Cause or None
    next_step : str
    """
    if not own:
        text = f"{name} is placed, but nothing holds it: it would drag away."
        return Cause(code="placed-not-held", text=text), f"Mate {name} to {other}."
    if advice.missing:
        lost = doing_words(asked)
        return _lost(advice, own, name, lost), _giving_back(advice, name, lost)
    if advice.too_many:
        text = f"{name} {motions_words(seen)}; {motions_words(asked)} was asked."
        return Cause(code="mate-short", text=text), _taking_away(advice, name, other, units)
    return None, f"{name} moves another way than asked; check which faces its mates use."


def _lost(advice: Advice, own: Sequence[Mate], name: str, lost: str) -> Cause | None:
    fixing = next((mate.id for mate in own if mate.kind == "fixed"), None)
    if fixing:
        text = f"The mate '{fixing}' fixes {name}, but it should {lost}."
        return Cause(code="fixed-where-it-should-move", text=text)
    mate = advice.drop or (advice.loosen[0] if advice.loosen else None)
    if mate is None:
        return None
    return Cause(code="mate-too-many", text=f"The mate '{mate}' holds {name}, which should {lost}.")


def _giving_back(advice: Advice, name: str, lost: str) -> str:
    if advice.drop:
        return f"Take out '{advice.drop}': then {name} can {lost}."
    if advice.loosen:
        mate, kind = advice.loosen
        return f"Replace '{mate}' by '{words_of(kind)}' ({kind}): then {name} can {lost}."
    return f"A mate too many holds {name}; it should {lost}."


def _taking_away(advice: Advice, name: str, other: str, units: str) -> str:
    if advice.add is None:
        needless = listed([motion_words(motion) for motion in advice.too_many])
        return f"Mate {name} and {other} so that {name} can no longer {needless}."
    mate = advice.add
    if mate.pitch is not None:
        pitch = quantity(mate.pitch / MM_PER_UNIT[units], "length", units)
        joint = f"'{words_of(mate.kind)}' ({mate.kind}) with a pitch of {pitch}"
        return f"Add {joint} about {feature_words(mate.feature_b)} of {name}: it travels that far in a turn."
    words = words_of(mate.kind)
    if mate.kind == "coincident" and mate.sense != "either":
        words = "faces level" if mate.sense == "aligned" else "faces meet"
    doing = f"'{words}' ({mate.kind})"
    own, theirs = feature_words(mate.feature_b), feature_words(mate.feature_a)
    return f"Add {doing} between {own} of {name} and {theirs} of {other}."
