"""What is drawn of a drill: its mechanism, its blocks, its sheet, its views."""

import math
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from markupsafe import Markup

from rigid_bench.core.drawing.layout.sheets import SheetOptions, make_sheets
from rigid_bench.core.drawing.writers.svg import sheet_svg
from rigid_bench.core.exercise.bundle import CheckModel, Exercise, ExerciseModel
from rigid_bench.core.formats.pictures import AskedSize, AssemblyPictures
from rigid_bench.core.grading.report.models import Prepared
from rigid_bench.core.practice.drill import Choice, Drill
from rigid_bench.core.practice.kinds.predict_the_motion import driven_path, driven_poses
from rigid_bench.core.practice.plate import PART, Hole, Plate, pictures, wall
from rigid_bench.core.practice.solved import freedom_of, instances_of, motions_of
from rigid_bench.core.wording.language import _, series
from rigid_bench.web.figures.mechanism import mechanism_svg, places_in_view
from rigid_bench.web.figures.svg import element, svg
from rigid_bench.web.figures.views import view_svg
from rigid_bench.web.print.sheet import drawn_sheets

_Lines = Sequence[Sequence[Sequence[float]]]
_UPRIGHT = {"position": [0, 0, 0], "quaternion": [1, 0, 0, 0]}
#: Pixels of a picture of lines, and of one that is chosen among.
_PICTURE, _SMALL, _MARGIN = 300.0, 150.0, 16.0
#: mm of the grid behind a part that was built, the longest part on it, and pixels of that part.
_GRID, _WIDEST, _SHEET = 10.0, 150.0, 460.0
#: Pixels round a place within which it is pointed at.
_LEAST_TARGET = 12.0
#: Pictures of a film, beside the first.
_FRAMES = 12
#: Pixels of an exercise's assembly, and mates beyond which those of one part are shown alone.
_ASSEMBLY, _MANY = 460.0, 12


def drill_figures(drill: Drill) -> list[tuple[str, Markup]]:
    """Return the drill's pictures, each with what stands below it."""
    given = drill.given
    if "reference" in given:
        return [
            (words, mechanism_svg(drill.shapes, given[build]["instances"], label=f"{words}: {_label(drill)}"))
            for words, build in ((_("what is asked; green is grounded"), "reference"), (_("what was built"), "build"))
        ]
    if "plate" in given:
        sheet = [(_("the sheet"), _sheet(given))]
        if "built" not in given:
            return sheet
        grid = _grid_of(plate_of(given["built"]))
        return [
            *sheet,
            (_("what was built, on a grid of {grid:g} mm", grid=grid), _built(given["built"], drill.choices)),
        ]
    if "build" in given:
        instances, drive = given["build"]["instances"], given.get("drive")
        drawn = mechanism_svg(drill.shapes, instances, label=_label(drill), asked=_asked(drill), drive=drive)
        return [("", drawn)]
    if drill.shapes:
        return [("", mechanism_svg(drill.shapes, _stack(drill), label=_label(drill), asked=given.get("instance", "")))]
    if "solids" in given:
        part = (
            _("the part"),
            mechanism_svg({"part": _blocks(given["solids"])}, [_standing("part")], label=_("the part")),
        )
        shown = [("", lines_svg(given["lines"], label=_("the view")))] if "lines" in given else []
        front = [(_("front view"), lines_svg(given["front"], label=_("the front view")))] if "front" in given else []
        return [part, *front, *shown]
    return []


def exercise_figures(drill: Drill, exercise: Exercise, prepared: Prepared) -> list[tuple[str, Markup]]:
    """Return the pictures of a drill of an exercise: a part's sheet, or the assembly with its parts named."""
    part = drill.given.get("part")
    if part is not None:
        sheets = drawn_sheets(exercise.model, prepared, SheetOptions(part=part))
        return [(_("the sheet"), own.svg) for own in sheets if own.name == part]
    asked = _asked(drill)
    seen = [own for own in (prepared.sheet.assembly, prepared.sheet.exploded) if own is not None]
    assembly = next((own for own in seen if asked in _instances_seen(own)), next(iter(seen), None))
    if assembly is None:
        return []
    named = {name for mate in mates_of(drill) for name in instances_of(mate)} | {asked}
    return [(exercise.model.title, _assembly(assembly, asked, {name: exercise.instance_name(name) for name in named}))]


