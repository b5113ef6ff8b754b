"""Sentences that change with a number."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Counted:
    """A sentence for one and for several."""

    #: The parameter that is counted: a number, or a list.
    counted: str
    #: For one, and for several.
    forms: tuple[str, str]
    #: For none, where that is said otherwise.
    none: str = ""
