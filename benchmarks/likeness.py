"""Likeness: questions among independent right builds, and copies found that were renamed, moved or exported again.

Five hundred students make the same three parts in one of a few usual ways each (order of features, where the sketch
began, which way up), put them together where they like and leave what slides where it was dragged, or at its end.
Nobody knows of another: every question is a false one. Then others hand in copies of some of them.
"""

import argparse
import random
import re
import tempfile
from collections import Counter
from collections.abc import Callable
from pathlib import Path

from build123d import Align, Box, Compound, Cylinder, Location, Part, Pos, export_step, import_step

from rigid_bench.core.insight.likeness.questions import Work, questions
from rigid_bench.core.insight.likeness.step_print import step_print

#: Share of students who leave what slides where they dragged it; share whose program writes their name.
_DRAGGED, _NAMED = 0.7, 0.5
_BOTTOM = (Align.CENTER, Align.CENTER, Align.MIN)


def _plate(chance: random.Random, own: Location) -> Part:
    """A plate with a pocket and four holes; the pocket and the holes in any order."""
    cuts = [Pos(0, 0, 7) * Box(62, 16, 5, align=_BOTTOM)]
    cuts += [Pos(x, y, 0) * Cylinder(2.5, 12, align=_BOTTOM) for x in (-35, 35) for y in (-18, 18)]
    chance.shuffle(cuts)
    return _cut(Box(80, 50, 12, align=_BOTTOM), cuts, own)


def _bar(chance: random.Random, own: Location) -> Part:
    """A bar with two holes and a notch."""
    cuts = [Pos(x, 0, 0) * Cylinder(2.5, 8, align=_BOTTOM) for x in (-12, 12)] + [
        Pos(0, 0, 5) * Box(6, 15, 3, align=_BOTTOM)
    ]
    chance.shuffle(cuts)
    return _cut(Box(42, 15, 8, align=_BOTTOM), cuts, own)


def _cap(chance: random.Random, own: Location) -> Part:
    """A turned cap with a hole."""
    if chance.random() < 0.5:
        return _cut(Cylinder(6, 10, align=_BOTTOM), [Cylinder(2.5, 10, align=_BOTTOM)], own)
    upper = Pos(0, 0, 4) * Cylinder(6, 6, align=_BOTTOM)
    return _cut(Cylinder(6, 4, align=_BOTTOM) + upper, [Cylinder(2.5, 10, align=_BOTTOM)], own)


def _cut(solid: Part, cuts: list[Part], own: Location) -> Part:
    """Cut where the part's own frame has it: the numbers in the file are those of that frame."""
    solid = own * solid
    for cut in cuts:
        solid = solid - own * cut
    return solid


#: Where each part stands, mm.
_PLACES = {"Plate": (0.0, 0.0, 0.0), "Bar": (0.0, 0.0, 7.0), "Cap": (35.0, 18.0, 12.0)}
_MAKES = {"Plate": _plate, "Bar": _bar, "Cap": _cap}


def _made(chance: random.Random) -> list[tuple[str, Part, Location]]:
    """Make the parts in one of the usual ways, and put them together."""
    slide = chance.uniform(0.5, 9.5) if chance.random() < _DRAGGED else 0.0
    whole = Location((chance.randrange(-5, 6) * 10.0, 0, 0)) if chance.random() < 0.3 else Location()
    placed = []
    for name, make in _MAKES.items():
        # its own frame: where the sketch began, and which way up it was drawn
        own = Location((chance.choice((0, 0, 10, 40)), chance.choice((0, 0, 25)), 0), (0, 0, chance.choice((0, 0, 90))))
        part = make(chance, own)
        x, y, z = _PLACES[name]
        there = Location((x + (slide if name == "Bar" else 0), y, z)) * own.inverse()
        placed.append((name, part, whole * there))
    chance.shuffle(placed)
    return placed


def _written(placed: list[tuple[str, Part, Location]], chance: random.Random, author: str) -> bytes:
    children = []
    for name, part, there in placed:
        child = there * part
        child.label = name
        children.append(child)
    return _stamped(_exported(Compound(children=children)), chance, author)


def _exported(shape: Compound) -> bytes:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "build.step"
        export_step(shape, path)
        return path.read_bytes()


def _stamped(content: bytes, chance: random.Random, author: str) -> bytes:
    """Write a time of the school week and an author into the header."""
    day, hour, minute, second = (chance.randrange(*ends) for ends in ((2, 27), (8, 22), (0, 60), (0, 60)))
    stamp = f"2026-03-{day:02}T{hour:02}:{minute:02}:{second:02}"
    text = re.sub(rb"\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d", stamp.encode(), content, count=1)
    return text.replace(b"'Author'", f"'{author}'".encode(), 1)


def _renamed(content: bytes, chance: random.Random) -> bytes:
    """Give file and parts other names, by hand: nothing else."""
    for name in _MAKES:
        content = content.replace(f"'{name}'".encode(), f"'{name} {chance.randrange(100)}'".encode())
    return content


def _again(content: bytes, chance: random.Random, *, moved: bool) -> bytes:
    """Open it in a program, move the whole of it or not, and export it under one's own name."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "theirs.step"
        path.write_bytes(content)
        opened = import_step(path)
    if moved:
        where = tuple(chance.uniform(-80, 80) for _ in range(3))
        turn = tuple(chance.uniform(0, 360) for _ in range(3))
        opened = Location(where, turn) * opened
    return _stamped(_exported(opened), chance, f"copier {chance.random()}")


def main(students: int, copies: int) -> None:
    """Ask about the independent builds, then about copies."""
    chance = random.Random(11)
    right = [_written(_made(chance), chance, f"s{k}" if chance.random() < _NAMED else "") for k in range(students)]
    dragged = {k for k, content in enumerate(right) if step_print(content).left_at}
    works = [Work(student_id=k, build_id=k, prints=(step_print(content),)) for k, content in enumerate(right)]
    false = questions(works)
    print(f"independent right builds: {students}; questions: {len(false)} (asked: none)")
    for question in false[:3]:
        print("   ", [sign.code for sign in question.speaks_for])
    ways: dict[str, Callable[[bytes], bytes]] = {
        "renamed": lambda content: _renamed(content, chance),
        "moved": lambda content: _again(content, chance, moved=True),
        "exported again": lambda content: _again(content, chance, moved=False),
    }
    found_of_all = 0
    for way, copy in ways.items():
        recovered = found_dragged = of_dragged = 0
        signs: Counter[str] = Counter()
        for trial in range(copies):
            original = chance.randrange(students)
            own = [work for work in chance.sample(works, min(29, students)) if work.student_id != original]
            copied = Work(student_id=students + trial, build_id=0, prints=(step_print(copy(right[original])),))
            pairs = questions([*own[:28], works[original], copied])
            hit = [pair for pair in pairs if {work.student_id for work in pair.works} == {original, students + trial}]
            recovered += bool(hit)
            of_dragged += original in dragged
            found_dragged += bool(hit) and original in dragged
            signs.update(sign.code for question in hit for sign in question.speaks_for)
        found_of_all += recovered
        print(f"copies {way}, each in a class of 30: {recovered} of {copies} found,", end=" ")
        print(f"{found_dragged} of {of_dragged} where a part had been dragged; by {dict(signs.most_common())}")
    print(f"copies found: {100 * found_of_all / (copies * len(ways)):.1f} % (asked: 95)")


if __name__ == "__main__":
    parser = argparse.ArgumentParser()
    parser.add_argument("--students", type=int, default=500)
    parser.add_argument("--copies", type=int, default=60)
    arguments = parser.parse_args()
    main(arguments.students, arguments.copies)
