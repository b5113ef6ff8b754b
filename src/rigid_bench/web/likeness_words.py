"""What speaks for one origin of two builds, and against it, in words: for a teacher alone."""

from rigid_bench.core.insight.likeness.questions import Code, Sign
from rigid_bench.core.wording.language import N_, translated

SIGN_WORDS: dict[Code, str] = {
    "same-file": N_("They are the same file, to the last byte."),
    "same-body": N_("But for names and header, one of their files is the same."),
    "same-stamp": N_("One of their files was written in the same second: {about}."),
    "same-author": N_("Both name the author {about}, and hardly anybody else does."),
    "same-order": N_("{count} edges stand in the same order, in which hardly anybody else has them."),
    "left-at": N_("A part was left in the same place to the last digit, {about} along."),
    "wrong-alike": N_("The same wrong value at {about}, which no slip explains."),
    "same-mates": N_("The same {count} mates in the same order."),
    "same-history": N_("The same {count} steps on the bench."),
    "same-ways": N_(
        "{count} parts were begun in the same places and made in the same order, each in a way that few have."
    ),
    "plain-part": N_("It is plain: there are few ways to make it."),
    "shared-by-others": N_("{count} more made it in the same order."),
}


def sign_words(sign: Sign) -> str:
    """Say a sign."""
    return translated(SIGN_WORDS[sign.code]).format(about=sign.about, count=sign.count)
