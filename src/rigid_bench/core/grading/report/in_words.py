"""A row of the card with its sentences: words are made here, when all is judged."""

from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.core.wording.saying import say


def in_words(result: CheckResult) -> CheckResult:
    """Return a row with the sentences of its messages, for people who read the report."""
    cause, rose = result.cause, result.rose
    return result.model_copy(
        update={
            "required": say(result.required_message),
            "measured": say(result.measured_message),
            "next_step": say(result.next_step_message) if result.next_step_message else "",
            "cause": cause.model_copy(update={"text": say(cause.message)}) if cause else None,
            "rose": rose.model_copy(update={"words": rose.words.model_copy(update={"text": say(rose.words)})})
            if rose
            else None,
        }
    )
