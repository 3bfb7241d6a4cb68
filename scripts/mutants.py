"""Faults put into the code by hand, one at a time: a suite that can fail notices them.

Each is (file below `src/`, text as it stands, text that is wrong, test modules that should notice).
"""

from typing import NamedTuple


class Mutant(NamedTuple):
    """One wrong text in one file, and the tests that are asked first to the last."""

    file: str
    old: str
    new: str
    tests: tuple[str, ...]

    @property
    def name(self) -> str:
        """The mutant in one line."""
        return f"{self.file}: {self.old.strip()} → {self.new.strip() or 'nothing'}"


def of(tests: str, *rows: tuple[str, str, str]) -> tuple[Mutant, ...]:
    """Return mutants that share their tests, given as words."""
    return tuple(Mutant(*row, tuple(tests.split())) for row in rows)


PHYSICS = of(
    "core.test_examples core.test_thresholds core.test_matching core.test_chain core.test_wiring",
    ("brightcore/physics/copper.py", "COPPER_OHM_M = 1.7241e-8", "COPPER_OHM_M = 1.9e-8"),
    ("brightcore/physics/copper.py", "1 + COPPER_PER_K", "1 - COPPER_PER_K"),
    ("brightcore/physics/heating.py", "RISE_AT_LIMIT_K = 40.0", "RISE_AT_LIMIT_K = 60.0"),
    ("brightcore/physics/heating.py", "(3, 0.8)", "(3, 1.0)"),
    ("brightcore/physics/heating.py", "SHORT_RUN_S = 60.0", "SHORT_RUN_S = 6.0"),
    ("brightcore/physics/heating.py", "return math.sqrt(shed /", "return (shed /"),
    ("brightcore/physics/fuses.py", "FUSE_RATIO = 0.8", "FUSE_RATIO = 1.0"),
    ("brightcore/physics/contacts.py", "GOOD_POWER_OHM = 0.001", "GOOD_POWER_OHM = 0.01"),
    ("brightcore/physics/air.py", "SEA_LEVEL_K - LAPSE", "SEA_LEVEL_K + LAPSE"),
    ("brightcore/physics/wheels.py", "+ 2 * tyre_width_mm", "+ tyre_width_mm"),
    ("brightcore/physics/machine.py", "60.0 / (2 * math.pi", "60.0 / (math.pi"),
)

MATCHING = of(
    "core.test_matching core.test_chain core.test_thresholds",
    (
        "brightcore/matching/drive.py",
        "force = wheel_nm * 2 * math.pi",
        "force = wheel_nm * math.pi",
    ),
    ("brightcore/matching/drive.py", "CONTROLLER_OHM = 0.012", "CONTROLLER_OHM = 0.12"),
    ("brightcore/matching/drive.py", "IRON_RATIO, IRON_V = 0.05", "IRON_RATIO, IRON_V = 0.5"),
    ("brightcore/matching/drive.py", "CONTROLLER_RATIO = 0.02", "CONTROLLER_RATIO = 0.2"),
    ("brightcore/matching/riding.py", "drag = 0.5 *", "drag = 0.25 *"),
    ("brightcore/matching/riding.py", "math.sin(angle))", "math.cos(angle))"),
    (
        "brightcore/matching/heat.py",
        "phase**2 * drive.phase_ohm * warmed",
        "phase * drive.phase_ohm * warmed",
    ),
    ("brightcore/matching/riding.py", "ROTATING_KG = 1.4", "ROTATING_KG = 14.0"),
    ("brightcore/matching/rules.py", "WATTS_SPREAD = (0.35, 1.15)", "WATTS_SPREAD = (0.35, 1.5)"),
    ("brightcore/matching/rules.py", "UNUSED_RATIO = 1.08", "UNUSED_RATIO = 1.2"),
    ("brightcore/matching/rules.py", "EQUAL_V = 0.2", "EQUAL_V = 2.0"),
    (
        "brightcore/matching/rules.py",
        "window.cutoff_v < window.trip_v",
        "window.cutoff_v > window.trip_v",
    ),
    (
        "brightcore/matching/chain.py",
        "Chain(tuple(links), min(known",
        "Chain(tuple(links), max(known",
    ),
)

