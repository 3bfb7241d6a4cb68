"""HEAD is answered with the head alone, whatever the application gives."""

from typing import Any
from unittest import TestCase

from brightcircuit.wsgi import without_body


class Body:
    """A body that knows whether it was closed."""

    def __init__(self) -> None:
        self.closed = False

    def __iter__(self) -> Any:
        return iter([b"a body"])

    def close(self) -> None:
        self.closed = True


class HeadTest(TestCase):
    def test_its_body_is_left_out_and_closed(self) -> None:
        for method, expected, closed in (("GET", [b"a body"], False), ("HEAD", [], True)):
            body, heads = Body(), []

            def start(status: str, headers: list[tuple[str, str]], *more: Any) -> Any:
                heads.append((status, headers))  # noqa: B023

            def app(environ: Any, start: Any, body: Body = body) -> Body:
                start("200 OK", [("Content-Length", "6")])
                return body

            found = list(without_body(app)({"REQUEST_METHOD": method}, start))
            self.assertEqual((found, body.closed), (expected, closed), method)
            self.assertEqual(heads, [("200 OK", [("Content-Length", "6")])])
