"""What students read on their cards is plain: a school grade by the formula that is most in use.

J. P. Kincaid and others, Derivation of new readability formulas, Research Branch Report 8-75, 1975 (from memory):
grade = 0.39 words/sentences + 11.8 syllables/words - 15.59. Syllables are counted by Pyphen's English patterns; the
library that is known for this measure needs a word list from the network when it runs.
"""

import re
from collections.abc import Callable, Iterator

import pyphen  # type: ignore[import-untyped]  # it ships no types
import pytest

from rigid_bench.core.practice.registry import KINDS, drill_of
from rigid_bench.demo.graded import read_graded

_WORD = re.compile(r"[A-Za-z][A-Za-z'-]*")
_HYPHENS = pyphen.Pyphen(lang="en_US")
MOST = 8.0


def grade(sentences: list[str]) -> float:
    """Return the school grade of some sentences together; names in quotes and numbers are no words."""
    words = [word for sentence in sentences for word in _WORD.findall(sentence)]
    syllables = sum(len(_HYPHENS.inserted(word).split("-")) for word in words)
    return 0.39 * len(words) / len(sentences) + 11.8 * syllables / len(words) - 15.59


def sentences(text: str) -> list[str]:
    return [part for part in re.split(r"(?<=[.?!:;])\s+", text) if len(_WORD.findall(part)) > 2]


def said_on_cards() -> Iterator[str]:
    """What the demo's cards say: causes and next steps."""
    for exercise in read_graded():
        for sample in exercise.samples.values():
            for check in sample.report["checks"]:
                yield from (text for text in ((check.get("cause") or {}).get("text"), check.get("next_step")) if text)


def said_in_practice() -> Iterator[str]:
    for kind in KINDS.values():
        for seed in range(6):
            drill = drill_of(kind.name, seed, kind.levels[seed % len(kind.levels)])
            yield drill.question
            yield drill.explanation


def test_the_measure_knows_plain_from_hard() -> None:
    assert grade(["The cat sat on the mat."]) < 2
    assert grade(["Notwithstanding considerable constitutional irregularities, deliberations continued."]) > 15


@pytest.mark.parametrize("said", [said_on_cards, said_in_practice])
def test_what_students_read_is_plain(said: Callable[[], Iterator[str]]) -> None:
    reported = sorted({sentence for text in said() for sentence in sentences(text)})
    assert len(reported) > 20
    assert grade(reported) <= MOST
