"""How the installation runs, for the school's administrators: backups, queue, storage, sessions, settings, the log."""

import csv
import io
from datetime import UTC, date, datetime, timedelta
from typing import Annotated
from zoneinfo import ZoneInfo

from fastapi import Query, Request
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.orm import Session

from rigid_bench.app.people import people, school
from rigid_bench.core.values.errors import NotFound
from rigid_bench.core.wording.language import _
from rigid_bench.settings import in_force
from rigid_bench.store.backup import newest_backup
from rigid_bench.store.log import search_log
from rigid_bench.store.queries import people_queries, work_queries
from rigid_bench.web.paging import PAGE, Pages
from rigid_bench.web.render import page
from rigid_bench.web.routing import page_router
from rigid_bench.web.security.access import Administrator, CheckedForm, DbSession, Id, own_settings
from rigid_bench.web.spreadsheets import plain_cell
from rigid_bench.web.words.log_words import ACTIONS, doer, words

router = page_router(prefix="/school")
#: Entries in an export of the log.
_MOST = 100_000
#: A backup that is older than this is old.
_OLD = timedelta(hours=36)


@router.get("/running", name="running")
def running(request: Request, user: Administrator, session: DbSession) -> Response:
    """Show how it runs."""
    settings, now = request.app.state.settings, datetime.now(UTC)
    backup = newest_backup(session)
    return page(
        request,
        "running.html",
        backup=backup,
        is_old=backup is None or now - backup.made_at > _OLD,
        oldest_s=work_queries.oldest_waiting_s(session),
        workers=work_queries.workers(session),
        silent=now - timedelta(seconds=4 * settings.heartbeat_seconds),
        jobs=work_queries.count_jobs(session),
        failed=work_queries.failed_jobs(session),
        storage=work_queries.storage_by_class(session),
        database_size=work_queries.database_size(session),
        sessions=people_queries.open_sign_ins(session),
        in_force=list(in_force(settings)),
        kept=settings,
        settings=own_settings(session, user.id),
    )


@router.post("/jobs/{job_id}/retry", name="retry_job", dependencies=[CheckedForm])
def retry_job(request: Request, job_id: Id, user: Administrator, session: DbSession) -> Response:
    """Have a job tried again that was given up."""
    school.retry_job(session, job_id, who=user)
    return RedirectResponse(f"{request.url_for('running')}#queue", status_code=303)


@router.post("/sessions/{number}/end", name="end_session", dependencies=[CheckedForm])
def end_session(request: Request, number: Id, user: Administrator, session: DbSession) -> Response:
    """End somebody's session: they sign in again."""
    if not people.end_session(session, number, who=user):
        raise NotFound(_("session"), _("there is no such session any more"), _("Load the page again"))
    return RedirectResponse(f"{request.url_for('running')}#sessions", status_code=303)


_Text = Annotated[str, Query(max_length=100)]
_Day = Annotated[date | None, Query()]


@router.get("/log", name="school_log")
def school_log(
    request: Request, user: Administrator, session: DbSession, action: _Text = "", who: _Text = "", since: _Day = None,
    until: _Day = None, at: Annotated[int, Query(ge=1, le=10_000)] = 1,
) -> Response:  # fmt: skip
    """Show the whole log: of one action, by or about one person (their sign-in name), from one day to another."""
    zone = own_settings(session, user.id).zone
    entries, count = search_log(
        session, action=action, person_id=_person(session, who), offset=(at - 1) * PAGE, limit=PAGE,
        since=_start_of(since, zone), until=_start_of(until, zone, days=1),
    )  # fmt: skip
    return page(
        request, "school_log.html", entries=[(entry, doer(entry), words(entry)) for entry in entries], count=count,
        pages=Pages(at=at, count=count), actions=sorted(ACTIONS), action=action, who=who, since=since, until=until,
        settings=own_settings(session, user.id),
    )  # fmt: skip


@router.get("/log.csv", name="school_log_csv")
def school_log_csv(
    user: Administrator, session: DbSession, action: _Text = "", who: _Text = "", since: _Day = None,
    until: _Day = None,
) -> Response:  # fmt: skip
    """Give the log as CSV, as it was searched; times in UTC."""
    zone = own_settings(session, user.id).zone
    entries, _ = search_log(
        session, action=action, person_id=_person(session, who), limit=_MOST, since=_start_of(since, zone),
        until=_start_of(until, zone, days=1),
    )  # fmt: skip
    written = io.StringIO()
    writer = csv.writer(written)
    writer.writerow(("time", "who", "action", "about", "class", "words"))
    for entry in entries:
        people = (own.login if own else "" for own in (entry.who, entry.person))
        by, about = (plain_cell(login) for login in people)
        row = (entry.made_at.astimezone(UTC).isoformat(timespec="seconds"), by, entry.action, about)
        writer.writerow((*row, entry.class_id or "", plain_cell(words(entry))))
    headers = {"Content-Disposition": 'attachment; filename="log.csv"'}
    return Response("\ufeff" + written.getvalue(), media_type="text/csv; charset=utf-8", headers=headers)


def _person(session: Session, login: str) -> int | None:
    """Return the person of a sign-in name; -1, whom nothing is by or about, where nobody has it."""
    if not login.strip():
        return None
    user = people_queries.user_by_login(session, login.strip().lower())
    return user.id if user else -1


def _start_of(day: date | None, zone: ZoneInfo, *, days: int = 0) -> datetime | None:
    return None if day is None else datetime(day.year, day.month, day.day, tzinfo=zone) + timedelta(days=days)
