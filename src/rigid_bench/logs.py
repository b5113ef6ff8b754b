"""Logs: one line an event, plain tracebacks, and nothing that somebody typed.

Messages of errors of the database and of checked documents repeat the values at fault, passwords' hashes and students'
words among them; of such an error only its kind and place are written.
"""

import json
import logging
import sys
import traceback
from types import TracebackType
from typing import TextIO

import psycopg
import structlog
from pydantic import ValidationError
from sqlalchemy.exc import SQLAlchemyError
from structlog.typing import EventDict, Processor

from rigid_bench.core.values.errors import RigidBenchError

_ExcInfo = tuple[type[BaseException], BaseException, TracebackType | None]
#: Their messages hold what somebody typed, or what stands in the database or in a file.
_TALKATIVE = (SQLAlchemyError, psycopg.Error, ValidationError, RigidBenchError, ValueError, KeyError)


def set_up_logs(*, as_json: bool = False) -> None:
    """Write events as lines to standard error, for people or as JSON; those of the libraries from warnings up."""
    rendered: list[Processor] = (
        [_quiet_exception, structlog.processors.JSONRenderer()]
        if as_json
        else [structlog.dev.ConsoleRenderer(colors=False, exception_formatter=_write_exception)]
    )
    structlog.configure(
        processors=[
            structlog.contextvars.merge_contextvars,
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso", utc=as_json),
            *rendered,
        ],
        logger_factory=structlog.PrintLoggerFactory(sys.stderr),
    )
    handler = logging.StreamHandler(sys.stderr)
    handler.setFormatter(
        _JsonFormatter() if as_json else _QuietFormatter("%(asctime)s [%(levelname)s] %(name)s: %(message)s")
    )
    logging.basicConfig(level=logging.WARNING, handlers=[handler], force=True)
    # it warns of every property of drawings that it leaves to them
    logging.getLogger("weasyprint").setLevel(logging.ERROR)


def _quiet_exception(logger: object, name: str, event: EventDict) -> EventDict:
    """Put an error with its places into an event, without the values that it repeats."""
    given = event.pop("exc_info", None)
    exc = given if isinstance(given, BaseException) else sys.exc_info()[1] if given else None
    if exc is not None:
        event["exception"] = quiet_traceback(exc)
    return event


def _write_exception(stream: TextIO, exc_info: _ExcInfo) -> None:
    stream.write("\n" + quiet_traceback(exc_info[1]))


def quiet_traceback(exc: BaseException) -> str:
    """Return an error with its causes, where each happened, and its message where that repeats no values."""
    cause = exc.__cause__ or (None if exc.__suppress_context__ else exc.__context__)
    before = f"{quiet_traceback(cause)}\nThen:\n" if cause else ""
    places = "".join(traceback.format_tb(exc.__traceback__))
    return f"{before}{places}{type(exc).__module__}.{type(exc).__qualname__}: {_message(exc)}"


def _message(exc: BaseException) -> str:
    if isinstance(exc, psycopg.Error):
        return f"{exc.sqlstate or 'no state'}, {exc.diag.constraint_name or exc.diag.table_name or 'no table named'}"
    return "(what it says is left out)" if isinstance(exc, _TALKATIVE) else str(exc)


class _QuietFormatter(logging.Formatter):
    """Writes the libraries' own lines, with our tracebacks and without the values that they add."""

    def formatException(self, ei: object) -> str:  # noqa: N802 (the library's name)
        exc = ei[1] if isinstance(ei, tuple) else None
        return quiet_traceback(exc) if isinstance(exc, BaseException) else ""

    def format(self, record: logging.LogRecord) -> str:
        if record.exc_info and record.exc_info[1] is not None:
            # a message that was made of the error repeats what it says
            record.msg, record.args = str(record.msg).split(str(record.exc_info[1]), 1)[0], None
        return super().format(record)


class _JsonFormatter(_QuietFormatter):
    """Writes the libraries' own lines as JSON, like ours."""

    def format(self, record: logging.LogRecord) -> str:
        words = super().format(record)
        return json.dumps({"event": words, "level": record.levelname.lower(), "logger": record.name})
