"""What the values of a part are called on a form: words of the trade, never the name of the
field."""

from brightcore.describing.specs import shown_unit

LABELS = {
    "accessory_a": "Lamp output, limit",
    "accessory_v": "Lamp output, volts",
    "activated": "Activated on the bike",
    "alarm_v": "Alarm below",
    "area_mm2": "Wire area",
    "assist_levels": "Assist levels",
    "axle_bore_mm": "Bore of the axle",
    "axle_nut_nm": "Axle nuts",
    "battery_limit_a": "Battery current limit",
    "bms_continuous_a": "BMS, continuous",
    "bms_peak_a": "BMS, peak",
    "boss_nm": "Mount screws",
    "brake_below_v": "Brake threshold",
    "brake_w": "Extra while braking",
    "cable_jacket_mm": "Cable, outside",
    "capacity_ah": "Capacity on the label",
    "cell_count": "Cells watched",
    "cell_v": "Cell volts as found",
    "chain_ring_teeth": "Chain ring",
    "chemistry": "Chemistry",
    "clamp_nm": "Clamp on the bar",
    "cover_mm": "Room under the cover",
    "cover_nm": "Cover screws",
    "crank_bolt_nm": "Crank bolts",
    "disc_bolt_nm": "Disc bolts",
    "full_ratio": "Output at full, of supply",
    "fuse_a": "Fuse rating",
    "fuse_v": "Fuse, DC volts",
    "gear_ratio": "Reduction",
    "hall_below_v": "Hall threshold",
    "height_mm": "Height it needs",
    "internal_ohm": "Internal resistance",
    "key_on_v": "Key line wakes at",
    "keyed": "Key lock",
    "length_m": "Length",
    "lit_from_v": "Minimum voltage",
    "lock_ring_nm": "Lock ring",
    "low_cutoff_v": "Low-voltage cut-off",
    "lug_nm": "Lug screws",
    "magnet_count": "Magnets",
    "mark": "Mark",
    "max_in_v": "Maximum input",
    "max_v": "Maximum voltage",
    "needs_serial": "Needs display data",
    "normally_closed": "Closed while released",
    "out_a": "Output current",
    "out_v": "Output voltage",
    "parallel_count": "Cells in parallel",
    "path_ohm": "Resistance of one path",
    "phase_limit_a": "Phase current limit",
    "phase_ohm": "Phase to phase",
    "power_w": "Power",
    "push_ratio": "Output at full push, of supply",
    "rated_a": "Rated current",
    "rated_v": "Rated voltage",
    "rated_w": "Rated power",
    "regen": "Regenerative braking",
    "renew_on": "Service due",
    "rest_ratio": "Output at rest, of supply",
    "rpm_per_v": "No-load rpm/V",
    "screw_nm": "Its screw",
    "sensorless": "Runs without halls",
    "series_count": "Cells in series",
    "speed_magnets": "Speed pulses a turn",
    "speed_sensor": "Speed sensor inside",
    "sprocket_teeth": "Rear sprockets",
    "standby_a": "Standby current",
    "supply_limit_a": "5 V supply, limit",
    "supply_v": "Supply",
    "thermistor": "Thermistor",
    "throttle_error_v": "Throttle refused above",
    "throttle_full_v": "Throttle full at",
    "throttle_start_v": "Throttle starts at",
    "torque_nm_per_v": "Torque per volt",
}


def field_label(name: str, own: str = "") -> str:
    """Return the label of a field of a part: its own, the usual one, or its name without the
    unit."""
    if own or name in LABELS:
        return own or LABELS[name]
    words = name.replace("_", " ").capitalize()
    if shown_unit(name):
        return words.rsplit(" ", 1)[0]
    return words
