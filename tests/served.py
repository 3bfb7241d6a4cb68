"""An application behind the server that serves it, in a thread of its own, ended in order."""

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from waitress import create_server

Application = Callable[[dict[str, Any], Any], Any]


@contextmanager
def served(application: Application, **options: Any) -> Iterator[str]:
    """Serve an application on a free port and yield its address.

    Its sockets are closed by their own thread's end, never under it: a number of a closed socket is
    given to the next file that is opened, and a thread still at work would write into that.
    """
    server = create_server(application, host="127.0.0.1", port=0, **options)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    try:
        yield f"http://127.0.0.1:{server.effective_port}/"
    finally:
        open_ones = list(server._map.values())
        server.trigger.pull_trigger(server._map.clear)  # the loop ends where nothing is left
        thread.join()
        server.task_dispatcher.shutdown()
        for one in open_ones:
            one.close()
