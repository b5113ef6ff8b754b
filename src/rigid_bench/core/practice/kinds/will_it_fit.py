"""Will it fit? Clearance and fit from sizes, from classroom practice, and from the tables of ISO 286."""

import random

from rigid_bench.core.practice.drill import Choice, Drill
from rigid_bench.core.practice.kind import DrillKind
from rigid_bench.core.practice.offered import offered
from rigid_bench.core.practice.sums import Sum, drill_of_sum
from rigid_bench.core.practice.unfit import Unfit
from rigid_bench.core.standards.allowances import ALLOWANCES
from rigid_bench.core.standards.fits import limits
from rigid_bench.core.wording.language import N_, _, translated
from rigid_bench.core.wording.quantities import number as n

_FITS = ("H7/g6", "H7/h6", "H7/f7", "H8/e8", "H8/f7", "H9/d9", "H11/c11", "H7/k6", "H7/n6", "H7/p6", "H7/r6", "H7/s6")
_SORTS = {
    "clearance": N_("clearance fit: always loose"),
    "transition": N_("transition fit: loose or tight, as the parts turn out"),
    "interference": N_("interference fit: always tight"),
}
#: mm by which a gap lies within its band, so that no rounding decides.
_SURE = 0.01


def make(chance: random.Random, level: int) -> Drill:
    """Make one by lot."""
    return {1: _clearance, 2: _classroom, 3: _by_tables}[level](chance, level)


def _clearance(chance: random.Random, level: int) -> Drill:
    shaft = chance.choice((4, 5, 6, 8, 10, 12, 16, 20))
    bore = round(shaft + chance.choice((0.1, 0.2, 0.25, 0.3, 0.4, 0.5, 0.6, 0.8)), 2)
    is_side = chance.random() < 0.5
    where = "a side" if is_side else _("on the diameter")
    parts = _("A Ø{shaft} shaft stands in a Ø{bore} bore.", shaft=shaft, bore=n(bore))
    return drill_of_sum(
        Sum(
            question=_("{parts} What is the clearance {where}?", parts=parts, where=where),
            expression="(bore - shaft) / 2" if is_side else "bore - shaft",
            values={"bore": bore, "shaft": shaft},
            near=[("bore - shaft", _("That is on the diameter; a side is half of it."))]
            if is_side
            else [("(bore - shaft) / 2", _("That is a side; on the diameter it is twice as much."))],
            why=_("Two sides share what the diameters differ by.") if is_side else _("The diameters differ by it."),
        ),
        level,
    )


def _classroom(chance: random.Random, level: int) -> Drill:
    """What will two printed or machined parts do, by classroom practice?"""
    process = chance.choice(("printed", "machined"))
    bands = {use: band for use, band in ALLOWANCES[process].items() if use in ("press", "push", "turn")}
    use = chance.choice(sorted(bands))
    least, most = bands[use]
    gap = round(chance.uniform(least, most), 2 if process == "printed" else 3)
    inside = [name for name, (low, high) in bands.items() if low - _SURE < gap < high + _SURE]
    if inside != [use]:
        raise Unfit
    shaft = chance.choice((5, 6, 8, 10, 12, 16))
    bore = shaft + 2 * gap
    words = {
        "press": _("it is pressed in, and stays"),
        "push": _("it is pushed in by hand, and stays"),
        "turn": _("it turns freely"),
    }
    choices, answer = offered(
        chance, [Choice(id="", text=words[use])], [Choice(id="", text=words[name]) for name in bands if name != use]
    )
    sides = f"{n(gap)} mm a side"
    return Drill(
        kind="",
        seed=0,
        level=level,
        question=_(
            "A Ø{shaft} pin goes into a {process} bore of Ø{bore}. What will it do?",
            shaft=shaft,
            process=process,
            bore=n(bore),
        ),
        given={
            "expression": "(bore - pin) / 2",
            "values": {"bore": round(bore, 4), "pin": shaft},
            "bands": {words[name]: list(band) for name, band in bands.items()},
        },
        form="choice",
        choices=choices,
        answer=answer,
        explanation=_(
            "(Ø{bore} − Ø{shaft}) / 2 = {sides}. {made}, {least} to {most} mm a side:"
            "  {words} (common practice, no source).",
            bore=n(bore),
            shaft=shaft,
            sides=sides,
            made=process.capitalize(),
            least=n(least),
            most=n(most),
            words=words[use],
        ),
    )


def _by_tables(chance: random.Random, level: int) -> Drill:
    """What sort of fit, or how much clearance, do the tables give?"""
    fit, size = chance.choice(_FITS), chance.choice((6, 8, 10, 12, 16, 20, 25, 30, 40, 50))
    hole, shaft = (limits(side, size) for side in fit.split("/"))
    least, most = hole.lower - shaft.upper, hole.upper - shaft.lower
    bands = f"Ø{size} {fit}: hole {_band(hole.lower, hole.upper)}, shaft {_band(shaft.lower, shaft.upper)} (ISO 286)"
    if chance.random() < 0.5 and most > 0:
        return drill_of_sum(
            Sum(
                question=_("{bands}. What is the greatest clearance?", bands=bands),
                expression=f"hole - shaft + ({hole.upper:.4f} - ({shaft.lower:.4f}))".replace("(-", "(0 - "),
                values={"hole": float(size), "shaft": float(size)},
                near=[],
                why=_("The largest hole on the smallest shaft:"),
            ),
            level,
        ).model_copy(update={"tolerance": 0.0005})
    sort = "clearance" if least >= 0 else "interference" if most <= 0 else "transition"
    choices, answer = offered(
        chance,
        [Choice(id="", text=translated(_SORTS[sort]))],
        [Choice(id="", text=words) for name, words in _SORTS.items() if name != sort],
    )
    return Drill(
        kind="",
        seed=0,
        level=level,
        question=_("{bands}. What sort of fit is it?", bands=bands),
        given={"fit": fit, "nominal": size, "hole": [hole.lower, hole.upper], "shaft": [shaft.lower, shaft.upper]},
        form="choice",
        choices=choices,
        answer=answer,
        explanation=_(
            "Least clearance {least} mm, greatest {most} mm: {sorts}.",
            least=n(least, 4),
            most=n(most, 4),
            sorts=translated(_SORTS[sort]),
        ),
    )


def _band(low: float, high: float) -> str:
    return f"{low * 1000:+.0f}/{high * 1000:+.0f} µm"


KIND = DrillKind(
    name="will-it-fit",
    title=N_("Will it fit?"),
    levels=(1, 2, 3),
    make=make,
    slips=("overlap-as-meant", "offset-forgotten"),
)
