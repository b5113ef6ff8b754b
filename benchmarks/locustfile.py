"""A school hour as Locust plays it: students read, hand in and look; teachers watch and open builds.

Run by `benchmarks/load.py`, which says in the environment who signs in, what is handed in, and how long people think.
"""

import hashlib
import json
import os
import re
from itertools import count
from pathlib import Path

from locust import HttpUser, between, task

_SCHOOL = json.loads(os.environ["BENCH_LOAD_SCHOOL"])
_FILES = {path.name: path.read_bytes() for path in Path(_SCHOOL["files"]).iterdir()}
#: Between two pages; who plays alone thinks less, or there would be little to compare.
_HURRY = _SCHOOL["hurry"]
_students, _teachers = count(), count()


class Person(HttpUser):
    """Somebody with a browser that keeps the session, and sends the token of its forms."""

    abstract = True

    def send(self, path: str, *, name: str, data: dict[str, str] | None = None, files: bool = False) -> str:
        """Send a form, and return the address that it led to."""
        token = next((cookie.value for cookie in self.client.cookies if "session" in cookie.name), "")
        csrf = hashlib.sha256(b"form:" + token.encode()).hexdigest()
        sent = [("files", own) for own in _FILES.items()] if files else None
        return str(self.client.post(path, data={"csrf": csrf, **(data or {})}, files=sent, name=name).url)

    def sign_in(self, login: str) -> None:
        """Sign in."""
        self.client.get("/sign-in")
        self.send("/sign-in", name="/sign-in", data={"login": login, "password": _SCHOOL["password"]})


class Student(Person):
    """Models most of the time: opens a page about once a minute, and hands in about once in eight."""

    wait_time = between(20 / _HURRY, 100 / _HURRY)

    def on_start(self) -> None:
        """Sign in."""
        self.own = _SCHOOL["students"][next(_students) % len(_SCHOOL["students"])]
        self.card = ""
        self.sign_in(self.own["login"])

    @task(2)
    def start_page(self) -> None:
        """Open the start page."""
        self.client.get("/", name="/")

    @task(2)
    def sheet(self) -> None:
        """Read the sheet."""
        self.client.get(f"{self.own['exercise']}/sheet", name="/sheet")

    @task(1)
    def hand_in(self) -> None:
        """Choose the files, look, and hand them in."""
        address = self.send(f"{self.own['exercise']}/hand-in", name="/hand-in", files=True)
        if match := re.search(r"/builds/(\d+)/look", address):
            self.send(f"/builds/{match[1]}/hand-in", name="/builds/hand-in")
            self.card = f"/builds/{match[1]}"

    @task(3)
    def look(self) -> None:
        """See whether the card is there."""
        if self.card:
            self.client.get(self.card, name="/builds")


class Teacher(Person):
    """Watches the class table, opens builds, reads what went wrong."""

    fixed_count = _SCHOOL["teachers_at_once"]
    wait_time = between(5 / _HURRY, 15 / _HURRY)

    def on_start(self) -> None:
        """Sign in."""
        self.own = _SCHOOL["teachers"][next(_teachers) % len(_SCHOOL["teachers"])]
        self.sign_in(self.own["login"])

    @task(4)
    def table(self) -> None:
        """Watch the class, and open a build."""
        page = self.client.get(self.own["class"], name="/classes").text
        if builds := re.findall(r"/builds/(\d+)/mark", page):
            self.client.get(f"/builds/{builds[0]}/mark", name="/builds/mark")

    @task(2)
    def room(self) -> None:
        """See who needs help."""
        self.client.get(f"{self.own['class']}/room", name="/room")

    @task(1)
    def insight(self) -> None:
        """Read what went wrong."""
        self.client.get(f"{self.own['class']}/insight", name="/insight")
