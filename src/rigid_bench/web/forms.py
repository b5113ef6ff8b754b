"""What people type into forms, read the same way everywhere."""

from rigid_bench.core.errors import FormRejected

#: No length or angle that is meant is larger.
_LARGEST = 1e6


def number_or_none(text: str) -> float | None:
    """Read a number with a decimal point or comma; None for nothing.

    Raises
    ------
    FormRejected
        It is no number, or one that cannot be meant.

    Examples
    --------
    >>> number_or_none(" 0,4 "), number_or_none("")
    (0.4, None)
    """
    words = text.strip().replace(",", ".")
    if not words:
        return None
    try:
        value = float(words)
    except ValueError:
        value = float("nan")
    if not abs(value) <= _LARGEST:
        raise FormRejected("number", f"'{text[:20]}' is no number that can be meant", "Type one, such as 0.4")
    return value
