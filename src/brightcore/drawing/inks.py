"""Every colour of the drawings. State is never by colour alone: marks, widths and words say it
too."""

PANEL = "#101a2b"
"""The dark panel of the Line."""

LIT, DIM, SUSPECT, FAULT = "#ffc14a", "#7f93b2", "#ffe2a6", "#ff8a80"
"""Stretches of the Line by what is known of them."""

PANEL_TEXT = "#f3efe6"
PROBE_RED, PROBE_BLACK = "#e23b2e", "#05080d"
PROBE_RED_LEAD, PROBE_BLACK_LEAD = "#ff6a5c", "#ffffff"
WHITE = "#ffffff"

INK, PAPER = "#101a2b", "#ffffff"
"""Sheets that are printed."""

QUIET = "#8a8577"
MARK_RED = "#c2281d"

CHART_INK, CHART_GRID = "#17202e", "#d8cfba"
CHART_STROKES = (("#b26a00", ""), ("#1c5d99", "9 5"), ("#2f6b3a", "3 4"), ("#7a3e8e", "12 4 3 4"))
"""Lines of a chart: colour and dashes."""

CHART_LOAD = ("#5b5645", "2 3")
"""What the road asks for: thin and grey."""

OVER, FILL, COPPER = "#c8281e", "#ffb52e", "#b87333"
"""More than a limit; the share used of one; the wire of the chain."""

HUES = {
    "red": "#b3261c",
    "black": INK,
    "blue": "#1d4fa3",
    "green": "#1f6f3a",
    "yellow": "#8f6a00",
    "white": "#6b6b6b",
    "orange": "#b35300",
    "brown": "#6b4226",
    "grey": "#5c5c5c",
    "violet": "#63389a",
    "purple": "#63389a",
    "pink": "#a83f7c",
}
"""Colours of wires as drawn: dark enough for white paper."""
