"""What the program has to say, before it is said: a code with parameters."""

from typing import Any

from pydantic import Field

from rigid_bench.core.formats.documents import Document


class Message(Document):
    """A code and what its sentence needs; `core/wording` says it."""

    code: str
    params: dict[str, Any] = Field(default_factory=dict)
    #: The sentence, for people who read the JSON; "" before it was said.
    text: str = ""


def notice(code: str, **params: Any) -> Message:
    """Return something that was noticed, not yet in words."""
    return Message(code=code, params=params)
