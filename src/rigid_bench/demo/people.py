"""The people of the sample school. All invented."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Person:
    """A sample person; the password is shown by the start command, for this is sample data."""

    login: str
    name: str
    password: str


def _student(name: str) -> Person:
    login = name.split()[0].lower()
    return Person(login=login, name=name, password=f"bench-{login}")


TEACHER = Person(login="teacher", name="Ms Orla Fenwick", password="bench-teacher")
SECOND_TEACHER = Person(login="second", name="Mr Tobin Reyes", password="bench-second")
#: Workshop 9B.
STUDENTS = tuple(
    _student(name)
    for name in (
        "Ada Quill", "Bram Tolliver", "Chidi Marsh", "Dunya Perrow", "Edda Winslow", "Finn Oakes", "Greta Holm",
        "Hamid Sorley", "Ines Varga", "Jory Pell", "Kira Dunmore", "Lasse Brook", "Mina Tarrow", "Noor Ashby",
    )
)  # fmt: skip
#: Workshop 10A.
OLDER_STUDENTS = tuple(
    _student(name)
    for name in (
        "Otis Lane", "Priya Weld", "Quinn Harrow", "Rosa Timms", "Sven Calder", "Tess Morrow", "Umar Finch",
        "Vera Stoke", "Wim Hadley", "Yara Coombe",
    )
)  # fmt: skip
