"""A teacher's way of marking, taken from one exercise to another: marks by what is asked, bands, tolerance, rules."""

from collections import Counter
from typing import Any

#: On the sheet, and not checked.
_UNCHECKED = ("shown", "auxiliary")
#: What belongs to a way of marking and not to an object.
_RULES = ("tolerance", "flow", "slips", "caps", "grounding", "contacts", "allowances", "as_modelled")


def with_scheme(document: dict[str, Any], scheme: dict[str, Any]) -> dict[str, Any]:
    """Return an exercise with the marks and rules of another.

    Parameters
    ----------
    document
        The exercise, as in its bundle.
    scheme
        The exercise whose way of marking is taken: its rules, and for each kind of check and measure the marks and the
        band for near values that it gives most often.

    Examples
    --------
    >>> old = {"flow": "either", "checks": [{"kind": "dimension", "measure": "diameter", "marks": 3}]}
    >>> new = {"flow": "required", "checks": [{"kind": "dimension", "measure": "diameter", "marks": 1}]}
    >>> with_scheme(new, old)
    {'flow': 'either', 'checks': [{'kind': 'dimension', 'measure': 'diameter', 'marks': 3}]}
    """
    marks: dict[str, Counter[float]] = {}
    bands: dict[str, Any] = {}
    for check in scheme.get("checks", []):
        if check.get("value") in _UNCHECKED:
            continue
        for key in _keys(check):
            marks.setdefault(key, Counter())[check["marks"]] += 1
            bands.setdefault(key, check.get("near"))
    checks = []
    for check in document.get("checks", []):
        known = next((key for key in _keys(check) if key in marks), None)
        if known is None or check.get("value") in _UNCHECKED:
            checks.append(check)
            continue
        near = {"near": bands[known]} if bands[known] else {}
        checks.append({**check, "marks": marks[known].most_common(1)[0][0], **near})
    return {**document, **{key: scheme[key] for key in _RULES if key in scheme}, "checks": checks}


def _keys(check: dict[str, Any]) -> tuple[str, ...]:
    """Return by what a check is known again: its measure, else its kind."""
    return f"{check['kind']} {check.get('measure', '')}", check["kind"]
