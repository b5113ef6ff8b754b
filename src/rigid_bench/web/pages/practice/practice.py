"""Practice for a student: what there is, one drill on one screen, its answer, and the same on paper."""

import random
from collections.abc import Collection, Mapping, Sequence
from contextlib import suppress
from dataclasses import replace
from datetime import UTC, datetime
from functools import lru_cache
from typing import Annotated, Any

from fastapi import Form, Path, Query, Request
from fastapi.responses import RedirectResponse, Response
from markupsafe import Markup
from pydantic import Field

from rigid_bench.app.classes import practice as practising
from rigid_bench.app.classes.practice import levels_of
from rigid_bench.core.practice.drill import Drill
from rigid_bench.core.practice.judging import judge
from rigid_bench.core.practice.registry import KINDS, LARGEST_SEED, drill_of
from rigid_bench.core.practice.schedule import Answered, due_slip, next_drill
from rigid_bench.core.values.errors import FormRejected, NotFound
from rigid_bench.core.wording.language import _
from rigid_bench.store.queries import class_queries, exercise_queries, practice_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.web.figures.drill import (
    answer_figure,
    choice_figure,
    drill_figures,
    exercise_figures,
    film_of,
    mates_of,
)
from rigid_bench.web.figures.rose import PETAL_WORDS, pointed_rose
from rigid_bench.web.figures.views import thumbnail
from rigid_bench.web.forms import LARGEST_ID, FormModel, IdField
from rigid_bench.web.pages.practice.of_exercises import (
    OfferedExercise,
    PractisedExercise,
    offered_exercises,
    practised_exercise,
)
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, SignedIn

router = page_router("/practice")
_Kind = Annotated[str, Path(max_length=60)]
_Seed = Annotated[int, Query(ge=0, le=LARGEST_SEED)]
_Level = Annotated[int, Query(ge=1, le=9)]
_SetId = Annotated[int, Query(ge=0, le=LARGEST_ID)]
#: Drills on one print.
_MOST_PRINTED = 12


#: The kind that plants the slips that builds of an exercise had.
_WITH_SLIPS = "find-the-fault"
#: Seeds that are tried for a slip: of 400 seeds the rarest of a level was planted by one in eleven.
_TRIED = 200


_LEVELS = {name: own.levels for name, own in KINDS.items()}


@lru_cache(maxsize=512)  # what was shown is judged a moment later
def known_drill(kind: str, seed: int, level: int, exercise: PractisedExercise | None = None, slip: str = "") -> Drill:
    """Make a drill once; of an exercise with the slip that is asked, where it can be planted."""
    return drill_of(kind, seed, level, replace(exercise.source, slip=slip) if exercise else None)


def _exercise(session: DbSession, user: Person, of: int, kind: str) -> PractisedExercise | None:
    """Return the exercise that a drill is made of; None for generated parts."""
    return practised_exercise(session, user, of, kind) if of else None


@router.get("", name="practice")
def practice(request: Request, user: SignedIn, session: DbSession, slip: str = "") -> Response:
    """Show what there is to practise: what the teacher gives, what comes next, and all kinds."""
    history = practice_queries.history_of(session, user.id)
    sets = practice_queries.sets_of_student(session, user.id) if user.is_student else []
    done = practice_queries.done_of_sets(session, [own.id for own in sets])
    wanted = [kind for kind in KINDS.values() if slip in kind.slips] if slip else []
    right = {name: sum(own.is_right for own in history if own.kind == name) for name in KINDS}
    tried = {name: sum(own.kind == name for own in history) for name in KINDS}
    return page(
        request, "practice.html", kinds=KINDS, sets=sets, done=done, wanted=wanted, right=right, tried=tried, slip=slip,
        exercises=_with_pictures(session, user),
        settings=class_queries.settings_of_classes(session, {own.class_id for own in sets}),
    )  # fmt: skip


def _with_pictures(session: DbSession, user: Person) -> list[tuple[OfferedExercise, Markup | None]]:
    """Return the exercises that drills can be made of, each with its picture."""
    offered = offered_exercises(session, user)
    pictures = exercise_queries.pictures_of_versions(session, [own.version.id for own in offered])
    return [(own, thumbnail(pictures[own.version.id]) if own.version.id in pictures else None) for own in offered]


def _figures(own: Drill, exercise: PractisedExercise | None) -> list[tuple[str, Markup]]:
    if exercise is None:
        return drill_figures(own)
    return exercise_figures(own, exercise.source.exercise, exercise.prepared)


