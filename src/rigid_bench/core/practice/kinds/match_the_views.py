"""First or third angle? Views are matched to a part, and to the method of projection."""

import random
from collections.abc import Callable, Sequence

from rigid_bench.core.practice.boxes import Box, seen_lines, stepped_part
from rigid_bench.core.practice.drill import Choice, Drill
from rigid_bench.core.practice.kind import DrillKind
from rigid_bench.core.practice.offered import offered
from rigid_bench.core.practice.unfit import Unfit
from rigid_bench.core.wording.language import N_, _, translated

_Lines = list[list[list[float]]]
_NAMES = ("front", "top", "right side", "left side", "back", "bottom")
#: What stands on the sheet beside the front view, by the method of projection (ISO 5456-2).
_PLACES = {
    "third angle": {"right": "right side", "left": "left side", "above": "top", "below": "bottom"},
    "first angle": {"right": "left side", "left": "right side", "above": "bottom", "below": "top"},
}
_SAID = {"right": N_("to the right of"), "left": N_("to the left of"), "above": N_("above"), "below": N_("below")}


def make(chance: random.Random, level: int) -> Drill:
    """Make one by lot: which view is it, which method is it, or which picture belongs there."""
    return {1: _which_view, 2: _which_method, 3: _which_picture}[level](chance, level)


def _part(chance: random.Random) -> tuple[list[Box], dict[str, _Lines]]:
    """Return a part, and its views, no two of which are alike."""
    boxes = stepped_part(chance)
    views = {name: seen_lines(boxes, name) for name in _NAMES}
    if len({str(lines) for lines in views.values()}) < len(views):
        raise Unfit
    return boxes, views


def _given(boxes: Sequence[Box], **more: object) -> dict[str, object]:
    return {"solids": [[list(low), list(high)] for low, high in boxes], **more}


def _which_view(chance: random.Random, level: int) -> Drill:
    boxes, views = _part(chance)
    name = chance.choice(_NAMES)
    choices, answer = offered(
        chance,
        [Choice(id="", text=_("the {name} view", name=name))],
        [
            Choice(id="", text=_("the {other} view", other=other))
            for other in chance.sample([o for o in _NAMES if o != name], 3)
        ],
    )
    return Drill(
        kind="",
        seed=0,
        level=level,
        question=_(
            "The part is drawn with X to the right, Y away from you and Z up. Which of its views is drawn beside it?"
        ),
        given=_given(boxes, lines=views[name]),
        form="choice",
        choices=choices,
        answer=answer,
        explanation=_(
            "Looked at from the {side}, it looks so: the {name} view.", side=name.replace(" side", ""), name=name
        ),
    )


def _which_method(chance: random.Random, level: int) -> Drill:
    boxes, views = _part(chance)
    method, place = chance.choice(sorted(_PLACES)), chance.choice(sorted(_SAID))
    shown = _PLACES[method][place]
    choices, answer = offered(
        chance, [Choice(id="", text=method)], [Choice(id="", text=other) for other in _PLACES if other != method]
    )
    return Drill(
        kind="",
        seed=0,
        level=level,
        question=_(
            "The front view stands on the sheet, and {said} it the view that is drawn here."
            " Which method of projection is it?",
            said=translated(_SAID[place]),
        ),
        given=_given(boxes, front=views["front"], place=place, lines=views[shown]),
        form="choice",
        choices=choices,
        answer=answer,
        explanation=_(
            "It is the {shown} view. {place} the front view it stands in {method} (ISO 5456-2).",
            shown=shown,
            place=translated(_SAID[place]).capitalize(),
            method=method,
        ),
    )


def _which_picture(chance: random.Random, level: int) -> Drill:
    boxes, views = _part(chance)
    method, place = chance.choice(sorted(_PLACES)), chance.choice(sorted(_SAID))
    name = _PLACES[method][place]
    mirrored = [_mirrored(views[name], k) for k in (0, 1)]
    others = [*(views[other] for other in _NAMES if other not in (name, "front")), *mirrored]
    wrong = [lines for lines in others if str(lines) != str(views[name])]
    distinct = {str(_sorted(lines)): lines for lines in wrong if _sorted(lines) != _sorted(views[name])}
    chosen = chance.sample(sorted(distinct), 3)
    choices, answer = offered(
        chance,
        [Choice(id="", text=_("right"), lines=views[name])],
        [Choice(id="", text=_("wrong {k}", k=k), lines=distinct[key]) for k, key in enumerate(chosen)],
    )
    lettered = [choice.model_copy(update={"text": f"picture {choice.id.upper()}"}) for choice in choices]
    return Drill(
        kind="",
        seed=0,
        level=level,
        question=_(
            "In {method}, which picture stands {said} the front view?", method=method, said=translated(_SAID[place])
        ),
        given=_given(boxes, front=views["front"], place=place, angle=method.split()[0]),
        form="choice",
        choices=lettered,
        answer=answer,
        explanation=_(
            "{place} the front view stands the {name} view in {method} (ISO 5456-2).",
            place=translated(_SAID[place]).capitalize(),
            name=name,
            method=method,
        ),
    )


def _sorted(lines: _Lines) -> list[list[list[float]]]:
    return sorted(sorted(line) for line in lines)


def _mirrored(lines: _Lines, axis: int) -> _Lines:
    """Return lines mirrored within their box: the view from behind, as if the part were glass."""
    top = max(place[axis] for line in lines for place in line)
    mirror: Callable[[list[float]], list[float]] = lambda place: [  # noqa: E731 (one line of one use)
        top - value if k == axis else value for k, value in enumerate(place)
    ]
    return [sorted(mirror(place) for place in line) for line in lines]


KIND = DrillKind(
    name="match-the-views",
    title=N_("First or third angle?"),
    levels=(1, 2, 3),
    make=make,
    slips=("mirrored", "turned-over", "wrong-side"),
)
