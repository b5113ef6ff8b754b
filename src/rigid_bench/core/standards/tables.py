"""All tables of the trade as rows of text, each with its source, for the page that shows and searches them."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

from rigid_bench.core.standards import (
    allowances,
    bearings,
    fasteners,
    general_tolerances,
    materials,
    stock,
    threads,
    unified,
)
from rigid_bench.core.standards.fits import limits
from rigid_bench.core.standards.scales import SCALES, scale_text
from rigid_bench.core.values.names import slug
from rigid_bench.core.wording.language import N_, _, translated

_BY_DIAMETER = N_("screw; head diameter; head height; key")
_THEORETICAL = N_("screw; head diameter, theoretical; head height; key")
_ACROSS_FLATS = N_("screw; across flats; head height; key")
_FITS = ("H6", "H7", "H8", "H9", "H11", "N7", "P7", "f7", "g6", "h6", "h9", "js6", "k6", "m6", "n6", "p6", "r6", "s6")
_FIT_SIZES = (3, 6, 10, 18, 30, 50, 80, 120, 180, 250, 315, 400, 500)


@dataclass(frozen=True, slots=True, kw_only=True)
class Table:
    """A table of the trade."""

    id: str
    title: str
    source: str
    columns: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]

    def matching(self, words: Sequence[str]) -> tuple[tuple[str, ...], ...]:
        """Return the rows in which every word stands, in the row or in the table's title."""
        return tuple(
            row
            for row in self.rows
            if all(any(word.lower() in cell.lower() for cell in (*row, self.title)) for word in words)
        )


def all_tables() -> tuple[Table, ...]:
    """Return every table, in the order in which the page shows them."""
    return tuple(make() for make in _MAKERS)


def _n(value: float) -> str:
    return f"{value:.4g}" if abs(value) < 1000 else f"{value:g}"


def _table(title: str, source: str, columns: str, rows: Iterable[Iterable[object]]) -> Table:
    text = tuple(tuple(_n(cell) if isinstance(cell, int | float) else str(cell) for cell in row) for row in rows)
    return Table(id=slug(title), title=title, source=source, columns=tuple(translated(columns).split("; ")), rows=text)


def _metric_threads() -> Table:
    rows = (
        (
            t.designation,
            t.pitch,
            t.tapping_drill,
            t.minor_internal,
            t.root_external,
            _("coarse") if t.is_coarse else _("fine"),
        )
        for t in threads.threads()
    )
    return _table(
        N_("Metric threads"), N_("ISO 261, ISO 262 (pitches), ISO 724 (diameters), ISO 2306 (drills); from memory"),
        N_("thread; pitch; tapping drill; minor diameter of the nut; root of the screw; series"), rows,
    )  # fmt: skip


def _unified_threads() -> Table:
    rows = ((u.designation, u.per_inch, u.major, u.major_mm, u.minor_mm) for u in unified.UNIFIED.values())
    columns = N_("thread; threads per inch; major diameter, in; major diameter, mm; minor diameter, mm")
    return _table(N_("Unified threads"), N_("ASME B1.1; from memory"), columns, rows)


def _clearance_holes() -> Table:
    sizes = sorted({thread.nominal for thread in threads.threads()})
    rows = ((f"M{size:g}", *(threads.clearance_hole(size) or ())) for size in sizes)
    return _table(N_("Clearance holes"), N_("ISO 273; from memory"), N_("screw; fine; medium; coarse"), rows)


def _screws(title: str, source: str, columns: str, screws: dict[float, fasteners.Screw]) -> Callable[[], Table]:
    rows = [(f"M{screw.nominal:g}", screw.head, screw.height, screw.key) for screw in screws.values()]
    return lambda: _table(title, source, columns, rows)


def _nuts() -> Table:
    rows = ((f"M{nut.nominal:g}", nut.across_flats, nut.height) for nut in fasteners.NUTS.values())
    return _table(N_("Hexagon nuts"), N_("ISO 4032; from memory"), N_("nut; across flats; height"), rows)


