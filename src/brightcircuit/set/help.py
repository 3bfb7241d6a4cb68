"""Help at the pages of Set."""

from brightcircuit.stations.help import Help

HELP = {
    "set": Help(
        "What is to be measured and brought in range on this bike, and where each stands.",
        (
            "The parts of the bike; readings you take, against usual values and what the "
            "controller is set to."
        ),
        "Open one, do the one thing it asks, type what you read; it says what to change.",
        "Parts that are not described, and figures that only their maker knows.",
        ("cut-off", "hall", "phase"),
    ),
}
