"""Nominals and tolerances as teachers type them, in forms and in tables."""

import re
from collections.abc import Mapping
from typing import Any

from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.wording.language import _

_LIMITS = re.compile(r"\+\s*([\d.,]{1,20})\s*/\s*[-−]\s*([\d.,]{1,20})")
_EITHER = re.compile(r"(?:±|\+-|\+/-)?\s*([\d.,]{1,20})")
_NUMBER = re.compile(r"-?\d{1,20}(\.\d{1,20})?")


def read_nominal(text: str) -> float | str:
    """Read a nominal: a number, or a sum that stays one.

    Examples
    --------
    >>> read_nominal("16.4"), read_nominal("20 - 2*1.8")
    (16.4, '20 - 2*1.8')
    """
    return float(text) if _NUMBER.fullmatch(text) else text


def read_tolerance(text: str) -> str | dict[str, float]:
    """Read a tolerance: limits, or the name of a class or fit.

    Raises
    ------
    FormRejected
        A limit is no number.

    Examples
    --------
    >>> read_tolerance("0,2"), read_tolerance("+0.2/-0"), read_tolerance("H7")
    ({'minus': 0.2, 'plus': 0.2}, {'minus': 0.0, 'plus': 0.2}, 'H7')
    """
    limits, either = _LIMITS.fullmatch(text), _EITHER.fullmatch(text)
    if limits:
        return {"minus": _limit(limits[2]), "plus": _limit(limits[1])}
    if either:
        return {"minus": _limit(either[1]), "plus": _limit(either[1])}
    return text


def tolerance_words(check: Mapping[str, Any]) -> str:
    """Write a check's tolerance as `read_tolerance` reads it."""
    given = check.get("tolerance")
    if isinstance(given, dict):
        minus, plus = given.get("minus", 0), given.get("plus", 0)
        return f"±{plus:g}" if minus == plus else f"+{plus:g}/-{minus:g}"
    return str(given or "")


def _limit(text: str) -> float:
    try:
        return float(text.replace(",", "."))
    except ValueError as exc:
        raise FormRejected(
            _("tolerance"), _("'{text}' is no number", text=text), _("Write ±0.1, +0.2/-0, a class or a fit"), "limits"
        ) from exc
