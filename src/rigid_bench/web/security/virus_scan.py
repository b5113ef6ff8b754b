"""Every file that is sent is shown to the school's virus scanner, where it has one.

It speaks to clamd as its manual has it (clamd(8), INSTREAM): the length of each piece in four bytes, then the piece;
no bytes at the end; then one line comes back.
"""

import contextlib
import socket
import struct
from collections.abc import Iterator
from typing import BinaryIO

import structlog

from rigid_bench.core.values.errors import FormRejected, RigidBenchError
from rigid_bench.core.wording.language import _

log = structlog.get_logger()
_PIECE, _PATIENCE_S = 65_536, 30.0


class ScannerSilent(RigidBenchError):
    """The virus scanner does not answer: nothing is taken unseen."""


def check_clean(scanner: str, name: str, file: BinaryIO) -> None:
    """Show a file to the scanner; afterwards it is read from its start again.

    Parameters
    ----------
    scanner
        host:port, or the path of a socket.
    name
        What the file is called, for the error.

    Raises
    ------
    FormRejected
        The scanner found something in it.
    ScannerSilent
        The scanner does not answer, or not as it should.
    """
    try:
        with _connected(scanner) as connection:
            connection.sendall(b"zINSTREAM\0")
            for piece in iter(lambda: file.read(_PIECE), b""):
                connection.sendall(struct.pack(">I", len(piece)) + piece)
            connection.sendall(struct.pack(">I", 0))
            answer = b"".join(_received(connection)).rstrip(b"\0\n").decode(errors="replace")
    except OSError as exc:
        log.error("virus scanner does not answer", reason=type(exc).__name__)
        raise _silent() from exc
    finally:
        file.seek(0)
    if answer.endswith(" FOUND"):
        log.warning("virus scanner found something", signature=answer.removeprefix("stream: ").removesuffix(" FOUND"))
        problem = _("the school's virus scanner found something in it")
        raise FormRejected(
            name, problem, _("Export the model again on a clean computer, and tell your teacher"), "files"
        )
    if not answer.endswith(" OK"):
        log.error("virus scanner answers with an error", answer=answer[:200])
        raise _silent()


def _silent() -> ScannerSilent:
    return ScannerSilent(
        _("files"),
        _("the school's virus scanner does not answer just now"),
        _("Your files are still here: try again soon"),
    )


def _connected(scanner: str) -> socket.socket:
    if scanner.startswith("/"):
        with contextlib.ExitStack() as on_error:
            connection = on_error.enter_context(socket.socket(socket.AF_UNIX))
            connection.settimeout(_PATIENCE_S)
            connection.connect(scanner)
            on_error.pop_all()
        return connection
    host, _, port = scanner.rpartition(":")
    return socket.create_connection((host, int(port)), timeout=_PATIENCE_S)


def _received(connection: socket.socket) -> Iterator[bytes]:
    while piece := connection.recv(4096):
        yield piece
        if piece.endswith((b"\0", b"\n")):
            return