def _washers() -> Table:
    rows = ((f"M{e.nominal:g}", e.inside, e.outside, e.thickness) for e in fasteners.WASHERS.values())
    return _table(N_("Plain washers"), N_("ISO 7089; from memory"), N_("for; inside; outside; thickness"), rows)


def _bearings() -> Table:
    rows = (
        (bearing.designation, bearing.bore, bearing.outside, bearing.width) for bearing in bearings.BEARINGS.values()
    )
    return _table(N_("Ball bearings"), N_("ISO 15; from memory"), N_("bearing; bore; outside; width"), rows)


def _lengths() -> Table:
    rows = []
    for low, high in zip((0.5, *general_tolerances.RANGES), general_tolerances.RANGES, strict=False):
        deviations = [general_tolerances.LINEAR[name][general_tolerances.RANGES.index(high)] for name in "fmcv"]
        texts = [f"±{deviation:g}" if deviation else "–" for deviation in deviations]
        rows.append((_("over {low:g} to {high:g}", low=low, high=high), *texts))
    source = N_("ISO 2768-1, table 1; meant for cut and formed parts; none below 0.5 mm; from memory")
    return _table(
        N_("General tolerances of lengths"), source, N_("size; f fine; m medium; c coarse; v very coarse"), rows
    )


def _fit_rows() -> Table:
    rows = []
    for low, high in zip((0, *_FIT_SIZES), _FIT_SIZES, strict=False):
        fit_limits = [limits(name, high) for name in _FITS]
        texts = [f"{1000 * limits.lower:+.0f} {1000 * limits.upper:+.0f}" for limits in fit_limits]
        rows.append((_("over {low:g} to {high:g}", low=low, high=high), *texts))
    source = N_("ISO 286-1, micrometres, at the upper end of each range; from memory")
    return _table(N_("Fits"), source, "; ".join(("size", *_FITS)), rows)


def _scales() -> Table:
    return _table(N_("Scales"), N_("ISO 5455; from memory"), N_("scale"), ((scale_text(scale),) for scale in SCALES))


def _stock() -> Table:
    rows = ((name, ", ".join(map(_n, sizes))) for name, sizes in (stock.SHEETS | stock.BARS).items())
    return _table(N_("Stock"), N_("common practice, no source"), N_("stock; thicknesses or sections"), rows)


def _allowances() -> Table:
    rows = [
        (process, action, _("{low:g} to {high:g}", low=low, high=high))
        for process, actions in allowances.ALLOWANCES.items()
        for action, (low, high) in actions.items()
    ]
    source = N_("classroom values, common practice, no source; an exercise may give its own")
    return _table(N_("Gaps by process"), source, N_("process; what it does; gap a side, mm"), rows)


def _materials() -> Table:
    source = N_("data sheets and handbooks, usual values; from memory; wood varies by a tenth and more")
    return _table(N_("Materials"), source, N_("material; density, g/cm³"), materials.DENSITIES.items())


_MAKERS: tuple[Callable[[], Table], ...] = (
    _metric_threads,
    _unified_threads,
    _clearance_holes,
    _screws(N_("Socket head screws"), N_("ISO 4762; from memory"), _BY_DIAMETER, fasteners.SOCKET),
    _screws(N_("Button head screws"), N_("ISO 7380-1; from memory"), _BY_DIAMETER, fasteners.BUTTON),
    _screws(N_("Countersunk screws"), N_("ISO 10642; from memory"), _THEORETICAL, fasteners.COUNTERSUNK),
    _screws(N_("Hexagon head screws"), N_("ISO 4014, ISO 4017; from memory"), _ACROSS_FLATS, fasteners.HEXAGON),
    _nuts,
    _washers,
    _bearings,
    _lengths,
    _fit_rows,
    _scales,
    _allowances,
    _stock,
    _materials,
)
