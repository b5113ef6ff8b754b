"""Where a build stands, in words."""

from rigid_bench.core.wording.language import N_, NN_, translated, translated_number

#: state -> word; each has its own shape in the templates.
STATES = {
    "none": N_("not handed in"),
    "absent": N_("excused"),
    "queued": N_("waiting"),
    "measuring": N_("being measured"),
    "failed": N_("could not be measured"),
    "graded": N_("to return"),
    "returned": N_("returned"),
}
#: Reason to look at a build -> its words for one, and for several.
_REASONS = {
    "failed": NN_("could not be measured", "could not be measured"),
    "question": NN_("question", "{count} questions"),
    "to-judge": NN_("to be judged", "{count} to be judged"),
    "near": NN_("near", "{count} near"),
    "unmatched-part": NN_("unmatched part", "unmatched parts"),
    "doubtful-match": NN_("doubtful match", "doubtful matches"),
    "two-readings": NN_("two readings", "two readings"),
}
#: Words that pages say as they are kept: verdicts, strips of a card, roles.
PLAIN_WORDS = (
    N_("met"), N_("near"), N_("missed"), N_("unchecked"), N_("withdrawn"),
    N_("Parts"), N_("Assembly"), N_("Fit"), N_("By hand"),
    N_("student"), N_("teacher"), N_("administrator"), N_("owner"), N_("co-teacher"), N_("assistant"),
    N_("loose"), N_("guided"), N_("held"), N_("over-held"), N_("clashing"),
    N_("all"), N_("to look at"), N_("to return"), N_("size"), N_("seat"), N_("freedom"), N_("build"),
    N_("better"), N_("worse"), N_("as before"), N_("assembly"), N_("exploded"), N_("default"), N_("environment"),
    N_("file"),
    N_("printed"), N_("machined"), N_("wood"), N_("sheet"), N_("milled"), N_("turned"), N_("sawn"), N_("drilled"),
    N_("press"), N_("push"), N_("peg"), N_("slide"), N_("turn"), N_("run"), N_("required"), N_("free"), N_("assumed"),
)  # fmt: skip


def state_words(state: str) -> str:
    """Say where a build stands."""
    return translated(STATES[state])


def reason_words(reason: str, count: int = 1) -> str:
    """Say why a person should look at a build or a check; "" for no reason.

    Examples
    --------
    >>> reason_words("question", 2), reason_words("near"), reason_words("")
    ('2 questions', 'near', '')
    """
    if reason not in _REASONS:
        return ""
    return translated_number(*_REASONS[reason], count).format(count=count)