@router.get("/next", name="next_drill")
def go_on(
    request: Request, user: SignedIn, session: DbSession, kind: str = "", set_id: _SetId = 0, slip: str = "",
    of: _SetId = 0,
) -> Response:  # fmt: skip
    """Go to the drill that comes next: of a set, of a kind, of a slip, of an exercise, or of any."""
    kinds = {name: own.levels for name, own in KINDS.items() if not slip or slip in own.slips} or _LEVELS
    if set_id:
        given = practice_queries.set_of_student(session, set_id, user.id)
        kinds = {name: levels_of(name, given.level) for name in given.kinds if name in KINDS}
        of = given.version_id or 0
        count, _ = practice_queries.done_of_sets(session, [given.id]).get((given.id, user.id), (0, 0))
        if count >= given.number:
            return RedirectResponse(request.url_for("practice"), status_code=303)
    history = practice_queries.history_of(session, user.id)
    if of:
        drawn = _drawn_of_exercise(session, user, history, kinds, wished=kind, of=of, slip=slip)
        if drawn is not None:
            return _to_drill(request, drawn[0], drawn[1], drawn[2], set_id=set_id, slip=drawn[3], of=of)
    chosen, level = next_drill(history, kinds, kind)
    seed = seed_with(chosen, level, slip or due_slip(history, chosen))
    return _to_drill(request, chosen, level, seed, set_id=set_id, slip=slip, of=0)


def _seed() -> int:
    return random.SystemRandom().randint(0, LARGEST_SEED)


def seed_with(kind: str, level: int, slip: str) -> int:
    """Draw a seed by lot whose drill plants a slip; any seed where the kind plants it not, or hardly ever."""
    seed = _seed()
    if slip not in KINDS[kind].slips:
        return seed
    for _unused in range(_TRIED):
        if known_drill(kind, seed, level).slip in (slip, None):
            break
        seed = _seed()
    return seed


def _to_drill(request: Request, kind: str, level: int, seed: int, *, set_id: int, slip: str, of: int) -> Response:
    more: dict[str, Any] = {"set_id": set_id, "slip": slip, "of": of}
    asked = {"seed": seed, "level": level, **{name: value for name, value in more.items() if value}}
    url = request.url_for("drill", drill_kind=kind).include_query_params(**asked)
    return RedirectResponse(url, status_code=303)


def _drawn_of_exercise(
    session: DbSession, user: Person, history: Sequence[Answered], kinds: Mapping[str, Sequence[int]], *, wished: str,
    of: int, slip: str,
) -> tuple[str, int, int, str] | None:  # fmt: skip
    """Draw a drill of an exercise: its kind, level, seed and slip; None where it has nothing for any of the kinds.

    Where a slip is planted, it is one that builds of the exercise had.
    """
    offered = next((own.kinds for own in offered_exercises(session, user) if own.version.id == of), ())
    left = {own.name: kinds[own.name] for own in offered if own.name in kinds}
    while left:
        kind, level = next_drill(history, left, wished)
        had = practice_queries.slips_of_version(session, of) if kind == _WITH_SLIPS else set()
        for planted in _in_any_order({slip} if slip else had & set(KINDS[kind].slips)):
            seed = _seed()
            with suppress(NotFound):
                known_drill(kind, seed, level, practised_exercise(session, user, of, kind), planted)
                return kind, level, seed, planted
        left = {name: levels for name, levels in left.items() if name != kind}
    return None


def _in_any_order(slips: Collection[str]) -> list[str]:
    """Return slips in an order by lot, and at the end that any will do."""
    return [*random.SystemRandom().sample(sorted(slips), len(slips)), ""]


@router.get("/{drill_kind}", name="drill")
def drill(
    request: Request, user: SignedIn, session: DbSession, drill_kind: _Kind, seed: _Seed = 0, level: _Level = 1,
    set_id: _SetId = 0, slip: str = "", of: _SetId = 0,
) -> Response:  # fmt: skip
    """Show one drill, and start its clock where its set has one."""
    exercise = _exercise(session, user, of, drill_kind)
    own = known_drill(drill_kind, seed, level, exercise, slip if exercise else "")
    until = _until(session, user, own, set_id)
    return _page(request, own, exercise, "drill.html", set_id=set_id, asked_slip=slip, until=until,
                 now=datetime.now(UTC))  # fmt: skip


