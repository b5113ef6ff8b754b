"""The glossary: short, once each, with drawings that there are, and its document current."""

from rigid_bench.core.wording.glossary import GLOSSARY
from rigid_bench.web.figures.glossary import glossary_drawing
from scripts.words import DOCUMENT, glossary_text


def test_each_meaning_has_at_most_twelve_words() -> None:
    assert {entry.term: len(entry.meaning.split()) for entry in GLOSSARY if len(entry.meaning.split()) > 12} == {}


def test_each_word_means_one_thing() -> None:
    words = [word.strip().casefold() for entry in GLOSSARY for word in (entry.term, *entry.also.split(",")) if word]
    assert len(set(words)) == len(words)


def test_every_drawing_that_is_named_is_there() -> None:
    assert [entry.term for entry in GLOSSARY if entry.drawing and not glossary_drawing(entry.drawing)] == []


def test_the_document_is_current() -> None:
    assert DOCUMENT.read_text() == glossary_text()
