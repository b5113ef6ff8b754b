"""The language that is spoken: every sentence of the program is looked up here before it is said."""

import gettext
from collections.abc import Iterable, Sequence
from typing import Literal

from babel import Locale
from babel.lists import format_list

#: By whose customs lists, days and hours are written where a language has several; the program's own English is
#: written as in Britain.
_CUSTOMS = {"en": "en_GB", "en-XA": "en_GB"}
#: English needs no catalogue: the sentences in the program are its own.
_spoken = gettext.NullTranslations()
_locale = Locale.parse(_CUSTOMS["en"])


def speak(translations: gettext.NullTranslations, language: str = "en") -> None:
    """Speak another language from now on, in the whole process.

    Raises
    ------
    babel.UnknownLocaleError
        The customs of the language are not known.
    """
    global _spoken, _locale  # one language for an installation, chosen when it starts
    _spoken, _locale = translations, Locale.parse(_CUSTOMS.get(language, language.replace("-", "_")))


def spoken_locale() -> Locale:
    """Return by whose customs lists, days and hours are written."""
    return _locale


def listed(words: Sequence[str], style: Literal["standard", "or", "unit"] = "standard") -> str:
    """Join words as the language does; those of a `unit` stand beside each other.

    Examples
    --------
    >>> listed(["a", "b", "c"]), listed(["a"]), listed([])
    ('a, b and c', 'a', '')
    >>> listed(["a", "b", "c"], "or"), listed(["a", "b", "c"], "unit")
    ('a, b or c', 'a, b, c')
    """
    return format_list(words, style=style, locale=_locale)


def series(words: Iterable[str]) -> str:
    """Set words beside each other, such as what may be chosen: "a, b, c"."""
    return listed(list(words), "unit")


def N_(text: str) -> str:  # noqa: N802  # the name that tools for messages look for
    """Mark a sentence that is looked up later, where it is said."""
    return text


def NN_(one: str, several: str) -> tuple[str, str]:  # noqa: N802
    """Mark the two forms of a sentence that is looked up later by a number."""
    return one, several


def translated(text: str) -> str:
    """Return a sentence in the language that is spoken.

    Examples
    --------
    >>> translated("Hand in again.")
    'Hand in again.'
    """
    return _spoken.gettext(text) if text else ""


def translated_number(one: str, several: str, count: float) -> str:
    """Return the form of a sentence for a number, in the language that is spoken.

    Examples
    --------
    >>> translated_number("{count} mark", "{count} marks", 2)
    '{count} marks'
    """
    return _spoken.ngettext(one, several, round(count))


def _(text: str, /, **values: object) -> str:
    """Return a sentence in the language that is spoken, with values in its gaps.

    Examples
    --------
    >>> _("'{name}' is no grade", name="Q")
    "'Q' is no grade"
    """
    return translated(text).format_map(values) if values else translated(text)
