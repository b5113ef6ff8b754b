"""Lists of students as teachers have them: typed, or out of a spreadsheet; what was understood of each line."""

import csv
import io
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

from sqlalchemy.orm import Session

from rigid_bench.app.people.account_fields import LOGIN, check_login, check_name, free_login
from rigid_bench.core.values.errors import FormRejected
from rigid_bench.core.wording.language import _
from rigid_bench.store.queries import class_queries, people_queries
from rigid_bench.store.queries.people_queries import Person

#: A list has this many lines at most.
_MOST_LINES = 500
Column = Literal["name", "surname", "first name", "sign-in name", "school's identifier"]
Order = Literal["guess", "name first", "surname first"]
_HEADS: dict[str, Column] = {
    "name": "name", "names": "name", "student": "name", "full name": "name", "pupil": "name",
    "surname": "surname", "last name": "surname", "lastname": "surname", "family name": "surname",
    "first name": "first name", "firstname": "first name", "given name": "first name", "forename": "first name",
    "sign-in name": "sign-in name", "sign-in": "sign-in name", "login": "sign-in name", "username": "sign-in name",
    "user": "sign-in name", "sourcedid": "school's identifier", "school's identifier": "school's identifier",
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class ListedStudent:
    """What was understood of one line."""

    line: int
    name: str
    login: str
    #: What the school's own system calls the student, or "".
    sourced_id: str = ""
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
    columns, rows = _columns(_rows(text), order)
    members = {student.login: student.name for student in class_queries.students_of_class(session, class_id)}
    reader = _Reader(session=session, teacher=teacher, members=members)
    listed = [reader.read(line, dict(zip(columns, cells, strict=False)), cells[len(columns) :]) for line, cells in rows]
    return UnderstoodList(students=listed, columns=columns)


@dataclass(frozen=True, slots=True, kw_only=True)
class _Reader:
    """Reads line by line, and knows who is there and what the lines before have taken."""

    session: Session
    teacher: Person
    #: Of the class: names by sign-in name.
    members: Mapping[str, str]
    taken: set[str] = field(default_factory=set)

    def read(self, line: int, given: Mapping[Column, str], rest: Sequence[str]) -> ListedStudent:
        """Say what a line means; `rest` stands beyond the columns."""
        name = given.get("name") or f"{given.get('first name', '')} {given.get('surname', '')}"
        typed = given.get("sign-in name", "").strip()
        try:
            name = check_name(name)
            if any(cell.strip() for cell in rest):
                raise FormRejected(_("line"), _("it has more columns than the others"), "")
            read = self._with_login(line, name, check_login(typed)) if typed else self._new(line, name)
            return replace(read, sourced_id=given.get("school's identifier", "").strip())
        except FormRejected as exc:
            return ListedStudent(line=line, name=name.strip(), login=typed, fault=f"{exc.where}: {exc.problem}")

    def _new(self, line: int, name: str) -> ListedStudent:
        is_twin = name.casefold() in {member.casefold() for member in self.members.values()}
        remark = _("somebody of this name is in the class already") if is_twin else ""
        return ListedStudent(line=line, name=name, login=free_login(self.session, name, self.taken), remark=remark)

    def _with_login(self, line: int, name: str, login: str) -> ListedStudent:
        if login in self.members:
            raise FormRejected(_("sign-in name"), _("'{login}' is in the class already", login=login), "")
        if login in self.taken:
            raise FormRejected(_("sign-in name"), _("'{login}' stands twice in the list", login=login), "")
        self.taken.add(login)
        known = people_queries.user_by_login(self.session, login)
        if known is None:
            return ListedStudent(line=line, name=name, login=login)
        if known.role == "student" and (known.home_teacher_id == self.teacher.id or self.teacher.is_administrator):
            remark = _("has an account already, and comes into the class with it")
            return ListedStudent(line=line, name=known.name, login=login, user_id=known.id, remark=remark)
        raise FormRejected(
            _("sign-in name"), _("'{login}' is taken; who has it joins with the class code", login=login), ""
        )


def _rows(text: str) -> list[tuple[int, list[str]]]:
    lines = text.lstrip("\ufeff").splitlines()
    # the one that stands in most lines; the first of those that stand in as many
    separator = max(";\t,", key=lambda sign: sum(sign in line for line in lines))
    reader = csv.reader(io.StringIO("\n".join(lines)), delimiter=separator)
    try:
        rows = [(reader.line_num, cells) for cells in reader if any(cell.strip() for cell in cells)]
    except csv.Error as exc:
        raise FormRejected(
            _("list"), _("its quotation marks are not closed"), _("Save it as CSV again"), "names"
        ) from exc
    if not rows:
        raise FormRejected(
            _("list"), _("there is no name in it"), _("Give one line per student: name, sign-in name"), "names"
        )
    if len(rows) > _MOST_LINES:
        raise FormRejected(
            _("list"),
            _("it has {count} lines", count=len(rows)),
            _("Give at most {most_lines}", most_lines=_MOST_LINES),
            "names",
        )
    return rows


def _columns(rows: list[tuple[int, list[str]]], order: Order) -> tuple[list[Column], list[tuple[int, list[str]]]]:
    """Tell what the columns are: by a first line that names them, or by what stands in them."""
    heads = [_HEADS.get(cell.strip().lower()) for cell in rows[0][1]]
    named: list[Column] = [head for head in heads if head]
    if named and len(named) == len(heads) and {"name", "surname", "first name"} & set(named):
        if len(rows) == 1:
            raise FormRejected(
                _("list"), _("it names its columns, and nobody"), _("Give one line per student"), "names"
            )
        return named, rows[1:]
    width = max(len(cells) for _unused, cells in rows)
    is_surname_first = order == "surname first" or (order == "guess" and (width > 2 or _are_first_names(_second(rows))))
    if is_surname_first:
        return ["surname", "first name", "sign-in name"], rows
    return ["name", "sign-in name"], rows


def _second(rows: Sequence[tuple[int, list[str]]]) -> Iterator[str]:
    yield from (cells[1].strip() for _, cells in rows if len(cells) > 1 and cells[1].strip())


def _are_first_names(cells: Iterator[str]) -> bool:
    """Say whether what stands second are names: most begin with a capital, or are in a script without small letters."""
    left = list(cells)
    names = [cell for cell in left if not LOGIN.fullmatch(cell) and cell[:1].isalpha() and not cell[:1].islower()]
    return 2 * len(names) > len(left)
