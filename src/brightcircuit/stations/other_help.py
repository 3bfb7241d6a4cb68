"""Help at the pages that are of no station: the Bench, bikes, parts, the shop, Practice."""

from brightcircuit.stations.help import Help

_FILES = "What a file left out: it is asked for where it decides something."

PAGES: dict[str, Help] = {
    "bench": Help(
        "Every job with its small Line and the one next thing to do on it.",
        "What was stored of each job when it was last changed.",
        "Open the topmost, or take a bike in with New job.",
        "How busy a day will be: see The day.",
        ("the Line", "danger"),
    ),
    "find": Help(
        "Every job, bike, reading, note and file in which your words stand.",
        "What was written and read in this shop; riders' names only for a shop lead.",
        "Type a word, a frame number or an error code.",
    ),
    "numbers": Help(
        "What fails here, what was right the first time, how long jobs take, what came back.",
        "The closed jobs of this shop.",
        "Compare the purposes; look at what came back.",
        "Jobs of which nobody said what they were for.",
    ),
    "day": Help(
        "Who does which job today, in which order, and what will be late.",
        "Promised dates, minutes to go as the stations reckon them, and what waits.",
        "Begin with your topmost; move, hand over or take a job with one press.",
        "What comes in at the door.",
    ),
    "bike-history": Help(
        "A bike's years: visits, what was measured each time, settings that were changed.",
        "The jobs of the bike in this shop.",
        "Look for a curve that falls: pack, volts of a sensor, winding.",
    ),
    "job-new": Help(
        "A job: which bike, the complaint, and what the rider tells.",
        "What you type; the words of the complaint suggest what to tick.",
        "Choose the bike, write the complaint as the rider says it.",
        "What nobody has asked the rider: Trace asks for it later.",
        ("told",),
    ),
    "job-import": Help(
        "A job of another shop, with its bike, readings and record.",
        "A job file of Bright Circuit.",
        "Choose the file; everything that is wrong in it is named by its line.",
        "Photos are not in it.",
    ),
    "bikes": Help(
        "The bikes of the shop by name, with when each was here last.",
        "What was described or came in as a file.",
        "Choose one, or describe a new one from a template.",
    ),
    "bikes-first": Help(
        "How the bikes of a new shop come in.",
        "Templates, bike files, or a list from a spreadsheet.",
        "Take the list if you have one; the rest comes with each job.",
    ),
    "bike-list-import": Help(
        "Many bikes at once from a list.",
        "A CSV file with label, frame number and template in its columns.",
        "Choose the file; lines that cannot be read are named.",
        _FILES,
    ),
    "bike-import": Help(
        "One bike with its parts, plugs and wiring.",
        "A bike file of Bright Circuit.",
        "Choose the file.",
        _FILES,
    ),
    "bike": Help(
        "One bike: its Line, its jobs, its descriptions, how to reach the rider.",
        "What was described and what was done here.",
        "Begin a job, or describe what is missing.",
        terms=("the Line",),
    ),
    "bike-new": Help(
        "A new bike as its template has it; everything in it is usual until it is read.",
        "Templates of the trade.",
        "Choose the template that is nearest, then change what differs.",
        "What its labels say, until you type it.",
    ),
    "describe": Help(
        "What a bike is made of and how it is connected.",
        "The library of parts, and what you read off labels.",
        "Swap what differs; type the values that matter: volts, amp-hours, amps.",
        "What nobody has read yet counts as usual, and is told so.",
        ("rating, load, margin",),
    ),
    "describe-part": Help(
        "One part of a bike: its values, its plugs, and what may stand in its place.",
        "Its label, and the library.",
        "Type what its label says.",
    ),
    "bike-compare": Help(
        "What differs between two descriptions of a bike.",
        "The stored descriptions; none is ever lost.",
        "Choose two; one may be put back on the bike's page.",
    ),
    "library": Help(
        "Parts with their plugs and values, shipped ones and your own.",
        "Usual parts of the trade; what your shop added.",
        "Look for the nearest and copy it.",
    ),
    "library-new": Help(
        "A part of your own.",
        "Its kind, its plugs, its label.",
        "Choose the kind; then its plugs and values.",
    ),
    "library-part": Help(
        "One part of the library: values, plugs, limits.",
        "Its label, or what is usual for its kind.",
        "Change what differs and save it as your own.",
    ),
    "library-import": Help(
        "Parts of another shop.",
        "A parts file of Bright Circuit, or a table.",
        "Choose the file; nothing of yours is overwritten.",
    ),
    "stock": Help(
        "What lies on the shelf, and what is to be ordered.",
        "Counts of the shop, less what was put on jobs.",
        "Set the least number; what falls below is told.",
    ),
    "preferences": Help(
        "How the pages look to you: brightness, units, decimals, dates, text, single keys.",
        "Your own choices; nobody else's pages change.",
        "Choose, then save.",
    ),
    "shop-tests": Help(
        "How long each kind of test takes in this shop, and which it does.",
        "Usual minutes of the trade.",
        "Change what is slower or quicker here: Trace proposes by it.",
    ),
    "meters": Help(
        "The meters of the shop, with how they load a circuit and how exact they are.",
        "Figures of their sheets.",
        "Add the one you read with, then choose it on Trace.",
        "How old its battery is.",
    ),
    "password": Help(
        "Your own password.",
        "What only you know.",
        "Type the present one, then the new one twice.",
    ),
    "people": Help(
        "Who signs in here, and what each may do.",
        "A shop lead adds people and sets roles.",
        "Add a person with a password to begin with; it is changed at the first sign-in.",
    ),
    "shop": Help(
        "Name, place, time zone, money, labour and tax of the shop.",
        "What a shop lead types.",
        "Say what an hour of labour costs: Match, quotes and bills reckon with it.",
    ),
    "practice": Help(
        "Cases with a hidden fault, on simulated bikes.",
        "The same circuit that Trace works with, with its contacts, slips and riders.",
        "Begin with the guided case; then a graded one.",
        "How a plug feels in the hand.",
    ),
    "practice-round": Help(
        "What the simulated bike shows to each act of yours.",
        "Its circuit, with one thing wrong in it.",
        "Look first, then measure; power only what is safe.",
        terms=("told", "known good"),
    ),
    "practice-debrief": Help(
        "What each act told, what it cost, and what another would have told.",
        "Your acts, and the engine's own way through the same case.",
        "Look where the suspects became fewer.",
    ),
    "practice-drills": Help(
        "Short questions on reading, sizing, naming and safety; those that are due come first.",
        "The same rules that Wire, Set and Program work with.",
        "Answer what is due today.",
    ),
    "practice-drill": Help(
        "One question, with its answer and why.",
        "Values drawn anew each time.",
        "Answer, then read the reason.",
    ),
    "practice-progress": Help(
        "How you are doing: cases found, minutes, careless acts, drills.",
        "Your own rounds and answers.",
        "Practise what is weakest.",
    ),
    "practice-progress-of": Help(
        "How one learner is doing.",
        "Their rounds and answers.",
        "See what they should practise next.",
    ),
    "practice-learners": Help(
        "How the learners of the shop are doing.",
        "Their rounds and answers.",
        "Open one to see more.",
    ),
}
"""Help by the name of a page's address."""