WIRING = of(
    (
        "core.test_thresholds core.test_rules core.test_wiring core.test_kinds core.test_fixes "
        "core.test_routes"
    ),
    (
        "brightcore/wiring/rules/ratings.py",
        "MADE_FOR_RATIOS = (0.8, 1.25)",
        "MADE_FOR_RATIOS = (0.8, 1.5)",
    ),
    (
        "brightcore/wiring/rules/ratings.py",
        "COMBINER_MARGIN_RATIO = 1.2",
        "COMBINER_MARGIN_RATIO = 1.0",
    ),
    ("brightcore/physics/touch.py", "TOUCH_V = 60.0", "TOUCH_V = 75.0"),
    ("brightcore/wiring/rules/ratings.py", "thinnest = min(lead", "thinnest = max(lead"),
    ("brightcore/wiring/rules/levels.py", "INPUT_V = 5.2", "INPUT_V = 6.5"),
    ("brightcore/wiring/rules/power.py", "DROP_RATIO = 0.03", "DROP_RATIO = 0.06"),
    (
        "brightcore/wiring/rules/power.py",
        "0 < fuse_v * ROUNDING < full",
        "0 < fuse_v * ROUNDING > full",
    ),
    ("brightcore/wiring/rules/power.py", "load > feed.ampere * ROUNDING", "load > 2 * feed.ampere"),
    (
        "brightcore/wiring/rules/modules.py",
        "RENEWAL_DAYS, DRAIN_DAYS = 30, 60",
        "RENEWAL_DAYS, DRAIN_DAYS = 3, 60",
    ),
    ("brightcore/wiring/rules/modules.py", "0 < cover < height", "0 < height < cover"),
    ("brightcore/wiring/rules/motors.py", "if need > bore:", "if need > 2 * bore:"),
    ("brightcore/wiring/conductors.py", "SIGNAL_BELOW_A = 0.5", "SIGNAL_BELOW_A = 50.0"),
    ("brightcore/analysis/loads.py", "STEP_DOWN_RATIO = 0.85", "STEP_DOWN_RATIO = 8.5"),
    ("brightcore/analysis/loads.py", "math.sqrt(2 / 3)", "math.sqrt(1 / 3)"),
    ("brightcore/bike/roles.py", 'return "wire" in (one, two) or two in', "return True or two in"),
    ("brightcore/wiring/routes.py", "TIE_EVERY_M = 0.20", "TIE_EVERY_M = 0.80"),
)

TRACING = of(
    "core.test_trace_thresholds core.test_tracing",
    ("brightcore/tracing/stakes.py", "LEAST_SURE = 0.85", "LEAST_SURE = 0.75"),
    ("brightcore/tracing/stakes.py", "THOUGHT_MIN = 4.0", "THOUGHT_MIN = 6.0"),
    ("brightcore/drawing/lights.py", "LIT_RATIO = 20.0", "LIT_RATIO = 5.0"),
    ("brightcore/tracing/suspects.py", "SUSPECT_PROBABILITY = 0.05", "SUSPECT_PROBABILITY = 0.2"),
    ("brightcore/tracing/fit.py", "ODD_RATIO = 0.02", "ODD_RATIO = 0.2"),
    ("brightcore/tracing/fit.py", "UNMODELLED_LEADS = 0.3", "UNMODELLED_LEADS = 0.9"),
    ("brightcore/tracing/fit.py", "FEW_READINGS = 3", "FEW_READINGS = 2"),
    ("brightcore/tracing/trace.py", "return self.hanging_on is not None or len", "return len"),
    ("brightcore/tracing/evidence.py", "REPEAT_WEIGHT = 0.5", "REPEAT_WEIGHT = 1.0"),
    ("brightcore/tracing/hypotheses.py", "NO_FAULT_PRIOR = 0.05", "NO_FAULT_PRIOR = 0.1"),
    (
        "brightcore/tracing/hypotheses.py",
        "NOT_MODELLED_PRIOR = 0.015",
        "NOT_MODELLED_PRIOR = 0.0015",
    ),
    ("brightcore/tracing/tests/numbers.py", "WRONG_READING = 0.02", "WRONG_READING = 0.2"),
    ("brightcore/tracing/tests/swap.py", "= 0.03, 0.97, 0.5", "= 0.97, 0.03, 0.5"),
    (
        "brightcore/tracing/tests/base.py",
        "values.index(item.value)",
        "1 - values.index(item.value)",
    ),
    ("brightcore/tracing/tests/inspection.py", "\nFALSE_ALARM = 0.04", "\nFALSE_ALARM = 0.4"),
    ("brightcore/tracing/advice.py", "MIN_BITS = 0.01", "MIN_BITS = 0.9"),
)

