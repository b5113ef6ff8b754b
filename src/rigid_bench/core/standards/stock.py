"""Stock that schools buy: sheet thicknesses and bar sections, mm. Common practice, no source."""

SHEETS = {
    "steel sheet": (0.5, 0.6, 0.8, 1.0, 1.2, 1.5, 2.0, 3.0),
    "aluminium sheet": (0.5, 0.8, 1.0, 1.2, 1.5, 2.0, 3.0, 4.0, 5.0, 6.0),
    "acrylic sheet": (2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0),
    "polystyrene sheet": (0.5, 1.0, 1.5, 2.0, 3.0),
    "birch plywood": (3.0, 4.0, 6.0, 6.5, 9.0, 12.0, 15.0, 18.0),
    "MDF": (3.0, 6.0, 9.0, 12.0, 15.0, 18.0),
}
BARS = {
    "round bar": (3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0, 16.0, 20.0, 25.0),
    "square bar": (6.0, 8.0, 10.0, 12.0, 16.0, 20.0, 25.0),
    "hexagon bar": (8.0, 10.0, 13.0, 17.0, 19.0, 24.0),
    "dowel": (4.0, 6.0, 8.0, 10.0, 12.0),
}
