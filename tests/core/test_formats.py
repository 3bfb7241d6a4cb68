"""Open files: round trips, schemas, and every problem named with its place."""

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from unittest import TestCase
from unittest.mock import patch

import jsonschema

from brightcore.errors import FormatError
from brightcore.formats.bike_file import MAX_BYTES, load_bike, parse_json
from brightcore.formats.bike_list import read_bike_list
from brightcore.formats.bike_writing import bike_document, canonical_json, dump_bike
from brightcore.formats.border import MOST_DEPTH, MOST_VALUES, check_border
from brightcore.formats.case_file import Case, case_document, check_evidence, load_case
from brightcore.formats.job_file import load_job
from brightcore.formats.job_schema import job_schema
from brightcore.formats.part_file import load_parts_csv, load_parts_yaml
from brightcore.formats.profile_file import profile_schema
from brightcore.formats.ride_file import read_ride
from brightcore.formats.schema import bike_schema, case_schema, parts_schema
from brightcore.formats.schema_pieces import MOST_PARTS
from brightcore.kinds import REGISTRY
from brightcore.procedure.ride import RideLog
from brightcore.tracing.evidence import Evidence
from tests.bikes import DEMO_BIKES, changed, demo_bike, document, small_engine
from tests.strange_files import good_files, tried

FIXTURES = Path(__file__).parent.parent / "fixtures"


def problems_of(text: str | bytes, load: Any = load_bike) -> list[str]:
    """Return the problems of a refused file as `path: message`."""
    try:
        load(text)
    except FormatError as error:
        return [str(p) for p in error.problems]
    return []


def join(**more: Any) -> Any:
    """Return Fern's document with one more join."""
    found = document("fern")
    found["joins"].append({"id": "j-new", "from": "pack.main", "to": "lamp.plug"} | more)
    return found


BROKEN = (
    # what is changed, where the problem is said to be, a word of the message
    (changed("fern", ("format", "something/else")), "$.format", "wanted"),
    (changed("fern", ("version", 99)), "$.version", "reads up to 3"),
    (changed("fern", ("bike", {})), "$.bike", "label"),
    (changed("fern", ("bike.colour", "green")), "$.bike", "colour"),
    (changed("fern", ("parts.pack.kind", "reactor")), "$.parts[0].kind", "reactor"),
    (
        changed("fern", ("parts.pack.spec.series_count", 2)),
        "$.parts[0].spec.series_count",
        "minimum",
    ),
    (
        changed("fern", ("parts.pack.spec.series_count", "13")),
        "$.parts[0].spec.series_count",
        "integer",
    ),
    (changed("fern", ("parts.pack.spec.volts", 48)), "$.parts[0].spec", "volts"),
    (changed("fern", ("parts.pack.spec.cell_v", 5.0)), "$.parts[0].spec.cell_v", "4.6"),
    (changed("fern", ("parts.pack.spec.chemistry", "lead")), "$.parts[0].spec.chemistry", "one of"),
    (changed("fern", ("parts.pack.spec.bms_peak_a", 10)), "$.parts[0].spec.bms_peak_a", "below"),
    (
        changed("fern", ("parts.controller.spec.low_cutoff_v", 70)),
        "$.parts[2].spec.low_cutoff_v",
        "max_v",
    ),
    (
        changed(
            "fern", ("parts.throttle.spec.full_ratio", 0.4), ("parts.throttle.spec.rest_ratio", 0.4)
        ),
        "$.parts[5].spec.full_ratio",
        "rest_ratio",
    ),
    (changed("fern", ("parts.pack.id", "Pack One")), "$.parts[0].id", "match"),
    (changed("fern", ("parts.display.id", "pack")), "$.parts[4].id", "twice"),
    (changed("fern", ("parts.pack", None)), "$.parts", "needs a pack"),
    (changed("fern", ("parts.controller", None)), "$.parts", "needs a controller"),
    (changed("fern", ("parts.main_lead.ports", [])), "$.parts[1].ports", "ports written out"),
    (
        changed("fern", ("parts.main_lead.spec.conductors", [["pack_end.plus", "far.away"]])),
        "$.parts[1].spec.conductors[0]",
        "far.away",
    ),
    (changed("fern", ("joins.j-lamp.to", "lamp.socket")), "$.joins[12].to", "lamp.socket"),
    (changed("fern", ("joins.j-lamp.to", "motor.halls")), "$.joins[12].to", "already connected"),
    (changed("fern", ("joins.j-lamp.id", "j-pack")), "$.joins[12].id", "twice"),
    (changed("fern", ("joins.j-lamp.map", [["plus", "wing"]])), "$.joins[12].map", "wing"),
    (
        changed("fern", ("joins.j-front.to", "main_lead.pack_end"), ("joins.j-pack", None)),
        "$.joins[1].map",
        "pin map",
    ),
    (join(), "$.joins[13].from", "already connected"),
    (
        changed("fern", ("settings", [{"part": "ghost", "role": "x", "value": 1}])),
        "$.settings[0].part",
        "ghost",
    ),
)
NOT_JSON = (
    (b"", "not JSON"),
    (b"hello", "not JSON"),
    (b"[1, 2]", "JSON object"),
    (b'{"format": NaN}', "not a number"),
    (b"\xff\xfe\x00", "not JSON"),
    (b"[" * 100_000, "not JSON"),
    (b" " * (MAX_BYTES + 1), "larger than 2 MB"),
)


