"""How a class wants it said: its decimal sign, its word for mate."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Final


@dataclass(frozen=True)
class Manner:
    """Of one class."""

    #: The sign before decimals.
    decimal: str = "."
    #: What the class calls a mate.
    mate: str = "mate"

    @cached_property
    def own_words(self) -> Mapping[str, str]:
        """The class's words, by the names that sentences have for them."""
        first = self.mate[:1].upper() + self.mate[1:]
        return {"mate_word": self.mate, "mates_word": f"{self.mate}s", "Mate_word": first, "Mates_word": f"{first}s"}

    def point(self, digits: str) -> str:
        """Return digits with the class's decimal sign."""
        return digits.replace(".", self.decimal)


PLAIN: Final = Manner()
