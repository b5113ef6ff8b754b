"""Which views of a part are drawn: as few as show everything, or as a person chose them; turned parts lie."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.drawing.layout.part_view import ON_WALL, SQUARE, PartView, shows_cut
from rigid_bench.core.exercise.bundle import ViewChoice
from rigid_bench.core.formats.pictures import PartPictures, Polyline, RoundModel, ViewModel
from rigid_bench.core.part.directions import SQUARE_VIEWS, axes_of

_Array = NDArray[np.float64]
#: A part that is so many times as high as wide, and alike from the sides, lies.
_HIGH = 1.3


def part_views(pictures: PartPictures, letter: str, choices: Sequence[ViewChoice] = ()) -> list[PartView]:
    """Return the views of a part that are drawn, at 1:1, the cut one in the place of the view whose sight it has.

    Parameters
    ----------
    pictures
        How the part is seen.
    letter
        Of the section.
    choices
        How a person chose the views; without them a turned part lies with its axis level, its end view beside it.
    """
    if choices:
        return _chosen(pictures, letter, choices)
    names = _telling_views(pictures)
    views = [_part_view(pictures, name, letter, is_cut=True) for name in names]
    return [_turned(view, 3) for view in views] if _lies_down(pictures, names) else views


def _chosen(pictures: PartPictures, letter: str, choices: Sequence[ViewChoice]) -> list[PartView]:
    """Return the views that a person chose; one is cut only where another shows where."""
    known = {view.name for view in pictures.views}
    views = []
    for choice in choices:
        if choice.view in known:
            plain = _part_view(pictures, choice.view, letter, is_cut=choice.cut)
            turned = _turned(plain, choice.turn // 90)
            views.append(replace(turned, slot=choice.view, chosen=True, turn=choice.turn, moved=choice.moved))
    section = pictures.section
    if section and not any(shows_cut(view, section) for view in views):
        return _chosen(pictures.model_copy(update={"section": None}), letter, choices)
    return views


def _part_view(pictures: PartPictures, name: str, letter: str, *, is_cut: bool) -> PartView:
    own = next(view for view in pictures.views if view.name == name)
    axes = axes_of(SQUARE_VIEWS[name])
    section = pictures.section if is_cut and pictures.section and pictures.section.direction == name else None
    shown = section.view if section else own
    hidden = [] if section else [line for line in shown.hidden if not _is_of_round(line, pictures, axes)]
    return PartView(
        name=name, slot=name, axes=axes, box=np.array(own.box), scale=1.0, visible=tuple(shown.visible),
        hidden=tuple(hidden), section=section, letter=letter if section else "",
    )  # fmt: skip


def _lies_down(pictures: PartPictures, names: Sequence[str]) -> bool:
    """Say whether a part was turned about an upright axis, or is alike from the sides and higher than wide."""
    by_name = {view.name: view for view in pictures.views}
    wide, tall = np.ptp(np.array(by_name["front"].box), axis=0)
    is_bare = not {"right side", "left side"} & set(names)
    return (
        (bool(tall > _HIGH * wide) or _is_round_bar(pictures))
        and is_bare
        and _is_like(by_name["right side"], by_name["front"])
    )


def _turned(view: PartView, quarters: int) -> PartView:
    """Turn a view by quarters counter-clockwise; what stood above it stands beside it then."""
    for _ in range(quarters % 4):
        view = _turned_once(view)
    return replace(view, slot="right side") if quarters and view.slot == "top" else view


def _turned_once(view: PartView) -> PartView:
    def turned(line: Polyline) -> Polyline:
        return [[-y, x] for x, y in line]

    section = view.section
    if section:
        section = section.model_copy(update={"areas": [[turned(ring) for ring in area] for area in section.areas]})
    (left, low), (right, high) = view.box
    return replace(
        view,
        axes=np.array([-view.axes[1], view.axes[0], view.axes[2]]),
        box=np.array([[-high, left], [-low, right]]),
        visible=tuple(turned(line) for line in view.visible),
        hidden=tuple(turned(line) for line in view.hidden),
        section=section,
    )


def _is_of_round(line: Polyline, pictures: PartPictures, axes: _Array) -> bool:
    """Say whether a hidden line shows a hole's or boss's side, which its note and its other view say already."""
    points = np.array(line)
    for round_feature in pictures.rounds:
        start, end = np.array(round_feature.start), np.array(round_feature.end)
        way = (end - start) @ axes[:2].T
        length = float(np.linalg.norm(way))
        if length < ON_WALL:
            continue
        way = way / length
        off = (points - start @ axes[:2].T) @ np.array([-way[1], way[0]])
        along = (points - start @ axes[:2].T) @ way
        radius = round_feature.diameter / 2
        is_within = along.min() > -ON_WALL and along.max() < length + ON_WALL
        if is_within and np.abs(off).max() < radius + ON_WALL:
            return True
    return False


def _telling_views(pictures: PartPictures) -> list[str]:
    """Choose as few views as show everything: front, and those that show a shape or a hole that it does not.

    A view that is a bare rectangle and sees no hole end on says nothing that the others do not; nor does one that
    shows a round part as the front does.
    """
    by_name = {view.name: view for view in pictures.views}
    front, top, side = by_name["front"], by_name["top"], _clearer_side(by_name)
    kept = ["front"]
    for view in (top, side):
        is_edge_on = pictures.section is not None and view is top and pictures.section.direction != "top"
        if is_edge_on or (_says_something(view, pictures) and not _is_like(view, front)):
            kept.append(view.name)
    if len(kept) == 1 and not _is_round_bar(pictures):
        kept.append("top")
    if pictures.section and pictures.section.direction not in kept:
        kept.append(pictures.section.direction)
    return [view.name for view in pictures.views if view.name in kept]


def _clearer_side(by_name: Mapping[str, ViewModel]) -> ViewModel:
    """Return the side with fewer hidden lines; the right one where they are alike."""
    right, left = by_name["right side"], by_name.get("left side")
    if left is None:
        return right
    hidden = [sum(_length(line) for line in side.hidden) for side in (right, left)]
    return left if hidden[1] < hidden[0] - ON_WALL else right


def _is_round_bar(pictures: PartPictures) -> bool:
    front = next(view for view in pictures.views if view.name == "front")
    width = front.box[1][0] - front.box[0][0]
    return any(
        round_feature.kind == "boss" and abs(round_feature.diameter - width) < ON_WALL
        for round_feature in pictures.rounds
    )


def _says_something(view: ViewModel, pictures: PartPictures) -> bool:
    axes = axes_of(SQUARE_VIEWS[view.name])
    (left, low), (right, high) = view.box
    inner = [
        line
        for line in view.visible
        if not all(
            min(abs(x - left), abs(x - right)) < ON_WALL or min(abs(y - low), abs(y - high)) < ON_WALL for x, y in line
        )
    ]
    return bool(inner) or any(
        round_feature.kind != "ball" and _is_end_on(round_feature, axes) for round_feature in pictures.rounds
    )


def _is_end_on(round_feature: RoundModel, axes: _Array) -> bool:
    along = np.array(round_feature.end) - np.array(round_feature.start)
    length = float(np.linalg.norm(along))
    return length > 0 and abs(float(along @ axes[2])) > (1 - SQUARE) * length


def _is_like(view: ViewModel, other: ViewModel) -> bool:
    """Say whether two views show the same lines, as those of a turned part do."""
    if np.abs(np.ptp(np.array(view.box), axis=0) - np.ptp(np.array(other.box), axis=0)).max() > ON_WALL:
        return False
    lengths = [sum(_length(line) for line in shown.visible) for shown in (view, other)]
    return abs(lengths[0] - lengths[1]) < 1e-3 * max(*lengths, 1.0)


def _length(line: Polyline) -> float:
    return float(np.linalg.norm(np.diff(np.array(line), axis=0), axis=1).sum())
