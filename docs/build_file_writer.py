"""Writes a build file with nothing but Python itself: copy it into an add-in of the program that you have.

Fill `parts`, `instances` and `mates` from what the program says, and call `write`. Then `rigid-bench check-build FILE`.
"""

import json

#: What is printed for each constraint of a program. On the left what it is; on the right the mate's kind and its two
#: features. Features are given in each part's own coordinates, lengths in `units`.
CONSTRAINTS = {
    "two faces meet, looking at each other": ("coincident", "plane", "plane"),
    "two axes in line": ("coaxial", "axis", "axis"),
    "two faces at a distance": ("distance", "plane", "plane"),
    "two faces at an angle": ("angle", "plane", "plane"),
    "two faces or axes parallel": ("parallel", "plane", "plane"),
    "everything of two parts held": ("fixed", "frame", "frame"),
}


def plane(instance, point, normal):
    """A flat face: a point of it, and the direction out of the material."""
    return {"instance": instance, "plane": {"point": list(point), "normal": list(normal)}}


def axis(instance, point, direction):
    """The axis of a hole or shaft."""
    return {"instance": instance, "axis": {"point": list(point), "direction": list(direction)}}


def write(path, parts, instances, mates, units="mm"):
    """Write a build file.

    parts: {id: name}; instances: [(id, part, grounded, position, quaternion w x y z)];
    mates: [(id, kind, feature, feature, more)], `more` such as {"value": 0.4}.
    """
    document = {
        "format": "rigid-bench/build",
        "version": 1,
        "units": units,
        "parts": [{"id": part, "name": name} for part, name in parts.items()],
        "instances": [
            {"id": name, "part": part, "grounded": grounded,
             "pose": {"position": list(position), "quaternion": list(quaternion)}}
            for name, part, grounded, position, quaternion in instances
        ],
        "mates": [{"id": name, "kind": kind, "a": a, "b": b, **more} for name, kind, a, b, more in mates],
    }  # fmt: skip
    with open(path, "w", encoding="utf-8") as file:
        json.dump(document, file, indent=1)


if __name__ == "__main__":
    write(
        "lid.build.json",
        {"box": "Box", "lid": "Lid"},
        [
            ("box-1", "box", True, (0, 0, 0), (1, 0, 0, 0)),
            ("lid-1", "lid", False, (0, 0, 20), (1, 0, 0, 0)),
        ],
        [
            ("on-top", "coincident", plane("box-1", (0, 0, 20), (0, 0, 1)), plane("lid-1", (0, 0, 0), (0, 0, -1)), {}),
            ("in-line", "coaxial", axis("box-1", (5, 5, 0), (0, 0, 1)), axis("lid-1", (5, 5, 0), (0, 0, 1)), {}),
        ],
    )
