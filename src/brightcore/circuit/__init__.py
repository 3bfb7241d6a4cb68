"""Elements, netlist, faults and conditions, and the batched DC solver."""
