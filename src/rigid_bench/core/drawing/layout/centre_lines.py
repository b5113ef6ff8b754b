"""Centre lines, crosses and pitch circles of what is round (ISO 128-2, ISO 128-3): chain, narrow, past the feature."""

import math
from collections.abc import Collection, Mapping, Sequence

import numpy as np

from rigid_bench.core.drawing.ink import Drawing, Line
from rigid_bench.core.drawing.layout.part_view import PartView
from rigid_bench.core.drawing.report import FeatureReport
from rigid_bench.core.formats.pictures import HoleCircleModel, RoundModel, SectionModel
from rigid_bench.core.part.directions import SQUARE_VIEWS, axes_of
from rigid_bench.core.values.datums import PlaneFeature

#: mm on paper by which a centre line runs past its feature.
BEYOND = 2.5
#: mm on paper: centre lines that are nearer lie on each other.
_SAME = 0.05


def centre_lines(
    view: PartView,
    rounds: Sequence[RoundModel],
    circles: Sequence[HoleCircleModel],
    symmetric: Sequence[PlaneFeature] = (),
) -> Drawing:
    """Draw the centre lines of a view; what lies on each other is drawn once."""
    spans: dict[tuple[float, float, float], list[tuple[float, float]]] = {}
    for round_feature in drawn_rounds(view, rounds).values():
        for a, b in _axes(view, round_feature):
            _add(spans, a, b)
    for plane in symmetric if view.window is None else ():
        along = view.level_with(plane.normal)
        if along is not None:
            level, size = view.at(plane.point)[along], view.size[1 - along]
            ends = [(-BEYOND, level), (size + BEYOND, level)]
            a, b = [(out, own) if along == 1 else (own, out) for out, own in ends]
            _add(spans, a, b)
    if view.section and view.section.form == "half" and view.window is None:
        _add(spans, *_between_halves(view, view.section))
    lines = [Line(kind="centre", points=points) for points in _united(spans)]
    for circle in circles if view.window is None else ():
        if view.seen_along(circle.direction):
            (x, y), radius = view.at(circle.centre), circle.diameter / 2 * view.scale
            points = tuple(
                (x + radius * math.cos(angle), y + radius * math.sin(angle))
                for angle in np.linspace(0, 2 * math.pi, 73).tolist()
            )
            lines.append(Line(kind="pitch", points=points))
    return Drawing(lines=lines)


def _between_halves(view: PartView, section: SectionModel) -> tuple[tuple[float, float], tuple[float, float]]:
    """Return the centre line that parts the view from the section of a half section (ISO 128-3)."""
    up = axes_of(SQUARE_VIEWS[section.direction])[1]
    along = view.level_with(up)
    assert along is not None
    level, size = view.at(section.path[1])[1 - along], view.size[along]
    low, high = -BEYOND, size + BEYOND
    return ((low, level), (high, level)) if along == 0 else ((level, low), (level, high))


def drawn_rounds(view: PartView, rounds: Sequence[RoundModel]) -> dict[int, RoundModel]:
    """Return what is round by its place in the list; of a section, only what the plane goes through."""
    if view.window:
        return {
            number: round_feature
            for number, round_feature in enumerate(rounds)
            if view.shows_point(round_feature.start) and view.shows_point(round_feature.end)
        }
    if view.section is None:
        return dict(enumerate(rounds))
    toward, point = view.axes[2], np.array(view.section.point)
    return {
        number: round_feature
        for number, round_feature in enumerate(rounds)
        if abs(float((np.array(round_feature.start) - point) @ toward)) < round_feature.diameter / 2
    }


def _axes(view: PartView, round_feature: RoundModel) -> list[tuple[tuple[float, float], tuple[float, float]]]:
    """Return the lines of one feature: a cross from its end, its axis from the side."""
    start, end = view.at(round_feature.start), view.at(round_feature.end)
    reach = round_feature.diameter / 2 * view.scale + BEYOND
    along = np.array(end) - np.array(start)
    length = float(np.linalg.norm(along))
    if length < _SAME:
        x, y = start
        return [((x - reach, y), (x + reach, y)), ((x, y - reach), (x, y + reach))]
    way = along / length * BEYOND
    a, b = np.array(start) - way, np.array(end) + way
    return [((float(a[0]), float(a[1])), (float(b[0]), float(b[1])))]


def _add(
    spans: dict[tuple[float, float, float], list[tuple[float, float]]], a: tuple[float, float], b: tuple[float, float]
) -> None:
    way = np.array(b) - np.array(a)
    way /= np.linalg.norm(way)
    way = way if (round(way[0], 6), round(way[1], 6)) > (0, 0) else -way
    level = float(np.array([-way[1], way[0]]) @ np.array(a))
    key = (round(float(way[0]), 4), round(float(way[1]), 4), round(level / _SAME) * _SAME)
    ends = sorted((float(way @ np.array(a)), float(way @ np.array(b))))
    spans.setdefault(key, []).append((ends[0], ends[1]))


def _united(
    spans: Mapping[tuple[float, float, float], Sequence[tuple[float, float]]],
) -> list[tuple[tuple[float, float], ...]]:
    united = []
    for (x, y, level), members in spans.items():
        way, normal = np.array([x, y]), np.array([-y, x])
        first, last = sorted(members)[0]
        for low, high in [*sorted(members)[1:], (math.inf, math.inf)]:
            if low <= last:
                last = max(last, high)
                continue
            ends = [way * own + normal * level for own in (first, last)]
            united.append(tuple((float(end[0]), float(end[1])) for end in ends))
            first, last = low, high
    return united


def drawn_features(
    view: PartView,
    view_id: str,
    rounds: Sequence[RoundModel],
    checks: Mapping[int, Sequence[str]],
    threads: Collection[int] = (),
) -> list[FeatureReport]:
    """Report what is round as it is drawn in a view, by the view's own coordinates; some of it are threads."""
    reports = []
    for number, round_feature in drawn_rounds(view, rounds).items():
        start, end = view.at(round_feature.start), view.at(round_feature.end)
        is_end = math.dist(start, end) < _SAME
        if not is_end and view.level_with(np.array(round_feature.end) - np.array(round_feature.start)) is None:
            continue
        middle = [(start[0] + end[0]) / 2, (start[1] + end[1]) / 2]
        reports.append(
            FeatureReport(
                view=view_id, kind="thread" if number in threads else round_feature.kind,
                seen="end" if is_end else "side", centre=middle,
                axis=None if is_end else [list(start), list(end)], diameter=round(round_feature.diameter, 6),
                checks=list(checks.get(number, [])),
            )
        )  # fmt: skip
    return reports
