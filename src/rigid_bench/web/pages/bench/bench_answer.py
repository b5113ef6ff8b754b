"""What the bench's pages answer: where it stands, and the lists and roses beside the view."""

from collections.abc import Callable, Collection, Mapping, Sequence
from functools import lru_cache
from typing import TYPE_CHECKING, Any, TypeVar

from fastapi.responses import JSONResponse
from sqlalchemy.orm import Session, object_session

from rigid_bench.core.assembly.freedom.freedom_report import motion_report
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.freedom.spaces import petals
from rigid_bench.core.bench import work
from rigid_bench.core.bench.documents import BenchParts, BenchState, Suggestion, labels, matrix_of
from rigid_bench.core.formats.message import UNSAID, Message
from rigid_bench.core.grading.report.models import RoseModel
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _
from rigid_bench.core.wording.phrases import motion_phrase, motions_phrase
from rigid_bench.core.wording.saying import say
from rigid_bench.store.class_settings import ClassSettings
from rigid_bench.store.queries import bench_queries
from rigid_bench.store.tables import Bench, Classroom
from rigid_bench.web.figures.views import thumbnails
from rigid_bench.web.render import rendered

if TYPE_CHECKING:
    from rigid_bench.core.kernel.meshes.collision_meshes import CollisionMesh

_T = TypeVar("_T")


def parts_of(bench: Bench) -> BenchParts:
    """Return what lies on a bench, without triangles.

    Raises
    ------
    FormRejected
        It is still being laid out, or could not be.
    """
    if bench.parts is None:
        raise FormRejected(_("bench"), _("its parts are still being laid out"), _("Wait a moment"))
    return _once(bench, "parts", lambda: BenchParts.model_validate(bench.parts))


@lru_cache(maxsize=32)
def _known_skins(data: bytes) -> "dict[str, CollisionMesh]":
    """Unpack skins; benches with the same parts, such as those of a class, share what is kept of them here."""
    # with it come the mesh libraries, which a server needs only once somebody works on a bench
    from rigid_bench.core.kernel.meshes.collision_meshes import unpack_collision_meshes

    return unpack_collision_meshes(data)


def skins_of(bench: Bench, session: Session) -> "dict[str, CollisionMesh]":
    """Return the skins of a bench's parts; none for a bench that was laid out before they were kept."""
    data = bench_queries.skins_of(session, bench)
    return _known_skins(data) if data else {}


def state_at(bench: Bench, session: Session, number: int | None = None) -> BenchState:
    """Return where a bench stands, or stood after a step."""

    def read() -> BenchState:
        step = bench_queries.step_of(session, bench, number)
        return BenchState.model_validate(step.document) if step else BenchState()

    return _once(bench, bench.at if number is None else number, read)


def take_step(bench: Bench, session: Session, after: BenchState, *, base: int, who: str, words: str) -> None:
    """Keep a step, and what stands there after it for the rest of the answer."""
    document = after.model_dump(mode="json")
    made = bench_queries.take_step(session, bench, base=base, who=who, words=words, document=document)
    _once(bench, made.number, lambda: after)


def _once(bench: Bench, what: int | str, read: Callable[[], _T]) -> _T:
    """Read something of a bench once for an answer: its database session keeps it."""
    session = object_session(bench)
    assert session is not None
    known: dict[tuple[int, int | str], _T] = session.info.setdefault("benches", {})
    if (bench.id, what) not in known:
        known[bench.id, what] = read()
    return known[bench.id, what]


def suggestions_of(bench: Bench, session: Session, state: BenchState, parts: BenchParts) -> list[Suggestion]:
    """List what may be suggested where a bench stands."""
    skins = skins_of(bench, session) if parts.may_suggest and state.placed else {}
    if not skins:
        return []
    from rigid_bench.core.bench.suggest import suggest  # with the mesh libraries, as the skins

    return suggest(state, parts, skins, answered(state), tolerance=Tolerance())


def answered(state: BenchState) -> work.Answer:
    """Work out what is free, once for each state: the page asks after each step for what was said of the one before."""
    return _answered(state.model_dump_json())


@lru_cache(maxsize=64)
def _answered(state: str) -> work.Answer:
    return work.answer(BenchState.model_validate_json(state), tolerance=Tolerance())


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
        pictures=thumbnails(bench.version.prepared),
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
    index = next(k for k, instance in enumerate(answer.found.system.build.instances) if instance.id == name)
    slides, turns = petals(motions, answer.found.system.lengths[index])
    return RoseModel(
        state=answer.instances[name].state,
        slides=slides,
        turns=turns,
        required_slides=slides,
        required_turns=turns,
        words=motions_phrase(motions),
        motions=[motion_report(motion) for motion in motions],
    )
