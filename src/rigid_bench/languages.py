"""The language that a process speaks: an installation's own, and a made-up one that shows what was missed."""

import gettext
import re
from pathlib import Path

from rigid_bench.core.wording.language import speak

#: English with accents, between brackets: what stands without them goes past the catalogue.
PSEUDO = "en-XA"
_CATALOGUES = Path(__file__).parent / "locale"
_DOMAIN = "rigid_bench"
#: What is kept as it is: gaps, tags and entities.
_KEPT = re.compile(r"(\{\w*(?:[:!][^}]*)?\}|%\(\w+\)s|%%|<[^>]*>|&#?\w+;)")
_ACCENTS = str.maketrans("aeiouyAEIOUYcnsz", "áéíóúýÁÉÍÓÚÝçñšž")


class PseudoTranslations(gettext.NullTranslations):
    """Says every sentence with accents, between brackets."""

    def gettext(self, message: str) -> str:
        """Return a sentence as it shows that it was looked up."""
        return pseudo(message)

    def ngettext(self, msgid1: str, msgid2: str, n: int) -> str:
        """Return one of two forms, likewise."""
        return pseudo(msgid1 if n == 1 else msgid2)


def pseudo(text: str) -> str:
    """Return a sentence with accents, between brackets; its gaps and tags as they are.

    Examples
    --------
    >>> pseudo("Give it to <b>{name}</b>.")
    '⟦Gívé ít tó <b>{name}</b>.⟧'
    """
    if text.startswith("⟦"):
        return text  # it was said already
    pieces = (piece if k % 2 else piece.translate(_ACCENTS) for k, piece in enumerate(_KEPT.split(text)))
    return f"⟦{''.join(pieces)}⟧"


def has_catalogue(language: str) -> bool:
    """Say whether the program can speak a language."""
    return language in ("en", PSEUDO) or gettext.find(_DOMAIN, _CATALOGUES, [language]) is not None


def speak_language(language: str) -> gettext.NullTranslations:
    """Speak a language in this process; return its catalogue.

    Raises
    ------
    OSError
        There is no catalogue of it.
    """
    translations = _translations(language)
    speak(translations, language)
    return translations


def _translations(language: str) -> gettext.NullTranslations:
    if language == "en":
        return gettext.NullTranslations()
    if language == PSEUDO:
        return PseudoTranslations()
    return gettext.translation(_DOMAIN, _CATALOGUES, [language])
