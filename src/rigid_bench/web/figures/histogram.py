"""Measured values of a class on one line, with the tolerance band: where many stand together, they are stacked."""

from collections.abc import Sequence

from markupsafe import Markup

from rigid_bench.core.wording.language import _
from rigid_bench.core.wording.quantities import number
from rigid_bench.web.figures.svg import element, svg

_WIDE, _HIGH, _EDGE, _LOW, _BINS = 360.0, 120.0, 14.0, 30.0, 24


def histogram(values: Sequence[float], low: float | None, high: float | None) -> Markup:
    """Draw how many students measured what.

    Parameters
    ----------
    values
        In the exercise's unit.
    low, high
        The band that is asked; None is open.
    """
    ends = [*values, *(limit for limit in (low, high) if limit is not None)]
    least, most = min(ends), max(ends)
    room = max(most - least, 1e-9) * 0.08
    least, most = least - room, most + room

    def at(value: float) -> float:
        return _EDGE + (value - least) / (most - least) * (_WIDE - 2 * _EDGE)

    counts = [0] * _BINS
    for value in values:
        counts[min(int((value - least) / (most - least) * _BINS), _BINS - 1)] += 1
    tall, base, step = max(counts, default=0) or 1, _HIGH - _LOW, (_WIDE - 2 * _EDGE) / _BINS
    band_from, band_to = at(least if low is None else low), at(most if high is None else high)
    parts = [
        element("rect", x=band_from, y=8.0, width=max(band_to - band_from, 2.0), height=base - 8, class_="gauge-band"),
        element("path", d=f"M{_EDGE:.0f} {base:.0f}H{_WIDE - _EDGE:.0f}", class_="gauge-line"),
    ]
    for place, count in enumerate(counts):
        if count:
            high_px = (base - 24) * count / tall
            x = _EDGE + place * step
            parts.append(element("rect", x=x + 1, y=base - high_px, width=step - 2, height=high_px, class_="chart-bar"))
            text = element("text", str(count), x=x + step / 2, y=base - high_px - 4, text_anchor="middle",
                           class_="chart-text")  # fmt: skip
            parts.append(text)
    for value, anchor, x in ((least + room, "start", _EDGE), (most - room, "end", _WIDE - _EDGE)):
        parts.append(element("text", number(value), x=x, y=_HIGH - 10, text_anchor=anchor, class_="chart-text"))
    label = _(
        "{count} values from {least} to {most}",
        count=len(values),
        least=number(min(values)),
        most=number(max(values)),
    )
    return svg(Markup("").join(parts), width=_WIDE, height=_HIGH, label=label, kind="chart")


def bars(rows: Sequence[tuple[str, int, int]], most: int) -> Markup:
    """Draw a bar for each row: its name, how many in all (of `most` on the whole width), and how many are open."""
    line, left, wide = 26.0, 250.0, 560.0
    parts = []
    for place, (name, count, standing) in enumerate(rows):
        y, length = place * line + 6, (wide - left - 40) * count / most
        open_length = length * standing / max(count, 1)
        parts += [
            element("text", name, x=left - 8, y=y + 13, text_anchor="end", class_="chart-text"),
            element("rect", x=left, y=y, width=length, height=line - 10, class_="chart-bar"),
            element("rect", x=left, y=y, width=open_length, height=line - 10, class_="chart-open"),
            element("text", str(count), x=left + length + 6, y=y + 13, class_="chart-text"),
        ]
    label = "; ".join(
        _("{name}: {count}, of them {standing} still open", name=name, count=count, standing=standing)
        for name, count, standing in rows
    )
    return svg(Markup("").join(parts), width=wide, height=len(rows) * line + 8, label=label, kind="chart")
