"""Lists of students as teachers have them: typed, or out of a spreadsheet; what was understood of each line."""

import csv
import io
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from sqlalchemy.orm import Session

from rigid_bench.core.errors import FormRejected
from rigid_bench.store import queries
from rigid_bench.store.queries import Person
from rigid_bench.web.people import LOGIN, check_login, check_name, free_login

#: A list has this many lines at most.
_MOST_LINES = 500
Column = Literal["name", "surname", "first name", "sign-in name"]
Order = Literal["guess", "name first", "surname first"]
_HEADS: dict[str, Column] = {
    "name": "name", "names": "name", "student": "name", "full name": "name", "pupil": "name",
    "surname": "surname", "last name": "surname", "lastname": "surname", "family name": "surname",
    "first name": "first name", "firstname": "first name", "given name": "first name", "forename": "first name",
    "sign-in name": "sign-in name", "sign-in": "sign-in name", "login": "sign-in name", "username": "sign-in name",
    "user": "sign-in name",
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class ListedStudent:
    """What was understood of one line."""

    line: int
    name: str
    login: str
    #: The account that the student has already; None for a new one.
    user_id: int | None = None
    #: Why it cannot be taken, or "".
    fault: str = ""
    #: What a teacher should look at, or "".
    remark: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class UnderstoodList:
    """What was understood of a list."""

    students: list[ListedStudent]
    columns: list[Column]

    @property
    def faults(self) -> list[ListedStudent]:
        """The lines that cannot be taken."""
        return [student for student in self.students if student.fault]


def understand_list(session: Session, text: str, *, class_id: int, teacher: Person, order: Order) -> UnderstoodList:
    """Say what each line of a list means: who is new, who is known, what cannot be taken.

    Parameters
    ----------
    text
        A line per student, parted by commas, semicolons or tabs; a first line may name the columns.
    order
        What stands first where no line says so.

    Raises
    ------
    FormRejected
        There is nobody in it, or too many.
    """
    rows = _rows(text)
    columns, rows = _columns(rows, order)
    members = {student.name.casefold() for student in queries.students_of_class(session, class_id)}
    taken: set[str] = set()
    students = [_understand(session, line, columns, cells, teacher, members, taken) for line, cells in rows]
    return UnderstoodList(students=students, columns=columns)


def _understand(
    session: Session,
    line: int,
    columns: Sequence[Column],
    cells: Sequence[str],
    teacher: Person,
    members: set[str],
    taken: set[str],
) -> ListedStudent:
    given: dict[str, str] = {column: cell.strip() for column, cell in zip(columns, cells, strict=False)}
    name = given.get("name") or f"{given.get('first name', '')} {given.get('surname', '')}"
    typed = given.get("sign-in name", "")
    try:
        name = check_name(name)
        if len(cells) > len(columns) and any(cell.strip() for cell in cells[len(columns) :]):
            raise FormRejected("line", "it has more columns than the others", "")
        if not typed:
            login = free_login(session, name, taken)
            is_twin = name.casefold() in members
            remark = "somebody of this name is in the class already" if is_twin else ""
            return ListedStudent(line=line, name=name, login=login, remark=remark)
        return _with_login(session, line, name, check_login(typed), teacher, taken)
    except FormRejected as exc:
        return ListedStudent(line=line, name=name.strip(), login=typed, fault=f"{exc.where}: {exc.problem}")


def _with_login(session: Session, line: int, name: str, login: str, teacher: Person, taken: set[str]) -> ListedStudent:
    known = queries.user_by_login(session, login)
    if login in taken:
        raise FormRejected("sign-in name", f"'{login}' stands twice in the list", "")
    taken.add(login)
    if known is None:
        return ListedStudent(line=line, name=name, login=login)
    if known.role == "student" and (known.home_teacher_id == teacher.id or teacher.is_administrator):
        remark = "has an account already, and comes into the class with it"
        return ListedStudent(line=line, name=known.name, login=login, user_id=known.id, remark=remark)
    raise FormRejected("sign-in name", f"'{login}' is taken; who has it joins with the class code", "")


def _rows(text: str) -> list[tuple[int, list[str]]]:
    lines = text.lstrip("\ufeff").splitlines()
    # the one that stands in most lines; the first of those that stand in as many
    separator = max(";\t,", key=lambda sign: sum(sign in line for line in lines))
    reader = csv.reader(io.StringIO("\n".join(lines)), delimiter=separator)
    try:
        rows = [(reader.line_num, cells) for cells in reader if any(cell.strip() for cell in cells)]
    except csv.Error as exc:
        raise FormRejected("list", "its quotation marks are not closed", "Save it as CSV again", "names") from exc
    if not rows:
        raise FormRejected("list", "there is no name in it", "Give one line per student: name, sign-in name", "names")
    if len(rows) > _MOST_LINES:
        raise FormRejected("list", f"it has {len(rows)} lines", f"Give at most {_MOST_LINES}", "names")
    return rows


def _columns(rows: list[tuple[int, list[str]]], order: Order) -> tuple[list[Column], list[tuple[int, list[str]]]]:
    """Tell what the columns are: by a first line that names them, or by what stands in them."""
    heads = [_HEADS.get(cell.strip().lower()) for cell in rows[0][1]]
    named: list[Column] = [head for head in heads if head]
    if named and len(named) == len(heads) and {"name", "surname", "first name"} & set(named):
        if len(rows) == 1:
            raise FormRejected("list", "it names its columns, and nobody", "Give one line per student", "names")
        return named, rows[1:]
    width = max(len(cells) for _, cells in rows)
    is_surname_first = order == "surname first" or (order == "guess" and (width > 2 or _are_first_names(_second(rows))))
    if is_surname_first:
        return ["surname", "first name", "sign-in name"], rows
    return ["name", "sign-in name"], rows


def _second(rows: Sequence[tuple[int, list[str]]]) -> Iterator[str]:
    yield from (cells[1].strip() for _, cells in rows if len(cells) > 1 and cells[1].strip())


def _are_first_names(cells: Iterator[str]) -> bool:
    """Say whether what stands second are names: most begin with a capital, or are in a script without small letters."""
    found = list(cells)
    names = [cell for cell in found if not LOGIN.fullmatch(cell) and cell[:1].isalpha() and not cell[:1].islower()]
    return 2 * len(names) > len(found)
