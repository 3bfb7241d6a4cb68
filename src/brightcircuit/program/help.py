"""Help at the pages of Program."""

from brightcircuit.stations.help import Help

HELP = {
    "program": Help(
        (
            "What every device should be set to and why, one parameter at a time, with the keys "
            "to press."
        ),
        "The bike, what Set measured, what the bike is to be, and what you read on the device.",
        "Press the keys shown, look at what the device shows, tap what it reads.",
        (
            "A menu whose profile is not here; values that nothing on the bike decides stay as "
            "they are."
        ),
        ("class", "low-voltage cut-off", "pole pairs"),
    ),
    "program-link": Help(
        "What a device says over its link: read, compared, written and read back, live, learnt.",
        "The registers of its profile; nothing is written before you have confirmed the list.",
        "Connect, read all, compare, write the chosen ones, save on the device.",
        "What is not known after a link dropped; it is said, and read first when you go on.",
        ("low-voltage cut-off", "pole pairs", "hall"),
    ),
    "program-checks": Help(
        "What the values of all devices mean together, and what the bike is to be.",
        "The values read so far, the parts and the class of the place.",
        "See to what is found; say what the bike is to be where it is asked otherwise.",
        "Values that nobody has read; they are not guessed.",
        ("class",),
    ),
    "program-snapshots": Help(
        "All values of a device at a time, kept, compared and wanted again.",
        "The values as they were known when the snapshot was taken.",
        "Take one before and after the work; choose two to see what differs.",
        "Values that nobody had read.",
        (),
    ),
    "program-profiles": Help(
        "The menus and registers that are known here, and your shop's own.",
        "Profile files: codes, names, units, limits, what each is for, how it is reached.",
        "Download one that is near, change it, and add it under a name of its own.",
        "Whether a device of yours really is like its profile: look at its menu first.",
        (),
    ),
}
