"""How the weather mast comes together on the bench: what is brought in, and which faces are mated."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Step:
    """Two features by what the lists call them, what they do, and whether the second part is brought in first."""

    a: str
    b: str
    doing: str
    brings: str = ""


def _seated(part: str, name: str, seat: tuple[str, str], axes: tuple[str, str]) -> list[Step]:
    """A face on a face, then an axis on an axis."""
    return [
        Step(seat[0], f"{name}: {seat[1]}", "faces-meet", part),
        Step(axes[0], f"{name}: {axes[1]}", "share-an-axis"),
    ]


_SCREWS = ("x = -15.56, y = -15.56", "x = 15.56, y = -15.56", "x = -15.56, y = 15.56", "x = 15.56, y = 15.56")
_DOWELS = ("x = 22, y = 0", "x = -22, y = 0")
STEPS = [
    *(
        step
        for k, at in enumerate(_DOWELS, 1)
        for step in _seated(
            "Dowel",
            f"Dowel ({k})",
            ("Base: top face, z = 4", "bottom face, z = 0"),
            (f"Base: Ø4 hole, {at}", "Ø4 round, x = 0, y = 0"),
        )
    ),
    Step("Base: top face, z = 12", "Mast: bottom face, z = 0", "faces-meet", "Mast"),
    *(Step(f"Dowel ({k}): Ø4 round, x = 0, y = 0", f"Mast: Ø4 hole, {at}", "share-an-axis")
      for k, at in enumerate(_DOWELS, 1)),
    *_seated("Bearing 608", "Bearing 608", ("Mast: top face, z = 201", "bottom face, z = 0"),
             ("Mast: Ø8 round, x = 0, y = 0", "Ø8 hole, x = 0, y = 0")),
    *_seated("Rotor", "Rotor", ("Bearing 608: top face, z = 7", "bottom face, z = 7"),
             ("Bearing 608: Ø22 round, x = 0, y = 0", "Ø22 hole, x = 0, y = 0")),
    *(
        step
        for k, at in enumerate(_SCREWS, 1)
        for step in _seated(
            "Screw M5 x 16",
            f"Screw M5 x 16 ({k})",
            ("Mast: top face, z = 8", "bottom face, z = 0"),
            (f"Mast: Ø5.5 hole, {at}", "Ø5 round, x = 0, y = 0"),
        )
    ),
    Step("Mast: Ø20 round, x = 0, y = 0", "Collar: Ø20.4 hole, x = 0, y = 0", "share-an-axis", "Collar"),
    *_seated("Vane", "Vane", ("Collar: top face, z = 20", "bottom face, z = 0"),
             ("Mast: Ø20 round, x = 0, y = 0", "Ø20.4 hole, x = 0, y = 0")),
]  # fmt: skip
