"""One wrong mate holds up many parts: freedoms that come right with another check's step follow from it."""

from collections.abc import Callable, Collection, Sequence
from dataclasses import replace

from rigid_bench.core.formats.message import UNSAID
from rigid_bench.core.grading.context import Context
from rigid_bench.core.grading.report.models import Cause, CheckResult


def follow_repairs(
    context: Context,
    results: Sequence[CheckResult],
    judge: Callable[[Context, str], CheckResult],
    *,
    mended_by_mates: Collection[str],
) -> list[CheckResult]:
    """Name, for each freedom that is wrong, the check whose repair puts it right too.

    Parameters
    ----------
    context
        With the repairs that its checks proposed.
    results
        In the exercise's order.
    judge
        Judges one check, by its id, in a context.
    mended_by_mates
        Kinds of check that a change of mates may put right.

    Returns
    -------
    list of CheckResult
        Where one repair puts several right, the others have its check as their cause's root.
    """
    wrong = [result.id for result in results if result.kind in mended_by_mates and result.verdict == "missed"]
    cured: dict[str, list[str]] = {}
    for proposed_by, build in context.repairs.items():
        mended = replace(
            context,
            submission=replace(context.submission, build=build),
            done=[],
            repairs={},
            progress=lambda text: None,
        )
        cured[proposed_by] = [check for check in wrong if judge(mended, check).verdict == "met"]
    if not cured:
        return list(results)
    root = max(cured, key=lambda proposal: len(cured[proposal]))
    if len(cured[root]) < 2:
        return list(results)
    return [
        result.model_copy(update={"cause": Cause(code="follows", message=UNSAID, root=root)})
        if result.id in cured[root] and result.id != root
        else result
        for result in results
    ]
