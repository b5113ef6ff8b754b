"""The server stopped in an upload, the database restarted: nothing that was acknowledged is lost, and pages say so."""

import socket
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
import uvicorn
from sqlalchemy import text

from rigid_bench.demo.graded import read_graded
from rigid_bench.demo.people import Person
from rigid_bench.settings import Settings
from rigid_bench.store.cluster import Cluster, free_port
from rigid_bench.store.database import Database, migrate
from rigid_bench.store.queries import class_queries, exercise_queries, people_queries
from rigid_bench.store.versions import keep_version
from rigid_bench.web.app import create_app
from rigid_bench.web.security.access import COOKIE
from rigid_bench.web.security.passwords import form_token, hash_password
from tests.support.leave_nothing import destroyed_after
from tests.support.school import Visitor

WHO = Person(login="ida", name="Ida", password="ida-password")


class Running:
    """A program on a cluster of its own, that can be stopped and started."""

    def __init__(self, cluster: Cluster) -> None:
        self.cluster, self.url = cluster, cluster.start()
        migrate(self.url)
        drawer = read_graded()[1]
        database = Database(self.url)
        with database.session() as session:
            teacher = people_queries.add_user(session, login="t", name="T", role="teacher", password_hash="")
            student = people_queries.add_user(
                session, login=WHO.login, name=WHO.name, role="student", password_hash=hash_password(WHO.password)
            )
            room = class_queries.add_class(session, name="Room", teacher=teacher, students=[student])
            version = keep_version(session, drawer.bundle, drawer.prepared)
            exercise_queries.assign(session, class_id=room.id, version_id=version.id)
            self.path = f"/classes/{room.id}/exercises/{version.id}/hand-in"
        database.close()
        self.files = drawer.samples["right"].files
        self.port = free_port()
        self.serve()

    def serve(self) -> None:
        self.app = create_app(Settings(database_url=self.url))
        config = uvicorn.Config(self.app, port=self.port, log_level="critical")
        self.server = uvicorn.Server(config)
        self.thread = threading.Thread(target=self.server.run, daemon=True)
        self.thread.start()
        while not self.server.started:
            time.sleep(0.02)

    def stop(self) -> None:
        self.server.force_exit = self.server.should_exit = True
        self.thread.join()
        self.app.state.database.close()  # a server that is forced out does not come to it

    def count(self) -> int:
        database = Database(self.url)
        with database.session() as session:
            count: int = session.execute(text("select count(*) from builds")).scalar_one()
        database.close()
        return count


@pytest.fixture
def running(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Running]:
    folder: Path = tmp_path_factory.mktemp("interrupted")
    with destroyed_after(Cluster(folder)) as cluster:
        running = Running(cluster)
        yield running
        running.stop()


def test_what_was_acknowledged_outlives_server_and_database(running: Running) -> None:
    address = f"http://127.0.0.1:{running.port}"
    student = Visitor(address, WHO)
    taken = student.post(running.path, files=dict(running.files))
    assert taken.url.path.endswith("/look")
    assert running.count() == 1

    # half an upload, and the server is gone
    token = form_token(student.http.cookies.get(COOKIE) or "")
    body = f'--x\r\nContent-Disposition: form-data; name="csrf"\r\n\r\n{token}\r\n--x\r\n'.encode()
    head = (
        f"POST {running.path} HTTP/1.1\r\nHost: 127.0.0.1\r\nCookie: {COOKIE}={student.http.cookies.get(COOKIE)}\r\n"
        f"Content-Type: multipart/form-data; boundary=x\r\nContent-Length: 500000\r\n\r\n"
    ).encode()
    with socket.create_connection(("127.0.0.1", running.port)) as half:
        half.sendall(head + body)
        time.sleep(0.3)
        running.stop()
    running.serve()
    assert running.count() == 1, "half an upload leaves nothing"
    assert student.get("/").status_code == 200, "whoever was signed in still is"

    # the database away, and back
    running.cluster.stop()
    answer = student.get("/")
    assert answer.status_code == 503
    assert "it does not answer just now" in answer.text
    assert student.post(running.path, files=dict(running.files)).status_code == 503
    running.stop()
    running.url = running.cluster.start()  # at another port
    running.serve()
    assert running.count() == 1
    assert student.get(taken.url.path).status_code == 200
