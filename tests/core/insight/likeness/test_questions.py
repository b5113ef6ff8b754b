"""Questions about one origin: what is asked, and what many share is not."""

from collections.abc import Iterator, Mapping
from dataclasses import replace

import pytest

from rigid_bench.core.insight.likeness.questions import Question, Work, questions
from rigid_bench.core.insight.likeness.step_print import StepPrint, is_step, step_print
from tests.support import latch

STEPS = tuple((number, f"step {number}") for number in range(9))
MATES = tuple(f"mate {number}" for number in range(6))


def own_print(student: int, **changed: object) -> StepPrint:
    """A file that has nothing in common with another student's."""
    plain = StepPrint(
        digest=f"file {student}", body=f"body {student}", stamp=f"2026-03-02T10:00:{student:02}", author="",
        system="a program", order=f"order {student}", edges=90, solids=(f"solid {student}",), left_at=frozenset(),
    )  # fmt: skip
    return replace(plain, **changed)  # type: ignore[arg-type]


def works_of(*shared: Mapping[str, object], students: int = 24) -> list[Work]:
    """A class: the first students have what is given, the others nothing in common."""
    given: list[Mapping[str, object]] = [*shared, *({} for _ in range(students - len(shared)))]
    return [Work(student_id=k, build_id=100 + k, prints=(own_print(k, **own),)) for k, own in enumerate(given)]


def codes(question: Question) -> list[str]:
    return [sign.code for sign in question.speaks_for]


def test_a_class_whose_builds_are_their_own_is_not_asked_about() -> None:
    assert questions(works_of()) == []


def test_the_same_file_is_asked_about_and_says_it_all() -> None:
    copy = {"digest": "x", "body": "y", "stamp": "z", "order": "o"}
    [asked] = questions(works_of(copy, copy))
    assert ({work.student_id for work in asked.works}, codes(asked)) == ({0, 1}, ["same-file"])


def test_a_supplied_file_is_not() -> None:
    copy = {"digest": "x", "body": "y", "order": "o"}
    assert questions(works_of(copy, copy), supplied={"x"}) == []


@pytest.mark.parametrize("sharing", [6, 12])
def test_what_many_share_says_nothing(sharing: int) -> None:
    copy = {"digest": "x", "body": "y", "stamp": "z", "order": "o", "left_at": frozenset({1.234567})}
    assert questions(works_of(*[copy] * sharing)) == []


def test_a_place_to_the_last_digit_is_asked_about_and_a_like_order_alone_is_not() -> None:
    left = {"left_at": frozenset({3.141593, 2.718282})}
    [asked] = questions(works_of(left, left))
    assert codes(asked) == ["left-at"]
    assert questions(works_of({"order": "o"}, {"order": "o"})) == []


def test_slight_signs_add_up_and_what_speaks_against_is_said() -> None:
    alike = {"body": "y", "order": "o", "edges": 30}
    [asked] = questions(works_of(alike, alike))
    assert codes(asked) == ["same-body", "same-order"]
    assert [sign.code for sign in asked.speaks_against] == ["plain-part"]


def test_pairs_and_ones_own_builds_are_not_asked_about() -> None:
    first, second, *others = works_of({"digest": "x"}, {"digest": "x"})
    assert questions([first, replace(second, partners=frozenset({0})), *others]) == []


def test_parts_begun_alike_count_by_how_usual_each_is() -> None:
    usual = {"solids": ("a", "b", "c")}
    [asked] = questions(works_of(usual, usual))
    assert codes(asked) == ["same-ways"]
    assert questions(works_of(usual, usual, {"solids": ("a",)}, {"solids": ("b",)}, {"solids": ("c",)})) == []
    assert questions(works_of({"solids": ("a",)}, {"solids": ("a",)})) == []  # one part: few ways


def test_wrong_values_and_what_was_done_on_the_bench() -> None:
    first, second, *others = works_of()
    wrong = {"Width": 41.37, "Depth": 8.21}
    [asked] = questions([replace(first, wrong=wrong), replace(second, wrong=wrong), *others])
    assert codes(asked) == ["wrong-alike", "wrong-alike"]
    assert questions([replace(first, wrong={"Width": 41.37}), replace(second, wrong={"Width": 41.37}), *others]) == []
    [asked] = questions([replace(first, history=STEPS), replace(second, history=STEPS), *others])
    assert codes(asked) == ["same-history"]
    assert questions([replace(first, mates=MATES), replace(second, mates=MATES), *others]) == []


def stamped(content: bytes) -> Iterator[bytes]:
    yield content.replace(b"2026-01-01T00:00:00", b"2026-03-04T11:22:33", 1)
    yield content.replace(b"'Bolt'", b"'My bolt'")


def test_the_print_of_a_file() -> None:
    content = latch.assembly()
    own = step_print(content)
    assert is_step(content)
    assert own.stamp == "2026-01-01T00:00:00"
    assert len(own.solids) == 4  # body, bolt and two dowels
    assert own.left_at == frozenset()
    for changed in map(step_print, stamped(content)):
        assert changed.digest != own.digest
        assert (changed.body, changed.order, changed.solids) == (own.body, own.order, own.solids)


@pytest.mark.parametrize(
    "content", [b"", b"solid x", b"ISO-10303-21;\nDATA;\n#1=EDGE_CURVE('',#2,#3,#4,.T.);\n", b"\xff\xfe"]
)
def test_other_files_say_nothing_and_do_no_harm(content: bytes) -> None:
    own = step_print(content)
    assert (own.edges, own.solids, own.left_at, own.author) == (0, (), frozenset(), "")
