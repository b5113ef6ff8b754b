"""Checking what people type about people: names, sign-in names, passwords, lists."""

import csv
import io
import re
import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from rigid_bench.core.errors import FormRejected
from rigid_bench.store import queries
from rigid_bench.store.codes import new_password
from rigid_bench.store.tables import User
from rigid_bench.web.passwords import hash_password

_LOGIN = re.compile(r"[a-z0-9][a-z0-9._-]{1,39}")
_LEAST = 8
#: A list has this many lines at most.
_MOST_LINES = 500


def check_name(text: str) -> str:
    """Return a display name without needless spaces.

    Raises
    ------
    FormRejected
        There is none, or it is too long.
    """
    name = " ".join(text.split())
    if not name or len(name) > 80 or not name.isprintable():
        raise FormRejected("name", f"'{name[:20]}' cannot be used", "Write a name of 1 to 80 letters")
    return name


def check_login(text: str) -> str:
    """Return a sign-in name in small letters.

    Raises
    ------
    FormRejected
        It has other signs than letters, digits, dot, dash and underscore.
    """
    login = text.strip().lower()
    if not _LOGIN.fullmatch(login):
        problem = f"'{login[:40]}' cannot be used"
        raise FormRejected("sign-in name", problem, "Use 2 to 40 small letters, digits, dots and dashes")
    return login


def check_password(text: str) -> str:
    """Return a password that is long enough.

    Raises
    ------
    FormRejected
        It is shorter than eight signs.
    """
    if len(text) < _LEAST:
        raise FormRejected("password", f"it has {len(text)} signs", f"Use at least {_LEAST}; a short sentence is good")
    return text


def add_person(session: Session, *, login: str, name: str, role: str, password: str) -> User:
    """Add a teacher or student.

    Raises
    ------
    FormRejected
        Somebody has that sign-in name already, or something typed cannot be used.
    """
    login, name = check_login(login), check_name(name)
    if queries.user_by_login(session, login) is not None:
        raise FormRejected("sign-in name", f"'{login}' is taken", "Choose another")
    return queries.add_user(
        session, login=login, name=name, role=role, password_hash=hash_password(check_password(password))
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Newcomer:
    """A student who was added, with the password to be handed out; it is shown once and kept nowhere."""

    name: str
    login: str
    password: str


def add_students(session: Session, text: str) -> list[tuple[User, Newcomer]]:
    """Add the students of a list: a line each, with a name and, if wanted, a sign-in name.

    Raises
    ------
    FormRejected
        A line cannot be used; the message says which. Nothing is added then.
    """
    rows = _rows(text)
    added = []
    for number, row in rows:
        try:
            name = check_name(row[0])
            login = check_login(row[1]) if len(row) > 1 and row[1].strip() else free_login(session, name)
            password = new_password()
            user = add_person(session, login=login, name=name, role="student", password=password)
        except FormRejected as exc:
            raise FormRejected(f"line {number} of the list, {exc.where}", exc.problem, exc.next_step) from exc
        added.append((user, Newcomer(name=name, login=login, password=password)))
    return added


def _rows(text: str) -> Sequence[tuple[int, list[str]]]:
    head = text.lstrip("\ufeff").splitlines()[:1]
    separator = ";" if head and head[0].count(";") > head[0].count(",") else ","
    reader = csv.reader(io.StringIO(text.lstrip("\ufeff")), delimiter=separator)
    rows = [(number, row) for number, row in enumerate(reader, 1) if any(each.strip() for each in row)]
    if rows and rows[0][1][0].strip().lower() in ("name", "student", "names"):
        rows = rows[1:]
    if not rows:
        raise FormRejected("list", "there is no name in it", "Give one line per student: name, sign-in name")
    if len(rows) > _MOST_LINES:
        raise FormRejected("list", f"it has {len(rows)} lines", f"Give at most {_MOST_LINES}")
    return rows


def free_login(session: Session, name: str) -> str:
    """Return a sign-in name for a person that nobody has yet."""
    plain = unicodedata.normalize("NFKD", name.lower()).encode("ascii", "ignore").decode()
    base = re.sub(r"[^a-z0-9]+", ".", plain).strip(".")[:34] or "student"
    base = base if len(base) > 1 else f"{base}1"
    login, number = base, 1
    while queries.user_by_login(session, login) is not None:
        number += 1
        login = f"{base}{number}"
    return login
