"""What the program has to say, before it is said: a code with parameters."""

from collections.abc import Iterable
from typing import Annotated, Any, Final

from pydantic import BeforeValidator, Field, SerializerFunctionWrapHandler, model_serializer

from rigid_bench.core.formats.documents import Document


class Message(Document):
    """A code and what its sentence needs; `core/wording` says it."""

    code: str
    params: dict[str, "Message | list[Message | str | int | float] | str | bool | int | float | None"] = Field(
        default_factory=dict
    )
    #: The sentence, for people who read the JSON; "" before it was said.
    text: str = ""

    @model_serializer(mode="wrap")
    def _without_what_is_empty(self, handler: SerializerFunctionWrapHandler) -> dict[str, Any]:
        return {name: value for name, value in handler(self).items() if name == "code" or value}


def phrase(code: str, **params: Any) -> Message:
    """Return something to say, not yet in words."""
    return Message(code=code, params=params)


def alike(messages: Iterable[Message]) -> list[tuple[Message, int]]:
    """Put what says the same together: with how often, in the order in which it comes first.

    Examples
    --------
    >>> [(message.code, count) for message, count in alike([phrase("a"), phrase("b"), phrase("a")])]
    [('a', 2), ('b', 1)]
    """
    by_content: dict[str, list[Message]] = {}
    for message in messages:
        by_content.setdefault(message.model_dump_json(), []).append(message)
    return [(same[0], len(same)) for same in by_content.values()]


#: Says nothing: what leads to something else that is said.
UNSAID: Final = phrase("as-said", text="")


def as_said(value: object) -> object:
    """Return a sentence of a report of an earlier version as a message that says it as it stands."""
    return {"code": "as-said", "params": {"text": value}} if isinstance(value, str) else value


#: A message where earlier versions kept a sentence.
OnceSentence = Annotated[Message, BeforeValidator(as_said)]
