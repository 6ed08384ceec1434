"""Holds the pulses of a servo that was moved over its whole travel, a degree at a time, against a straight line.

Arguments: the dump, the pulses at both ends in microseconds, the degrees between them. Every degree has its pulse, no
pulse is between two of them, and each is within one step of the counter (here 40 ns) of the line."""

import sys

path, low, high, degrees = sys.argv[1], *map(int, sys.argv[2:5])
_, rest = open(path).read().split("$enddefinitions $end\n")
time, rise, pulses = 0, None, []
for line in rest.splitlines():
    if line.startswith("#"):
        time = int(line[1:])
    elif line[0] == "1":
        rise = time
    elif line[0] == "0" and rise is not None:
        pulses.append(time - rise)
        rise = None
# The first ones are those that the firmware started with.
first = pulses.index(min(pulses))
seen = []
for pulse in pulses[first:]:
    if not seen or pulse != seen[-1]:
        seen.append(pulse)
assert len(seen) == degrees + 1, (len(seen), seen[:5])
for degree, pulse in enumerate(seen):
    exact = (low * degrees + (high - low) * degree) * 1_000_000 / degrees
    assert abs(pulse - exact) <= 40_000, (degree, pulse, exact)
print(f"{len(seen)} levels of a servo, each within a step of its pulse")
