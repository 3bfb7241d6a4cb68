"""Help at the pages of Trace."""

from brightcircuit.stations.help import Help

HELP = {
    "trace": Help(
        "What is broken, and what to measure next: the test that tells most in a minute.",
        (
            "The circuit of this bike, healthy and with every fault it could have, against what "
            "was measured."
        ),
        "Do the one thing at the top, or enter any other reading.",
        "Parts that are not described: it asks when nothing fits.",
        ("the Line", "suspect", "known good", "proof", "round"),
    ),
}
