"""Holds a lamp that was set to 0 %, to 100 %, to half and to rest, ten milliseconds each, against what its pin did."""

import sys

_, rest = open(sys.argv[1]).read().split("$enddefinitions $end\n")
time, changes = 0, []
for line in rest.splitlines():
    if line.startswith("#"):
        time = int(line[1:])
    elif line[:1] in "01":
        changes.append((time, int(line[0])))
end, ms = time, 1_000_000_000
spans = [(start, (changes[place + 1][0] if place + 1 < len(changes) else end) - start, level)
         for place, (start, level) in enumerate(changes)]
# A period is a millisecond: whatever stays longer is constant.
constant = [(level, length) for _, length, level in spans if length > 2 * ms]
assert [level for level, _ in constant] == [0, 1, 0], constant
assert all(length > 7 * ms for _, length in constant), constant
halves = [length for start, length, level in spans if level == 1 and length < ms]
assert halves and halves.count(ms // 2) >= 8, halves
print("a lamp is off at 0 %, on at 100 %, half on between, and off at rest: no spike, no gap")