class BikeFileTest(TestCase):
    def test_export_import_export_is_identical(self) -> None:
        for name in DEMO_BIKES:
            text = dump_bike(demo_bike(name))
            self.assertEqual(dump_bike(load_bike(text)), text)
            self.assertEqual(load_bike(text), demo_bike(name))

    def test_frozen_files_of_earlier_versions_still_load(self) -> None:
        for name in ("bike-v1.json", "bike-v3.json"):
            with self.subTest(name):
                text = (FIXTURES / name).read_text()
                self.assertEqual(dump_bike(load_bike(text)), text)

    def test_each_problem_is_named_with_its_json_path(self) -> None:
        for raw, path, word in BROKEN:
            with self.subTest(path=path, word=word):
                found = problems_of(json.dumps(raw))
                self.assertTrue(any(p.startswith(f"{path}: ") and word in p for p in found), found)

    def test_all_problems_are_listed_at_once(self) -> None:
        raw = changed(
            "fern",
            ("parts.pack.spec.series_count", 99),
            ("parts.lamp.spec.power_w", -1),
            ("bike.load_mass_kg", "much"),
        )
        self.assertEqual(len(problems_of(json.dumps(raw))), 3)

    def test_what_is_no_json_is_refused_in_words(self) -> None:
        for text, word in NOT_JSON:
            with self.subTest(text[:20]):
                self.assertIn(word, problems_of(text)[0])

    def test_exports_validate_against_shipped_schemas(self) -> None:
        for name in DEMO_BIKES:
            jsonschema.validate(bike_document(demo_bike(name)), bike_schema(REGISTRY))

    def test_schemas_are_schemas_and_the_shipped_files_are_current(self) -> None:
        docs = Path(__file__).parent.parent.parent / "docs" / "formats"
        for name, make in (
            ("bike", bike_schema),
            ("case", case_schema),
            ("job", job_schema),
            ("profile", lambda _: profile_schema()),
        ):
            schema = make(REGISTRY)
            jsonschema.Draft202012Validator.check_schema(schema)
            self.assertEqual(
                json.loads((docs / f"{name}.schema.json").read_text()),
                schema,
                f"./bright core schema {name}",
            )
            self.assertIn(f"bright-circuit/{name}", (docs / "README.md").read_text())

    def test_every_spec_field_is_explained(self) -> None:
        for part in bike_schema(REGISTRY)["properties"]["parts"]["items"]["allOf"]:
            for name, field in part["then"]["properties"]["spec"]["properties"].items():
                self.assertTrue(field["description"], name)


