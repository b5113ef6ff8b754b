"""Materials with their densities, g/cm3: usual values of data sheets and handbooks (from memory).

Wood varies by a tenth and more with moisture and piece.
"""

#: name -> density
DENSITIES = {
    "steel": 7.85,
    "stainless steel": 7.9,
    "cast iron": 7.2,
    "aluminium": 2.70,
    "brass": 8.5,
    "copper": 8.96,
    "bronze": 8.8,
    "zinc": 7.14,
    "PLA": 1.24,
    "PETG": 1.27,
    "ABS": 1.05,
    "polystyrene": 1.05,
    "acrylic": 1.19,
    "polycarbonate": 1.20,
    "nylon": 1.14,
    "acetal": 1.41,
    "polypropylene": 0.905,
    "HDPE": 0.955,
    "beech": 0.72,
    "birch plywood": 0.68,
    "pine": 0.52,
    "oak": 0.70,
    "MDF": 0.75,
}
