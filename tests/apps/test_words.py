"""Words that must not come back: one act has one name on every page, message and in every
finding."""

from pathlib import Path

from django.test import SimpleTestCase

SOURCE = Path(__file__).parents[2] / "src"

GONE = (
    "Ways of the cables",
    "let go<",
    "Take the joins away",
    "Take it in<",
    "Take apart",
    "Join two plugs yourself",
    "What is left over",
    "Keys for the drawing",
    "Which wire?",
    "May drop",
    "Size it",
    "Three wires nobody knows",
    "What every conductor sees",
    "Stands before powered steps",
    "Nothing tried cures it",
    "Make of plug",
    "Lead it otherwise",
    "First light",
    "Lend a known good",
    "Trouble gone",
    "know where the cut-off is",
    "Offer all",
    "Outside the model",
    "by the book from here",
    "Read and seen",
    "Root cause to watch",
    "Not done after all",
    "trace on<",
    "Keep reading",
    "Keep answers",
    "Keep what",
    ">Keep<",
    '"Kept."',
    "What went before?",
    "than this job stands on",
    "Lift it because",
    "All no<",
    "Take a part file in",
    "Retired ones",
    "What is it most like?",
    "Take it off the bike",
    "Do the parts suit each other?",
    "How it sits in the wind",
    "Minutes on it",
    "Telephone or mail",
    "has let go",
    "another controller it does",
    "Nothing asks the",
    "Part that wire",
    "stands on a wire with",
    "with nothing between them",
    "stand on one wire",
    "What hangs on",
    "nowhere to go",
    "One school",
    "brakes all the time",
    "never brakes",
    "glass dead",
    "zero anew",
    "talking display",
    "drags in lumps",
    "motor matching",
    "end anew",
    "Tidying",
    "keep two fingers off",
    "Led otherwise",
    "offered again",
    "voltage window",
    "hot by itself",
    ">Put it in<",
    ">It has<",
    "joins, and the motor",
    "Nothing is joined",
    "Nothing was kept",
    "roll back after",
    "Taken back: ",
    'f"Join ',
    "Carries alone",
    "Asked for<",
    "Only a lead",
    "Own log of a ride",
    "as it is joined",
)


class WordsTest(SimpleTestCase):
    def test_old_words_do_not_come_back(self) -> None:
        files = [f for kind in ("*.html", "*.py", "*.js") for f in SOURCE.rglob(kind)]
        self.assertGreater(len(files), 300)
        found = [
            (path.relative_to(SOURCE).as_posix(), words)
            for path in files
            for words in GONE
            if "migrations" not in path.parts and words in path.read_text()
        ]
        self.assertEqual(found, [])
