"""People who come from a course: to a link's exercise, to choose one for it, or to say which class the course is."""

from collections.abc import Mapping
from dataclasses import asdict
from functools import partial
from typing import Annotated, Any
from urllib.parse import urlsplit

from fastapi import Form, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import RedirectResponse, Response
from pylti1p3.deep_link import DeepLink
from pylti1p3.deep_link_resource import DeepLinkResource
from pylti1p3.lineitem import LineItem
from pylti1p3.registration import Registration
from sqlalchemy.orm import Session

from rigid_bench.app.classes.classes import make_class
from rigid_bench.app.people import courses as attending
from rigid_bench.app.people.people import join_class
from rigid_bench.core.marking.weights import marks_by
from rigid_bench.core.values.errors import FormRejected, NotFound, RigidBenchError
from rigid_bench.core.wording.language import N_, _
from rigid_bench.jobs.course_service import registration_of
from rigid_bench.store.outside import accounts, courses
from rigid_bench.store.outside.accounts import OutsidePerson
from rigid_bench.store.queries import class_queries, people_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.tables import Course, CoursePlatform
from rigid_bench.web.identity.course_launch import Launch, LaunchRefused, begin, check
from rigid_bench.web.pages.people.sign_in import let_in
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import CheckedForm, DbSession, SignedIn, Teacher, in_session, person
from rigid_bench.web.security.passwords import digest, in_turn, is_password, new_token
from rigid_bench.web.security.throttle import ACCOUNT

router = page_router(prefix="/lti")
_WRONG = FormRejected(
    N_("password"), N_("it is not the one of the account here"), N_("Type it again, or say no"), "password"
)


@router.get("/keys", name="platform_keys")
def platform_keys(session: DbSession) -> dict[str, Any]:
    """Give the key with which platforms check what this program signs."""
    return {"keys": [dict(Registration.get_jwk(courses.own_key(session).public_pem))]}


@router.get("/login", name="begin_launch")
@router.post("/login")
async def begin_launch(request: Request) -> Response:
    """Send a browser that a platform sent on to where the platform says who it is."""
    return await run_in_threadpool(
        begin, request, await _fields(request), launch_url=str(request.url_for("launch"))
    )  # fmt: skip


@router.post("/launch", name="launch")
async def launch(request: Request) -> Response:
    """Let in whom a platform vouches for, and go where the link leads."""
    checked = await run_in_threadpool(check, request, await _fields(request))
    here = await in_session(request, partial(_who_is_here, request=request, launch=checked))
    if here is not None:
        token = await _keep(request, checked, here.id)
        return RedirectResponse(request.url_for("same_person", token=token), status_code=303)
    return await _enter(request, checked)


async def _fields(request: Request) -> dict[str, str]:
    sent = request.query_params if request.method == "GET" else await request.form()
    return {name: str(value) for name, value in sent.items()}


def _who_is_here(session: Session, *, request: Request, launch: Launch) -> Person | None:
    """Return who is signed in here where that may be the same person, whom nobody has told us of yet."""
    course = courses.course_of(session, launch.platform_id, launch.course)
    if course is None and not launch.person.teaches:
        raise LaunchRefused(_("course"), _("it is not set up here yet"), _("Ask your teacher to open the link once"))
    here = person(request, session)
    may_be_same = here is not None and here.is_teacher is launch.person.teaches
    return here if may_be_same and accounts.user_of(session, launch.person) is None else None


async def _enter(request: Request, launch: Launch) -> Response:
    """Sign a person in, who gets an account if new, and go where the link leads."""

    def admit(session: Session) -> int:
        course = courses.course_of(session, launch.platform_id, launch.course)
        owner = class_queries.owner_of_class(session, course.class_id) if course else None
        return attending.admit(session, launch.person, home_teacher_id=None if launch.person.teaches else owner)

    user_id = await in_session(request, admit)
    where = await _destination(request, launch, user_id)
    return await let_in(
        request, user_id, RedirectResponse(where, status_code=303), issuer=launch.person.issuer
    )  # fmt: skip


