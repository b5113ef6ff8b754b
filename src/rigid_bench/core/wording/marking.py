"""Where a build stands, in words."""

#: state -> word; each has its own shape in the templates.
STATES = {
    "none": "not handed in",
    "absent": "excused",
    "queued": "waiting",
    "measuring": "being measured",
    "failed": "could not be measured",
    "graded": "to return",
    "returned": "returned",
}
#: Reason to look at a build -> its words for one, and for several.
_REASONS = {
    "failed": ("could not be measured", ""),
    "question": ("question", "{count} questions"),
    "to-judge": ("to be judged", "{count} to be judged"),
    "near": ("near", "{count} near"),
    "unmatched-part": ("unmatched part", "unmatched parts"),
    "doubtful-match": ("doubtful match", "doubtful matches"),
    "two-readings": ("two readings", "two readings"),
}


def reason_words(reason: str, count: int = 1) -> str:
    """Say why a person should look at a build or a check; "" for no reason.

    Examples
    --------
    >>> reason_words("question", 2), reason_words("near"), reason_words("")
    ('2 questions', 'near', '')
    """
    one, several = _REASONS.get(reason, ("", ""))
    return one if count == 1 else several.format(count=count)
