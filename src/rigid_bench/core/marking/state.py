"""Where a build stands, as tables and cards show it: its state, the marks that count, what needs a person."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from rigid_bench.core.marking.rules import NO_RULES, Rules
from rigid_bench.core.marking.standing import CheckMarks, Standing

#: Below this share of like area it is doubtful whether a part was taken for the right one.
_DOUBTFUL = 0.6
#: Notices of the grader which say that a build can be read in two ways.
TWO_READINGS = ("stands-elsewhere", "names-swapped")


@dataclass(frozen=True, slots=True, kw_only=True)
class BuildState:
    """Where one build stands, in words and marks."""

    #: "none", "absent", "queued", "measuring", "failed", "graded" or "returned".
    key: str
    awarded: float | None = None
    available: float | None = None
    stage: str = ""
    #: How many checks need another look: missed, near or unchecked.
    open_checks: int = 0
    #: Why a person should look at it: codes, each with how often.
    review_reasons: Mapping[str, int] = field(default_factory=dict)
    is_late: bool = False

    @property
    def percent(self) -> float | None:
        """The marks as a percentage."""
        return 100 * (self.awarded or 0.0) / self.available if self.available else None


def build_state(standing: Standing | None, rules: Rules = NO_RULES) -> BuildState:
    """Say where a build stands; None is one that was never handed in."""
    if standing is None:
        key = "absent" if rules.is_absent else "none"
        return BuildState(key=key)
    key = "returned" if standing.is_returned else standing.state
    is_late = rules.is_late(standing.handed_in_at)
    if standing.checks is None or standing.state != "graded":
        failed = standing.state == "failed" and not standing.is_returned
        return BuildState(key=key, review_reasons={"failed": 1} if failed else {}, is_late=is_late)
    awarded, available = tally(standing, rules)
    return BuildState(
        key=key,
        awarded=awarded,
        available=available,
        stage=standing.reached(rules)[0],
        open_checks=sum(standing.is_open(check, rules) for check in standing.checks),
        review_reasons=_review_reasons(standing, rules),
        is_late=is_late,
    )


def tally(standing: Standing, rules: Rules) -> tuple[float, float]:
    """Add up the marks that count and those that there are: a teacher's first, none of withdrawn checks.

    A slip that caps the mark does so before a late build loses its share.
    """
    counted = [check for check in standing.checks or () if check.id not in rules.withdrawn]
    total, available = sum(standing.given(check) for check in counted), sum(check.available for check in counted)
    if (slip := standing.capping(rules)) and slip.caps_at is not None:
        total = min(total, slip.caps_at / 100 * available)
    return round(total * rules.share(standing.handed_in_at), 4), round(available, 4)


def needs_a_person(check: CheckMarks, standing: Standing) -> str:
    """Say why a person should look at a check: "question", "to-judge", "near", or ""."""
    if check.id in standing.questions:
        return "question"
    if check.id in standing.marks or standing.is_returned:
        return ""
    if check.by_person:
        return "to-judge"
    return "near" if check.verdict == "near" else ""


def _review_reasons(standing: Standing, rules: Rules) -> dict[str, int]:
    """Count the reasons to look at a build, the most pressing first."""
    of_checks = [needs_a_person(check, standing) for check in standing.checks or () if check.id not in rules.withdrawn]
    reasons = {reason: of_checks.count(reason) for reason in ("question", "to-judge", "near")}
    if not standing.is_returned:
        reasons["unmatched-part"] = sum(part is None for part, _ in standing.parts)
        reasons["doubtful-match"] = sum(likeness is not None and likeness < _DOUBTFUL for _, likeness in standing.parts)
        reasons["two-readings"] = sum(code in TWO_READINGS for code in standing.notices)
    return {reason: count for reason, count in reasons.items() if count}
