"""Help at the page of Record."""

from brightcircuit.stations.help import Help

HELP = {
    "record": Help(
        "What was done, measured, changed and proven, as one sheet.",
        "Everything written on this job.",
        "Answer the root cause, then close the job.",
        terms=("proof", "round"),
    ),
}
