"""The language of pages: what templates and scripts say in it."""

from functools import cache

from babel.messages.extract import extract_from_dir

from rigid_bench.languages import speak_language
from rigid_bench.web.assets import STATIC
from rigid_bench.web.render import templates


def speak_on_pages(language: str) -> None:
    """Speak a language in this process: its pages, and its scripts."""
    translations = speak_language(language)
    words = {} if language == "en" else {text: translations.gettext(text) for text in _script_sentences()}
    templates.env.globals.update(language=language, script_words=words)


@cache
def _script_sentences() -> list[str]:
    """List the sentences of our scripts."""
    extracted = extract_from_dir(STATIC, [("*.js", "javascript"), ("vendor/*", "ignore")], keywords={"t": None})
    return sorted({message for _, _, message, _, _ in extracted if isinstance(message, str)})
