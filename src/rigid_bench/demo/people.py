"""The people of the sample school. All invented."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Person:
    """A sample person; the password is shown by the start command, for this is sample data."""

    login: str
    name: str
    password: str


TEACHER = Person(login="teacher", name="Ms Orla Fenwick", password="bench-teacher")
STUDENTS = (
    Person(login="ada", name="Ada Quill", password="bench-ada"),
    Person(login="bram", name="Bram Tolliver", password="bench-bram"),
    Person(login="chidi", name="Chidi Marsh", password="bench-chidi"),
    Person(login="dunya", name="Dunya Perrow", password="bench-dunya"),
    Person(login="edda", name="Edda Winslow", password="bench-edda"),
    Person(login="finn", name="Finn Oakes", password="bench-finn"),
    Person(login="greta", name="Greta Holm", password="bench-greta"),
    Person(login="hamid", name="Hamid Sorley", password="bench-hamid"),
    Person(login="ines", name="Ines Varga", password="bench-ines"),
    Person(login="jory", name="Jory Pell", password="bench-jory"),
)
