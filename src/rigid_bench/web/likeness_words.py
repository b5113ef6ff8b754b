"""What speaks for one origin of two builds, and against it, in words: for a teacher alone."""

from rigid_bench.core.insight.likeness.questions import Code, Sign

SIGN_WORDS: dict[Code, str] = {
    "same-file": "They are the same file, to the last byte.",
    "same-body": "But for names and header, one of their files is the same.",
    "same-stamp": "One of their files was written in the same second: {about}.",
    "same-author": "Both name the author {about}, and hardly anybody else does.",
    "same-order": "{count} edges stand in the same order, in which hardly anybody else has them.",
    "left-at": "A part was left in the same place to the last digit, {about} along.",
    "wrong-alike": "The same wrong value at {about}, which no slip explains.",
    "same-mates": "The same {count} mates in the same order.",
    "same-history": "The same {count} steps on the bench.",
    "same-ways": "{count} parts were begun in the same places and made in the same order, each in a way that few have.",
    "plain-part": "It is plain: there are few ways to make it.",
    "shared-by-others": "{count} more made it in the same order.",
}


def sign_words(sign: Sign) -> str:
    """Say a sign."""
    return SIGN_WORDS[sign.code].format(about=sign.about, count=sign.count)
