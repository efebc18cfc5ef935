"""Tools of the developers: generated files, screenshots, timings."""
