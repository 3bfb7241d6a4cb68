"""Help at the page of Record."""

from brightcircuit.stations.help import Help

HELP = {
    "record": Help(
        "What was done, measured, changed and proven, as one sheet.",
        "Everything written on this job.",
        "Answer the root cause, then close the job.",
        terms=("proof", "round"),
    ),
    "record-rider": Help(
        "What the rider takes along: what was done, the first ride, charging, what to watch, when next.",
        "The repairs and changes of this job, and what is fitted.",
        "Read it through, print it, hand it over with the bike.",
        "What was agreed by word of mouth.",
    ),
}
