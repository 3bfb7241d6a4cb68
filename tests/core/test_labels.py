"""Every value of every kind of part has a label of its own, in words."""

from dataclasses import fields
from unittest import TestCase

from brightcore.describing.labels import LABELS, field_label
from brightcore.kinds import REGISTRY

NOT_SHOWN = {"conductors"}


class LabelsTest(TestCase):
    def test_no_label_is_made_of_a_field_name(self) -> None:
        names = set()
        for kind in REGISTRY:
            for item in fields(kind.spec_type):
                names.add(item.name)
                label = field_label(item.name, item.metadata.get("label", ""))
                with self.subTest(kind=kind.name, field=item.name):
                    named = (
                        item.name in LABELS or item.metadata.get("label") or item.name in NOT_SHOWN
                    )
                    self.assertTrue(named, label)
                    self.assertNotIn("_", label)
        self.assertEqual(set(LABELS) - names, set(), "labels of fields that no kind has")

    def test_a_field_that_is_new_is_named_without_its_unit(self) -> None:
        for name, own, words in (
            ("spool_m", "", "Spool"),
            ("spool_count", "", "Spool count"),
            ("rated_v", "", "Rated voltage"),
            ("rated_v", "Volts of the bell", "Volts of the bell"),
        ):
            self.assertEqual(field_label(name, own), words)
