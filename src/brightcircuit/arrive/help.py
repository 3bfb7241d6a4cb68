"""Help at the pages of Arrive."""

from brightcircuit.stations.help import Help

HELP = {
    "arrive": Help(
        "Whether anything on this bike may be switched on, charged or measured.",
        "Six questions about each pack, and every rule of wiring and fit run over the description.",
        "Answer the six questions; any yes is a quarantine that only a shop lead lifts.",
        (
            "What the description does not have: look at the bike, then correct it under What is "
            "fitted."
        ),
        ("danger", "BMS"),
    ),
    "arrive-plan": Help(
        "What the job is for, for when, who has it, and what it has changed so far.",
        "What you say here; the purpose decides what is proven at the end.",
        "Tick the purposes; then promise a day.",
        "How long parts take to come.",
    ),
    "arrive-found": Help(
        "What moves the ranking before anything is measured.",
        "What happened before, what is seen on wires and plugs, and what the rider tells.",
        "Tick only what is certain; a photo helps whoever works on it next.",
        "How much each tick weighs is common practice, until enough jobs of this shop are proven.",
        ("told", "suspect"),
    ),
    "arrive-fitted": Help(
        "Every part with its plugs, pins, colours and the volts to expect there.",
        "The description of the bike that this job uses.",
        "Compare it with the bike; change the description where they differ.",
        "A part that is not described is neither checked nor suspected.",
    ),
}
