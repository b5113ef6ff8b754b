"""Every component in every state on one page: what screenshots and the accessibility test look at."""

from fastapi import Request
from fastapi.responses import Response

from rigid_bench.core.assembly.freedom.states import State
from rigid_bench.core.formats.message import phrase
from rigid_bench.core.grading.report.models import Cause, CheckResult, Gauge, RoseModel, Verdict
from rigid_bench.core.wording.language import _
from rigid_bench.core.wording.marking import STATES
from rigid_bench.core.wording.phrases import amount, tolerance_band
from rigid_bench.web.pages.builds.card_view import Row
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import SignedIn

router = page_router()


def _check(verdict: Verdict, measured: float | None) -> Row:
    is_met = verdict == "met"
    half = phrase("cause.radius-for-diameter", sum=phrase("part.equation", a=8.2, sign="×", b=2.0, result=16.4))
    return Row(
        check=CheckResult(
            id=f"sample-{verdict}",
            title=_("Collar bore, {verdict}", verdict=verdict),
            kind="dimension",
            verdict=verdict,
            awarded=2 if is_met else 0,
            available=2,
            required_message=tolerance_band(16.4, 0.1, 0.1, "length", "mm"),
            measured_message=phrase("measured.not-found") if measured is None else amount(measured, "length", "mm"),
            cause=Cause(code="sample", message=half) if verdict == "missed" else None,
            next_step_message=None if is_met else phrase("step.change-to", nominal=amount(16.4, "length", "mm")),
            gauge=Gauge(low=16.3, high=16.5, measured=measured, unit="mm"),
        ),
        verdict=verdict,
        is_off=not is_met,
    )


def _rose(state: State, slides: list[bool], turns: list[bool]) -> RoseModel:
    return RoseModel(
        state=state,
        slides=slides,
        turns=turns,
        required_slides=[True, False, False],
        required_turns=[False, False, False],
        words=phrase("as-said", text=state),
    )


@router.get("/patterns")
def patterns(request: Request, user: SignedIn) -> Response:
    """Show the components."""
    rows = [_check("met", 16.42), _check("near", 16.58), _check("missed", 8.2), _check("unchecked", None)]
    roses = [
        _rose("loose", [True] * 3, [True] * 3),
        _rose("guided", [True, False, False], [False] * 3),
        _rose("held", [False] * 3, [False] * 3),
        _rose("over-held", [False] * 3, [False] * 3),
        _rose("clashing", [False] * 3, [False, False, True]),
    ]
    return page(request, "patterns.html", rows=rows, roses=roses, states=STATES)
