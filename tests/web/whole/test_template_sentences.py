"""Sentences of templates have a value for every gap, and no gap is left as it is written."""

import re
from collections.abc import Iterator

from jinja2 import nodes

from rigid_bench.core.wording.manner import PLAIN
from rigid_bench.web.render import templates

_GAP = re.compile(r"%\((\w+)\)s")


def sentences(source: str) -> Iterator[tuple[str, set[str]]]:
    """Yield the sentences that a template looks up, each with the names of the values it is given."""
    for call in templates.env.parse(source).find_all(nodes.Call):
        if isinstance(call.node, nodes.Name) and call.node.name in ("_", "gettext") and call.args:
            first = call.args[0]
            if isinstance(first, nodes.Const):
                yield str(first.value), {keyword.key for keyword in call.kwargs}


def faults(source: str) -> list[str]:
    """List what is wrong with the sentences of a template."""
    wrong = [f"{text!r} holds markup of a template" for text, _ in sentences(source) if "{{" in text or "}}" in text]
    return wrong + [
        f"{text!r}: {sorted(gaps ^ given)}"
        for text, given in sentences(source)
        # a class's own words are in every sentence
        if (gaps := set(_GAP.findall(text)) - set(PLAIN.own_words)) != given
    ]


def test_every_gap_of_a_templates_sentence_is_filled() -> None:
    assert faults('{{ _("On %(mate_word)s {{ %(mate_word)s }}: %(text)s", mate=mate, text=text) }}') != []
    assert faults('{{ _("On %(mate_word)s %(mate)s: %(text)s", mate=mate, text=text) }}') == []
    names = templates.env.list_templates(extensions=["html"])
    assert names
    assert sum(len(list(sentences(_source(name)))) for name in names) > 100
    reported = {name: faults(_source(name)) for name in names}
    assert {name: wrong for name, wrong in reported.items() if wrong} == {}


def _source(name: str) -> str:
    loader = templates.env.loader
    assert loader
    return loader.get_source(templates.env, name)[0]
