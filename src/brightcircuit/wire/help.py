"""Help at the pages of Wire."""

from brightcircuit.stations.help import Help

HELP = {
    "wire": Help(
        "Which plug belongs to which, and what is wrong with what is connected.",
        "Pins, roles, connector types and wires of the description; the rules of wiring.",
        "Press the badge of what is proposed, or choose a plug and then its mate.",
        "What a plug carries that nobody has described: identify it first.",
        ("danger", "cut-off", "hall", "phase", "mirror-image pair"),
    ),
    "wire-pins": Help(
        "Every connection with its pins, to look at, change or disconnect; all of them as a file.",
        "The description of the bike.",
        "Open a connection to note colours, contacts or another pin map.",
    ),
    "wire-routes": Help(
        "Whether every cable reaches, with slack where the bike moves.",
        "Stretches of a usual frame of this kind, or measured ones, and the length of each cable.",
        "Measure what is marked as not known.",
        "Bent frames, bags, child seats.",
        ("drip loop",),
    ),
    "first-power-up": Help(
        "The fewest connections with which the motor must turn.",
        "The circuit of this bike, with each connection opened in turn.",
        "Connect these only, wheel up, then look.",
        "Faults inside parts.",
        ("first power-up",),
    ),
    "wire-order": Help(
        "The way from the bike as it stands to the bike as it shall be, step by step.",
        "The difference of the two descriptions, and the circuit; the order is common practice.",
        "Tick what is done; it then counts as being on the bike. The next step is marked.",
    ),
    "wire-sheet": Help(
        "The whole wiring on paper: drawing, plug cards, joints, cut list.",
        "The description of the bike as it shall be.",
        "Print it and take it to the bike.",
    ),
    "wire-cards": Help(
        "Each plug with its face, its pins, colours and the volts to expect.",
        "The description of the bike; volts from its circuit, healthy.",
        "Hold the meter to the pins of the card in front of you.",
        "Faces that nobody has checked: they say so.",
    ),
    "wire-lists": Help(
        "What to cut, which joints to make and how long they take, where to tie.",
        "The routes of the cables and the connector types.",
        "Cut nothing before a length marked as not known is measured.",
    ),
    "wire-size": Help(
        "How thick a wire must be, and how warm each wire of this bike gets.",
        "Current, length, ambient and drop; resistance of copper.",
        "Put in current and length of one way; both wires are counted.",
        "Bundles and closed bags: take one size more.",
    ),
}
