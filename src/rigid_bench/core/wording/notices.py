"""What was noticed of a file or a build, in words."""

from collections.abc import Iterable

from rigid_bench.core.formats.message import Message
from rigid_bench.core.wording.manner import PLAIN, Manner
from rigid_bench.core.wording.saying import say


def said(notices: Iterable[Message], manner: Manner = PLAIN) -> list[Message]:
    """Return notices with their sentences.

    Examples
    --------
    >>> said([Message(code="no-solid", params={"name": "Lid", "file": "kit.step"})])[0].text
    "kit.step: 'Lid' holds no solid body: close its surfaces and export it again."
    """
    return [message.model_copy(update={"text": _sentence(message, manner)}) for message in notices]


def _sentence(message: Message, manner: Manner) -> str:
    before = f"{message.params['file']}: " if "file" in message.params else ""
    return before + say(message, manner)
