"""Classroom gaps by process, mm a side: common practice, no source. An exercise may give its own.

They are for parts that are made in a classroom; they are no design approval.
"""

#: process -> what the fit does -> least and greatest gap a side.
ALLOWANCES = {
    "printed": {
        "press": (-0.05, 0.05),
        "push": (0.05, 0.15),
        "peg": (0.2, 0.3),
        "slide": (0.2, 0.4),
        "turn": (0.3, 0.5),
    },
    "machined": {
        "press": (-0.03, -0.005),
        "push": (-0.005, 0.01),
        "slide": (0.005, 0.025),
        "run": (0.02, 0.05),
        "turn": (0.02, 0.05),
    },
    "wood": {"push": (0.0, 0.1), "slide": (0.25, 0.75), "turn": (0.25, 0.75)},
    "sheet": {"push": (0.0, 0.1), "slide": (0.1, 0.3), "turn": (0.1, 0.3)},
}