ENDINGS = of(
    "core.test_trace_thresholds core.test_trials apps.test_trace",
    ("brightcore/tracing/fit.py", "SHOWN_RATIO = 20.0", "SHOWN_RATIO = 2.0"),
    ("brightcore/tracing/fit.py", "CHANCE_SHARE = 0.1", "CHANCE_SHARE = 0.3"),
    ("brightcore/tracing/doubts.py", "OVER_FULL, SPARE_V = 1.15", "OVER_FULL, SPARE_V = 1.5"),
    (
        "brightcore/tracing/hypotheses.py",
        "LEAST_COUNT, COUNT_WEIGHT = 3",
        "LEAST_COUNT, COUNT_WEIGHT = 1",
    ),
    ("brightcore/tracing/tests/tried.py", "STILL_THERE = 0.06", "STILL_THERE = 0.9"),
    ("brightcore/circuit/metered.py", "(meter.open_v - dead[plus]", "(-meter.open_v - dead[plus]"),
    ("brightcore/tracing/context.py", "AT_PLACE = 4.0", "AT_PLACE = 0.1"),
)

SETTINGS_AND_GATES = of(
    (
        "core.test_thresholds core.test_rules core.test_trace_thresholds core.test_tracing "
        "core.test_wiring"
    ),
    (
        "brightcore/programming/roles/pack.py",
        "pack.spec.series_count * pack.spec.cells.cutoff_v",
        "pack.spec.series_count * pack.spec.cells.cutoff_v / 2",
    ),
    ("brightcore/programming/derive.py", "DIFFERENCE_RATIO = 0.01", "DIFFERENCE_RATIO = 0.1"),
    ("brightcore/procedure/gates.py", 'return ("pack_safe", "wheel_up")', 'return ("pack_safe",)'),
    (
        "brightcore/procedure/gates.py",
        'return ("pack_safe", "road")',
        'return ("pack_safe", "wheel_up")',
    ),
    ("brightcore/procedure/gates.py", '("pack_out", "discharged")', '("pack_out",)'),
    ("brightcore/tracing/acts.py", "or bool(touched & packs)", ""),
    ("brightcore/tracing/acts.py", "any(act.needs_safe_pack", "all(act.needs_safe_pack"),
)

KINDS = of(
    "core.test_kinds core.test_behaviour core.test_tracing",
    ("brightcore/kinds/motor.py", '("101", "100",', '("100", "101",'),
    ("brightcore/kinds/controller_rules.py", "RAIL_OK_V = 3.9", "RAIL_OK_V = 1.0"),
    (
        "brightcore/kinds/lamp.py",
        "part.spec.power_w / part.spec.rated_v",
        "part.spec.rated_v / part.spec.power_w",
    ),
    ("brightcore/kinds/blocks.py", "LOGIC_V = 5.0", "LOGIC_V = 3.3"),
)

SERVICES = of(
    "apps.test_services apps.test_registry apps.test_stations apps.test_match apps.test_arrive "
    "apps.test_files apps.test_forms",
    ("brightcircuit/trace/services.py", "raise Blocked(in_the_way[0].text)", "return"),
    ("brightcircuit/trace/services.py", "    if missing:", "    if False:"),
    ("brightcircuit/jobs/stale.py", "fresh.based_on = version", "fresh.based_on = fresh.version"),
    ("brightcircuit/jobs/quarantine.py", "    require_lead(actor)\n", ""),
    ("brightcircuit/jobs/safety.py", "        require_lead(actor)\n", ""),
    ("brightcircuit/jobs/safety.py", "        found += ask(job)\n", "        ask(job)\n"),
    ("brightcircuit/common/guard.py", "    if not job.is_open:", "    if False:"),
    ("brightcircuit/common/permissions.py", "and actor.is_active):", "):"),
    ("brightcircuit/common/permissions.py", "    if not actor.is_lead:", "    if False:"),
    ("brightcircuit/jobs/photos.py", "> _most_pixels(opened)", "> 100 * _most_pixels(opened)"),
    ("brightcircuit/jobs/photos.py", ">= MOST_PHOTOS:", "> 9 * MOST_PHOTOS:"),
    ("brightcircuit/common/uploads.py", "if size > most:", "if size > 99 * most:"),
    ("brightcore/formats/csv_cells.py", '"@", "\\t"', '"\\t"'),
    ("brightcircuit/wire/services.py", "    if danger and not done:", "    if False:"),
)