def _instances_seen(assembly: AssemblyPictures) -> set[str]:
    return {own.instance for own in assembly.instances if own.point is not None}


def mates_of(drill: Drill) -> list[Mapping[str, Any]]:
    """Return the mates that a drill speaks of: where it asks about one part of many, those of that part."""
    mates, asked = drill.given.get("build", {}).get("mates", []), _asked(drill)
    return mates if len(mates) <= _MANY or not asked else [mate for mate in mates if asked in instances_of(mate)]


def _assembly(assembly: AssemblyPictures, asked: str, names: Mapping[str, str]) -> Markup:
    """Draw an assembly, those of its parts named that are spoken of, the one that is asked about in bold."""
    (left, low), (right, high) = assembly.view.box
    scale = _ASSEMBLY / max(right - left, high - low)
    texts = [
        element(
            "text", names[own.instance], x=(own.point[0] - left) * scale, y=(high - own.point[1]) * scale,
            class_="mech-name mech-halo" + (" mech-asked-name" if own.instance == asked else ""),
            text_anchor="middle",
        )
        for own in assembly.instances
        if own.point is not None and own.instance in names
    ]  # fmt: skip
    seen = assembly.view.model_copy(update={"hidden": []})
    return view_svg(seen, scale=scale, label=series(names.values()), over=Markup("").join(texts))


def film_of(drill: Drill) -> list[Markup]:
    """Return a driven mechanism's pictures along its way, in one frame; empty for a drill that drives nothing."""
    drive = drill.given.get("drive")
    if drive is None:
        return []
    build, motion, by = drill.given["build"], drive["motion"], drive["by"]
    if "expression" in drill.given:  # a nut travels as it is turned
        (screw,) = motions_of(freedom_of(build), drive["instance"])
        motion = {**motion, "pitch": screw.pitch}
    path = driven_path(build, drive["instance"], motion, by)
    shown = [path[round(k * (len(path) - 1) / _FRAMES)] for k in range(_FRAMES + 1)]
    room = places_in_view(drill.shapes, shown)
    return [
        mechanism_svg(drill.shapes, build["instances"], label="", asked=_asked(drill), poses=poses, room=room)
        for poses in shown
    ]


def answer_figure(drill: Drill) -> Markup | None:
    """Return what shows the answer: where a driven mechanism comes to; None where words do."""
    drive = drill.given.get("drive")
    if drive is None or "expression" in drill.given:
        return None
    build = drill.given["build"]
    ends = {
        name: end
        for name, (_unused, end) in driven_poses(build, drive["instance"], drive["motion"], drive["by"]).items()
    }
    return mechanism_svg(drill.shapes, build["instances"], label=_("Where it comes to"), asked=_asked(drill), ends=ends)


def _label(drill: Drill) -> str:
    """Say what is there for who does not see it: the parts by name."""
    names = series(name.removesuffix("-1").replace("-", " ") for name in drill.shapes)
    return _("A drawing of {names}", names=names)


def _asked(drill: Drill) -> str:
    return str(drill.given.get("instance", ""))


def _standing(name: str, *, grounded: bool = False) -> dict[str, Any]:
    return {"id": name, "grounded": grounded, "pose": _UPRIGHT}


def _stack(drill: Drill) -> list[dict[str, Any]]:
    return [_standing(name, grounded=name == "housing") for name in drill.shapes]


def _blocks(solids: Sequence[Sequence[Sequence[float]]]) -> list[dict[str, Any]]:
    blocks = []
    for low, high in solids:
        centre = [(a + b) / 2 for a, b in zip(low, high, strict=True)]
        size = [b - a for a, b in zip(low, high, strict=True)]
        blocks.append({"block": {"centre": centre, "size": size, "x": [1.0, 0.0, 0.0], "y": [0.0, 1.0, 0.0]}})
    return blocks


