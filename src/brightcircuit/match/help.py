"""Help at the pages of Match."""

from brightcircuit.stations.help import Help

HELP = {
    "match": Help(
        "Which part along the current path carries least for what is asked of it.",
        "Ratings of pack, leads, plugs, controller and motor, and the limit that is set.",
        "Look at the weakest link; then at what fails.",
        "Ratings nobody has entered are usual figures, and say so.",
        ("rating, load, margin", "sag"),
    ),
    "match-ride": Help(
        "Speed, climb, heat and range of this bike, and of variants beside it.",
        "Motor constants, pack, wheel, rider, wind and road; drag and rolling of usual bikes.",
        "Put in rider, hill and route; then compare with another part.",
        "Changing wind, soft tyres, aged cells: a ride log corrects it.",
        ("sag",),
    ),
    "match-curves": Help(
        "The same ride as curves: power at the wheel, speed on a grade, heat of the winding.",
        "What is entered on Ride.",
        "Look where the curve of the road crosses that of the motor: there it rides.",
    ),
    "match-class": Help(
        "Which legal class of a place the bike fits, and what would have to change.",
        "Power, speed, throttle and pedals as described, and a table of classes.",
        "Choose the place; local rules decide, not this page.",
        "By-laws, insurance and type approval.",
        ("class",),
    ),
    "match-packs": Help(
        "What several packs do together, and how worn one is.",
        "Their volts, cells and connection; two readings under load; a discharge log.",
        "Measure both packs rested before they are connected.",
        "Cells of different age inside one pack.",
        ("BMS", "sag"),
    ),
    "match-cost": Help(
        "What repair, exchange and replacement cost now and per kilometre.",
        "Parts, minutes and life, to begin with usual ones; your own win.",
        "Put in your rate and prices.",
        "Parts a maker has locked or no longer sells.",
    ),
    "space": Help(
        "Whether parts go where they are meant to go.",
        "Sizes of parts and of bag, triangle, cover, hole and bar, as measured.",
        "Measure what is asked for.",
        "Bends of stiff cables, and plugs with boots.",
    ),
}
