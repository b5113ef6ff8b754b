"""What got better, week by week: the share of drills that were answered right."""

from collections.abc import Sequence
from dataclasses import dataclass

from markupsafe import Markup

from rigid_bench.core.wording.language import _
from rigid_bench.web.figures.svg import element, svg

_WIDE, _HIGH, _LEFT, _LOW, _STEP = 520.0, 150.0, 44.0, 28.0, 64.0


@dataclass(frozen=True, slots=True, kw_only=True)
class WeekOfDrills:
    """How the drills of a week went."""

    #: As ISO 8601 counts them.
    year: int
    number: int
    answered: int
    right: int


def progress_chart(weeks: Sequence[WeekOfDrills]) -> Markup:
    """Draw a bar for each week: its height is the share that was right, its label how many of how many.

    Parameters
    ----------
    weeks
        In order; the newest are drawn.
    """
    shown = list(weeks)[-int((_WIDE - _LEFT) // _STEP) :]
    room = _HIGH - _LOW - 18
    parts = []
    for share in (0, 50, 100):
        y = _HIGH - _LOW - room * share / 100
        parts.append(element("path", d=f"M{_LEFT:.0f} {y:.1f}H{_WIDE:.0f}", class_="grid-line"))
        parts.append(element("text", f"{share} %", x=_LEFT - 6, y=y + 4, text_anchor="end", class_="chart-text"))
    for k, week in enumerate(shown):
        x, high = _LEFT + k * _STEP + 12, room * week.right / max(week.answered, 1)
        parts.append(element("rect", x=x, y=_HIGH - _LOW - high, width=_STEP - 24, height=high, class_="chart-bar"))
        middle = x + (_STEP - 24) / 2
        parts.append(
            element(
                "text",
                f"{week.right}/{week.answered}",
                x=middle,
                y=_HIGH - _LOW - high - 4,
                text_anchor="middle",
                class_="chart-text",
            )
        )
        name = _("week {number}", number=week.number)
        parts.append(element("text", name, x=middle, y=_HIGH - 10, text_anchor="middle", class_="chart-text"))
    label = "; ".join(
        _(
            "{year}, week {number}: {right} of {answered} right",
            year=week.year,
            number=week.number,
            right=week.right,
            answered=week.answered,
        )
        for week in shown
    )
    return svg(Markup("").join(parts), width=_WIDE, height=_HIGH, label=label, kind="chart")
