"""Sixty hand-ins in a minute, while a worker measures: how long each answer takes, and whether all are kept.

The reference run is the same form with one file of a kilobyte that is refused at once.
"""

import os
import subprocess
import sys
import threading
import time

import httpx2
import uvicorn
from sqlalchemy import text

from benchmarks.school import PASSWORD, make_class, scratch_database
from rigid_bench.settings import Settings
from rigid_bench.store.cluster import free_port
from rigid_bench.web.app import create_app
from rigid_bench.web.security.access import COOKIE
from rigid_bench.web.security.passwords import form_token

_STUDENTS = 30
_SECONDS = 60.0
_EACH = 2


def signed_in(address: str, login: str) -> httpx2.Client:
    """Return a browser in which a student is signed in."""
    client = httpx2.Client(base_url=address, follow_redirects=True, timeout=60)
    client.get("/sign-in")
    client.post("/sign-in", data={"csrf": token(client), "login": login, "password": PASSWORD})
    return client


def token(client: httpx2.Client) -> str:
    """Return the token that the session's forms carry."""
    return form_token(client.cookies.get(COOKIE) or "")


def main() -> None:
    """Print the table."""
    with scratch_database() as database:
        class_id, people, versions, graded = make_class(database, students=_STUDENTS, name="rush")
        files = graded[1].samples["right"].files
        port = free_port()
        server = uvicorn.Server(
            uvicorn.Config(create_app(Settings(database_url=database.url)), port=port, log_level="error")
        )
        threading.Thread(target=server.run, daemon=True).start()
        environment = {**os.environ, "RIGID_BENCH_DATABASE_URL": database.url}
        worker = subprocess.Popen(
            [sys.executable, "-m", "rigid_bench.cli", "worker"], env=environment, stderr=subprocess.DEVNULL
        )
        time.sleep(10)
        address = f"http://127.0.0.1:{port}"
        clients = [signed_in(address, person.login) for person in people]
        path = f"/classes/{class_id}/exercises/{versions[1].id}/hand-in"

        def send(client: httpx2.Client, sent: dict[str, bytes]) -> tuple[float, int]:
            started = time.perf_counter()
            answer = client.post(path, data={"csrf": token(client)}, files=[("files", file) for file in sent.items()])
            return time.perf_counter() - started, answer.status_code

        refused = [send(clients[0], {"note.txt": b"x" * 1000})[0] for _ in range(10)]
        times, kept = [], 0
        began = time.perf_counter()
        for number in range(_STUDENTS * _EACH):
            time.sleep(max(0.0, began + number * _SECONDS / (_STUDENTS * _EACH) - time.perf_counter()))
            client = clients[number % _STUDENTS]
            seconds, status = send(client, dict(files))
            times.append(seconds)
            if status == 200:
                newest = text("select max(id) from builds where student_id = :who")
                with database.session() as session:
                    build = session.execute(newest, {"who": people[number % _STUDENTS].id}).scalar_one()
                client.post(f"/builds/{build}/hand-in", data={"csrf": token(client)})
                kept += 1
        with database.session() as session:
            there = session.execute(text("select count(*) from builds where counts")).scalar_one()
        worker.terminate()
        worker.wait()
        server.should_exit = True
    times.sort()
    print("hand-ins  in s  taken  kept  median s  slowest s  a refusal s  median / refusal")
    print(
        f"{len(times):8} {time.perf_counter() - began:5.0f} {kept:6} {there:5} {times[len(times) // 2]:9.3f} "
        f"{times[-1]:10.3f} {min(refused):12.3f} {times[len(times) // 2] / min(refused):17.1f}"
    )


if __name__ == "__main__":
    main()
