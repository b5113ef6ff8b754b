"""Sends returned marks to course platforms: when they are returned, again when they change, again where that failed."""

import structlog
from pylti1p3.service_connector import ServiceConnector

from rigid_bench.jobs.course_service import PatientSession, PlatformRefused, registration_of, send_mark
from rigid_bench.store.database import Database
from rigid_bench.store.outside.sent_marks import MarkToSend, marks_to_send, note_sent
from rigid_bench.store.tables import CoursePlatform

log = structlog.get_logger()
#: So many in one go: other chores come in between.
_AT_ONCE = 200


def send_marks(database: Database) -> int:
    """Tell platforms the marks that they do not know yet; return how many were taken.

    Each is noted for itself, so that a stop in between sends at most one twice, which changes nothing.
    """
    with database.session() as session:
        waiting = marks_to_send(session, at_most=_AT_ONCE)
        connectors = {
            platform_id: ServiceConnector(
                registration_of(session, session.get_one(CoursePlatform, platform_id)), PatientSession()
            )
            for platform_id in {mark.platform_id for mark in waiting}
        }
    taken, silent = 0, set[int]()
    for mark in waiting:
        refused_with = 0 if mark.platform_id in silent else _refusal(connectors[mark.platform_id], mark)
        if refused_with == 0:
            silent.add(mark.platform_id)  # the others are not waited for
        with database.session() as session:
            note_sent(session, mark, refused_with=refused_with)
        taken += refused_with is None
    if taken < len(waiting):
        log.warning("course platform did not take marks", count=len(waiting) - taken)
    return taken


def _refusal(connector: ServiceConnector, mark: MarkToSend) -> int | None:
    try:
        send_mark(connector, mark)
    except PlatformRefused as exc:
        return exc.status
    return None
