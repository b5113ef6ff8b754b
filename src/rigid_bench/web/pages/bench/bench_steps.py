"""What is done on the bench: steps that are kept, and pictures of a part that is dragged or nudged."""

import json
from typing import TYPE_CHECKING, Annotated

import numpy as np
from fastapi import Form
from fastapi.responses import JSONResponse, Response
from pydantic import Field

from rigid_bench.app.builds import bench as benches
from rigid_bench.app.builds.bench_state import answered, collision_meshes_of, keep_step, parts_of, state_at
from rigid_bench.core.assembly.mates.registry import choices
from rigid_bench.core.bench import likely, mating, moving, work
from rigid_bench.core.bench.documents import BenchParts, BenchState, labels
from rigid_bench.core.formats.message import UNSAID, Message, phrase
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import NN_, _, translated, translated_number
from rigid_bench.core.wording.manner import Manner
from rigid_bench.core.wording.saying import say
from rigid_bench.store.tables import Bench
from rigid_bench.web.forms import FormModel, IdField, number_or_none
from rigid_bench.web.pages.bench.bench import VisibleBench
from rigid_bench.web.pages.bench.bench_answer import poses_of, settings_of, stands
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, SignedIn, Student

if TYPE_CHECKING:
    from rigid_bench.core.bench.collision_limits import CollisionLimits

router = page_router("/benches/{bench_id}")
_Word = Annotated[str, Field(max_length=400)]
#: The step that is looked at; without one, where the bench stands.
_Step = Annotated[int | None, Field(ge=0, le=10**6)]
#: Frames of a nudge that are sent at most.
_FRAMES = 40


class StepForm(FormModel):
    """What a student asked for on the bench."""

    action: _Word
    #: The step at which the student saw the bench.
    base: IdField = 0
    a: _Word = ""
    b: _Word = ""
    doing: _Word = ""
    value: _Word = ""
    least: _Word = ""
    most: _Word = ""
    flipped: bool = False
    quarters: Annotated[int, Field(ge=0, le=3)] = 0
    preview: bool = False
    chosen: _Word = ""

    def mate_request(self) -> mating.MateRequest:
        """Read the mate that is asked for."""
        return mating.MateRequest(
            a=self.a,
            b=self.b,
            doing=self.doing,
            value=number_or_none(self.value),
            is_flipped=self.flipped,
            quarters=self.quarters,
            limits=_limits(self.least, self.most),
        )


@router.post("/steps", name="bench_step", dependencies=[CheckedForm])
def bench_step(
    bench: VisibleBench,
    user: Student,
    session: DbSession,
    form: Annotated[StepForm, Form()],
) -> Response:
    """Take a step and give where the bench stands after it; a preview is given and not kept."""
    if form.action in ("undo", "redo", "go to"):
        benches.go(session, bench, form.action, form.a, base=form.base)
        return stands(bench, session, chosen=form.chosen)
    action, before, parts = form.action, state_at(bench, session), parts_of(bench)
    after, words = benches.after_action(session, bench, action, form.a, form.mate_request())
    if form.preview:
        return JSONResponse({"poses": poses_of(after), "preview": True})
    keep_step(bench, session, after, base=form.base, who=user.name, words=words)
    chosen = form.chosen
    focus = after.mates[-1].b.instance if action == "mate" else after.placed[-1].id if action == "place" else chosen
    said = _said(before, after, parts, focus) if action == "mate" else phrase("as-said", text=words)
    following = _following(after, parts) if action == "mate" and parts.may_suggest else []
    return stands(bench, session, chosen=focus, said=said, following=following)


def _following(state: BenchState, parts: BenchParts) -> list[dict[str, str]]:
    """Offer what is likely done after a mate: the same in like holes, then axes that its two parts could share."""
    newest = state.mates[-1]
    one, other = newest.a.instance, newest.b.instance
    offers = []
    count = len(likely.like_places(state, parts, other))
    if count:
        words = translated_number(
            *NN_("and {count} more in the like hole", "and {count} more in the like holes"), count
        ).format(count=count)
        offers.append({"doing": "likewise", "a": other, "b": "", "words": words, "term": "likewise"})
    axes = likely.likely_axes(state, parts, one, other, tolerance=Tolerance())
    share, kind = choices()["share-an-axis"]
    offers += [
        {
            "doing": share.id,
            "a": mate.a,
            "b": mate.b,
            "words": f"{translated(share.words)}: {mate.words}",
            "term": kind.name,
        }
        for mate in axes
    ]
    return offers


def _limits(least: str, most: str) -> tuple[float, float] | None:
    low, high = number_or_none(least), number_or_none(most)
    if low is None and high is None:
        return None
    if low is None or high is None or low >= high:
        raise FormRejected(_("limits"), _("they need a least and a greater most"), _("Write both, or neither"))
    return low, high


def _said(before: BenchState, after: BenchState, parts: BenchParts, name: str) -> Message:
    """Return what a mate did: the part's motions before and after, and which mates it repeats or clashes with."""
    if after.instance(name) is None:
        return UNSAID
    now, was = answered(after), answered(before).motions(name)
    said = [work.difference(labels(after, parts)[name], was, now.motions(name))]
    newest = after.mates[-1]
    if newest.id in (*now.clashing, *now.redundant):
        others = list(mating.conflicting_mates(after, newest, tolerance=Tolerance()))
        code = "bench.clashes" if newest.id in now.clashing else "bench.holds-nothing"
        said.append(phrase(code, mate=newest.id, others=others or phrase("bench.the-ground")))
    return phrase("together", items=said)


