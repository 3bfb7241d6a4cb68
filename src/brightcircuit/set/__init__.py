"""Set: instruments with which sensors, cut-offs, packs and motors are measured and brought in
range."""
