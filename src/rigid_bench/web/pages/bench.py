"""The bench: a student puts the parts together, and sees after each mate what can still move."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Depends, Form, Query, Request
from fastapi.responses import JSONResponse, RedirectResponse, Response

from rigid_bench.core.archive import read_zip
from rigid_bench.core.assembly.freedom_report import motion_report
from rigid_bench.core.assembly.motions import Motion
from rigid_bench.core.assembly.spaces import petals
from rigid_bench.core.bench import work
from rigid_bench.core.bench.documents import BenchParts, BenchState
from rigid_bench.core.bench.exploded import Exploded
from rigid_bench.core.errors import FormRejected
from rigid_bench.core.grading.report import RoseModel
from rigid_bench.core.grading.wording import motion_words, motions_words
from rigid_bench.core.tolerance import Tolerance
from rigid_bench.jobs import tasks
from rigid_bench.store import bench_queries, queries
from rigid_bench.store.tables import Bench
from rigid_bench.web.access import AssignedExercise, CheckedForm, DbSession, Id, SignedIn, Student, Teacher
from rigid_bench.web.apart_print import apart_pdf
from rigid_bench.web.forms import number_or_none
from rigid_bench.web.render import page, templates

door = APIRouter(prefix="/classes/{class_id}/exercises/{version_id}")
on_bench = APIRouter(prefix="/benches/{bench_id}")
_Text = Annotated[str, Form(max_length=400)]
#: Frames of a nudge that are sent at most.
_FRAMES = 40


def own_bench(bench_id: Id, user: SignedIn, session: DbSession) -> Bench:
    """Return a bench: a student's own, or of a teacher's class."""
    return bench_queries.bench_for(session, bench_id, user)


VisibleBench = Annotated[Bench, Depends(own_bench)]


@door.get("/bench", name="bench_door")
def bench_door(
    request: Request, class_id: int, version: AssignedExercise, user: Student, session: DbSession
) -> Response:
    """Go on at the student's bench, or choose what to begin with."""
    mine = {"class_id": class_id, "version_id": version.id, "student_id": user.id}
    found = bench_queries.newest_bench(session, **mine)
    newest = queries.newest_build_of(session, class_id, version.id, user.id)
    return page(request, "bench_door.html", class_id=class_id, version=version, bench=found, build=newest)


@door.post("/bench", name="start_bench", dependencies=[CheckedForm])
def start_bench(
    request: Request,
    class_id: int,
    version: AssignedExercise,
    user: Student,
    session: DbSession,
    source: Annotated[str, Form()] = "exercise",
) -> Response:
    """Set up a bench with the exercise's parts, or with those of the newest build."""
    files = None
    if source == "build":
        newest = queries.newest_build_of(session, class_id, version.id, user.id)
        if newest is None:
            raise FormRejected("bench", "you have handed in no build yet", "Begin with the exercise's parts")
        files = {each.name: each.content for each in newest.files if not each.is_evidence}
    made = bench_queries.start_bench(session, class_id=class_id, version_id=version.id, student_id=user.id, files=files)
    tasks.prepare_bench(session, request.app.state.queue, made.id)
    return RedirectResponse(request.url_for("bench", bench_id=made.id), status_code=303)


@on_bench.get("", name="bench")
def bench(request: Request, found: VisibleBench, user: SignedIn, session: DbSession) -> Response:
    """Show the bench; to a teacher for looking and replaying."""
    steps = bench_queries.steps_of(session, found) if user.role == "teacher" else []
    first = _side(found, session) if found.state == "ready" else ""
    mates = state_at(found, session).mates if steps else []
    is_own = user.role == "student"
    return page(request, "bench.html", steps=steps, mates=mates, side=first, is_own=is_own, **apart_of(found))


@on_bench.get("/parts.json", name="bench_parts")
def bench_parts(found: VisibleBench, session: DbSession) -> Response:
    """Give the parts with their triangles, for drawing and pointing."""
    headers = {"Content-Encoding": "gzip", "Cache-Control": "private, max-age=3600"}
    return Response(bench_queries.drawn_parts_of(session, found), media_type="application/json", headers=headers)


