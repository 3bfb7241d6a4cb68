"""What a technician would see, as a table of faults and looks. Facts of the trade [cp]."""

from unittest import TestCase

import numpy as np

from brightcore.behaviour.vocabulary import OBSERVABLES
from tests.bikes import DEMO_BIKES, engine

SEEN = (
    # bike, fault, scene, observable, class
    ("fern", "no-fault", "switch_on", "display", "lit"),
    ("fern", "no-fault", "switch_on", "error", "none"),
    ("fern", "no-fault", "switch_on", "brake_symbol", "off"),
    ("fern", "no-fault", "switch_on", "lamp", "lit"),
    ("fern", "no-fault", "throttle", "motor", "smooth"),
    ("fern", "no-fault", "throttle", "speed", "shown"),
    ("fern", "no-fault", "pedal", "motor", "smooth"),
    ("fern", "no-fault", "brake.lever_left", "motor", "silent"),
    ("fern", "no-fault", "brake.lever_left", "brake_symbol", "shown"),
    ("fern", "no-fault", "pull", "motor", "smooth"),
    ("fern", "no-fault", "spin", "drag", "free"),
    ("fern", "hall_cable.halls_m.a/contact/mid", "throttle", "motor", "rough"),
    ("fern", "hall_cable.halls_m.a/contact/mid", "throttle", "error", "hall"),
    ("fern", "controller.halls.gnd/contact/open", "throttle", "error", "temperature"),
    ("fern", "controller.halls.v5/contact/open", "throttle", "motor", "twitch"),
    ("fern", "controller.phases.u/contact/open", "throttle", "motor", "rough"),
    ("fern", "controller.phases.u/exchanged-with-v/full", "throttle", "motor", "rough"),
    ("fern", "controller.phases.u/gate-dead/full", "throttle", "motor", "rough"),
    ("fern", "controller.phases.u/low-shorted/full", "spin", "drag", "drags"),
    ("fern", "controller.phases.u/low-shorted/full", "spin/unplug j-phases-c", "drag", "free"),
    ("fern", "motor.inside.winding/shorted/full", "spin/unplug j-phases-m", "drag", "drags"),
    ("fern", "motor.inside.gear/stripped/full", "throttle", "motor", "free"),
    ("fern", "front_harness.to_throttle.gnd/contact/open", "switch_on", "error", "throttle"),
    ("fern", "front_harness.to_throttle.throttle/contact/open", "throttle", "motor", "silent"),
    ("fern", "throttle.plug.signal/dead/full", "pedal", "motor", "smooth"),
    ("fern", "throttle.plug.signal/weak/full", "throttle", "motor", "weak"),
    ("fern", "cranks.inside.ring/gap/full", "pedal", "motor", "silent"),
    ("fern", "cranks.inside.ring/gap/full", "throttle", "motor", "smooth"),
    ("fern", "lever_left.plug.signal/stuck-closed/full", "switch_on", "brake_symbol", "shown"),
    ("fern", "lever_left.plug.signal/stuck-closed/full", "throttle", "motor", "silent"),
    (
        "fern",
        "lever_left.plug.signal/stuck-closed/full",
        "switch_on/unplug j-brake-l",
        "brake_symbol",
        "off",
    ),
    ("fern", "lever_left.plug.signal/stuck-open/full", "brake.lever_left", "motor", "smooth"),
    (
        "fern",
        "front_harness.trunk.gnd/wire-to-to_display.gnd/open",
        "switch_on",
        "error",
        "communication",
    ),
    ("fern", "display.plug.key/dead/full", "throttle", "motor", "silent"),
    ("fern", "display.inside.menu/assist-zero/full", "throttle", "motor", "silent"),
    ("fern", "display.inside.menu/assist-zero/full", "switch_on", "display", "lit"),
    ("fern", "pack.inside.bms/open/full", "switch_on", "display", "dark"),
    ("fern", "pack.inside.cells/weak/full", "throttle", "motor", "smooth"),
    ("fern", "pack.inside.cells/weak/full", "pull", "motor", "cuts"),
    ("fern", "motor.halls.temperature/open/full", "switch_on", "error", "temperature"),
    ("fern", "controller.lamp.plus/contact/open", "switch_on", "lamp", "dark"),
    ("fern", "lamp.inside.light/dead/full", "throttle", "motor", "smooth"),
    ("fern", "cranks.plug.supply/short/full", "throttle", "motor", "silent"),
    ("fern", "cranks.plug.supply/short/full", "throttle/unplug j-pedal", "motor", "smooth"),
    ("teasel", "no-fault", "throttle", "motor", "smooth"),
    ("teasel", "throttle.plug.key_in/open/full", "throttle", "motor", "silent"),
    ("teasel", "controller.display.key/contact/open", "throttle", "motor", "silent"),
    ("teasel", "cut_off.inside.magnet/lost/full", "throttle", "motor", "silent"),
    ("teasel", "cut_off.plug.signal/dead/full", "brake.cut_off", "motor", "smooth"),
    ("otter", "no-fault", "pedal", "motor", "smooth"),
    ("otter", "display.plug.tx/dead/full", "throttle", "motor", "silent"),
    ("otter", "cut_off_rear.inside.magnet/lost/full", "switch_on", "brake_symbol", "shown"),
    ("otter", "motor.halls.speed/dead/full", "throttle", "speed", "none"),
)


class SeenTest(TestCase):
    def test_each_fault_looks_as_the_trade_knows_it(self) -> None:
        for name, fault, scene, observable, expected in SEEN:
            made = engine(name)
            with self.subTest(fault=fault, scene=scene, observable=observable):
                codes = made.table.seen(scene)[observable]
                found = OBSERVABLES[observable].ids()[int(codes[made.hypotheses.index(fault)])]
                self.assertEqual(found, expected)

    def test_every_scene_names_known_observables_and_gives_them(self) -> None:
        for name in DEMO_BIKES:
            for scene_id, scene in engine(name).table.scenes.items():
                with self.subTest(name, scene=scene_id):
                    self.assertEqual(set(engine(name).table.seen(scene_id)), set(scene.seen))

    def test_confusion_rows_are_distributions_that_favour_the_truth(self) -> None:
        for item in OBSERVABLES.values():
            matrix = item.seen_given()
            np.testing.assert_allclose(matrix.sum(axis=1), 1.0)
            self.assertTrue((matrix.argmax(axis=1) == np.arange(len(matrix))).all())

    def test_what_a_bike_does_not_have_is_never_looked_at(self) -> None:
        table = engine("teasel").table
        self.assertFalse(
            any("display" in scene.seen or "error" in scene.seen for scene in table.scenes.values())
        )
        self.assertNotIn("pedal", table.scenes)
