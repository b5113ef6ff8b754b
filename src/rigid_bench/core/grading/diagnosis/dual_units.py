"""A size read from the other unit on a sheet that gives both: the sheet rounds, and the student is not to blame."""

import math

from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.values.units import MM_PER_UNIT

#: Places that the other unit is printed with: thousandths of an inch, hundredths of a millimetre.
_PLACES = {"mm": 3, "in": 2}
#: mm: how exactly a number that was typed comes back.
_TYPED_MM = 5e-4


def excuse(nominal: float, value: float, units: str) -> Message | None:
    """Say in which way a value is the nominal, rounded or cut off in the other unit; None where it is not.

    Parameters
    ----------
    nominal, value
        Required and measured, in the exercise's unit.
    units
        "mm" or "in".

    Examples
    --------
    >>> excuse(25.0, 0.984 * 25.4, "mm").code
    'excused.rounded-in'
    >>> excuse(25.0, 25.02, "mm") is None
    True
    """
    other = "in" if units == "mm" else "mm"
    factor = MM_PER_UNIT[units] / MM_PER_UNIT[other]
    tens = 10 ** _PLACES[units]
    exact = abs(nominal) * factor * tens
    for whole, way in ((round(exact), "rounded"), (math.floor(exact), "cut-off")):
        printed = whole / tens
        off_mm = abs(printed * MM_PER_UNIT[other] - abs(value) * MM_PER_UNIT[units])
        if off_mm <= _TYPED_MM and whole != exact:
            return phrase(f"excused.{way}-{other}", places=_PLACES[units], size=printed)
    return None