@on_bench.get("/state", name="bench_state")
def bench_state(
    found: VisibleBench,
    session: DbSession,
    chosen: Annotated[str, Query(max_length=200)] = "",
    step: Annotated[int | None, Query(ge=0, le=10**6)] = None,
) -> Response:
    """Give where the bench stands, or where it stood after a step."""
    return _answer(found, session, chosen=chosen, step=step)


@on_bench.get("/doing", name="bench_doing")
def bench_doing(
    found: VisibleBench,
    session: DbSession,
    a: Annotated[str, Query(max_length=200)] = "",
    b: Annotated[str, Query(max_length=200)] = "",
) -> Response:
    """Give what two features can do, the nearest first."""
    return JSONResponse(work.can_do(state_at(found, session), parts_of(found), a, b))


@dataclass(frozen=True, slots=True)
class _Asked:
    """What a student asked for, as its form brought it."""

    a: str = ""
    b: str = ""
    doing: str = ""
    value: float | None = None
    flipped: bool = False


_Do = Callable[[BenchState, BenchParts, _Asked], tuple[BenchState, str]]


def _place(state: BenchState, parts: BenchParts, asked: _Asked) -> tuple[BenchState, str]:
    after = work.place(state, parts, asked.a)
    return after, f"brought in {after.placed[-1].id}"


def _ground(state: BenchState, parts: BenchParts, asked: _Asked) -> tuple[BenchState, str]:
    after = work.ground(state, asked.a)
    own = after.instance(asked.a)
    return after, f"{'grounded' if own and own.grounded else 'let go of'} {asked.a}"


def _mate(state: BenchState, parts: BenchParts, asked: _Asked) -> tuple[BenchState, str]:
    after = work.mate(
        state, parts, a=asked.a, b=asked.b, doing=asked.doing, value=asked.value, flipped=asked.flipped,
        tolerance=Tolerance(),
    )  # fmt: skip
    return after, after.mates[-1].words


def _suggested(state: BenchState, parts: BenchParts, asked: _Asked) -> tuple[BenchState, str]:
    wanted = [each for each in parts.suggestions if asked.a in ("", each.mate.id)]
    known = {each.id for each in state.mates}
    for each in wanted:
        if each.mate.id not in known:
            state = work.with_mate(state, each.mate, tolerance=Tolerance())
    return state, wanted[0].words if len(wanted) == 1 else f"kept {len(wanted)} suggestions"


_DOES: dict[str, _Do] = {
    "place": _place,
    "ground": _ground,
    "mate": _mate,
    "suggested": _suggested,
    "take": lambda state, parts, asked: (work.take_away(state, asked.a), f"put {asked.a} back"),
    "unmate": lambda state, parts, asked: (work.unmate(state, asked.a), f"took away mate {asked.a}"),
}


@on_bench.post("/steps", name="bench_step", dependencies=[CheckedForm])
def bench_step(
    found: VisibleBench,
    user: Student,
    session: DbSession,
    action: _Text,
    base: Annotated[int, Form(ge=0)] = 0,
    a: _Text = "",
    b: _Text = "",
    doing: _Text = "",
    value: _Text = "",
    flipped: Annotated[bool, Form()] = False,
    preview: Annotated[bool, Form()] = False,
    chosen: _Text = "",
) -> Response:
    """Take a step and give where the bench stands after it; a preview is given and not kept."""
    if action in ("undo", "redo"):
        bench_queries.stands_at(session, found, base)
        (bench_queries.undo_step if action == "undo" else bench_queries.redo_step)(session, found)
        return _answer(found, session, chosen=chosen)
    if action not in _DOES:
        raise FormRejected("bench", f"there is no '{action[:20]}' on it", "Load the page again")
    before, parts = state_at(found, session), parts_of(found)
    asked = _Asked(a, b, doing, number_or_none(value), flipped)
    after, words = _DOES[action](before, parts, asked)
    if preview:
        return JSONResponse({"poses": _poses(after), "preview": True})
    bench_queries.take_step(
        session, found, base=base, who=user.name, words=words, document=after.model_dump(mode="json")
    )
    focus = after.mates[-1].b.instance if action == "mate" else after.placed[-1].id if action == "place" else chosen
    return _answer(found, session, chosen=focus, said=_said(before, after, parts, focus) if action == "mate" else words)