def _until(session: DbSession, user: Person, own: Drill, set_id: int) -> datetime | None:
    """Return when the time for a drill is up; None without a clock."""
    return practising.time_is_up(session, user, own, set_id) if set_id and user.is_student else None


def _page(request: Request, own: Drill, exercise: PractisedExercise | None, template: str, **values: Any) -> Response:
    shared: dict[str, Any] = {
        "set_id": 0, "asked_slip": "", "first": "", "verdict": None, "is_second": False, "until": None,
        "is_late": False,
    }  # fmt: skip
    return page(
        request,
        template,
        drill=own,
        kind=KINDS[own.kind],
        exercise=exercise,
        shown_mates={mate["id"] for mate in mates_of(own)},
        figures=_figures(own, exercise) if template == "drill.html" else [],
        choice_figure=choice_figure,
        petals=PETAL_WORDS,
        rose=pointed_rose(),
        **{**shared, **values},
    )


class AnswerForm(FormModel):
    """An answer to a drill."""

    seed: IdField = 0
    level: int = Field(default=1, ge=1, le=9)
    set_id: IdField = 0
    slip: str = Field(default="", max_length=60)
    answer: list[str] = []
    #: Nothing of what is offered, which is an answer where axes are ticked.
    nothing: bool = False
    #: How the first question was answered, where this is the second.
    first: str = Field(default="", max_length=20)
    #: Of whose exercise the drill was made; 0 for an invented part.
    of: IdField = 0


@router.post("/{drill_kind}", name="answer_drill", dependencies=[CheckedForm])
def answer_drill(
    request: Request,
    user: SignedIn,
    session: DbSession,
    drill_kind: _Kind,
    form: Annotated[AnswerForm, Form()],
) -> Response:
    """Judge an answer; the first to a drill is kept. A drill with a second question is kept after that."""
    exercise = _exercise(session, user, form.of, drill_kind)
    own = known_drill(drill_kind, form.seed, form.level, exercise, form.slip if exercise else "")
    step = own.then if form.first and own.then else own
    if not form.answer and not (step.form == "rose" and form.nothing):
        raise FormRejected(_("answer"), _("nothing was chosen"), _("Choose what you take for right"), "answer")
    verdict = judge(step, form.answer)
    is_done = own.then is None or bool(form.first)
    until = _until(session, user, own, form.set_id)
    now = datetime.now(UTC)
    is_late = practising.is_late(until, now)
    if is_done and user.is_student:
        is_right = verdict.is_right and form.first in ("", "right") and not is_late
        practising.keep_answer(
            session, user, own, is_right=is_right, set_id=form.set_id, version_id=form.of or None, now=now
        )
    first = form.first or ("right" if verdict.is_right else "wrong")
    return _page(
        request, own, exercise, "_drill_answer.html", verdict=verdict, set_id=form.set_id, asked_slip=form.slip,
        first=first, is_done=is_done, is_second=step is own.then, step=step, is_late=is_late,
        answer_figure=answer_figure(own) if is_done else None,
    )  # fmt: skip


@router.get("/{drill_kind}/film", name="drill_film")
def film(request: Request, user: SignedIn, drill_kind: _Kind, seed: _Seed = 0, level: _Level = 1) -> Response:
    """Show a driven mechanism along its way; asked for once the drill is answered."""
    frames = film_of(known_drill(drill_kind, seed, level))
    if not frames:
        raise NotFound(_("practice"), _("nothing is driven in this drill"), _("Go back to it"))
    return page(request, "_drill_film.html", frames=frames)


@router.get("/{drill_kind}/paper", name="practice_paper")
def paper(
    request: Request, user: SignedIn, session: DbSession, drill_kind: _Kind, seed: _Seed = 0, level: _Level = 1,
    count: Annotated[int, Query(ge=1, le=_MOST_PRINTED)] = 6, of: _SetId = 0,
) -> Response:  # fmt: skip
    """Show drills to print, their answers on a page of their own; the same seed gives the same paper."""
    if drill_kind not in KINDS:
        raise NotFound(_("practice"), _("there is no such kind"), _("Choose one of the list"))
    exercise = _exercise(session, user, of, drill_kind)
    drills = [known_drill(drill_kind, (seed + k) % (LARGEST_SEED + 1), level, exercise) for k in range(count)]
    return page(
        request, "practice_paper.html", kind=KINDS[drill_kind], level=level, seed=seed, petals=PETAL_WORDS,
        drills=[(own, _figures(own, exercise)) for own in drills], choice_figure=choice_figure,
    )  # fmt: skip
