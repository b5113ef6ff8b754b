"""What was typed into a form that could not be used: shown again, each field with its words, to be mended and sent."""

from dataclasses import dataclass

from fastapi import Request

from rigid_bench.core.wording.language import N_, translated

#: Fields that carry a page's own matters, or a secret.
_HIDDEN = {"csrf", "once", "route", "go_to", "seen", "alike", "sure"}
_SECRET = ("password", "old", "new")
#: More fields than this are no form that one mends on another page.
_MOST = 40
_WORDS = {
    "due_at": N_("due"),
    "return_at": N_("return all ready cards at"),
    "late_percent": N_("percent off when late"),
    "attempts": N_("hand-ins at most"),
    "mate_word": N_("word for mate"),
    "time_zone": N_("time zone"),
    "login": N_("sign-in name"),
    "code": N_("class code"),
    "text": N_("text"),
    "names": N_("students"),
    "is_absent": N_("excused"),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class TypedField:
    """A field of a form, with what was typed."""

    name: str
    words: str
    value: str
    is_hidden: bool
    is_secret: bool

    @property
    def is_long(self) -> bool:
        """It needs more than a line."""
        return len(self.value) > 60 or "\n" in self.value


def field_words(name: str) -> str:
    """Return what a field is called on a page."""
    return translated(_WORDS.get(name, name.replace("_", " ")))


def typed_fields(request: Request) -> list[TypedField]:
    """List what came with a form, in its order; nothing where there is no form, or too much of it."""
    typed = [(name, value) for name, value in getattr(request.state, "typed", []) if name not in ("csrf", "once")]
    if len(typed) > _MOST:
        return []
    return [
        TypedField(
            name=name,
            words=field_words(name),
            value="" if name in _SECRET else value,
            is_hidden=name in _HIDDEN,
            is_secret=name in _SECRET,
        )
        for name, value in typed
    ]
