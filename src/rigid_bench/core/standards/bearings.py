"""Deep groove ball bearings: boundary dimensions after ISO 15, mm (from memory)."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Bearing:
    """A bearing's boundary dimensions."""

    designation: str
    bore: float
    outside: float
    width: float


BEARINGS = {
    name: Bearing(designation=name, bore=bore, outside=outside, width=width)
    for name, bore, outside, width in (
        ("623", 3, 10, 4), ("604", 4, 12, 4), ("624", 4, 13, 5), ("605", 5, 14, 5), ("625", 5, 16, 5),
        ("606", 6, 17, 6), ("626", 6, 19, 6), ("607", 7, 19, 6), ("627", 7, 22, 7), ("608", 8, 22, 7),
        ("609", 9, 24, 7), ("629", 9, 26, 8),
        ("6000", 10, 26, 8), ("6001", 12, 28, 8), ("6002", 15, 32, 9), ("6003", 17, 35, 10),
        ("6004", 20, 42, 12), ("6005", 25, 47, 12), ("6006", 30, 55, 13),
        ("6200", 10, 30, 9), ("6201", 12, 32, 10), ("6202", 15, 35, 11), ("6203", 17, 40, 12),
        ("6204", 20, 47, 14), ("6205", 25, 52, 15), ("6206", 30, 62, 16),
    )
}  # fmt: skip
