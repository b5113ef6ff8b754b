"""Messages and their sentences fit: every code that is said has one, and its gaps are what the message brings."""

import ast
import gettext
import os
import pickle
import re
import string
import subprocess
import sys
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import pytest

from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.core.values.errors import FormRejected, RigidBenchError
from rigid_bench.core.wording.language import speak
from rigid_bench.core.wording.manner import Manner
from rigid_bench.core.wording.phrases import amount, listed, quoted, tolerance_band
from rigid_bench.core.wording.saying import say
from rigid_bench.core.wording.sentences import SENTENCES
from rigid_bench.core.wording.sentences.counted import Counted

SOURCE = Path(__file__).parents[3] / "src" / "rigid_bench"
CLASS_WORDS = set(Manner().own_words)
#: Codes that are more than a sentence with gaps, and areas whose words a registry has.
SAID_OTHERWISE = {"as-said", "amount", "band", "expression", "list", "place", "together", "in-turn", "beside", "added",
                  "meeting", "either", "by"}  # fmt: skip


@cache
def trees() -> dict[Path, ast.Module]:
    """All modules, each read once."""
    return {path: ast.parse(path.read_text()) for path in SOURCE.rglob("*.py")}


def calls(name: str) -> Iterator[tuple[str, ast.Call]]:
    for path, tree in trees().items():
        for node in ast.walk(tree):
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == name:
                yield f"{path.relative_to(SOURCE)}:{node.lineno}", node


def codes(first: ast.expr) -> Iterator[str]:
    """The codes that a call may have, where they stand in it."""
    if isinstance(first, ast.Constant) and isinstance(first.value, str):
        yield first.value
    elif isinstance(first, ast.IfExp):
        yield from (*codes(first.body), *codes(first.orelse))


def gaps(sentence: str) -> set[str]:
    return {gap for _, gap, _, _ in string.Formatter().parse(sentence) if gap} - CLASS_WORDS


def forms(code: str) -> tuple[str, ...]:
    sentence = SENTENCES[code]
    return (*sentence.forms, sentence.none) if isinstance(sentence, Counted) else (sentence,)


def test_every_code_that_is_said_has_a_sentence_whose_gaps_are_filled() -> None:
    wrong, seen = [], set()
    for where, call in (*calls("phrase"), *calls("_found")):
        for code in codes(call.args[0]):
            seen.add(code)
            if code in SAID_OTHERWISE or code.startswith(("mate.", "slip.")):
                continue
            if code not in SENTENCES:
                wrong.append(f"{where}: {code} has no sentence")
                continue
            given = {keyword.arg for keyword in call.keywords}
            if None in given:
                continue
            wanted = set().union(*map(gaps, forms(code)))
            if not wanted <= given:
                wrong.append(f"{where}: {code} lacks {sorted(wanted - given)}")
    assert not wrong, "\n".join(wrong)
    assert len(seen) > 200


def test_every_sentence_that_is_looked_up_has_its_values() -> None:
    wrong = []
    for where, call in calls("_"):
        first, given = call.args[0], {keyword.arg for keyword in call.keywords}
        if not isinstance(first, ast.Constant) or not given or None in given:
            continue
        if gaps(str(first.value)) != given:
            wrong.append(f"{where}: {sorted(gaps(str(first.value)) ^ {str(name) for name in given})}")
    assert not wrong, "\n".join(wrong)


def test_both_forms_of_a_counted_sentence_say_what_is_counted() -> None:
    for code, sentence in SENTENCES.items():
        if isinstance(sentence, Counted):
            assert gaps(sentence.forms[1]), code
            assert gaps(sentence.forms[0]) <= gaps(sentence.forms[1]) | {sentence.counted}, code


@pytest.mark.parametrize(
    ("message", "english", "own"),
    [
        (amount(8.2, "length", "mm"), "8.2 mm", "8,2 mm"),
        (tolerance_band(12, 0.2, 0, "length", "mm"), "12 +0/−0.2 mm", "12 +0/−0,2 mm"),
        (phrase("part.turned-off", by=0.25), "0.25° turned", "0,25° turned"),
        (phrase("step.put-mates-right", mates=quoted(["v1.5", "b"])), "Put 'v1.5' and 'b' right first.",
         "Put 'v1.5' and 'b' right first."),
        (phrase("measured.mates-clash"), "mates clash", "joints clash"),
        (phrase("step.mate-to", name="Classmate 2.0", other=phrase("part.ground")), "Mate Classmate 2.0 to ground.",
         "Joint Classmate 2.0 to ground."),
        (phrase("cause.parts-missing", parts=["Lid"]), "Lid is missing.", "Lid is missing."),
        (phrase("cause.parts-missing", parts=["Lid", "Box"]), "Lid and Box are missing.", "Lid and Box are missing."),
        (phrase("part.motions", count=0), "no motion", "no motion"),
        (listed([]), "", ""),
    ],
)  # fmt: skip
def test_a_class_has_its_decimal_sign_and_word_and_names_stay_as_they_are(
    message: Message, english: str, own: str
) -> None:
    assert (say(message), say(message, Manner(decimal=",", mate="joint"))) == (english, own)