CASE = Case(
    demo_bike("fern"),
    "Shudders",
    (
        Evidence("look", "rough", scene="throttle", observable="motor", sometimes=True),
        Evidence("volts", "4.96 V", "on", "controller.halls.v5", "controller.halls.gnd"),
        Evidence("inspect", "good", subject="join:j-halls-m"),
    ),
)


class CaseFileTest(TestCase):
    def test_cases_go_out_and_come_back(self) -> None:
        raw = case_document(CASE)
        jsonschema.validate(raw, case_schema(REGISTRY))
        self.assertEqual(load_case(canonical_json(raw)), CASE)
        check_evidence(small_engine("fern").table, CASE.evidence)

    def test_problems_of_bike_and_evidence_are_listed_together(self) -> None:
        raw = case_document(CASE)
        raw["bike"]["parts"][0]["kind"] = "reactor"
        raw["evidence"][0]["kind"] = "taste"
        found = problems_of(json.dumps(raw), load_case)
        self.assertTrue(any(p.startswith("$.bike.parts[0].kind") for p in found), found)
        self.assertTrue(any(p.startswith("$.evidence[0].kind") for p in found), found)

    def test_evidence_about_what_the_bike_lacks_is_named(self) -> None:
        wrong = (*CASE.evidence, Evidence("volts", "1", "on", "a.b.c", "pack.main.minus"))
        with self.assertRaises(FormatError) as caught:
            check_evidence(small_engine("fern").table, wrong)
        self.assertEqual([p.path for p in caught.exception.problems], ["$.evidence[3]"])


class JobFileTest(TestCase):
    def test_foreign_and_incomplete_files_are_refused(self) -> None:
        for raw, path in (
            (document("fern"), "$.format"),
            ({"format": "bright-circuit/job", "version": 1}, "$"),
            (
                {
                    "format": "bright-circuit/job",
                    "version": 1,
                    "bike": {},
                    "job": {},
                    "evidence": [],
                    "log": [],
                },
                "$.job",
            ),
        ):
            with self.subTest(path):
                self.assertTrue(
                    any(p.startswith(f"{path}: ") for p in problems_of(json.dumps(raw), load_job))
                )

    def test_parsing_keeps_numbers_as_they_are(self) -> None:
        self.assertEqual(parse_json('{"a": 0.1}'), {"a": 0.1})


BORDER = (
    # value in a file, what is said of it ("" where it passes)
    ("4k7\nand more\tof it", ""),
    ("µ Ω – é 漢", ""),
    ("a\x00b", "control character U+0000"),
    ("a\x1bb", "control character U+001B"),
    ("\ud800", "half a character, U+D800"),
    (10**12, ""),
    (10**12 + 1, "within"),
    (1e12, ""),
    (1.1e12, "within"),
    (True, ""),
    (None, ""),
)


