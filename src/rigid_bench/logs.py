"""Logs: one line an event, plain tracebacks."""

import sys

import structlog


def set_up_logs() -> None:
    """Write events as lines to standard error.

    Tracebacks are plain: the library's own show every local value, students' files among
    them, and take seconds to write.
    """
    structlog.configure(
        processors=[
            structlog.contextvars.merge_contextvars,
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso", utc=False),
            structlog.dev.ConsoleRenderer(colors=False, exception_formatter=structlog.dev.plain_traceback),
        ],
        logger_factory=structlog.PrintLoggerFactory(sys.stderr),
    )
