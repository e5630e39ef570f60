"""Fault finding: what may be wrong along the way from a thumb to a lamp, a simulated build with it in, and the shortest way to why."""
