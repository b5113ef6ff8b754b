"""What every job is: load what it needs, run, keep what came out, or refuse with a reason."""

from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, ClassVar, Generic, TypeVar

import structlog
from sqlalchemy.orm import Session

from rigid_bench.core.values.errors import RigidBenchError
from rigid_bench.jobs.sandbox import Sandbox
from rigid_bench.store.database import Database
from rigid_bench.store.tables import Printout

log = structlog.get_logger()
Work = TypeVar("Work")
Result = TypeVar("Result")
#: Draws the cards of a printout as PDF, and says how many are drawn; pages are drawn above this floor.
PrintCards = Callable[[Session, Printout, Callable[[int], None]], bytes]


@dataclass(frozen=True, slots=True)
class Tools:
    """What a worker keeps between jobs."""

    database: Database
    #: Warm.
    sandbox: Sandbox
    print_cards: PrintCards | None = None


class Job(ABC, Generic[Work, Result]):
    """One piece of work; its fields are the numbers that the queue keeps. It may be done twice."""

    #: As the queue knows it.
    NAME: ClassVar[str]

    @abstractmethod
    def load(self, session: Session) -> Work | None:
        """Return what the job needs; None where there is nothing left to do."""

    @abstractmethod
    def run(self, work: Work, tools: Tools) -> Result:
        """Do the work, outside any transaction.

        Raises
        ------
        RigidBenchError
            What was given cannot be used.
        """

    @abstractmethod
    def keep(self, session: Session, work: Work, result: Result) -> None:
        """Keep what came out."""

    @abstractmethod
    def refuse(self, session: Session, work: Work | None, error: Mapping[str, str]) -> None:
        """Keep why nothing came out; without the work where the program failed, and no file is at fault."""


def perform(job: Job[Any, Any], tools: Tools) -> None:
    """Do a job from loading to keeping."""
    with tools.database.session() as session:
        work = job.load(session)
    if work is None:
        return
    try:
        result = job.run(work, tools)
    except RigidBenchError as exc:
        log.info("job refused", job=job.NAME, reason=type(exc).__name__)
        with tools.database.session() as session:
            job.refuse(session, work, exc.facts)
        return
    with tools.database.session() as session:
        job.keep(session, work, result)