def _said(before: BenchState, after: BenchState, parts: BenchParts, name: str) -> str:
    """Say what a mate did: the part's motions before and after, and which mates it repeats or clashes with."""
    own = next((each for each in after.placed if each.id == name), None)
    if own is None:
        return ""
    now, was = _answered(after.model_dump_json()), _answered(before.model_dump_json()).motions(name)
    words = work.difference_words(_name(after, parts, name), was, now.motions(name))
    newest = after.mates[-1].id
    if newest in now.clashing:
        others = [each.id for each in after.mates[:-1] if name in (each.a.instance, each.b.instance)]
        words += f" This mate clashes with {', '.join(others) or 'the ground'}: flip it, or take one away."
    elif newest in now.redundant:
        words += " This mate holds nothing that was not held already."
    return words


def _name(state: BenchState, parts: BenchParts, name: str) -> str:
    own = state.instance(name)
    return next((each.name for each in parts.parts if own and each.id == own.part), name)


@on_bench.post("/drag", name="bench_drag", dependencies=[CheckedForm])
def bench_drag(
    found: VisibleBench,
    user: Student,
    session: DbSession,
    name: _Text,
    start: _Text,
    end: _Text,
    kept: Annotated[bool, Form()] = False,
    base: Annotated[int, Form(ge=0)] = 0,
) -> Response:
    """Give where the parts go when one is pulled; the last pull of a drag is kept as a step."""
    after = work.drag(state_at(found, session), name, start=_point(start), end=_point(end), tolerance=Tolerance())
    if not kept:
        return JSONResponse({"poses": _poses(after)})
    bench_queries.take_step(
        session, found, base=base, who=user.name, words=f"moved {name}", document=after.model_dump(mode="json")
    )
    return _answer(found, session, chosen=name)


