"""What is the school's: classroom values of fits, course platforms, work that was given up."""

from sqlalchemy.orm import Session

from rigid_bench.core.standards.allowances import ALLOWANCES
from rigid_bench.core.values.errors import FormRejected, NotFound
from rigid_bench.core.wording.language import _
from rigid_bench.store.log import log
from rigid_bench.store.outside import courses
from rigid_bench.store.queries import class_queries, work_queries
from rigid_bench.store.queries.people_queries import Person
from rigid_bench.store.tables import CoursePlatform


def change_allowance(
    session: Session, process: str, action: str, *, least: float, most: float, teacher: Person
) -> None:
    """Keep the school's own gap for a fit; exercises that are set from now on have it.

    Parameters
    ----------
    process, action
        How parts are made, and what the fit does, as in `ALLOWANCES`.
    least, most
        The gap a side, mm.

    Raises
    ------
    FormRejected
        There is no such fit, or the least gap is more than the most.
    """
    if action not in ALLOWANCES.get(process, {}):
        raise FormRejected(
            _("fit"),
            _("there is no fit '{action}, {process}'", action=action, process=process),
            _("Choose one from the table"),
        )
    if least > most:
        problem = _("{low:g} is more than {high:g}", low=least, high=most)
        raise FormRejected(f"{action}, {process}", problem, _("Give the smaller gap first"))
    class_queries.set_allowance(session, process=process, action=action, least=least, most=most)
    log(session, "allowance-changed", who_id=teacher.id, class_id=None, fit=f"{action}, {process}")


def add_platform(session: Session, platform: CoursePlatform, *, who: Person) -> None:
    """Keep what was agreed with a course platform."""
    courses.add_platform(session, platform)
    log(session, "platform-added", who_id=who.id, class_id=None, name=platform.name)


def remove_platform(session: Session, platform_id: int, *, who: Person) -> None:
    """Forget a course platform; classes, people and marks stay here."""
    name = courses.remove_platform(session, platform_id)
    log(session, "platform-removed", who_id=who.id, class_id=None, name=name)


def retry_job(session: Session, job_id: int, *, who: Person) -> None:
    """Have a job tried again that was given up.

    Raises
    ------
    NotFound
        There is no such job.
    """
    if not work_queries.retry_job(session, job_id):
        raise NotFound(_("job"), _("there is no such job that was given up"), _("Load the page again"))
    log(session, "job-retried", who_id=who.id, class_id=None, job=job_id)
