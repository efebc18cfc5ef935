"""Physics, one subject per file: SI in, SI out, source in every docstring."""