@on_bench.post("/nudge", name="bench_nudge", dependencies=[CheckedForm])
def bench_nudge(
    found: VisibleBench, session: DbSession, name: _Text, motion: Annotated[int, Form(ge=0, le=5)] = 0
) -> Response:
    """Give the pictures of one of the motions that are left."""
    frames = work.nudge(state_at(found, session), parts_of(found), name, motion, tolerance=Tolerance())
    every = max(1, len(frames) // _FRAMES)
    return JSONResponse({"frames": [_poses(each) for each in [*frames[::every], frames[-1]]]})


@on_bench.post("/notes", name="bench_note", dependencies=[CheckedForm])
def bench_note(
    request: Request, found: VisibleBench, user: Teacher, session: DbSession, mate: _Text, text: _Text = ""
) -> Response:
    """Let a teacher write on a mate."""
    if not any(each.id == mate for each in state_at(found, session).mates):
        raise FormRejected("note", "there is no such mate on the bench now", "Load the page again")
    bench_queries.note_on_mate(session, found, mate, text=text.strip(), who=user.name)
    return RedirectResponse(request.url_for("bench", bench_id=found.id), status_code=303)


@on_bench.post("/hand-in", name="bench_hand_in", dependencies=[CheckedForm])
def bench_hand_in(request: Request, found: VisibleBench, user: Student, session: DbSession) -> Response:
    """Hand in what the bench holds: it is looked at first, like any other files."""
    files = bench_files(found, session)
    drawn = printed_apart(found) if found.apart_at == found.at else None
    build_id = tasks.look_at(
        session,
        request.app.state.queue,
        class_id=found.class_id,
        version_id=found.version_id,
        student_id=user.id,
        files=files,
        evidence={"drawn-apart.pdf": drawn} if drawn else {},
    )
    return RedirectResponse(request.url_for("look", build_id=build_id), status_code=303)


def apart_of(found: Bench) -> dict[str, Any]:
    """Return what the page shows of a bench drawn apart."""
    given = found.apart or {}
    apart = Exploded.model_validate(given) if "view" in given else None
    return {
        "bench": found,
        "apart": apart,
        "waiting": "waiting" in given,
        "error": given if "problem" in given else None,
        "is_old": found.apart_at != found.at,
    }


def printed_apart(found: Bench) -> bytes | None:
    """Return a bench drawn apart as PDF; None where it was not."""
    apart = apart_of(found)["apart"]
    return apart_pdf(apart, title=found.version.title, name=found.student.name) if apart else None


def bench_files(found: Bench, session: DbSession) -> dict[str, bytes]:
    """Return what the bench holds as files: its models, and its build file."""
    state, parts = state_at(found, session), parts_of(found)
    if not state.placed:
        raise FormRejected("bench", "no part is placed yet", "Bring in the base first")
    own = bench_queries.files_of(session, found)
    if own is None:
        given = read_zip(found.version.bundle, name="exercise")
        used = {each.part for each in state.placed}
        models = {each.file: given[each.file] for each in parts.parts if each.id in used}
        return {**models, "bench.build.json": work.build_bytes(state, parts)}
    models = {name: data for name, data in read_zip(own, name="bench").items() if not name.lower().endswith(".json")}
    return {**models, "bench.build.json": work.build_bytes(state, parts, source=next(iter(models)))}


def parts_of(found: Bench) -> BenchParts:
    """Return what lies on a bench, without triangles.

    Raises
    ------
    FormRejected
        It is still being laid out, or could not be.
    """
    if found.parts is None:
        raise FormRejected("bench", "its parts are still being laid out", "Wait a moment")
    return BenchParts.model_validate(found.parts)


def state_at(found: Bench, session: DbSession, number: int | None = None) -> BenchState:
    """Return where a bench stands, or stood after a step."""
    step = bench_queries.step_of(session, found, number)
    return BenchState.model_validate(step.document) if step else BenchState()


def _answer(found: Bench, session: DbSession, *, chosen: str = "", said: str = "", step: int | None = None) -> Response:
    state = state_at(found, session, step)
    side = _side(found, session, chosen=chosen, said=said, step=step)
    placed = {each.id: {"part": each.part, "grounded": each.grounded} for each in state.placed}
    away = work.apart(state, parts_of(found))
    return JSONResponse(
        {"at": found.at, "poses": _poses(state), "placed": placed, "apart": away, "side": side, "said": said}
    )


def _poses(state: BenchState) -> dict[str, list[float]]:
    """Write poses as 4 x 4 matrices, column by column, as the browser's drawing takes them."""
    found = {}
    for each in state.placed:
        matrix = np.eye(4)
        matrix[:3, :3], matrix[:3, 3] = each.pose.rotation, each.pose.position
        found[each.id] = np.round(matrix.T.ravel(), 9).tolist()
    return found


@lru_cache(maxsize=64)  # the page asks after each step for what it said of the one before
def _answered(state: str) -> work.Answer:
    return work.answer(BenchState.model_validate_json(state), tolerance=Tolerance())


def _side(found: Bench, session: DbSession, *, chosen: str = "", said: str = "", step: int | None = None) -> str:
    """Render the lists beside the view: parts, mates, and the chosen part's rose."""
    state, parts = state_at(found, session, step), parts_of(found)
    answer = _answered(state.model_dump_json()) if state.placed else None
    if not state.instance(chosen):
        chosen = state.placed[-1].id if state.placed else ""
    motions = answer.motions(chosen) if answer and chosen else []
    names = {each.id: each.name for each in parts.parts}
    kept = {each.id for each in state.mates}
    text: str = templates.env.get_template("_bench_side.html").render(
        state=state,
        left={part: count for part, count in work.left_over(state, parts).items() if count},
        names=names,
        answer=answer,
        chosen=chosen,
        chosen_name=_name(state, parts, chosen),
        rose_model=_rose(answer, chosen, motions) if answer and chosen else None,
        motions=[motion_words(each) for each in motions],
        suggestions=[each for each in parts.suggestions if each.mate.id not in kept],
        features={each.id: each.features for each in parts.parts},
        said=said,
        can_undo=found.at > 0,
        notes=found.notes,
    )
    return text


def _rose(answer: work.Answer, name: str, motions: list[Motion]) -> RoseModel:
    index = next(k for k, each in enumerate(answer.found.system.build.instances) if each.id == name)
    slides, turns = petals(motions, answer.found.system.lengths[index])
    return RoseModel(
        state=answer.instances[name].state,
        slides=slides,
        turns=turns,
        required_slides=slides,
        required_turns=turns,
        words=motions_words(motions),
        motions=[motion_report(each) for each in motions],
    )


def _point(text: str) -> list[float]:
    try:
        values = [float(each) for each in text.split(",")]
    except ValueError:
        values = []
    if len(values) != 3 or not all(abs(each) < 1e6 for each in values):
        raise FormRejected("drag", "it names no place", "Load the page again")
    return values


router = APIRouter()
router.include_router(door)
router.include_router(on_bench)
