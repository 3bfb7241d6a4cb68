"""A benchmark by strangers: true bikes that share no solver, meter, behaviour or list of faults
with the engine that it judges."""
