"""Serve the app with waitress."""

import os
import signal
import subprocess
import sys
from argparse import ArgumentParser
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand

from brightcircuit.shop.first_run import code
from brightcircuit.shop.people import is_empty
from brightcircuit.shop.serving import free_port, holding, proxy_options

USUAL_PORT = 8017

THREADS = 8
"""Requests at work at once. They share one processor, as threads do: with few of them a page
that takes a tenth of a second would wait behind four that take seconds."""

SWITCH_S = 0.0005
"""How long a thread may hold the interpreter while others wait: the predictions, which let go of it
at every step, would otherwise stand still under many requests."""


class Command(BaseCommand):
    """Bring the data up to date, then serve with one process and a few threads: enough for a shop
    on SQLite."""

    help = "Serve the app on localhost, or on --host for tablets of the shop."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--host", default="127.0.0.1")
        parser.add_argument("--port", type=int, help=f"default {USUAL_PORT}")

    def handle(self, *args: Any, **options: Any) -> None:
        with holding("start another"):
            host, port = options["host"], options["port"]
            if port is None and settings.DEMO:
                # Another demo may run beside this one; a shop's own server keeps its address.
                port = free_port(host, USUAL_PORT)
            self._serve(host, port or USUAL_PORT)

    def _serve(self, host: str, port: int) -> None:
        from waitress import create_server

        from brightcircuit.shop.upgrade import bring_up_to_date

        bring_up_to_date(self.stdout.write)
        if settings.DEMO:
            from brightcircuit.demo.load import load_demo

            if load_demo():
                self.stdout.write("Demo data loaded.")
        from brightcircuit.engines.warm import warm_engines
        from brightcircuit.shop.daily import keep_backing_up
        from brightcircuit.wsgi import application

        if host not in ("127.0.0.1", "localhost", "0.0.0.0") and host not in settings.ALLOWED_HOSTS:
            settings.ALLOWED_HOSTS.append(host)
        sys.setswitchinterval(SWITCH_S)
        server = create_server(
            application,
            host=host,
            port=port,
            threads=THREADS,
            ident=None,
            **proxy_options(settings.TRUSTED_PROXY),
        )
        warm_engines()
        if not settings.DEMO:
            keep_backing_up()
        self.stdout.write(
            f"Bright Circuit is at http://{'localhost' if host == '127.0.0.1' else host}:{port}/"
        )
        if settings.DEMO:
            self.stdout.write(
                "Sign in as quill (technician) or lead (lead), password lantern-yard."
            )
        if is_empty():
            self.stdout.write(
                f"The shop is new. From another machine its first page asks for this code: {code()}"
            )
        self.stdout.write("Stop with Ctrl+C.")
        self.stdout.flush()
        signal.signal(signal.SIGTERM, signal.default_int_handler)
        if settings.DEMO:
            devices = self._start_devices()
        else:
            devices = None
        try:
            server.run()
        except KeyboardInterrupt:
            self.stdout.write("Stopped.")
        finally:
            if devices is not None:
                devices.terminate()

    def _start_devices(self) -> subprocess.Popen[bytes] | None:
        """Start the stand-in, so that there is something to link to."""
        where, _, wanted = settings.STANDIN.rpartition(":")
        if where != "tcp:127.0.0.1" or not wanted.isdigit():
            return None
        port = str(free_port("127.0.0.1", int(wanted)))
        settings.STANDIN = f"{where}:{port}"
        self.stdout.write(f"Simulated controllers answer at {settings.STANDIN}")
        self.stdout.flush()
        command = [sys.executable, "-m", "brightcircuit.link.standin", "--tied", "--port", port]
        paths = os.pathsep.join(path for path in sys.path if path)
        return subprocess.Popen(
            command, env=os.environ | {"PYTHONPATH": paths}, stdout=subprocess.DEVNULL
        )
