"""Computation of Bright Circuit: one description of an e-bike's circuit, many uses.

Pure Python without Django. Only `formats` and `__main__` touch files.
"""
