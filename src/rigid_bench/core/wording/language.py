"""The language that is spoken: every sentence of the program is looked up here before it is said."""

import gettext
from collections.abc import Iterable, Sequence
from functools import reduce
from typing import TYPE_CHECKING, Literal

if TYPE_CHECKING:
    from babel import Locale

#: By whose customs lists, days and hours are written where a language has several; the program's own English is
#: written as in Britain.
_CUSTOMS = {"en": "en_GB", "en-XA": "en_GB"}
#: English needs no catalogue: the sentences in the program are its own.
_spoken = gettext.NullTranslations()
_language = "en"


def speak(translations: gettext.NullTranslations, language: str = "en") -> None:
    """Speak another language from now on, in the whole process."""
    global _spoken, _language  # one language for an installation, chosen when it starts
    _spoken, _language = translations, language


def spoken_language() -> str:
    """Return the code of the language that is spoken, as a process that does part of the work is told it."""
    return _language


def spoken_locale() -> "Locale":
    """Return by whose customs lists, days and hours are written.

    Raises
    ------
    babel.UnknownLocaleError
        The customs of the language are not known.
    """
    from babel import Locale  # a command that lists nothing starts without it

    return Locale.parse(_CUSTOMS.get(_language, _language.replace("-", "_")))


def listed(words: Sequence[str], style: Literal["standard", "or"] = "standard") -> str:
    """Join words as the language does.

    Examples
    --------
    >>> listed(["a", "b", "c"]), listed(["a"]), listed([])
    ('a, b and c', 'a', '')
    >>> listed(["a", "b", "c"], "or")
    'a, b or c'
    """
    from babel.lists import format_list

    return format_list(words, style, spoken_locale())


def series(words: Iterable[str]) -> str:
    """Set words beside each other, such as what may be chosen: "a, b, c".

    They are joined as in the middle of a longer list: not every language of CLDR has a list of this kind.
    """
    said = list(words)
    return reduce(spoken_locale().list_patterns["standard"]["middle"].format, said) if said else ""


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
    >>> translated_number("{count} mark", "{count} marks", 1.4)
    '{count} marks'
    """
    # what is no whole number is several of them: catalogues count in whole ones
    return _spoken.ngettext(one, several, int(count) if count == int(count) else 2)


def _(text: str, /, **values: object) -> str:
    """Return a sentence in the language that is spoken, with values in its gaps.

    Examples
    --------
    >>> _("'{name}' is no grade", name="Q")
    "'Q' is no grade"
    """
    return translated(text).format_map(values) if values else translated(text)
