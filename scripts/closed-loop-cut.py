"""Takes away what a dump has before a time, in its own unit, and says what the levels were then."""

import sys

path, cut = sys.argv[1], int(sys.argv[2])
head, rest = open(path).read().split("$enddefinitions $end\n")
kept, levels, time = [], {}, 0
for line in rest.splitlines():
    time = int(line[1:]) if line.startswith("#") else time
    if time >= cut:
        kept.append(line)
    elif line[:1] in "01x":
        levels[line[1:]] = line
before = [f"#{cut}", *levels.values()] if cut else []
open(path, "w").write("\n".join([head + "$enddefinitions $end", *before, *kept]) + "\n")
