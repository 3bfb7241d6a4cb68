"""Templates of the tests fail by a name that nobody gave; what is asked or has a default does
not."""

from types import SimpleNamespace

from django.template import Context, Template
from django.test import SimpleTestCase

from tests.undefined import UndefinedNameError


class UndefinedTest(SimpleTestCase):
    def test_a_printed_name_must_be_there(self) -> None:
        known = {"known": SimpleNamespace(id="x"), "typed": {}, "none": None}
        for text, fails in (
            ("{{ known.id }}", False),
            ("{{ typed.field }}", False),
            ("{{ none.field }}", False),
            ("{{ none }}", False),
            ("{{ nothing|default:'' }}", False),
            ("{% if nothing %}x{% endif %}", False),
            ("{{ nothing }}", True),
            ("{{ known.other }}", True),
            ("{{ nothing|upper }}", True),
        ):
            with self.subTest(text):
                if not fails:
                    Template(text).render(Context(known))
                    continue
                with self.assertRaises(UndefinedNameError):
                    Template(text).render(Context(known))
