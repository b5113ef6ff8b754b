"""What a class has decided about an exercise, as far as marks depend on it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class Rules:
    """What counts for one student's work on one exercise."""

    #: Checks that count for nobody, with the reason.
    withdrawn: Mapping[str, str]
    #: When it is due for this student; None for never.
    due_at: datetime | None = None
    #: What a late build loses, percent of its marks.
    late_percent: float = 0.0
    #: The student is excused.
    is_absent: bool = False

    def is_late(self, handed_in_at: datetime) -> bool:
        """Say whether a build came after it was due."""
        return self.due_at is not None and handed_in_at > self.due_at

    def share(self, handed_in_at: datetime) -> float:
        """Return the share of the marks that a build keeps: less than 1 where late ones lose some."""
        return 1 - self.late_percent / 100 if self.is_late(handed_in_at) else 1.0


NO_RULES = Rules(withdrawn={})


def latest_due(everybody: datetime | None, agreed: Sequence[datetime | None]) -> datetime | None:
    """Return when work is due for those who do it together: the latest that counts for one of them.

    Parameters
    ----------
    everybody
        When it is due without any agreement; None for never.
    agreed
        What is agreed with each of them; None where nothing is.
    """
    dues = [due or everybody for due in agreed or [None]]
    known = [due for due in dues if due]
    return max(known) if len(known) == len(dues) else None
