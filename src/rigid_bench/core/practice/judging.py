"""Whether an answer to a drill is right, and what a wrong one tells."""

from collections.abc import Sequence
from dataclasses import dataclass

from rigid_bench.core.practice.drill import Step
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.units import MM_PER_UNIT, evaluate
from rigid_bench.core.wording.language import _


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """What is said of an answer."""

    is_right: bool
    #: What a near miss tells; "" for nothing.
    note: str = ""


def judge(step: Step, answer: Sequence[str]) -> Verdict:
    """Judge an answer.

    Parameters
    ----------
    step
        The question.
    answer
        Ids of choices, open petals, or one number as it was typed, with its unit or in the drill's.

    Returns
    -------
    Verdict

    Raises
    ------
    InvalidDocument
        What was typed is no number.

    Examples
    --------
    >>> step = Step(question="", form="number", answer=[16.4], unit="mm", tolerance=0.005, explanation="")
    >>> judge(step, ["1.64 cm"]).is_right, judge(step, ["8.2"]).is_right
    (True, False)
    """
    if step.form == "number":
        return _of_number(step, " ".join(answer))
    given, right = set(answer), set(step.answer)
    if step.many or step.form == "rose":
        missing, wrong = right - given, given - right
        note = _("Some of it is right; something is missing.") if missing and not wrong and given else ""
        return Verdict(is_right=given == right, note=note)
    return Verdict(is_right=len(given) == 1 and given <= right)


def _of_number(step: Step, text: str) -> Verdict:
    typed = text.strip().replace(",", ".")
    if not typed:
        raise InvalidDocument(_("answer"), _("nothing was typed"), _("Type a number, with its unit if you like"))
    if step.unit == "deg":
        value = evaluate(typed.replace("deg", "").replace("°", ""), unit="mm")
    else:
        unit = step.unit if step.unit in MM_PER_UNIT else "mm"
        value = evaluate(typed, unit=unit) / MM_PER_UNIT[unit]
    tolerance = step.tolerance or 0.0
    if abs(value - float(step.answer[0])) <= tolerance + 1e-9:
        return Verdict(is_right=True)
    note = next((near.text for near in step.near if abs(value - near.value) <= tolerance + 1e-9), "")
    return Verdict(is_right=False, note=note)
