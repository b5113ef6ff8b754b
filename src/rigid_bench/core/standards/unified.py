"""Unified inch screw threads, coarse and fine: ASME B1.1 (from memory)."""

from dataclasses import dataclass

_MM = 25.4


@dataclass(frozen=True, slots=True, kw_only=True)
class UnifiedThread:
    """A unified thread."""

    #: "1/4-20 UNC"
    designation: str
    #: inches
    major: float
    per_inch: int

    @property
    def is_coarse(self) -> bool:
        """Of the coarse series."""
        return self.designation.endswith("UNC")

    @property
    def major_mm(self) -> float:
        """Mm"""
        return self.major * _MM

    @property
    def minor_mm(self) -> float:
        """mm, of the internal thread: D - 1.25 H with H = P sqrt(3)/2, as for metric threads."""
        return (self.major - 1.082532 / self.per_inch) * _MM


def _number(size: int) -> float:
    return 0.060 + 0.013 * size  # the numbered sizes' own rule


#: Name, major diameter in inches, threads per inch coarse and fine.
_SIZES = (
    ("#4", _number(4), 40, 48), ("#5", _number(5), 40, 44), ("#6", _number(6), 32, 40), ("#8", _number(8), 32, 36),
    ("#10", _number(10), 24, 32), ("#12", _number(12), 24, 28), ("1/4", 0.25, 20, 28), ("5/16", 0.3125, 18, 24),
    ("3/8", 0.375, 16, 24), ("7/16", 0.4375, 14, 20), ("1/2", 0.5, 13, 20),
)  # fmt: skip
UNIFIED = {
    thread.designation: thread
    for name, major, coarse, fine in _SIZES
    for thread in (
        UnifiedThread(designation=f"{name}-{coarse} UNC", major=major, per_inch=coarse),
        UnifiedThread(designation=f"{name}-{fine} UNF", major=major, per_inch=fine),
    )
}