@pytest.mark.thorough
def test_the_catalogue_for_translators_has_every_sentence(tmp_path: Path) -> None:
    """As `make messages` writes it."""
    root, own = SOURCE.parents[1], tmp_path / "own.pot"
    options = ["-F", "babel.cfg", "-k", "N_", "-k", "NN_:1,2", "-k", "t", "--no-location", "--sort-output"]
    command = [
        str(Path(sys.executable).with_name("pybabel")),
        "-q",
        "extract",
        *options,
        "--omit-header",
        "-o",
        str(own),
        ".",
    ]
    subprocess.run(command, cwd=root, env={**os.environ, "PYTHONPATH": str(root)}, check=True)
    assert own.read_text() == (SOURCE / "locale" / "rigid_bench.pot").read_text(), "run: make messages"


def test_no_article_stands_before_the_class_s_own_word() -> None:
    """A class may say "attachment" for mate, which no "a" fits."""
    sentences = (SOURCE / "locale" / "rigid_bench.pot").read_text().replace('"\n"', "")
    assert re.findall(r"\b[Aa]n? (?:\{|%\()[Mm]ate_word\b.*", sentences) == []


def test_a_message_of_another_version_says_what_it_said_then() -> None:
    """Its code is gone, or its sentence has other gaps."""
    gone, changed = Message(code="cause.gone", text="As then."), Message(code="step.mate-to", text="As then.")
    assert (say(gone), say(changed)) == ("As then.", "As then.")
    with pytest.raises(KeyError):
        say(phrase("cause.gone"))


def test_a_kept_row_of_another_version_says_what_it_said_then() -> None:
    kept = {
        "id": "a", "title": "A", "kind": "dimension", "verdict": "missed", "awarded": 0, "available": 1,
        "required": "8 mm", "measured": "4 mm", "next_step": "Do it.", "next_step_message": {"code": "step.gone"},
        "cause": {"code": "half", "text": "It is half."},
    }  # fmt: skip
    row = CheckResult.model_validate(kept)
    assert row.next_step_message
    assert row.cause
    messages = (row.required_message, row.measured_message, row.next_step_message, row.cause.message)
    assert [say(message) for message in messages] == ["8 mm", "4 mm", "Do it.", "It is half."]


#: Fields that hold sentences, and what would read one back.
SENTENCE_FIELDS = {
    "text",
    "measured",
    "required",
    "next_step",
    "problem",
    "words",
    "warnings",
    "explanation",
    "question",
}
READS = {"split", "rsplit", "partition", "rpartition", "removeprefix", "removesuffix", "startswith", "endswith",
         "replace", "find", "index", "rfind"}  # fmt: skip
PATTERNS = {"search", "match", "fullmatch", "findall", "finditer", "sub"}


def is_sentence(value: ast.expr) -> bool:
    """Say whether an expression is a sentence of ours: kept in a field, or just said."""
    if isinstance(value, ast.Attribute):
        return value.attr in SENTENCE_FIELDS
    called = value.func.id if isinstance(value, ast.Call) and isinstance(value.func, ast.Name) else ""
    return called in ("say", "_", "translated") or called.endswith("_words")


def has_words(value: ast.expr) -> bool:
    return (
        isinstance(value, ast.Constant)
        and isinstance(value.value, str)
        and re.search(r"[a-z]{2}", value.value) is not None
    )


def read_back(tree: ast.Module) -> list[int]:
    """The lines in which a sentence is read back: by a pattern, or by words in it; signs of a drawing are no words."""
    lines = []
    for node in ast.walk(tree):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute):
            by_words = node.func.attr in READS and is_sentence(node.func.value) and any(map(has_words, node.args))
            by_pattern = node.func.attr in PATTERNS and any(map(is_sentence, node.args))
            if by_words or by_pattern:
                lines.append(node.lineno)
        elif (
            isinstance(node, ast.Compare)
            and isinstance(node.ops[0], ast.In | ast.NotIn)
            and has_words(node.left)
            and is_sentence(node.comparators[0])
        ):
            lines.append(node.lineno)
    return lines


def test_no_sentence_is_read_back() -> None:
    planted = "re.search('a', check.text)\nsay(m).replace('can', 'could')\n'two' in why.text\nnote.text.startswith('(')"
    assert read_back(ast.parse(planted)) == [1, 2, 3]
    readings = {str(path.relative_to(SOURCE)): read_back(tree) for path, tree in trees().items()}
    assert {path: lines for path, lines in readings.items() if lines} == {}


def test_a_size_without_end_is_said_after_it_was_kept_too() -> None:
    """JSON has no number for it."""
    message = phrase("measured.off-at-worst-hole", by=amount(float("inf"), "length", "mm"))
    kept = Message.model_validate_json(message.model_dump_json())
    assert say(kept) == say(message) == "without end off at the worst hole"


