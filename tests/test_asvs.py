"""The table of OWASP ASVS 4.0.3 is whole: each requirement of levels 1 and 2 once, and what it names is there."""

import re
from pathlib import Path

ROOT = Path(__file__).parents[1]
ROW = re.compile(r"\| (\d+\.\d+\.\d+) \| (.+) \| (met|open|no) \| (.+) \|")
#: The numbers of levels 1 and 2 by section, from memory: deleted ones, and those of level 3, are left out.
SECTIONS = {
    "1.1": "1-7", "1.2": "1-4", "1.4": "1,4,5", "1.5": "1-4", "1.6": "1-4", "1.7": "1-2", "1.8": "1-2", "1.9": "1-2",
    "1.10": "1", "1.11": "1-2", "1.12": "2", "1.14": "1-6", "2.1": "1-12", "2.2": "1-3", "2.3": "1-3", "2.4": "1-5",
    "2.5": "1-7", "2.6": "1-3", "2.7": "1-6", "2.8": "1-6", "2.9": "1-3", "2.10": "1-4", "3.1": "1", "3.2": "1-4",
    "3.3": "1-4", "3.4": "1-5", "3.5": "1-3", "3.7": "1", "4.1": "1-3,5", "4.2": "1-2", "4.3": "1-3", "5.1": "1-5",
    "5.2": "1-8", "5.3": "1-10", "5.4": "1-3", "5.5": "1-4", "6.1": "1-3", "6.2": "1-6", "6.3": "1-2", "6.4": "1-2",
    "7.1": "1-4", "7.2": "1-2", "7.3": "1,3-4", "7.4": "1-3", "8.1": "1-4", "8.2": "1-3", "8.3": "1-8", "9.1": "1-3",
    "9.2": "1-4", "10.2": "1-2", "10.3": "1-3", "11.1": "1-8", "12.1": "1-3", "12.2": "1", "12.3": "1-6",
    "12.4": "1-2", "12.5": "1-2", "12.6": "1", "13.1": "1,3-5", "13.2": "1-3,5-6", "13.3": "1-2", "13.4": "1-2",
    "14.1": "1-4", "14.2": "1-6", "14.3": "2-3", "14.4": "1-7", "14.5": "1-4",
}  # fmt: skip


def numbers(ranges: str) -> list[int]:
    ends = [[int(end) for end in span.split("-")] for span in ranges.split(",")]
    return [number for span in ends for number in range(span[0], span[-1] + 1)]


def rows() -> list[tuple[str, ...]]:
    lines = (ROOT / "docs" / "asvs.md").read_text().splitlines()
    rows = [(line, ROW.fullmatch(line)) for line in lines if re.match(r"\| \d", line)]
    assert [line for line, match in rows if match is None] == []
    return [match.groups() for _, match in rows if match]


def test_every_requirement_stands_once_in_its_order() -> None:
    wanted = [f"{section}.{number}" for section, ranges in SECTIONS.items() for number in numbers(ranges)]
    assert [row[0] for row in rows()] == wanted


def test_what_is_met_names_a_test_or_a_file_that_is_there() -> None:
    missing = [(number, path) for number, _, state, path in rows() if state == "met" and not (ROOT / path).is_file()]
    assert missing == []


def test_what_is_not_met_says_why() -> None:
    known = {row[0] for row in rows()}
    for number, _, state, why in rows():
        referred = re.findall(r"\bas (\d+\.\d+\.\d+)", why)
        assert set(referred) <= known, number
        assert state == "met" or len(why.split()) > 1, number
