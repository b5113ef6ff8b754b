"""What the bench's pages answer: where it stands, and the lists and roses beside the view."""

from collections.abc import Collection, Mapping, Sequence
from typing import Any

from fastapi.responses import JSONResponse
from sqlalchemy.orm import Session

from rigid_bench.app.builds.bench_state import answered, parts_of, state_at, suggestions_of
from rigid_bench.core.assembly.freedom.freedom_report import motion_report
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.freedom.spaces import petals
from rigid_bench.core.bench import work
from rigid_bench.core.bench.documents import BenchState, labels, matrix_of
from rigid_bench.core.formats.message import UNSAID, Message
from rigid_bench.core.grading.report.models import RoseModel
from rigid_bench.core.wording.phrases import motion_phrase, motions_phrase
from rigid_bench.core.wording.saying import say
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.queries import bench_queries
from rigid_bench.store.tables import Bench, Classroom
from rigid_bench.web.figures.part_pictures import part_pictures
from rigid_bench.web.render import rendered


def poses_of(state: BenchState) -> dict[str, list[float]]:
    """Write poses as 4 x 4 matrices, column by column, as the browser's drawing takes them."""
    return {own.id: matrix_of(own.pose) for own in state.placed}


def stands(
    bench: Bench,
    session: Session,
    *,
    is_own: bool = True,
    chosen: str = "",
    said: Message = UNSAID,
    touching: Collection[str] = (),
    step: int | None = None,
    following: Sequence[Mapping[str, str]] = (),
) -> JSONResponse:
    """Answer where a bench stands, or stood after a step; with features that touch, and what is likely done next."""
    state, parts = state_at(bench, session, step), parts_of(bench)
    called = labels(state, parts)
    placed = {
        instance.id: {"part": instance.part, "grounded": instance.grounded, "name": called[instance.id]}
        for instance in state.placed
    }
    ways = known_ways(bench) if step is None else None
    return JSONResponse(
        {
            "at": bench.at if step is None else step,
            "poses": poses_of(state),
            "placed": placed,
            "apart": ways["shifts"] if ways else None,
            "side": side(bench, session, is_own=is_own, chosen=chosen, step=step),
            "tray": tray(bench, session, step),
            "said": say(said, settings_of(bench, session).manner),
            "touching": list(touching),
            "following": list(following),
        }
    )


def settings_of(bench: Bench, session: Session) -> ClassSettings:
    """Return how the bench's class says things."""
    return ClassSettings.model_validate(session.get_one(Classroom, bench.class_id).settings)


def known_ways(bench: Bench) -> dict[str, Any] | None:
    """Return how a bench comes apart where it stands now, as `Ways` in JSON; None while that is not known."""
    is_known = bench.ways is not None and bench.ways_at == bench.at and "shifts" in bench.ways
    return bench.ways if is_known else None


def side(bench: Bench, session: Session, *, is_own: bool = True, chosen: str = "", step: int | None = None) -> str:
    """Render the lists beside the view: parts, mates, and the chosen part's rose; with what its owner can do."""
    state, parts = state_at(bench, session, step), parts_of(bench)
    answer = answered(state) if state.placed else None
    if not state.instance(chosen):
        chosen = state.placed[-1].id if state.placed else ""
    motions = answer.motions(chosen) if answer and chosen else []
    return rendered(
        "_bench_side.html",
        state=state,
        called=labels(state, parts),
        answer=answer,
        chosen=chosen,
        rose_model=_rose(answer, chosen, motions) if answer and chosen else None,
        before=_before(bench, session, chosen, len(motions), step) if chosen else None,
        motions=[say(motion_phrase(motion)) for motion in motions],
        suggestions=suggestions_of(bench, session, state, parts) if step is None else [],
        steps=bench_queries.steps_of(session, bench),
        at=bench.at if step is None else step,
        is_own=is_own,
        notes=bench.notes,
        settings=settings_of(bench, session),
    )


def tray(bench: Bench, session: Session, step: int | None = None) -> str:
    """Render the parts that are not yet in, as small pictures with counts."""
    state, parts = state_at(bench, session, step), parts_of(bench)
    return rendered(
        "_bench_tray.html",
        left={part: count for part, count in work.left_over(state, parts).items() if count},
        names={part.id: part.name for part in parts.parts},
        pictures=part_pictures(bench.version),
    )


def _before(bench: Bench, session: Session, chosen: str, degrees: int, step: int | None) -> RoseModel | None:
    """Return the rose that a part had before the last step, if that step changed its freedom."""
    newest = bench_queries.step_of(session, bench, step)
    before = state_at(bench, session, newest.parent) if newest else BenchState()
    if not before.instance(chosen):
        return None
    answer = answered(before)
    motions = answer.motions(chosen)
    return None if len(motions) == degrees else _rose(answer, chosen, motions)


def _rose(answer: work.Answer, name: str, motions: list[Motion]) -> RoseModel:
    index = next(k for k, instance in enumerate(answer.freedom.system.build.instances) if instance.id == name)
    slides, turns = petals(motions, answer.freedom.system.lengths[index])
    return RoseModel(
        state=answer.instances[name].state,
        slides=slides,
        turns=turns,
        required_slides=slides,
        required_turns=turns,
        words=motions_phrase(motions),
        motions=[motion_report(motion) for motion in motions],
    )
