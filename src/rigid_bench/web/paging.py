"""Long lists in pages."""

from dataclasses import dataclass

#: So many people stand on a page.
PAGE = 50


@dataclass(frozen=True, slots=True, kw_only=True)
class Pages:
    """Where in a long list a page stands."""

    #: From 1.
    at: int
    #: Of all that were found.
    count: int

    @property
    def last(self) -> int:
        """The number of the last page."""
        return max(1, -(-self.count // PAGE))

    @property
    def is_needed(self) -> bool:
        """One page does not hold all."""
        return self.last > 1
