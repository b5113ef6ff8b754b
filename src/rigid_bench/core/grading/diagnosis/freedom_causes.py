"""Why a part has another freedom than asked, and the one step that puts it right, in a student's words."""

from collections.abc import Sequence

from rigid_bench.core.assembly.freedom.advice import Advice
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.formats.build import Mate
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.report.models import Cause
from rigid_bench.core.values.units import MM_PER_UNIT
from rigid_bench.core.wording.phrases import amount, doing_phrase, feature_phrase, listed, motion_phrase, motions_phrase

#: Before the name of a kind of mate in the code of what two parts do by it.
_PREFIX = "mate."


def explain(
    advice: Advice,
    own: Sequence[Mate],
    *,
    name: str,
    other: Message | str,
    asked: Sequence[Motion],
    seen: Sequence[Motion],
    units: str,
) -> tuple[Cause | None, Message]:
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
    next_step : Message
    """
    if not own:
        text = phrase("cause.placed-not-held", name=name)
        return Cause(code="placed-not-held", message=text), phrase("step.mate-to", name=name, other=other)
    if advice.missing:
        lost = doing_phrase(asked)
        return _lost(advice, own, name, lost), _giving_back(advice, name, lost)
    if advice.too_many:
        text = phrase("cause.moves-otherwise", name=name, motions=motions_phrase(seen), asked=motions_phrase(asked))
        return Cause(code="mate-short", message=text), _taking_away(advice, name, other, units)
    return None, phrase("step.moves-another-way", name=name)


def _lost(advice: Advice, own: Sequence[Mate], name: str, lost: Message) -> Cause | None:
    fixing = next((mate.id for mate in own if mate.kind == "fixed"), None)
    if fixing:
        text = phrase("cause.fixed-where-it-should-move", fixing=fixing, name=name, lost=lost)
        return Cause(code="fixed-where-it-should-move", message=text)
    mate = advice.drop or (advice.loosen[0] if advice.loosen else None)
    if mate is None:
        return None
    return Cause(code="mate-too-many", message=phrase("cause.mate-too-many", mate=mate, name=name, doing=lost))


def _giving_back(advice: Advice, name: str, lost: Message) -> Message:
    if advice.drop:
        return phrase("step.take-out-then-can", mate=advice.drop, name=name, doing=lost)
    if advice.loosen:
        mate, kind = advice.loosen
        return phrase("step.replace-then-can", mate=mate, doing=phrase(_PREFIX + kind), kind=kind, name=name, can=lost)
    return phrase("step.a-mate-too-many", name=name, doing=lost)


def _taking_away(advice: Advice, name: str, other: Message | str, units: str) -> Message:
    if advice.add is None:
        needless = listed(motion_phrase(motion) for motion in advice.too_many)
        return phrase("step.mate-so-it-cannot", name=name, other=other, doing=needless)
    mate = advice.add
    if mate.pitch is not None:
        pitch = amount(mate.pitch / MM_PER_UNIT[units], "length", units)
        return phrase(
            "step.add-screw",
            doing=phrase(_PREFIX + mate.kind),
            kind=mate.kind,
            pitch=pitch,
            about=feature_phrase(mate.feature_b),
            name=name,
        )
    doing = phrase(_PREFIX + mate.kind)
    if mate.kind == "coincident" and mate.sense != "either":
        doing = phrase(f"mate.coincident-{mate.sense}")
    own, theirs = feature_phrase(mate.feature_b), feature_phrase(mate.feature_a)
    return phrase("step.add-mate", doing=doing, kind=mate.kind, own=own, name=name, theirs=theirs, other=other)
