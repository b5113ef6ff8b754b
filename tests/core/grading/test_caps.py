"""A slip caps a build's mark where the exercise says so, and only the row that tells the slip says it."""

from rigid_bench.core.formats.message import phrase
from rigid_bench.core.grading.caps import with_caps
from rigid_bench.core.grading.report.models import Cause, CheckResult


def row(name: str, code: str, *, follows: str | None = None) -> CheckResult:
    said = phrase("as-said", text=code)
    cause = Cause(code=code, message=said) if code else None
    return CheckResult(
        id=name, title=name, kind="dimension", verdict="missed", awarded=0, available=2, required_message=said,
        measured_message=said, cause=cause, follows=follows,
    )  # fmt: skip


def test_only_slips_that_the_exercise_names_cap_the_mark() -> None:
    rows = [row("a", "unit-of-part"), row("b", "part-missing"), row("c", "half"), row("d", "")]
    capped = with_caps(rows, {"wrong unit": 60.0, "nothing mated": 20.0})
    assert [own.caps_at for own in capped] == [60.0, None, None, None]
    assert [own.caps_at for own in with_caps(rows, {})] == [None] * 4


def test_what_follows_from_a_slip_caps_nothing_itself() -> None:
    rows = [row("a", "merged"), row("b", "part-missing", follows="a")]
    assert [own.caps_at for own in with_caps(rows, {"missing part": 50.0})] == [50.0, None]