def lines_svg(lines: _Lines, *, label: str, size: float = _PICTURE) -> Markup:
    """Draw a view of straight lines."""
    places = np.array([place for line in lines for place in line])
    low, high = places.min(axis=0), places.max(axis=0)
    scale = (size - 2 * _MARGIN) / max(float((high - low).max()), 1e-9)
    wide, tall = ((high - low) * scale + 2 * _MARGIN).tolist()
    path = "".join(
        "M" + "L".join(f"{(x - low[0]) * scale + _MARGIN:.1f} {(high[1] - y) * scale + _MARGIN:.1f}" for x, y in line)
        for line in lines
    )
    return svg(element("path", d=path, class_="edge"), width=wide, height=tall, label=label, kind="view")


def choice_figure(lines: _Lines, label: str) -> Markup:
    """Draw a view that is chosen among others."""
    return lines_svg(lines, label=label, size=_SMALL)


def plate_of(given: Mapping[str, Any]) -> Plate:
    """Read a plate that a drill holds."""
    return Plate(**{**given, "holes": tuple(Hole(**hole) for hole in given["holes"])})


def _sheet(given: Mapping[str, Any]) -> Markup:
    exercise = ExerciseModel.model_validate(given["exercise"])
    checks = [check for check in exercise.checks if check.kind == "dimension"]
    sizes = {check.id: _asked_size(check) for check in checks}
    report = make_sheets(exercise, pictures(plate_of(given["plate"])), sizes, SheetOptions(part=PART))
    return Markup(sheet_svg(report.sheets[0], label=_("The sheet of the plate"), trimmed=True))


def _asked_size(check: CheckModel) -> AskedSize:
    limits = check.fields["tolerance"]
    return AskedSize(nominal=check.fields["nominal"], minus=limits["minus"], plus=limits["plus"])


def _grid_of(plate: Plate) -> float:
    """Return how far apart the lines of the grid are, mm: far enough to be counted."""
    return float(_GRID * 10 ** max(0, math.ceil(math.log10(plate.length / _WIDEST))))


def _built(given: Mapping[str, Any], choices: Sequence[Choice]) -> Markup:
    """Draw a plate that was built, from above and from the front, on a grid; what is chosen among is pointed at."""
    plate = plate_of(given)
    grid, scale = _grid_of(plate), _SHEET / plate.length
    front = {"front": 0.0, "top": plate.thickness + 0.15 * plate.length}
    across, tall = _SHEET + 2 * _MARGIN, (front["top"] + plate.width) * scale + 2 * _MARGIN
    parts = [
        element("path", d=f"M{_MARGIN + k * grid * scale:.1f} 0V{tall:.1f}", class_="grid-line")
        for k in range(int(plate.length / grid) + 1)
    ]
    parts += [
        element("path", d=f"M0 {tall - _MARGIN - k * grid * scale:.1f}H{across:.1f}", class_="grid-line")
        for k in range(int(tall / scale / grid) + 1)
    ]
    for view in pictures(plate).parts[PART].views:
        if view.name in front:
            up = front[view.name]
            parts += [
                element("path", d=_scaled(lines, scale, tall, up), class_=kind)
                for lines, kind in ((view.hidden, "edge-hidden"), (view.visible, "edge"))
            ]
    for choice in choices:
        hole = next((own for own in plate.holes if choice.feature == wall(plate, own)), None)
        if hole is None:
            wide, high = plate.length * scale, plate.width * scale
            y = tall - _MARGIN - (plate.width + front["top"]) * scale
            place = element(
                "rect", class_="drill-point", data_choice=choice.id, x=_MARGIN, y=y, width=wide, height=high
            )
            parts.append(place)
            continue
        x, y = _MARGIN + hole.x * scale, tall - _MARGIN - (hole.y + front["top"]) * scale
        radius = max(hole.diameter / 2 * scale, _LEAST_TARGET)
        parts.append(element("circle", cx=x, cy=y, r=radius, class_="drill-point", data_choice=choice.id))
        parts.append(element("text", hole.name, x=x, y=y + 10, class_="built-name mech-halo", text_anchor="middle"))
    return svg(Markup("").join(parts), width=across, height=tall, label=_("The plate that was built"), kind="view")


def _scaled(lines: _Lines, scale: float, tall: float, up: float) -> str:
    return "".join(
        "M" + "L".join(f"{_MARGIN + x * scale:.1f} {tall - _MARGIN - (y + up) * scale:.1f}" for x, y in line)
        for line in lines
    )
