"""Runs what emitted C does at start on a simulated PIC, and writes what two of its pins did.

Arguments: the source, the processor, hertz, instruction cycles, capture, then BIT=NAME of port C. Debian has no compiler for
this family, and the simulator does not switch SCS on this part, so that boards run from the crystal: the statements of the start function are assembled one by one, and one that is not of the kinds that are known
here stops it."""

import pathlib
import re
import subprocess
import sys

source, processor, hertz, cycles, capture, *pins = sys.argv[1:]
work = pathlib.Path(source).parent
pins = [(int(pin.split("=")[0]), pin.split("=")[1], chr(33 + place)) for place, pin in enumerate(pins)]
NUMBER = r"0x([0-9A-F]+)U"
READ = rf"\w+_READ\(8, {NUMBER}\) & {NUMBER}"
KINDS = [
    (rf"\w+_WRITE\(8, {NUMBER}, {NUMBER}\);", "movlw {1}|movwf {0}, 0"),
    (rf"\w+_WRITE\(8, {NUMBER}, {READ}\);", "movf {1}, W, 0|andlw {2}|movwf {0}, 0"),
    (rf"\w+_WRITE\(8, {NUMBER}, \({READ}\) \| {NUMBER}\);", "movf {1}, W, 0|andlw {2}|iorlw {3}|movwf {0}, 0"),
    (rf"while \(\({READ}\) != {NUMBER}\) {{", "movf {0}, W, 0|andlw {1}|xorlw {2}|btfss STATUS, Z, 0|bra $-8"),
]


def assembled(statement):
    """The instructions of one statement."""
    for pattern, instructions in KINDS:
        found = re.fullmatch(pattern, statement)
        if found:
            return instructions.format(*(f"0x{number}" for number in found.groups())).split("|")
    raise SystemExit(f"no instructions are known for `{statement}`")


text = pathlib.Path(source).read_text(encoding="utf-8")
body = re.search(r"void \w+_start\(void\)\n\{\n(.*?)\n\}\n", text, re.S).group(1)
body = re.sub(r"/\*.*?\*/", "", body, flags=re.S).split("\n")
statements = [line.strip() for line in body if line.strip() not in ("", "}")]
# What the code relies on is programmed with it; the watchdog is off.
header = pathlib.Path(source).with_suffix(".h").read_text(encoding="utf-8")
words = {"CONFIG2H": 0x1E}
for name, value in re.findall(r"relies on (CONFIG\d[LH]) = 0x([0-9A-F]+) under", header):
    words[name] = int(value, 16)
configured = [f"__CONFIG _{name}, {value:#x}" for name, value in words.items()]
# So many that hardly a sample falls on the jump, which takes two cycles.
waiting = ["nop"] * 2000
program = [*configured, "org 0", *(line for statement in statements for line in assembled(statement)), "here:", *waiting, "goto here", "end"]
lines = [line if line.endswith(":") else f"\t{line}" for line in program]
head = f"\tlist p={processor}\n#include <p{processor}.inc>\n"
(work / "firmware.asm").write_text(head + "\n".join(lines) + "\n", encoding="ascii")
subprocess.run(["gpasm", "-q", "-w", "2", "-p", processor, "firmware.asm"], cwd=work, check=True)
steps = "step 1\nportc\ncycles\n" * int(cycles)
(work / "run.stc").write_text(f"load s firmware.cod\nfrequency {hertz}\n{steps}quit\n", encoding="ascii")
run = ["timeout", "60", "gpsim", "-i", "-c", "run.stc"]
log = subprocess.run(run, cwd=work, check=True, capture_output=True, text=True).stdout
samples = re.findall(r"^portc = 0x([0-9a-fA-F]+)\n(\d+) = ", log, re.M)
assert len(samples) == int(cycles), log[-2000:]
nanoseconds = 4e9 / int(hertz)
changes, known = [], None
for value, cycle in samples:
    levels = [int(value, 16) >> bit & 1 for bit, _, _ in pins]
    if levels != known:
        changed = [f"{level}{mark}\n" for place, (level, (_, _, mark)) in enumerate(zip(levels, pins))
                   if known is None or known[place] != level]
        changes.append(f"#{round(int(cycle) * nanoseconds)}\n{''.join(changed)}")
        known = levels
head = "".join(f"$var wire 1 {mark} {name} $end\n" for _, name, mark in pins)
end = round(int(samples[-1][1]) * nanoseconds)
pathlib.Path(capture).write_text(f"$timescale 1 ns $end\n{head}$enddefinitions $end\n{''.join(changes)}#{end}\n", encoding="ascii")
