"""How sizes are written on a drawing: number, unit, tolerance, and the signs that the legend explains."""

from dataclasses import dataclass
from typing import Any

from rigid_bench.core.exercise.bundle import CheckModel
from rigid_bench.core.formats.pictures import AskedSize
from rigid_bench.core.values.units import MM_PER_UNIT
from rigid_bench.core.wording.quantities import number

#: Signs that the legend explains.
FREE, ASSUMED, SHOWN = "free", "yours", "*"


@dataclass(frozen=True, slots=True, kw_only=True)
class Written:
    """How sizes are written."""

    units: str
    #: Sizes in the other unit, too.
    both: bool = False
    blanks: bool = False
    #: The class's sign between whole and part.
    decimal: str = "."
    #: For a person who reads the drawing of a draft: what is not yet asked has no number.
    unknown: bool = False

    @property
    def mm(self) -> float:
        """Millimetres in the unit."""
        return MM_PER_UNIT[self.units]

    def number(self, value: float, digits: int = 3) -> str:
        """Write a number.

        Examples
        --------
        >>> Written(units="mm", decimal=",").number(5.5)
        '5,5'
        """
        return number(value, digits).replace(".", self.decimal)

    def size(self, check: CheckModel, size: AskedSize, sign: str = "") -> str:
        """Write a size with its own tolerance, its sign, and what the legend explains.

        Examples
        --------
        >>> bore = {"id": "b", "title": "Bore", "kind": "dimension", "marks": 1, "measure": "diameter"}
        >>> asked = AskedSize(nominal=6, minus=0, plus=0.01)
        >>> Written(units="mm").size(CheckModel.model_validate({**bore, "tolerance": "H7"}), asked, "Ø")
        'Ø6 H7'
        >>> Written(units="mm", both=True).size(CheckModel.model_validate(bore), asked, "Ø")
        'Ø6 [0.236]'
        """
        if self.unknown:
            return f"{sign}?"
        value, measure = check.fields.get("value", "required"), str(check.fields.get("measure"))
        if self.blanks and value not in ("shown",):
            return f"{sign}____"
        if value in ("free", "assumed"):
            return f"{sign} {FREE if value == 'free' else ASSUMED}".strip()
        text = f"{sign}{self.number(size.nominal, 3 if self.units == 'in' else 2)}"
        text += "°" if "angle" in measure else ""
        text += "" if value == "auxiliary" else self._tolerance(check.fields.get("tolerance"))
        if self.both and "angle" not in measure:
            other, digits = (size.nominal / 25.4, 3) if self.units == "mm" else (size.nominal * 25.4, 2)
            text += f" [{self.number(other, digits)}]"
        return f"({text})" if value == "auxiliary" else text + (SHOWN if value == "shown" else "")

    def _tolerance(self, tolerance: Any) -> str:
        if isinstance(tolerance, dict):
            digits = 4 if self.units == "in" else 3
            minus, plus = (float(tolerance.get(side, 0)) for side in ("minus", "plus"))
            if minus == plus:
                return f" ±{self.number(plus, digits)}" if plus else ""
            return f" +{self.number(plus, digits)}/−{self.number(minus, digits)}"
        is_fit = isinstance(tolerance, str) and tolerance[:1].isalpha() and " " not in tolerance
        return f" {tolerance}" if is_fit else ""
