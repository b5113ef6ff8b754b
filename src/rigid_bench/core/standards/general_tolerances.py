"""General tolerances for linear sizes, ISO 2768-1:1989, table 1 (from memory)."""

from rigid_bench.core.errors import InvalidDocument

#: Upper end of each range of nominal sizes, mm; the first range begins at 0.5.
_RANGES = (3.0, 6.0, 30.0, 120.0, 400.0, 1000.0, 2000.0, 4000.0)
_SMALLEST = 0.5
#: class -> permissible deviation either way (mm) per range; None where the standard gives none.
_LINEAR: dict[str, tuple[float | None, ...]] = {
    "f": (0.05, 0.05, 0.1, 0.15, 0.2, 0.3, 0.5, None),
    "m": (0.1, 0.1, 0.2, 0.3, 0.5, 0.8, 1.2, 2.0),
    "c": (0.2, 0.3, 0.5, 0.8, 1.2, 2.0, 3.0, 4.0),
    "v": (None, 0.5, 1.0, 1.5, 2.5, 4.0, 6.0, 8.0),
}


def linear_tolerance(nominal_mm: float, name: str) -> float:
    """Return the deviation that a general tolerance permits either way, mm.

    Parameters
    ----------
    nominal_mm
        The size.
    name
        ``ISO 2768-`` and the class: f fine, m medium, c coarse, v very coarse.

    Returns
    -------
    float

    Raises
    ------
    InvalidDocument
        There is no such class, or the standard gives no deviation for the size: it then
        has to stand beside the size.

    Examples
    --------
    >>> linear_tolerance(4.2, "ISO 2768-m")
    0.1
    >>> linear_tolerance(0.4, "ISO 2768-m")
    Traceback (most recent call last):
    rigid_bench.core.errors.InvalidDocument: tolerance 'ISO 2768-m': the standard gives none for 0.4 mm. ...
    """
    where = f"tolerance '{name}'"
    row = _LINEAR.get(name.removeprefix("ISO 2768-")) if name.startswith("ISO 2768-") else None
    if row is None:
        raise InvalidDocument(where, "there is no such tolerance class", "The classes are ISO 2768-f, -m, -c and -v")
    size = abs(nominal_mm)
    if size >= _SMALLEST:
        for upper, deviation in zip(_RANGES, row, strict=True):
            if size <= upper and deviation is not None:
                return deviation
            if size <= upper:
                break
    raise InvalidDocument(where, f"the standard gives none for {size:g} mm", 'Give limits: {"minus": 0.1, "plus": 0.1}')
