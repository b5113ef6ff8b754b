"""Messages in words: the one place where a code becomes a sentence."""

from collections.abc import Callable, Mapping
from typing import Any

from rigid_bench.core.assembly.mates.registry import words_of
from rigid_bench.core.formats.message import Message
from rigid_bench.core.wording.language import listed, series, translated, translated_number
from rigid_bench.core.wording.manner import PLAIN, Manner
from rigid_bench.core.wording.quantities import band, number, quantity, sum_words
from rigid_bench.core.wording.sentences import SENTENCES, Sentence
from rigid_bench.core.wording.slips import slip_name


def say(message: Message, manner: Manner = PLAIN) -> str:
    """Return a message's sentence.

    Parameters
    ----------
    message
        Messages among its parameters are said first.
    manner
        The class's word for mate and its decimal sign.

    Returns
    -------
    str
        Of a message of another version, whose code or gaps are not known here, what it said then.

    Raises
    ------
    KeyError
        No sentence is known for the code, or a gap has no value, and it was never said.

    Examples
    --------
    >>> size = Message(code="amount", params={"value": 8.2, "dimension": "length", "units": "mm"})
    >>> say(size), say(size, Manner(decimal=","))
    ('8.2 mm', '8,2 mm')
    >>> say(Message(code="step.put-mates-right", params={"mates": ["a", "b"]}), Manner(mate="joint"))
    'Put a and b right first.'
    """
    try:
        return _said_anew(message, manner)
    except KeyError:
        if not message.text:
            raise
        return message.text


def can_say(message: Message) -> bool:
    """Say whether this version knows a message's code and fills its gaps.

    Examples
    --------
    >>> can_say(Message(code="measured.none")), can_say(Message(code="measured.of-old"))
    (True, False)
    """
    try:
        _said_anew(message, PLAIN)
    except KeyError:
        return False
    return True


def _said_anew(message: Message, manner: Manner) -> str:
    if message.code in _SPOKEN_OTHERWISE:
        return _SPOKEN_OTHERWISE[message.code](message.params, manner)
    words = {name: _said(value, manner) for name, value in message.params.items()}
    return _template(_sentence(message.code), message.params).format_map({**manner.own_words, **words})


def _sentence(code: str) -> Sentence:
    if code in SENTENCES:
        return SENTENCES[code]
    area, _, name = code.partition(".")
    return _NAMES[area](name)


def _template(sentence: Sentence, params: Mapping[str, Any]) -> str:
    if isinstance(sentence, str):
        return translated(sentence)
    count = params[sentence.counted]
    if count == 0 and sentence.none:
        return translated(sentence.none)
    return translated_number(*sentence.forms, len(count) if isinstance(count, list) else count)


def _said(value: Any, manner: Manner) -> str:
    if isinstance(value, Message):
        return say(value, manner)
    if isinstance(value, list):
        return listed([_said(own, manner) for own in value])
    if isinstance(value, float):
        return manner.point(number(value))
    return "" if value is None else str(value)


def _joined(params: Mapping[str, Any], manner: Manner) -> list[str]:
    items = params["items"]
    return [_said(item, manner) for item in (items if isinstance(items, list) else [items])]


#: What things of a registry are called, by the first word of the code.
_NAMES: Mapping[str, Callable[[str], str]] = {"mate": words_of, "slip": slip_name}
#: What is more than a sentence with gaps: numbers with their units, and lists.
_SPOKEN_OTHERWISE: Mapping[str, Callable[[Mapping[str, Any], Manner], str]] = {
    "as-said": lambda params, manner: str(params["text"]),
    "amount": lambda params, manner: manner.point(quantity(params["value"], params["dimension"], params["units"])),
    "band": lambda params, manner: manner.point(
        band(params["nominal"], params["minus"], params["plus"], params["dimension"], params["units"])
    ),
    "expression": lambda params, manner: manner.point(sum_words(params["sum"])),
    "list": lambda params, manner: listed(_joined(params, manner)),
    "either": lambda params, manner: listed(_joined(params, manner), "or"),
    "in-turn": lambda params, manner: "; ".join(_joined(params, manner)),
    "beside": lambda params, manner: series(_joined(params, manner)),
    "together": lambda params, manner: " ".join(_joined(params, manner)),
    "by": lambda params, manner: " × ".join(_joined(params, manner)),
    "added": lambda params, manner: " + ".join(_joined(params, manner)),
    "meeting": lambda params, manner: translated(" meets ").join(_joined(params, manner)),
    "place": lambda params, manner: f"({', '.join(manner.point(number(value, 1)) for value in params['at'])})",
}