async def _destination(request: Request, launch: Launch, user_id: int) -> str:
    """Return where a person goes who comes from a course; a student is put into its class."""

    def find(session: Session) -> str | None:
        course = courses.course_of(session, launch.platform_id, launch.course)
        if course is None:
            return None
        course.members_url = launch.members_url or course.members_url
        if not launch.person.teaches:
            join_class(session, course.class_id, student_id=user_id)
        return str(_of_link(request, session, launch, course))

    where = await in_session(request, find)
    if where is None:
        return str(request.url_for("course_class", token=await _keep(request, launch, user_id)))
    if launch.choosing is not None:
        return str(request.url_for("choose_exercise", token=await _keep(request, launch, user_id)))
    return where


def _of_link(request: Request, session: Session, launch: Launch, course: Course) -> object:
    """Return the address of a link's exercise, else that of the class; note which column its marks go to."""
    known = courses.exercise_of_link(session, course.id, launch.resource)
    version = courses.version_for(session, course.class_id, launch.exercise or known or "")
    if version is None:
        is_teacher = launch.person.teaches
        return request.url_for("class_table", class_id=course.class_id) if is_teacher else request.url_for("home")
    courses.set_link(session, course.id, launch.resource, exercise=version.exercise, line_item=launch.line_item)
    if launch.person.teaches:
        return request.url_for("class_table", class_id=course.class_id).include_query_params(exercise=version.id)
    return request.url_for("hand_in", class_id=course.class_id, version_id=version.id)


async def _keep(request: Request, launch: Launch, user_id: int) -> str:
    """Keep a launch for the pages that ask something before it goes on; return the token of their addresses."""
    token = new_token()
    known = {"launch": asdict(launch), "user": user_id}
    await in_session(request, partial(accounts.keep_try, state_hash=digest(token), known=known))
    return token


def _launch(known: Mapping[str, Any] | None, user: Person) -> Launch:
    """Return a launch that was kept for a person.

    Raises
    ------
    NotFound
        It is over, or somebody else's.
    """
    if known is None or known["user"] != user.id:
        raise NotFound(_("course"), _("this took too long, or is done"), _("Open the link in the course again"))
    return Launch(**{**known["launch"], "person": OutsidePerson(**known["launch"]["person"])})


@router.get("/same/{token}", name="same_person")
def same_person(request: Request, token: str, user: SignedIn, session: DbSession) -> Response:
    """Ask somebody who is signed in here whether they are who the platform says."""
    launch = _launch(accounts.look_at_try(session, digest(token)), user)
    own = people_queries.user_by_id(session, user.id)
    return _ask_same(request, launch, token, has_password=bool(own.password_hash))


def _ask_same(
    request: Request, launch: Launch, token: str, *, has_password: bool, error: RigidBenchError | None = None
) -> Response:
    status = 422 if error else 200
    return page(
        request, "same_person.html", status=status, launch=launch, token=token, has_password=has_password, error=error
    )


@router.post("/same/{token}", name="answer_same_person", dependencies=[CheckedForm])
async def answer_same_person(
    request: Request, token: str, user: SignedIn, is_same: Annotated[bool, Form()] = False,
    password: Annotated[str, Form(max_length=1000)] = "",
) -> Response:  # fmt: skip
    """Join the account to the one here, once its password is given, as its owner may have left it open; or make one."""
    launch = _launch(await in_session(request, partial(accounts.look_at_try, state_hash=digest(token))), user)
    own = await in_session(request, partial(people_queries.password_of_person, user_id=user.id))
    if is_same and own.password_hash:
        await run_in_threadpool(request.app.state.throttle.take, ACCOUNT, own.login)
        if not await in_turn(request, partial(is_password, password, own.password_hash)):
            return _ask_same(request, launch, token, has_password=True, error=_WRONG)
        await run_in_threadpool(request.app.state.throttle.forget, ACCOUNT, own.login)
    await in_session(request, partial(accounts.take_try, state_hash=digest(token)))
    if is_same:
        await in_session(request, partial(accounts.join_account, person=launch.person, user_id=user.id))
    return await _enter(request, launch)