WAY = of(
    "core.test_order core.test_proofs core.test_rider apps.test_way apps.test_kinds_of_job "
    "apps.test_replaced apps.test_dangers",
    (
        "brightcore/procedure/stands.py",
        "if mates(join) not in wanted:",
        "if mates(join) in wanted:",
    ),
    ("brightcore/procedure/stands.py", "new[name].kind == part.kind:", "new[name].kind:"),
    (
        "brightcore/procedure/stands.py",
        "            joins.pop(change.subject, None)",
        "            pass",
    ),
    (
        "brightcore/procedure/stands.py",
        "        if sides & set(join.sides()):",
        "        if False:",
    ),
    ("brightcore/procedure/pack_moves.py", "(inside or first):", "first:"),
    ("brightcore/procedure/pack_moves.py", "if step.power == ON and not inside:", "if False:"),
    (
        "brightcore/procedure/pack_moves.py",
        "            inside = True",
        "            inside = False",
    ),
    (
        "brightcore/procedure/work_order.py",
        "        ordered = _before_power_up(ordered)",
        "        pass",
    ),
    ("brightcore/procedure/work_order.py", "or left & set(step.needs):", "or False:"),
    (
        "brightcircuit/jobs/way.py",
        '            if end.partition(".")[0] in parts or',
        "            if",
    ),
    (
        "brightcircuit/jobs/way.py",
        "rows = tuple(row for row in job.changes_done.filter(undone=False)",
        "rows = tuple(row for row in job.changes_done.all()",
    ),
    ("brightcircuit/wire/services.py", "        require_safe(job)", "        pass"),
)

DANGERS = of(
    "core.test_bands core.test_setting core.test_hazard core.test_tried core.test_offers "
    "core.test_programming core.test_rows apps.test_dangers",
    ("brightcore/bands/model.py", "if value > self.safe[1]:", "if value > self.can[1]:"),
    ("brightcore/bands/model.py", "if value < self.safe[0]:", "if value < self.can[0]:"),
    ("brightcore/bands/points.py", 'if role.use == "cut_off":', 'if role.use == "hall":'),
    ("brightcore/setting/contract.py", "found.without(single)", "found"),
    ("brightcore/setting/rows.py", "row[-1] <= high", "row[-1] <= 0"),
    ("brightcore/programming/limits.py", "value > part.spec.max_v", "value > 2 * part.spec.max_v"),
    ("brightcore/wiring/tryout.py", "if runs and _motor", "if not runs and _motor"),
    (
        "brightcore/wiring/offers.py",
        "if item is not None and not fixes_for(made, finding, shelf):",
        "if False:",
    ),
    ("brightcore/wiring/straight.py", "if _suits(bike, join, bare) or not", "if True or not"),
    ("brightcore/tracing/hazard.py", "if not best.get(test.id, False):", "if test.id not in best:"),
    ("brightcircuit/jobs/dangers.py", "if row.place == place]", "if row.place]"),
    ("brightcircuit/jobs/safety.py", "row.place not in again and row.code", "row.code"),
    (
        "brightcircuit/set/services.py",
        'if not grave and result.state in ("good", "mend"):',
        "if not grave:",
    ),
    ("brightcircuit/trace/services.py", "    elif is_well(trace.engine, item):", "    else:"),
)

NAMED = (
    *of(
        "apps.test_set apps.test_dangers",
        ("brightcircuit/set/services.py", "        require_safe(job, (place,))", "        pass"),
        (
            "brightcircuit/set/services.py",
            "        require_pack_safe(job, (place,))",
            "        pass",
        ),
        ("brightcircuit/set/services.py", "        require_looked_at(job)", "        pass"),
    ),
    *of(
        "apps.test_link",
        (
            "brightcircuit/program/run_services.py",
            'if run.kind == "write":\n        require_safe(job)',
            'if run.kind == "write":\n        pass',
        ),
    ),
    *of(
        "apps.test_stale apps.test_services",
        ("brightcircuit/record/services.py", "    require_unchanged(job)\n", ""),
    ),
    *of(
        "core.test_ride core.test_numbers core.test_setting core.test_edges core.test_strings",
        (
            "brightcore/procedure/ride.py",
            "wh=None if used is None else used -",
            "wh=None if used is None else used +",
        ),
        ("brightcore/procedure/numbers.py", "if timedelta(0) <= other", "if other"),
        ("brightcore/physics/cells.py", "2.8, 2.5, 2.0, 2.85", "2.8, 2.5, 1.0, 2.85"),
        ("brightcore/setting/throttle.py", "DEAD_SHARE = 0.25", "DEAD_SHARE = 0.5"),
        (
            "brightcore/matching/law.py",
            "facts.top_kmh > c.assist_kmh + 0.5",
            "facts.top_kmh > c.assist_kmh",
        ),
    ),
    *of(
        "apps.test_dangers core.test_practice",
        ("brightcircuit/jobs/hazards.py", "limited=None)", ")"),
        ("brightcircuit/prove/queries.py", "*limit_gates(job)", ""),
        ("brightcircuit/set/services.py", "    note_limited(job, cautions)\n", ""),
        ("brightcore/practice/standing.py", "if clean == dead:", "if clean:"),
        ("brightcore/practice/standing.py", 'return key == "swap" or', "return"),
        (
            "brightcore/practice/play.py",
            "if not done.hazard and stands_before",
            "if False and stands_before",
        ),
    ),
)

