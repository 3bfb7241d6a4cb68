"""Computation of Bright Circuit: one description of an e-bike's circuit, many uses.

Pure Python without Django. Only `formats` and `__main__` touch files.
"""

import os

for _library in ("OPENBLAS", "OMP", "MKL", "BLIS"):
    # The systems are small and many: more threads a solve only wait for each other
    # (docs/benchmarks.md).
    os.environ.setdefault(f"{_library}_NUM_THREADS", "1")
