"""What is done or meant is rows and codes: the code compares and parses no text that it has made
itself."""

import ast
from collections.abc import Iterator
from pathlib import Path
from unittest import TestCase

SRC = Path(__file__).resolve().parents[2] / "src"

SENTENCES = frozenset(
    ("text", "words", "what", "title", "reason", "note", "message", "action", "label", "do", "said")
)
"""Attributes that hold a text made for a reader."""

PARSING = frozenset(
    (
        "startswith",
        "endswith",
        "removeprefix",
        "removesuffix",
        "partition",
        "rpartition",
        "split",
        "find",
    )
) | frozenset(("index", "count", "match", "search", "fullmatch"))

ALLOWED = {
    # file: why a text is looked at there
    "brightcircuit/arrive/services.py": (
        "a note that somebody typed is compared with the one on the page"
    ),
    "brightcore/circuit/contacts.py": (
        "whether a label that was typed says “plug” already; only words follow"
    ),
    "brightcore/drawing/svg.py": "lanes under one label share a percentage; only a drawing follows",
}


def is_sentence(node: ast.expr) -> bool:
    """Return whether an expression is an attribute that holds a sentence."""
    return isinstance(node, ast.Attribute) and node.attr in SENTENCES


def is_harmless(node: ast.expr) -> bool:
    """Return whether a side of a comparison is nothing to read: empty, or a choice of an
    enumeration."""
    if isinstance(node, ast.Constant):
        return node.value in ("", None)
    return isinstance(node, ast.Attribute) and node.attr.isupper()


def offences(tree: ast.AST) -> Iterator[tuple[int, str]]:
    """Yield (line, source) where a sentence is compared, parsed or asked for."""
    for node in ast.walk(tree):
        found = False
        if isinstance(node, ast.Compare):
            sides = (node.left, *node.comparators)
            found = any(is_sentence(side) for side in sides) and not any(
                is_harmless(side) for side in sides
            )
        elif isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute):
            parsed = is_sentence(node.func.value) or any(is_sentence(side) for side in node.args)
            found = node.func.attr in PARSING and parsed
            if node.func.attr in ("filter", "exclude"):
                asked = (word for word in node.keywords if word.arg and not is_harmless(word.value))
                found = any(
                    (word.arg or "").partition("__")[0] in ("text", "words") for word in asked
                )
        if found:
            yield node.lineno, ast.unparse(node)


class MeaningTest(TestCase):
    def test_no_text_is_read_back(self) -> None:
        for path in sorted(SRC.rglob("*.py")):
            name = str(path.relative_to(SRC))
            if name in ALLOWED or "migrations" in path.parts:
                continue
            for line, source in offences(ast.parse(path.read_text())):
                self.fail(
                    f"{name}:{line} reads a sentence back: {source}\n"
                    "Keep a code or a row beside it and ask that; sentences are made last."
                )

    def test_what_it_looks_for_is_found(self) -> None:
        """Each of these is an offence; the same with a code is none."""
        for source, count in (
            ("row.text == other.what", 1),
            ("x.words.startswith('Done')", 1),
            ("log.filter(text__startswith='Done')", 1),
            ("one.words in told", 1),
            ("re.match(rule, row.text)", 1),
            ("row.text == ''", 0),
            ("row.what == Mark.What.DONE", 0),
            ("marks.filter(what=Mark.What.DONE)", 0),
            ("row.code == 'W009'", 0),
        ):
            with self.subTest(source):
                self.assertEqual(len(list(offences(ast.parse(source)))), count)

    def test_what_is_allowed_is_still_there(self) -> None:
        for name, why in ALLOWED.items():
            found = list(offences(ast.parse((SRC / name).read_text())))
            self.assertTrue(
                found, f"{name} reads no sentence any more: take it off ALLOWED ({why})"
            )
