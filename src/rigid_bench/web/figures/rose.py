"""The freedom rose: three slides and three turns, each open or closed, with what was asked beside it."""

import math
from collections.abc import Callable

from markupsafe import Markup

from rigid_bench.core.grading.report.models import RoseModel
from rigid_bench.core.wording.language import N_, _, series, translated
from rigid_bench.web.figures.svg import element, n, svg

_SIZE, _MIDDLE, _REACH = 124.0, 62.0, 42.0
_AXES = "XYZ"
#: What an open petal lets a part do.
PETAL_WORDS = {
    "tx": N_("slide along X"),
    "ty": N_("slide along Y"),
    "tz": N_("slide along Z"),
    "rx": N_("turn about X"),
    "ry": N_("turn about Y"),
    "rz": N_("turn about Z"),
}


def freedom_rose(rose: RoseModel) -> Markup:
    """Draw a rose of six petals: slides on the upper half, turns on the lower.

    Parameters
    ----------
    rose
        Which slides and turns are open, and which were asked.

    Returns
    -------
    Markup
        An SVG element; an open petal is hollow with a sign of its motion in it, a closed one
        is filled and crossed by a bar, and one that is not as asked has a ring at its tip.
    """
    petals = []
    for k, axis in enumerate(_AXES):
        petals.append(_petal(-150 + 60 * k, axis, "slide", rose.slides[k], rose.required_slides[k]))
        petals.append(_petal(30 + 60 * k, axis, "turn", rose.turns[k], rose.required_turns[k]))
    hub = element("circle", cx=_MIDDLE, cy=_MIDDLE, r=7.0, class_="rose-hub")
    return svg("".join([*petals, hub]), width=_SIZE, height=_SIZE, label=_label(rose), kind="rose")


def pointed_rose() -> Markup:
    """Draw a rose whose petals are opened by pointing: each has the name of its motion, such as "tx", for scripts."""
    petals = []
    for k, axis in enumerate(_AXES):
        for degrees, kind in ((-150 + 60 * k, "slide"), (30 + 60 * k, "turn")):
            both = [
                element(
                    "g", _petal(degrees, axis, kind, is_open, is_open), class_="is-open" if is_open else "is-closed"
                )
                for is_open in (False, True)
            ]
            name = f"{'t' if kind == 'slide' else 'r'}{axis.lower()}"
            petals.append(element("g", Markup("").join(both), class_="rose-choice", data_choice=name))
    hub = element("circle", cx=_MIDDLE, cy=_MIDDLE, r=7.0, class_="rose-hub")
    return svg("".join([*petals, hub]), width=_SIZE, height=_SIZE, label=_("The rose of what is open"), kind="rose")


def _petal(degrees: float, axis: str, kind: str, is_open: bool, is_asked: bool) -> Markup:
    angle = math.radians(degrees)
    along, across = (math.cos(angle), math.sin(angle)), (-math.sin(angle), math.cos(angle))

    def at(out: float, aside: float) -> str:
        x = _MIDDLE + out * along[0] + aside * across[0]
        y = _MIDDLE + out * along[1] + aside * across[1]
        return f"{n(x)} {n(y)}"

    outline = f"M{at(8, 0)} C{at(16, 17)} {at(36, 17)} {at(_REACH, 0)} C{at(36, -17)} {at(16, -17)} {at(8, 0)}Z"
    petal = element("path", d=outline, class_="petal-open" if is_open else "petal-closed")
    sign = _sign(kind, at) if is_open else element("path", d=f"M{at(26, -7)} L{at(26, 7)}", class_="petal-bar")
    x, y = at(_REACH + 11, 0).split()
    name = element("text", axis, x=x, y=float(y) + 4, text_anchor="middle", class_="rose-name")
    ring = Markup("")
    if is_open != is_asked:
        ring = element("circle", cx=x, cy=y, r=9.0, class_="rose-wrong")
    return petal + sign + name + ring


def _sign(kind: str, place: Callable[[float, float], str]) -> Markup:
    """Draw what an open petal can do: a double arrow to slide, a round arrow to turn."""
    if kind == "slide":
        d = (
            f"M{place(16, 0)} L{place(36, 0)} M{place(20, -4)} L{place(16, 0)} L{place(20, 4)} "
            f"M{place(32, -4)} L{place(36, 0)} L{place(32, 4)}"
        )
    else:
        d = f"M{place(20, 4)} A7 7 0 1 1 {place(20, -4)} M{place(15, -3)} L{place(20, -4)} L{place(21, -9)}"
    return element("path", d=d, class_="petal-sign")


def _label(rose: RoseModel) -> str:
    opened = [_("slide along {axis}", axis=axis) for axis, is_open in zip(_AXES, rose.slides, strict=True) if is_open]
    opened += [_("turn about {axis}", axis=axis) for axis, is_open in zip(_AXES, rose.turns, strict=True) if is_open]
    state = translated(rose.state)
    if not opened:
        return _("{state}: all six motions closed", state=state)
    return _("{state}: {motions} open", state=state, motions=series(opened))
