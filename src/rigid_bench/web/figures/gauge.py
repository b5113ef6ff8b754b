"""The gauge strip: a measured value on a small scale with its tolerance band."""

from dataclasses import dataclass

from markupsafe import Markup

from rigid_bench.core.grading.report.models import Gauge
from rigid_bench.core.wording.language import _
from rigid_bench.core.wording.quantities import number
from rigid_bench.web.figures.svg import element, n, svg

_WIDTH, _HEIGHT, _EDGE, _LINE = 176.0, 40.0, 14.0, 20.0


@dataclass(frozen=True, slots=True)
class _Scale:
    """Values from `low` to `high` along the strip; what lies beyond is shown at its end."""

    low: float
    high: float

    def at(self, value: float) -> float:
        share = (value - self.low) / (self.high - self.low)
        return _EDGE + min(max(share, 0.0), 1.0) * (_WIDTH - 2 * _EDGE)

    def beyond(self, value: float) -> int:
        """-1 left of the strip, 1 right of it, 0 on it."""
        return (value > self.high) - (value < self.low)


def gauge_strip(gauge: Gauge) -> Markup:
    """Draw a value on its scale.

    Parameters
    ----------
    gauge
        Limits and value; a missing limit is open, a missing value is not drawn.

    Returns
    -------
    Markup
        An SVG element with the values in its label.
    """
    low, high = _limits(gauge)
    span = max(high - low, 1e-9)
    scale = _Scale(low - span, high + span)
    parts = [
        element("line", x1=_EDGE, x2=_WIDTH - _EDGE, y1=_LINE, y2=_LINE, class_="gauge-line"),
        element(
            "rect", x=scale.at(low), width=scale.at(high) - scale.at(low), y=_LINE - 6, height=12.0, class_="gauge-band"
        ),
        *(_tick(scale.at(value), number(value)) for value in (gauge.low, gauge.high) if value is not None),
    ]
    if gauge.measured is not None:
        parts.append(_marker(scale, gauge.measured, is_inside=low - 1e-6 <= gauge.measured <= high + 1e-6))
    return svg("".join(parts), width=_WIDTH, height=_HEIGHT, label=_label(gauge), kind="gauge")


def _limits(gauge: Gauge) -> tuple[float, float]:
    """Return both ends of the band; an open end is drawn as far as the other side is from zero."""
    if gauge.low is not None and gauge.high is not None:
        return gauge.low, gauge.high
    if gauge.low is not None:
        return gauge.low, gauge.low + max(abs(gauge.low), 1.0)
    high = gauge.high or 0.0
    return high - max(abs(high), 1.0), high


def _tick(x: float, text: str) -> Markup:
    line = element("line", x1=x, x2=x, y1=_LINE - 8, y2=_LINE + 8, class_="gauge-tick")
    return line + element("text", text, x=x, y=_HEIGHT - 2, text_anchor="middle", class_="gauge-text")


def _marker(scale: _Scale, value: float, *, is_inside: bool) -> Markup:
    x, beyond = scale.at(value), scale.beyond(value)
    if beyond:
        tip, back = x + 9 * beyond, x
        points = f"{n(tip)},{n(_LINE)} {n(back)},{n(_LINE - 7)} {n(back)},{n(_LINE + 7)}"
    else:
        points = f"{n(x)},{n(_LINE)} {n(x - 6)},{n(_LINE - 11)} {n(x + 6)},{n(_LINE - 11)}"
    marker = element("polygon", points=points, class_="gauge-in" if is_inside else "gauge-out")
    anchor = {-1: "start", 0: "middle", 1: "end"}[beyond]
    place = {-1: 4.0, 0: x, 1: _WIDTH - 4}[beyond]
    return marker + element("text", number(value), x=place, y=8.0, text_anchor=anchor, class_="gauge-value")


def _label(gauge: Gauge) -> str:
    unit = f" {gauge.unit}" if gauge.unit else ""
    low, high = number(gauge.low or 0), number(gauge.high or 0)
    if gauge.low is not None and gauge.high is not None:
        allowed = _("allowed {low} to {high}{unit}", low=low, high=high, unit=unit)
    elif gauge.low is not None:
        allowed = _("at least {low}{unit}", low=low, unit=unit)
    else:
        allowed = _("at most {high}{unit}", high=high, unit=unit)
    if gauge.measured is None:
        return _("not measured, {allowed}", allowed=allowed)
    return _("measured {value}{unit}, {allowed}", value=number(gauge.measured), unit=unit, allowed=allowed)
