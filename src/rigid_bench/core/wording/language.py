"""The language that is spoken: every sentence of the program is looked up here before it is said."""

import gettext

#: English needs no catalogue: the sentences in the program are its own.
_spoken = gettext.NullTranslations()


def speak(translations: gettext.NullTranslations) -> None:
    """Speak another language from now on, in the whole process."""
    global _spoken  # one language for an installation, chosen when it starts
    _spoken = translations


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
