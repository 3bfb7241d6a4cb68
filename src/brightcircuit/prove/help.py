"""Help at the pages of Prove."""

from brightcircuit.stations.help import Help

HELP = {
    "prove": Help(
        "What has to be shown before hand-over, from what was done and what that disturbed.",
        (
            "The purposes, the changes that are done, repairs, what was set and entered, and "
            "what is there."
        ),
        "Make one check after the other; where it is not so, go where it says and prove it again.",
        "What nobody told: a part that was changed and not said to be done is not on the list.",
        ("proof", "cut-off"),
    ),
    "prove-rides": Help(
        "Distance, energy for each kilometre, sag, heat and shown speed of a ride, from its log.",
        "The places, times, volts and amps of the file; gaps and jumps are left out and told.",
        "Choose the file; correct the circumference where shown speed and GPS differ.",
        "Wind and load; what the log does not hold.",
        ("sag",),
    ),
}