@router.get("/class/{token}", name="course_class")
def course_class(request: Request, token: str, user: Teacher, session: DbSession) -> Response:
    """Ask which class a course is."""
    launch = _launch(accounts.look_at_try(session, digest(token)), user)
    classes = class_queries.classes_of_teacher(session, user.id, roles=class_queries.TEACHES)
    return page(request, "course_class.html", launch=launch, token=token, classes=classes)


@router.post("/class/{token}", name="set_course_class", dependencies=[CheckedForm])
async def set_course_class(
    request: Request, token: str, user: Teacher, which: Annotated[str, Form(max_length=20)] = ""
) -> Response:
    """Let a course be one of the teacher's classes, or a new one, and go on."""

    def keep(session: Session) -> Launch:
        launch = _launch(accounts.take_try(session, digest(token)), user)
        if which == "new":
            class_id = make_class(session, launch.course_title[:80], teacher=user).id
        elif which.isdecimal() and len(which) < 10:
            class_id = class_queries.class_of_teacher(session, int(which), user.id, roles=class_queries.TEACHES)[0].id
        else:
            raise FormRejected(_("class"), _("none is chosen"), _("Choose one"), "which")
        attending.join_course(
            session,
            platform_id=launch.platform_id,
            context=launch.course,
            title=launch.course_title,
            class_id=class_id,
            teacher=user,
        )
        return launch

    launch = await in_session(request, keep)
    return RedirectResponse(await _destination(request, launch, user.id), status_code=303)


@router.get("/choose/{token}", name="choose_exercise")
def choose_exercise(request: Request, token: str, user: Teacher, session: DbSession) -> Response:
    """Ask which exercise a link of the course leads to."""
    launch = _launch(accounts.look_at_try(session, digest(token)), user)
    return page(request, "course_exercise.html", launch=launch, token=token, exercises=_choosable(session, launch))


@router.post("/choose/{token}", name="put_into_course", dependencies=[CheckedForm])
def put_into_course(
    request: Request, token: str, user: Teacher, session: DbSession, exercise: Annotated[str, Form(max_length=200)] = ""
) -> Response:
    """Show the form that takes a chosen exercise back to the platform."""
    launch = _launch(accounts.look_at_try(session, digest(token)), user)
    known = {choice.exercise: choice for choice in _choosable(session, launch)}
    if exercise not in known or launch.choosing is None:
        raise FormRejected(_("exercise"), _("none of the class's is chosen"), _("Choose one"), "exercise")
    accounts.take_try(session, digest(token))
    version = courses.version_for(session, known[exercise].class_id, exercise)
    assert version is not None  # it is among those of the class
    most = sum(marks_by(lambda check: "all", version.document.get("checks", [])).values())
    # the form names the exercise, and what it can earn (deep linking 2.0, 4.5)
    resource = DeepLinkResource().set_title(version.title).set_url(str(request.url_for("launch")))
    resource.set_custom_params({"exercise": exercise})
    column = LineItem()
    resource.set_lineitem(column.set_label(version.title).set_score_maximum(most).set_resource_id(exercise))
    platform = session.get_one(CoursePlatform, launch.platform_id)
    answer = DeepLink(registration_of(session, platform), launch.deployment, dict(launch.choosing))  # type: ignore[arg-type]
    back = str(launch.choosing["deep_link_return_url"])
    request.state.posts_to = "{0.scheme}://{0.netloc}".format(urlsplit(back))
    return page(
        request, "to_course.html", launch=launch, back=back, jwt=answer.get_response_jwt([resource]),
        title=version.title,
    )  # fmt: skip


def _choosable(session: Session, launch: Launch) -> list[courses.Choosable]:
    course = courses.course_of(session, launch.platform_id, launch.course)
    return courses.choosable(session, [course.class_id]) if course else []
