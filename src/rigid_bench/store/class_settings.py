"""What a class has of its own: its word for mate, its grades, its time zone, its decimal sign."""

from typing import Annotated, Literal
from zoneinfo import ZoneInfo, available_timezones

from pydantic import Field, field_validator

from rigid_bench.core.documents import Document


class Grade(Document):
    """A grade, and the least percentage that earns it."""

    name: Annotated[str, Field(min_length=1, max_length=20)]
    at_least: Annotated[float, Field(ge=0, le=100)]


class ClassSettings(Document):
    """Kept with the class as JSON."""

    mate_word: Annotated[str, Field(min_length=1, max_length=30, pattern=r"^[\w -]+$")] = "mate"
    time_zone: str = "UTC"
    decimal: Literal["point", "comma"] = "point"
    #: Best first.
    grades: Annotated[list[Grade], Field(max_length=20)] = []

    @field_validator("time_zone")
    @classmethod
    def _is_known(cls, name: str) -> str:
        if name not in available_timezones():
            raise ValueError(f"there is no time zone '{name}'; give one such as Europe/Berlin")
        return name

    @field_validator("grades")
    @classmethod
    def _best_first(cls, grades: list[Grade]) -> list[Grade]:
        return sorted(grades, key=lambda each: -each.at_least)

    @property
    def zone(self) -> ZoneInfo:
        """The class's time zone."""
        return ZoneInfo(self.time_zone)

    def grade(self, percent: float) -> str:
        """Return the grade that a percentage earns, "" where the class has none.

        Examples
        --------
        >>> ClassSettings(grades=[Grade(name="B", at_least=50), Grade(name="A", at_least=80)]).grade(79.9)
        'B'
        """
        return next((each.name for each in self.grades if percent >= each.at_least - 1e-9), "")
