"""The wiring sheet as PDF: its pages, and the processes that lay it out."""

import io
import os
import re
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from unittest import TestCase
from unittest.mock import Mock, patch

from django.urls import reverse
from pikepdf import Pdf

from brightcircuit.bikes.translate import core_bike
from brightcircuit.engines import paper
from brightcore.drawing.plug_cards import plug_card_pages
from tests.amount import PATIENCE_S
from tests.apps.base import ShopTest


class PdfTest(ShopTest):
    def test_the_pdf_has_its_cards_after_the_drawing(self) -> None:
        """Each page of cards is laid onto the page the sheet leaves for it, and onto no other."""
        made = self.client.get(reverse("wire-pdf", args=(self.job_uuid,))).content
        cards = plug_card_pages(core_bike(self.job.revision), "plugs")
        with Pdf.open(io.BytesIO(made)) as file:
            shown = []
            for k, page in enumerate(file.pages):
                page.contents_coalesce()
                shown.append(f"/Cards{k - 1} Do".encode() in page.Contents.read_bytes())
            self.assertEqual(shown[: len(cards) + 2], [False] + [True] * len(cards) + [False])


class PdfOfferedTest(ShopTest):
    PAGES = ("record", "record-rider", "record-quote", "record-costs", "wire-sheet")

    def test_a_page_that_offers_a_pdf_starts_its_processes_and_says_that_it_comes(self) -> None:
        """The first PDF of a server took sixteen seconds without a word."""
        for name in self.PAGES:
            with self.subTest(page=name):
                paper._warmed.clear()
                processes = Mock()
                with (
                    patch.object(paper, "_processes", return_value=processes),
                    patch.object(paper, "current_process", return_value=Mock(daemon=False)),
                ):
                    page = self.client.get(reverse(name, args=(self.job_uuid,))).content.decode()
                links = [tag for tag in re.findall(r"<a [^>]*>", page) if "pdf" in tag]
                self.assertTrue(links or name == "record-quote", "no PDF is offered here")
                for link in links:
                    self.assertIn("data-slow", link)
                self.assertEqual(processes.submit.call_count, paper.PROCESSES)
        paper._warmed.clear()


class PdfProcessesTest(TestCase):
    CHILD = (
        "if __name__ == '__main__':\n import django\n from multiprocessing import "
        "active_children\n django.setup()\n from brightcircuit.engines.paper import _laid_out\n "
        "print([page[:4] for page in _laid_out(['<p>one', '<p>two'])] == [b'%PDF'] * 2, "
        "flush=True)\n print(*(child.pid for child in active_children()), flush=True)\n input()\n"
    )

    def test_the_processes_that_lay_out_end_with_the_server_however_it_ends(self) -> None:
        with tempfile.NamedTemporaryFile("w", suffix=".py") as script:
            script.write(self.CHILD)
            script.flush()
            server = subprocess.Popen(
                [sys.executable, script.name],
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                env={
                    **os.environ,
                    "PYTHONPATH": "src",
                    "DJANGO_SETTINGS_MODULE": "brightcircuit.settings",
                },
                text=True,
            )
            assert server.stdout is not None
            self.assertEqual(server.stdout.readline(), "True\n")
            children = [int(pid) for pid in server.stdout.readline().split()]
            self.assertEqual(len(children), paper.PROCESSES)
            server.kill()
            server.communicate()
            ended = time.monotonic() + PATIENCE_S
            while any(map(_runs, children)) and time.monotonic() < ended:
                time.sleep(0.05)
            self.assertEqual([pid for pid in children if _runs(pid)], [])


def _runs(pid: int) -> bool:
    """Return whether a process runs: one that has ended and is not yet reaped does not."""
    try:
        state = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0]
    except FileNotFoundError:
        return False
    return state != "Z"
