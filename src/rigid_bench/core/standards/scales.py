"""Scales of drawings: ISO 5455, clause 5 (from memory)."""

#: What a drawing may be larger or smaller by: size on paper over size in nature.
SCALES = (
    50.0, 20.0, 10.0, 5.0, 2.0, 1.0,
    1 / 2, 1 / 5, 1 / 10, 1 / 20, 1 / 50, 1 / 100, 1 / 200, 1 / 500, 1 / 1000, 1 / 2000, 1 / 5000, 1 / 10000,
)  # fmt: skip


def scale_text(scale: float) -> str:
    """Write a scale as on a drawing.

    Examples
    --------
    >>> scale_text(2), scale_text(1), scale_text(1 / 50)
    ('2:1', '1:1', '1:50')
    """
    return f"{scale:g}:1" if scale >= 1 else f"1:{1 / scale:g}"


def scale_of(text: str) -> float:
    """Read a scale as it is written.

    Examples
    --------
    >>> scale_of("2:1"), scale_of("1:50")
    (2.0, 0.02)
    """
    over, _, under = text.partition(":")
    return float(over) / float(under)
