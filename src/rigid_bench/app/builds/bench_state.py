"""Where a bench stands: its parts, its steps and what is free on it, read once for an answer."""

from collections.abc import Callable
from functools import lru_cache
from typing import TYPE_CHECKING, TypeVar

from sqlalchemy.orm import Session, object_session

from rigid_bench.core.bench import work
from rigid_bench.core.bench.documents import BenchParts, BenchState, Suggestion
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _
from rigid_bench.store.queries import bench_queries
from rigid_bench.store.tables import Bench

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
    """Unpack meshes; benches with the same parts, such as those of a class, share what is kept of them here."""
    # with it come the mesh libraries, which a server needs only once somebody works on a bench
    from rigid_bench.core.kernel.meshes.collision_meshes import unpack_collision_meshes

    return unpack_collision_meshes(data)


def collision_meshes_of(bench: Bench, session: Session) -> "dict[str, CollisionMesh]":
    """Return the collision meshes of a bench's parts; none for a bench that was laid out before they were kept."""
    data = bench_queries.collision_meshes_of(session, bench)
    return _known_skins(data) if data else {}


def state_at(bench: Bench, session: Session, number: int | None = None) -> BenchState:
    """Return where a bench stands, or stood after a step."""

    def read() -> BenchState:
        step = bench_queries.step_of(session, bench, number)
        return BenchState.model_validate(step.document) if step else BenchState()

    return _once(bench, bench.at if number is None else number, read)


def keep_step(bench: Bench, session: Session, after: BenchState, *, base: int, who: str, words: str) -> None:
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
    collision_meshes = collision_meshes_of(bench, session) if parts.may_suggest and state.placed else {}
    if not collision_meshes:
        return []
    from rigid_bench.core.bench.suggest import suggest  # with the mesh libraries, as the collision meshes

    return suggest(state, parts, collision_meshes, answered(state), tolerance=Tolerance())


def answered(state: BenchState) -> work.Answer:
    """Work out what is free, once for each state: the page asks after each step for what was said of the one before."""
    return _answered(state.model_dump_json())


@lru_cache(maxsize=64)
def _answered(state: str) -> work.Answer:
    return work.answer(BenchState.model_validate_json(state), tolerance=Tolerance())