class BorderTest(TestCase):
    def test_what_no_file_may_hold_is_told_with_its_place(self) -> None:
        for value, words in BORDER:
            with self.subTest(value=ascii(value)):
                document = {"job": [0, {"x": value}]}
                if not words:
                    check_border(document)
                    continue
                with self.assertRaises(FormatError) as caught:
                    check_border(document)
                (problem,) = caught.exception.problems
                self.assertEqual(problem.path, "$.job[1].x")
                self.assertIn(words, problem.message)

    def test_keys_are_texts_too(self) -> None:
        with self.assertRaises(FormatError):
            check_border({"a\x00": 1})

    def test_depth_and_number_of_values_have_an_end(self) -> None:
        for depth, passes in ((MOST_DEPTH, True), (MOST_DEPTH + 1, False)):
            document: Any = 1
            for _ in range(depth):
                document = [document]
            with self.subTest(depth):
                if passes:
                    check_border(document)
                else:
                    self.assertRaises(FormatError, check_border, document)
        check_border([0] * (MOST_VALUES - 1))
        self.assertRaises(FormatError, check_border, [0] * (MOST_VALUES + 1))

    def test_every_number_text_and_list_of_every_schema_has_an_end(self) -> None:
        for make in (bike_schema, case_schema, job_schema, parts_schema):
            for path, item in parts_of_schema(make(REGISTRY), "$"):
                with self.subTest(f"{make.__name__} {path}"):
                    self.assertEqual(endless(item), "", item)

    def test_a_unfolding_or_endless_yaml_is_refused_at_once(self) -> None:
        head = "format: bright-circuit/parts\nversion: 1\nparts:\n"
        row = "- {id: p%d, kind: lamp, name: L}\n"
        for text in (
            "a: &x [1]\nb: *x\n",
            head + "".join(row % n for n in range(30_000)),
            head + "".join(row % n for n in range(MOST_PARTS + 1)),
        ):
            with self.assertRaises(FormatError):
                load_parts_yaml(text)
        with self.assertRaisesRegex(FormatError, f"line {MOST_PARTS + 2}"):
            load_parts_csv(
                "id,kind,name\n" + "".join(f"p{n},lamp,L\n" for n in range(MOST_PARTS + 1))
            )


def parts_of_schema(schema: Any, path: str) -> Iterator[tuple[str, dict[str, Any]]]:
    """Yield (path, schema) of everything in a schema that says a type."""
    if isinstance(schema, dict):
        if isinstance(schema.get("type"), str | list):
            yield path, schema
        for key, inner in schema.items():
            yield from parts_of_schema(inner, f"{path}.{key}")
    elif isinstance(schema, list):
        for n, inner in enumerate(schema):
            yield from parts_of_schema(inner, f"{path}[{n}]")


def endless(schema: dict[str, Any]) -> str:
    """Return which of its types has no end, "" where all have one."""
    kinds = schema["type"] if isinstance(schema["type"], list) else [schema["type"]]
    ends = {
        "integer": ("maximum",),
        "number": ("maximum",),
        "string": ("maxLength", "pattern"),
        "array": ("maxItems",),
    }
    return next((kind for kind in kinds if kind in ends and not set(ends[kind]) & set(schema)), "")


class StrangeFilesTest(TestCase):
    """`./bright bench files` tries ten thousand; here a few, the same every time."""

    def test_the_files_they_are_made_from_are_good(self) -> None:
        for name, text, importer in good_files():
            with self.subTest(name):
                importer(text)

    def test_no_importer_crashes_on_a_strange_file(self) -> None:
        told = list(tried(560, seed=20260))
        self.assertEqual([(name, wrong) for name, _, wrong in told if wrong], [])
        self.assertGreater(sum(not took for _, took, _ in told), 400)

    def test_a_file_is_read_up_to_its_limit_and_refused_beyond(self) -> None:
        """Sizes just on either side; what lies beyond is refused before it is worked with."""
        for limit, take_in, make in LIMITED:
            for count, refused in ((FEW, False), (FEW + 1, True)):
                with self.subTest(limit=limit, count=count), patch(limit, FEW):
                    told = ""
                    try:
                        take_in(make(count))
                    except FormatError as error:
                        told = str(error)
                    self.assertEqual("more than" in told, refused, told)


def _ride(text: str) -> RideLog:
    return read_ride(text.encode(), "a.gpx")


FEW = 20
LIMITED = (
    (
        "brightcore.formats.ride_file.MOST_PLACES",
        _ride,
        lambda n: "<gpx>" + '<trkpt lat="50" lon="8"/>' * n + "</gpx>",
    ),
    (
        "brightcore.formats.ride_file.MOST_TAGS",
        _ride,
        lambda n: "<gpx>" + "<a/>" * (n - 2) + "</gpx>",
    ),
    (
        "brightcore.formats.bike_list.MOST_ROWS",
        read_bike_list,
        lambda n: "label,template\n" + "Rowan,folding\n" * n,
    ),
)
