"""What is sent is shown to the school's virus scanner, and a class has so much room; against a stand-in for clamd."""

import socketserver
import struct
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest

from rigid_bench.settings import Settings
from tests.support import school as people
from tests.support.program import serving
from tests.support.school import School, Visitor

#: The test file of the European Institute for Computer Antivirus Research (eicar.org, 2003), which harms nothing;
#: in two pieces, so that no scanner stumbles over this file.
EICAR = (r"X5O!P%@AP[4\PZX54(P^)7CC)7}$" + "EICAR-STANDARD-ANTIVIRUS-TEST-FILE!$H+H*").encode()
BOX = b"ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;\n"


class _Scanner(socketserver.StreamRequestHandler):
    """Answers as clamd(8) says."""

    def handle(self) -> None:
        assert self.rfile.read(10) == b"zINSTREAM\0"
        sent = b""
        while size := struct.unpack(">I", self.rfile.read(4))[0]:
            sent += self.rfile.read(size)
        if b"too large" in sent:
            self.wfile.write(b"INSTREAM size limit exceeded. ERROR\0")
        else:
            self.wfile.write(b"stream: Eicar-Signature FOUND\0" if EICAR in sent else b"stream: OK\0")


@pytest.fixture(scope="module", params=["by address", "by path"])
def scanner(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    if request.param == "by path":
        path = str(tmp_path_factory.mktemp("clamd") / "clamd.sock")
        server: socketserver.BaseServer = socketserver.ThreadingUnixStreamServer(path, _Scanner)
    else:
        server = socketserver.ThreadingTCPServer(("127.0.0.1", 0), _Scanner)
        path = f"127.0.0.1:{server.server_address[1]}"
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield path
    server.shutdown()
    server.server_close()


def with_settings(settings: Settings, **more: object) -> Settings:
    return Settings.model_validate(settings.model_dump() | more)


def where(school: School) -> str:
    return f"/classes/{school.class_id}/exercises/{school.version_id}/hand-in"


def test_a_file_in_which_something_is_found_is_not_taken(settings: Settings, school: School, scanner: str) -> None:
    with serving(with_settings(settings, virus_scanner=scanner)) as address:
        student, teacher = Visitor(address, people.STUDENT), Visitor(address, people.TEACHER)
        answer = student.post(where(school), files={"box.step": BOX, "tool.step": BOX + EICAR})
        assert (answer.status_code, "tool.step" in answer.text, "found something" in answer.text) == (422, True, True)
        assert student.post(where(school), files={"box.step": BOX}).url.path.endswith("/look")
        # wherever files are sent, not only where builds are
        sent = [("file", ("class.zip", EICAR))]
        answer = teacher.http.post("/classes/read", data={"csrf": ""}, files=sent)
        assert "found something" in answer.text


def test_while_the_scanner_is_silent_nothing_is_taken_unseen(
    settings: Settings, school: School, tmp_path: Path, scanner: str
) -> None:
    for silent in (str(tmp_path / "nobody.sock"), "127.0.0.1:9"):
        with serving(with_settings(settings, virus_scanner=silent)) as address:
            answer = Visitor(address, people.STUDENT).post(where(school), files={"box.step": BOX})
            assert (answer.status_code, "does not answer just now" in answer.text) == (503, True)
    with serving(with_settings(settings, virus_scanner=scanner)) as address:
        answer = Visitor(address, people.STUDENT).post(where(school), files={"box.step": BOX + b"too large"})
        assert answer.status_code == 503


def test_a_class_has_so_much_room_and_another_has_its_own(settings: Settings, school: School) -> None:
    with serving(with_settings(settings, class_bytes=1_000)) as address:
        student = Visitor(address, people.CLASSMATE)
        answer = student.post(where(school), files={"box.step": BOX + b" " * 2_000})
        assert (answer.status_code, "has used up its" in answer.text) == (422, True)
    with serving(with_settings(settings, class_bytes=0)) as address:
        student = Visitor(address, people.CLASSMATE)
        assert student.post(where(school), files={"box.step": BOX + b" " * 2_000}).url.path.endswith("/look")
