"""The language of pages: an installation's own, chosen when it starts; and a made-up one that shows what was missed."""

import gettext
import re
from functools import cache
from pathlib import Path

from babel.messages.extract import extract_from_dir

from rigid_bench.core.wording.language import speak
from rigid_bench.web.assets import STATIC
from rigid_bench.web.render import templates

#: English with accents, between brackets: what stands without them on a page goes past the catalogue.
PSEUDO = "en-XA"
_CATALOGUES = Path(__file__).parents[2] / "locale"
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


def speak_language(language: str) -> None:
    """Speak a language in this process: its pages, and its scripts."""
    translations = _translations(language)
    speak(translations, language)
    words = {} if language == "en" else {text: translations.gettext(text) for text in _script_sentences()}
    templates.env.globals.update(language=language, script_words=words)


def _translations(language: str) -> gettext.NullTranslations:
    if language == "en":
        return gettext.NullTranslations()
    if language == PSEUDO:
        return PseudoTranslations()
    return gettext.translation(_DOMAIN, _CATALOGUES, [language])


@cache
def _script_sentences() -> list[str]:
    """List the sentences of our scripts."""
    extracted = extract_from_dir(STATIC, [("*.js", "javascript"), ("vendor/*", "ignore")], keywords={"t": None})
    return sorted({message for _, _, message, _, _ in extracted if isinstance(message, str)})
