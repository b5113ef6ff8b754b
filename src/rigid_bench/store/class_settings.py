"""What a class has of its own: its word for mate, its grades, its time zone, its decimal sign."""

from typing import Annotated, Literal
from zoneinfo import ZoneInfo, available_timezones

from pydantic import Field, field_validator

from rigid_bench.core.formats.documents import Document
from rigid_bench.core.planning.estimate import Rates
from rigid_bench.core.wording.language import _
from rigid_bench.core.wording.manner import Manner

#: Languages by whose rules names are sorted, with their own names; each is a collation of PostgreSQL's (ICU).
LANGUAGES = {
    "bg": "български", "cs": "čeština", "cy": "Cymraeg", "da": "dansk", "de": "Deutsch", "el": "Ελληνικά",
    "en": "English", "es": "español", "et": "eesti", "fi": "suomi", "fr": "français", "ga": "Gaeilge",
    "hr": "hrvatski", "hu": "magyar", "is": "íslenska", "it": "italiano", "lt": "lietuvių", "lv": "latviešu",
    "nb": "norsk", "nl": "Nederlands", "pl": "polski", "pt": "português", "ro": "română", "sk": "slovenčina",
    "sl": "slovenščina", "sr": "српски", "sv": "svenska", "tr": "Türkçe", "uk": "українська", "vi": "Tiếng Việt",
}  # fmt: skip


class Grade(Document):
    """A grade, and the least percentage that earns it."""

    name: Annotated[str, Field(min_length=1, max_length=20)]
    at_least: Annotated[float, Field(ge=0, le=100)]


class ClassSettings(Document):
    """Kept with the class as JSON."""

    mate_word: Annotated[str, Field(min_length=1, max_length=30, pattern=r"^[\w -]+$")] = "mate"
    time_zone: str = "UTC"
    decimal: Literal["point", "comma"] = "point"
    #: By whose rules names are sorted.
    language: str = "en"
    #: How long exercises are thought to take.
    rates: Rates = Rates()
    #: Best first.
    grades: Annotated[list[Grade], Field(max_length=20)] = []

    @field_validator("time_zone")
    @classmethod
    def _is_known(cls, name: str) -> str:
        if name not in available_timezones():
            raise ValueError(_("there is no time zone '{name}'; give one such as Europe/Berlin", name=name))
        return name

    @field_validator("language")
    @classmethod
    def _is_sorted_by(cls, code: str) -> str:
        if code not in LANGUAGES:
            raise ValueError(_("names cannot be sorted by '{code}'; choose a language of the list", code=code))
        return code

    @field_validator("grades")
    @classmethod
    def _best_first(cls, grades: list[Grade]) -> list[Grade]:
        return sorted(grades, key=lambda grade: -grade.at_least)

    @property
    def manner(self) -> Manner:
        """How the class wants it said."""
        return Manner(decimal="," if self.decimal == "comma" else ".", mate=self.mate_word)

    @property
    def zone(self) -> ZoneInfo:
        """The class's time zone."""
        return ZoneInfo(self.time_zone)

    @property
    def collation(self) -> str:
        """The name of PostgreSQL's collation that sorts by the class's language."""
        return f"{self.language}-x-icu"

    def grade(self, percent: float) -> str:
        """Return the grade that a percentage earns, "" where the class has none.

        Examples
        --------
        >>> ClassSettings(grades=[Grade(name="B", at_least=50), Grade(name="A", at_least=80)]).grade(79.9)
        'B'
        """
        return next((grade.name for grade in self.grades if percent >= grade.at_least - 1e-9), "")