class DragForm(FormModel):
    """A part that is pulled, from a point to another, mm, and how it is seen."""

    name: _Word
    start: _Word
    end: _Word
    sight: _Word = ""
    #: Where up to some hundred parts stand, as matrices.
    poses: Annotated[str, Field(max_length=200_000)] = ""
    limits: bool = True
    contacts: bool = False
    kept: bool = False
    base: IdField = 0
    step: _Step = None


@router.post("/drag", name="bench_drag", dependencies=[CheckedForm])
def bench_drag(
    bench: VisibleBench,
    user: SignedIn,
    session: DbSession,
    form: Annotated[DragForm, Form()],
) -> Response:
    """Give where the parts go when one is pulled, picture by picture; the last pull of a drag is kept as a step."""
    state, parts = state_at(bench, session, form.step), parts_of(bench)
    standing = moving.standing(state, _read_poses(form.poses))
    moved = moving.drag(
        standing,
        form.name,
        start=_point(form.start),
        end=_point(form.end),
        sight=_point(form.sight) if form.sight else None,
        has_limits=form.limits,
        stops=_stops(bench, session, standing, parts) if form.contacts else None,
        tolerance=Tolerance(),
    )
    if not form.kept or not user.is_student:
        return _pictures(moved, state, parts, settings_of(bench, session).manner)
    words = _("moved {name}", name=labels(state, parts)[form.name])
    keep_step(bench, session, moved.states[-1], base=form.base, who=user.name, words=words)
    said = _stopped(moved, state, parts)
    return stands(bench, session, chosen=form.name, said=said, touching=_touching(moved))


class NudgeForm(FormModel):
    """A part that is moved by one of the motions that are left."""

    name: _Word
    motion: Annotated[int, Field(ge=0, le=5)] = 0
    limits: bool = True
    contacts: bool = False
    step: _Step = None


@router.post("/nudge", name="bench_nudge", dependencies=[CheckedForm])
def bench_nudge(
    bench: VisibleBench,
    session: DbSession,
    form: Annotated[NudgeForm, Form()],
) -> Response:
    """Give the pictures of one of the motions that are left."""
    state, parts = state_at(bench, session, form.step), parts_of(bench)
    stops = _stops(bench, session, state, parts) if form.contacts else None
    moved = moving.nudge(
        state, parts, form.name, form.motion, has_limits=form.limits, stops=stops, tolerance=Tolerance()
    )
    return _pictures(moved, state, parts, settings_of(bench, session).manner, most=_FRAMES)


def _pictures(
    moved: moving.Moved, state: BenchState, parts: BenchParts, manner: Manner, *, most: int = 1000
) -> Response:
    every = max(1, len(moved.states) // most)
    states = [*moved.states[:-1:every], moved.states[-1]]
    return JSONResponse(
        {
            "frames": [poses_of(known_state) for known_state in states],
            "poses": poses_of(states[-1]),
            "touching": _touching(moved),
            "said": say(_stopped(moved, state, parts), manner),
        }
    )


def _touching(moved: moving.Moved) -> list[str]:
    return sorted({feature for pair in moved.touching for feature in pair})


def _stopped(moved: moving.Moved, state: BenchState, parts: BenchParts) -> Message:
    """Return what stopped a part."""
    if moved.limit:
        return phrase("bench.at-limit", mate=moved.limit)
    called, met = labels(state, parts), list[Message]()
    for pair in moved.touching:
        sides = []
        for name, _unused, number in (feature.rpartition(":") for feature in pair):
            own = state.instance(name)
            assert own is not None
            features = work.part_of(parts, own).features
            is_known = 0 <= int(number) < len(features)
            feature = features[int(number)].words if is_known else phrase("bench.a-face")
            sides.append(phrase("bench.feature-of", feature=feature, name=called[name]))
        meeting = phrase("meeting", items=sides)
        if meeting not in met:
            met.append(meeting)
    return phrase("bench.stopped", meeting=phrase("in-turn", items=met)) if met else UNSAID


def _stops(bench: Bench, session: DbSession, state: BenchState, parts: BenchParts) -> "CollisionLimits | None":
    from rigid_bench.core.bench.collision_limits import (
        CollisionLimits,  # with the mesh libraries: only where a drag is stopped by contacts
    )

    collision_meshes = collision_meshes_of(bench, session)
    return CollisionLimits(state, parts, collision_meshes, tolerance=Tolerance()) if collision_meshes else None


def _point(text: str) -> list[float]:
    try:
        values = [float(word) for word in text.split(",")]
    except ValueError:
        values = []
    if len(values) != 3 or not all(abs(value) < 1e6 for value in values):
        raise FormRejected(_("drag"), _("it names no place"), _("Load the page again"))
    return values


def _read_poses(text: str) -> dict[str, Pose]:
    """Read where a drag has brought parts so far: 4 x 4 matrices, column by column, as `poses_of` writes them."""
    if not text:
        return {}
    try:
        given = {name: np.array(values, dtype=float).reshape(4, 4).T for name, values in json.loads(text).items()}
    except (ValueError, TypeError, AttributeError, RecursionError):
        given = {"": np.zeros((4, 4))}
    for matrix in given.values():
        square = matrix[:3, :3] @ matrix[:3, :3].T
        if not (np.abs(matrix) < 1e6).all() or not np.allclose(square, np.eye(3), atol=1e-6):
            raise FormRejected(_("drag"), _("it says not where the parts stand"), _("Load the page again"))
    return {name: Pose(matrix[:3, :3], matrix[:3, 3]) for name, matrix in given.items()}