EDGES = of(
    "core.test_edges",
    ("brightcore/physics/gauges.py", "FILL_RATIO = 0.7", "FILL_RATIO = 1.0"),
    (
        "brightcore/analysis/loads.py",
        "return sum(battery_limit_a(bike",
        "return max(battery_limit_a(bike",
    ),
    ("brightcore/wiring/propose.py", "LEAST_SCORE = 0.55", "LEAST_SCORE = 0.05"),
    ("brightcore/tracing/tests/__init__.py", "RIDER_WRONG = 0.15", "RIDER_WRONG = 0.0"),
    ("brightcore/tracing/proving.py", "PROVING = 0.8", "PROVING = 2.0"),
    ("brightcore/programming/roles/current.py", "bms / len(drawing)", "bms"),
    ("brightcore/tracing/acts.py", 'condition.power != "out"', 'condition.power == "on"'),
    ("brightcore/kinds/controller_rules.py", "PHASE_OPEN_OHM = 25.0", "PHASE_OPEN_OHM = 1e9"),
    ("brightcore/kinds/lamp.py", "LIT_SHARE = 0.55", "LIT_SHARE = 0.1"),
)

PAGES = (
    *of(
        "scripts",
        (
            "brightcircuit/static/js/outbox.js",
            'if (form.getAttribute("aria-busy") === "true") return;',
            "",
        ),
        ("brightcircuit/static/js/outbox.js", "if (!first) throw", "if (false) throw"),
        (
            "brightcircuit/static/js/outbox.js",
            "if (found.under_way || found.sign_in || found.other) {",
            "if (found.under_way || found.sign_in) {",
        ),
        (
            "brightcircuit/static/js/outbox.js",
            "if (!found.to || found.refused) {",
            "if (!found.to) {",
        ),
        ("brightcircuit/static/js/outbox.js", "if (!found.refused) {", "if (found.to) {"),
        ("brightcircuit/static/js/outbox.js", 'data.delete("csrfmiddlewaretoken");', ""),
        ("brightcircuit/static/js/queue.js", "other.url === letter.url &&", ""),
        (
            "brightcircuit/static/js/queue.js",
            "letter.person === person() && letter.state",
            "letter.state",
        ),
        ("brightcircuit/static/js/drafts.js", 'field.name === "gate"', 'field.name === "gates"'),
        ("brightcircuit/static/js/drafts.js", '"password", ', ""),
        ("brightcircuit/static/js/drafts.js", "draft.at <= before", "draft.at < before"),
        ("brightcircuit/static/js/drafts.js", "draft && draft.test ===", "draft && draft.test !=="),
        (
            "brightcircuit/static/js/rehearsal.js",
            "Math.min(Math.max(index + by, 0), count - 1)",
            "index + by",
        ),
        (
            "brightcircuit/static/js/rehearsal.js",
            'at: "browse", value: 0 }, true]',
            'at: "browse", value: 0 }, false]',
        ),
    ),
    *of(
        "apps.test_set apps.test_dangers apps.test_wire_work apps.test_safety apps.test_prove",
        (
            "brightcircuit/set/templates/set/instrument.html",
            "{% if step and job.is_open and blocks and step.cautions %}",
            "{% if False %}",
        ),
        (
            "brightcircuit/prove/templates/prove/check.html",
            "{% if job.is_open and blocks and gates %}",
            "{% if False %}",
        ),
        (
            "brightcircuit/wire/templates/wire/first_power_up.html",
            "{% if blocks %}",
            "{% if False %}",
        ),
    ),
)

MUTANTS = (
    *PHYSICS,
    *MATCHING,
    *WIRING,
    *TRACING,
    *ENDINGS,
    *SETTINGS_AND_GATES,
    *KINDS,
    *SERVICES,
    *WAY,
    *DANGERS,
    *NAMED,
    *EDGES,
    *PAGES,
)
