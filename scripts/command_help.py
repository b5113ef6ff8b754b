"""Sentences of the command line for the catalogue: like others of Python, and what `--help` says of each command.

The tool for messages calls it (`babel.cfg`): commands are described by the first lines of their functions.
"""

import ast
from collections.abc import Iterator
from typing import Any, BinaryIO

from babel.messages.extract import extract_python


def extract(
    file: BinaryIO, keywords: dict[str, Any], comment_tags: list[str], options: Any
) -> Iterator[tuple[int, str | tuple[str, ...], Any, Any]]:
    """Yield each sentence of a module of commands: its line, the name that marks it, its text, comments."""
    yield from extract_python(file, keywords, comment_tags, options)
    file.seek(0)
    module = ast.parse(file.read())
    functions = [node for node in module.body if isinstance(node, ast.FunctionDef)]
    commands = [node for node in functions if any("command" in ast.dump(call) for call in node.decorator_list)]
    yield 1, "", ast.get_docstring(module) or "", []
    yield from ((command.lineno, "", ast.get_docstring(command) or "", []) for command in commands)
