"""Diagnosis engines: holders in memory, the worker, the cache of predictions, the belief of a
job."""
