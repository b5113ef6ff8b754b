"""Lists, days and hours follow the customs of the language that is spoken: Unicode CLDR, as Babel ships it."""

import gettext
from collections.abc import Iterator
from datetime import UTC, date, datetime

import pytest

from rigid_bench.core.formats.message import phrase
from rigid_bench.core.wording.language import listed, series, speak
from rigid_bench.core.wording.phrases import quoted
from rigid_bench.core.wording.saying import say
from rigid_bench.store.class_settings import LANGUAGES, ClassSettings
from rigid_bench.web.words.times import say_day, say_time

DUE = datetime(2026, 9, 1, 22, 5, 9, tzinfo=UTC)


@pytest.fixture(autouse=True)
def english_afterwards() -> Iterator[None]:
    yield
    speak(gettext.NullTranslations())


@pytest.mark.parametrize(
    ("language", "three", "either", "beside"),
    [
        ("en", "a, b and c", "a, b or c", "a, b, c"),
        ("en-XA", "a, b and c", "a, b or c", "a, b, c"),
        ("de", "a, b und c", "a, b oder c", "a, b, c"),
        ("fr", "a, b et c", "a, b ou c", "a, b, c"),
        ("ja", "a、b、c", "a、b、またはc", "a、b、c"),
    ],
)
def test_lists(language: str, three: str, either: str, beside: str) -> None:
    speak(gettext.NullTranslations(), language)
    assert (listed(["a", "b", "c"]), listed(["a", "b", "c"], "or"), series(iter("abc"))) == (three, either, beside)


def test_every_language_that_may_be_spoken_has_its_lists() -> None:
    for language in LANGUAGES:
        speak(gettext.NullTranslations(), language)
        said = (listed(["a", "b", "c"]), listed(["a", "b", "c"], "or"), series("abc"), say_day(DUE.date()))
        assert all(said), language


def test_a_message_lists_what_it_brings_in_the_language() -> None:
    speak(gettext.NullTranslations(), "de")
    assert "'a' und 'b'" in say(phrase("step.put-mates-right", mates=quoted(["a", "b"])))


@pytest.mark.parametrize(
    ("language", "day", "short_day", "exact", "weekday"),
    [
        ("en", "1 Sept 2026", "1 Sept", "1 Sept 2026, 22:05:09", "Tue 22:05"),
        ("de", "1. Sept. 2026", "1. Sept.", "1. Sept. 2026, 22:05:09", "Di., 22:05"),
        ("fr", "1 sept. 2026", "1 sept.", "1 sept. 2026, 22:05:09", "mar. 22:05"),
    ],
)
def test_days_and_hours(language: str, day: str, short_day: str, exact: str, weekday: str) -> None:
    speak(gettext.NullTranslations(), language)
    settings = ClassSettings(time_zone="UTC")
    assert (say_day(DUE.date()), say_day(DUE.date(), with_year=False)) == (day, short_day)
    assert (say_time(DUE, settings, "exact"), say_time(DUE, settings, "weekday")) == (exact, weekday)


@pytest.mark.parametrize(
    ("now", "said"),
    [
        (datetime(2026, 9, 1, 8, tzinfo=UTC), "22:05"),
        (datetime(2026, 9, 2, 8, tzinfo=UTC), "1 Sept, 22:05"),
        (datetime(2027, 9, 2, 8, tzinfo=UTC), "1 Sept 2026, 22:05"),
    ],
)
def test_what_goes_without_saying_is_left_out(now: datetime, said: str) -> None:
    assert say_time(DUE, ClassSettings(time_zone="UTC"), now=now) == said


def test_a_field_of_a_form_is_the_same_in_every_language() -> None:
    speak(gettext.NullTranslations(), "de")
    assert say_time(DUE, ClassSettings(time_zone="Asia/Kolkata"), "field") == "2026-09-02T03:35"
    assert say_day(date(2026, 12, 24)) == "24. Dez. 2026"
