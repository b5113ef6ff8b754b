"""Metric screws, nuts and washers: the sizes that a model needs, mm."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Screw:
    """A screw's head."""

    nominal: float
    #: Greatest diameter of the head, or width across flats of a hexagon head.
    head: float
    height: float
    #: Width across flats of the key that drives it.
    key: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Nut:
    """A hexagon nut."""

    nominal: float
    across_flats: float
    #: Greatest height.
    height: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Washer:
    """A plain washer."""

    nominal: float
    inside: float
    outside: float
    thickness: float


def _screws(rows: dict[float, tuple[float, float, float]]) -> dict[float, Screw]:
    return {d: Screw(nominal=d, head=head, height=height, key=key) for d, (head, height, key) in rows.items()}


#: ISO 4762, hexagon socket head cap screws: head diameter (plain), head height, key (from memory).
SOCKET = _screws(
    {
        2: (3.8, 2, 1.5), 2.5: (4.5, 2.5, 2), 3: (5.5, 3, 2.5), 4: (7, 4, 3), 5: (8.5, 5, 4), 6: (10, 6, 5),
        8: (13, 8, 6), 10: (16, 10, 8), 12: (18, 12, 10), 16: (24, 16, 14), 20: (30, 20, 17), 24: (36, 24, 19),
    }
)  # fmt: skip
#: ISO 7380-1, hexagon socket button head screws (from memory).
BUTTON = _screws(
    {
        3: (5.7, 1.65, 2), 4: (7.6, 2.2, 2.5), 5: (9.5, 2.75, 3), 6: (10.5, 3.3, 4),
        8: (14, 4.4, 5), 10: (17.5, 5.5, 6), 12: (21, 6.6, 8), 16: (28, 8.8, 10),
    }
)  # fmt: skip
#: ISO 10642, hexagon socket countersunk head screws, 90 degrees: theoretical head diameter (from memory).
COUNTERSUNK = _screws(
    {
        3: (6.72, 1.86, 2), 4: (8.96, 2.48, 2.5), 5: (11.2, 3.1, 3), 6: (13.44, 3.72, 4),
        8: (17.92, 4.96, 5), 10: (22.4, 6.2, 6), 12: (26.88, 7.44, 8), 16: (33.6, 8.8, 10), 20: (40.32, 10.16, 12),
    }
)  # fmt: skip
#: ISO 4014 and 4017, hexagon head bolts and screws: across flats, head height (from memory).
HEXAGON = _screws(
    {
        2: (4, 1.4, 4), 2.5: (5, 1.7, 5), 3: (5.5, 2, 5.5), 4: (7, 2.8, 7), 5: (8, 3.5, 8), 6: (10, 4, 10),
        8: (13, 5.3, 13), 10: (16, 6.4, 16), 12: (18, 7.5, 18), 16: (24, 10, 24), 20: (30, 12.5, 30), 24: (36, 15, 36),
    }
)  # fmt: skip
#: ISO 4032, hexagon nuts, style 1 (from memory).
NUTS = {
    d: Nut(nominal=d, across_flats=s, height=m)
    for d, s, m in (
        (2, 4, 1.6), (2.5, 5, 2), (3, 5.5, 2.4), (4, 7, 3.2), (5, 8, 4.7), (6, 10, 5.2),
        (8, 13, 6.8), (10, 16, 8.4), (12, 18, 10.8), (16, 24, 14.8), (20, 30, 18), (24, 36, 21.5),
    )
}  # fmt: skip
#: ISO 7089, plain washers, normal series (from memory).
WASHERS = {
    d: Washer(nominal=d, inside=inside, outside=outside, thickness=thickness)
    for d, inside, outside, thickness in (
        (2, 2.2, 5, 0.3), (2.5, 2.7, 6, 0.5), (3, 3.2, 7, 0.5), (4, 4.3, 9, 0.8), (5, 5.3, 10, 1), (6, 6.4, 12, 1.6),
        (8, 8.4, 16, 1.6), (10, 10.5, 20, 2), (12, 13, 24, 2.5), (16, 17, 30, 3), (20, 21, 37, 3), (24, 25, 44, 4),
    )
}  # fmt: skip
#: ISO 2338 and ISO 8734, parallel and dowel pins: diameters (from memory).
DOWELS = (1, 1.5, 2, 2.5, 3, 4, 5, 6, 8, 10, 12, 16, 20)
