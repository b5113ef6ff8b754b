"""Checking what people type about people: names, sign-in names, passwords."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

from anyascii import anyascii
from sqlalchemy.orm import Session
from zxcvbn import zxcvbn

from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.wording.language import _
from rigid_bench.store.queries import people_queries

LOGIN = re.compile(r"[a-z0-9][a-z0-9._-]{1,39}")
_LEAST = 8
#: Fewer guesses than this find the password: it is among the commonest, a pattern of keys, or a repetition.
_FEWEST_GUESSES = 10**5
#: The estimator reads no more letters.
_READ = 72


def check_name(text: str) -> str:
    """Return a display name without needless spaces.

    Raises
    ------
    FormRejected
        There is none, or it is too long.
    """
    name = " ".join(text.split())
    if not name or len(name) > 80 or not name.isprintable():
        raise FormRejected(
            _("name"), _("'{name}' cannot be used", name=name[:20]), _("Write a name of 1 to 80 letters"), "name"
        )
    return name


def check_login(text: str) -> str:
    """Return a sign-in name in small letters.

    Raises
    ------
    FormRejected
        It has other characters than letters, digits, dot, dash and underscore.
    """
    login = text.strip().lower()
    if not LOGIN.fullmatch(login):
        problem = _("'{login}' cannot be used", login=login[:40])
        raise FormRejected(_("sign-in name"), problem, _("Use 2 to 40 small letters, digits, dots and dashes"), "login")
    return login


def check_password(text: str, *, field: str = "password", of: Sequence[str] = ()) -> str:
    """Return a password that is long enough and not easily guessed.

    Parameters
    ----------
    text
        What was typed.
    field
        The form's field, for the error.
    of
        Names of its owner, which are no secret.

    Raises
    ------
    FormRejected
        It is shorter than eight characters, or among those that are tried first.

    Examples
    --------
    >>> check_password("password")
    Traceback (most recent call last):
    ...
    rigid_bench...FormRejected: password: it is one of those that are tried first. Use a short sentence, ...
    """
    if len(text) < _LEAST:
        problem = _("it has {count} characters", count=len(text))
        raise FormRejected(
            _("password"), problem, _("Use at least {least}; a short sentence is good", least=_LEAST), field
        )
    guesses = zxcvbn(text[:_READ], user_inputs=[word for name in of for word in (name, *name.split())])["guesses"]
    if guesses < _FEWEST_GUESSES:
        problem = _("it is one of those that are tried first")
        raise FormRejected(
            _("password"), problem, _("Use a short sentence, or three words that have nothing in common"), field
        )
    return text


@dataclass(frozen=True, slots=True, kw_only=True)
class NewPerson:
    """Somebody to be added, as typed and checked."""

    login: str
    name: str


def check_new_person(*, login: str, name: str, password: str) -> NewPerson:
    """Check what somebody typed to be added.

    Raises
    ------
    FormRejected
        Something of it cannot be used.
    """
    new_person = NewPerson(login=check_login(login), name=check_name(name))
    check_password(password, of=(new_person.login, new_person.name))
    return new_person


def check_free_login(session: Session, *, login: str) -> None:
    """Refuse a sign-in name that somebody has.

    Raises
    ------
    FormRejected
        Somebody has it.
    """
    if people_queries.user_by_login(session, login) is not None:
        raise FormRejected(_("sign-in name"), _("'{login}' is taken", login=login), _("Choose another"), "login")


def free_login(session: Session, name: str, taken: set[str]) -> str:
    """Return a sign-in name for a person that nobody has yet, in Latin letters whatever the script of the name.

    Parameters
    ----------
    taken
        Names that others of the same list get; the new one is added.
    """
    base = re.sub(r"[^a-z0-9]+", ".", anyascii(name).lower()).strip(".")[:34].strip(".") or "student"
    base = base if len(base) > 1 else f"{base}1"
    login, number = base, 1
    while login in taken or people_queries.user_by_login(session, login) is not None:
        number += 1
        login = f"{base}{number}"
    taken.add(login)
    return login