def test_a_message_comes_back_from_json_as_it_went() -> None:
    message = phrase(
        "cause.not-as-stated", stated=amount(8, "length", "mm"), measured=listed(["a", amount(1, "count", "mm")])
    )
    assert Message.model_validate_json(message.model_dump_json()) == message


def written_out(node: ast.AST) -> str:
    """Return what stands in a text as it is written, gaps left out; "" for what is no text."""
    if isinstance(node, ast.Constant) and isinstance(node.value, str):
        return node.value
    if isinstance(node, ast.JoinedStr):
        return "".join(str(piece.value) for piece in node.values if isinstance(piece, ast.Constant))
    return ""


def errors_of(base: type[RigidBenchError]) -> set[str]:
    return {base.__name__}.union(*map(errors_of, base.__subclasses__()))


#: Also those of modules that are not loaded here.
ERRORS = {*errors_of(RigidBenchError), "LaunchRefused", "SchoolAccountRefused", "FileStoreSilent", "SignInNeeded"}


def unmarked_errors(tree: ast.AST) -> list[int]:
    """List the lines on which an error is made with words that go past the catalogue."""
    return [
        node.lineno
        for node in ast.walk(tree)
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in ERRORS
        if any(re.search("[a-z]{2}", written_out(argument)) for argument in node.args[:3])
    ]


def test_all_of_an_error_goes_through_the_catalogue() -> None:
    planted = ast.parse(
        'FormRejected(_("file"), f"{name} is empty", "")\nFormRejected(N_("file"), _("it is empty"), "")'
    )
    assert unmarked_errors(planted) == [1]
    past = [f"{path.relative_to(SOURCE)}:{line}" for path, tree in trees().items() for line in unmarked_errors(tree)]
    assert past == []


#: Where names of invented parts, the demo's own data, logs and figures for machines are written.
NO_SENTENCES = (
    "demo",
    "core/practice/mechanisms",
    "store/migrations",
    "store/tables",
    "logs.py",
    "jobs/worker.py",
    "web/observability",
)
#: What formats and other programs call things; a name that is typed; failures that nobody is to see.
OTHERS_WORDS = {
    "thousandth of an inch", "Expecting property name", "Invalid control character", "meant to overlap",
    "the side asked for", "missed far more", "openid profile email", "to look at", "not handed in",
    "hours to put right", "measuring is late", "no worker lives", "your school account",
    "a card fetches nothing, not even ", ", seed , level : no lot makes a drill",
}  # fmt: skip
THREE_WORDS = re.compile("[A-Za-z]{2,},? [a-z]{2,},? [a-z]{2,}")
LOGS = ("debug", "info", "warning", "error", "exception")
QUERY_OR_PATTERN = re.compile(r"\s*(select|with|update|insert|delete|\\s)")


def unmarked_sentences(tree: ast.AST) -> list[str]:
    """List what has three words in a row and is neither marked for the catalogue, nor said to developers alone."""
    passed = set[int]()
    for node in ast.walk(tree):
        inner: list[ast.AST] = []
        if isinstance(node, ast.Call):
            name = node.func.id if isinstance(node.func, ast.Name) else getattr(node.func, "attr", "")
            inner = [*node.args] if name in ("_", "N_", "NN_", "AssertionError", *LOGS) else []
        elif isinstance(node, ast.Expr | ast.Assert | ast.JoinedStr):
            inner = [node.value] if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant) else []
            inner += [node] if isinstance(node, ast.Assert) else getattr(node, "values", [])
        passed |= {id(within) for own in inner for within in ast.walk(own) if not isinstance(within, ast.JoinedStr)}
    said = [written_out(node) for node in ast.walk(tree) if id(node) not in passed]
    return [text for text in said if THREE_WORDS.search(text) and not QUERY_OR_PATTERN.match(text)]


def test_no_sentence_goes_past_the_catalogue() -> None:
    planted = ast.parse('"""A page of text."""\nx = _("a b of it", c="all that is")\nf(f"{n} went past it")\n')
    assert unmarked_sentences(planted) == [" went past it", "all that is"]
    past = {
        str(path.relative_to(SOURCE)): [text for text in unmarked_sentences(tree) if text not in OTHERS_WORDS]
        for path, tree in trees().items()
        if not str(path.relative_to(SOURCE)).startswith(NO_SENTENCES)
    }
    assert {path: texts for path, texts in past.items() if texts} == {}


def test_what_a_module_says_when_it_is_loaded_is_looked_up_when_it_is_shown() -> None:
    class Shouting(gettext.NullTranslations):
        def gettext(self, message: str) -> str:
            return message.upper()

    made_when_loaded = FormRejected("file", "it is empty", "Choose another")
    try:
        speak(Shouting())
        assert made_when_loaded.problem == "IT IS EMPTY"
        assert made_when_loaded.facts == {"where": "FILE", "problem": "IT IS EMPTY", "next_step": "CHOOSE ANOTHER"}
        assert pickle.loads(pickle.dumps(made_when_loaded)).args == made_when_loaded.args
    finally:
        speak(gettext.NullTranslations())
    assert str(made_when_loaded) == "file: it is empty. Choose another"
