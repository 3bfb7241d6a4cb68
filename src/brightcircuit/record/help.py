"""Help at the page of Record."""

from brightcircuit.stations.help import Help

HELP = {
    "record": Help(
        "What was done, measured, changed and proven, as one sheet.",
        "Everything written on this job.",
        "See to what is open, answer the root cause, then close the job.",
        terms=("proof", "round"),
    ),
    "record-rider": Help(
        (
            "What the rider takes along: what was done, what to know, the first ride, charging, "
            "when next."
        ),
        "What was done and proven on this job, what was let go, and what the bike has.",
        "Read it through, print it, hand it over with the bike.",
        "What was agreed by word of mouth.",
    ),
    "record-quote": Help(
        "The ways to go on, offered side by side: repair, replace, rescue.",
        "What parts and an hour cost in your shop.",
        (
            "Start from a proposal, put in your own figures, offer it; then say what the "
            "customer decided."
        ),
        "Taxes: amounts are as you type them.",
    ),
    "record-costs": Help(
        "What was put on this job: parts, labour, anything else, and what the shop answers for.",
        "The order of work and the readings, which know the minutes.",
        "Put labour on by what was done, parts from the shelf, and the rest by hand.",
        "Taxes, and payment.",
    ),
}
