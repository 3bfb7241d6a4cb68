"""What to mind before a function of a device is changed; each common practice."""

CLASS = "Which limit applies is for local law and the maker to say; the app informs."
TURNS = "Wheel off the ground, hands and clothes clear; know which wheel turns."
HEAT = (
    "More current is more heat in wires, plugs, controller and winding: ride gently and "
    "feel them after."
)
BRAKES = (
    "Regeneration charges the pack: not with a full or frozen one; the brakes must do without it."
)
SUDDEN = (
    "The next touch of the throttle may pull harder than before: try it with the wheel up first."
)

CUT_OFF = "Try every cut-off with the motor turning, wheel up, before anybody rides."
DEEP = "Cells that are emptied below their window are harmed for good, and may burn when charged."

CAUTIONS: dict[str, str] = {
    "speed_limit_kmh": CLASS,
    "walk_assist": CLASS,
    "walk_speed_kmh": CLASS,
    "throttle_mode": CLASS,
    "throttle_limit": CLASS,
    "current_limit_a": HEAT,
    "phase_limit_a": HEAT,
    "roll_back_c": HEAT,
    "stop_c": HEAT,
    "low_cutoff_v": DEEP,
    "cell_low_v": DEEP,
    "regen": BRAKES,
    "ramp": SUDDEN,
    "throttle_start_v": SUDDEN,
    "throttle_end_v": SUDDEN,
    "throttle_needs_assist": SUDDEN,
    "hall_map": TURNS,
    "hall_angle_deg": TURNS,
    "cut_off_kind": CUT_OFF,
    "cut_off_level_v": CUT_OFF,
}
"""By role; a role that is not here has none of its own."""
