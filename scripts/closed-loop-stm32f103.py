"""Runs firmware in a simulated STM32F103, and writes what its timers' events make of the pins.

Arguments: firmware, hertz, milliseconds, capture, then TIMER/CHANNEL/PIN=NAME. The simulator counts clocks and takes the
timers' clock to be the core's, which the boards here have so. It has events and no pins: an update begins a
pulse and a compare match ends it, as PWM mode 1 with its output on and its pin handed over says; whether all that is so is
read back from the registers that the firmware left."""

import sys

from labwired import Sim

firmware, hertz, milliseconds, capture, *outputs = sys.argv[1:]
TIMERS = {"tim2": 0x40000000, "tim3": 0x40000400, "tim4": 0x40000800}
PORTS = {"A": 0x40010800, "B": 0x40010C00}
CR1, SR, CCMR1, CCMR2, CCER, CNT, PSC, ARR, CCR = 0x00, 0x10, 0x18, 0x1C, 0x20, 0x24, 0x28, 0x2C, 0x34
HZ = int(hertz)
# What the simulator takes a second to be.
CORE_HZ = 72_000_000


class Output:
    """One channel of a timer."""

    def __init__(self, text, mark):
        place, self.name = text.split("=")
        timer, channel, pin = place.split("/")
        self.timer, self.channel, self.port, self.bit = timer, int(channel), PORTS[pin[0]], int(pin[1:])
        self.mark, self.level, self.edges = mark, 0, []

    def is_made(self, sim):
        """Whether the registers hand the pin to the channel, in PWM mode 1."""
        base, place = TIMERS[self.timer], self.channel - 1
        mode = sim.read_u32(base + (CCMR1 if place < 2 else CCMR2)) >> (8 * (place % 2)) & 0x7F
        output = sim.read_u32(base + CCER) >> (4 * place) & 0x3
        pin = sim.read_u32(self.port + 4 * (self.bit // 8)) >> (4 * (self.bit % 8)) & 0xF
        running = sim.read_u32(base + CR1) & 1
        return mode >> 4 & 7 == 6 and mode & 3 == 0 and output & 1 and pin >> 2 == 2 and pin & 3 and running

    def quiet(self, sim):
        """So many clocks pass before the counter comes near its next event."""
        base = TIMERS[self.timer]
        if not sim.read_u32(base + CR1) & 1:
            return 1
        count, top, compare = (sim.read_u32(base + offset) for offset in (CNT, ARR, CCR + 4 * (self.channel - 1)))
        ticks = min(compare - count if compare > count else top, top - count)
        return max(1, (ticks - 1) * (sim.read_u32(base + PSC) + 1))

    def is_inverted(self, sim):
        """Whether the pin is low in a pulse."""
        return sim.read_u32(TIMERS[self.timer] + CCER) >> (4 * (self.channel - 1)) & 2 != 0

    def sees(self, flags, now):
        """What an update and a match in one sample leave is a pulse shorter than that."""
        for event, level in ((1, 1), (1 << self.channel, 0)):
            if flags & event and self.level != level:
                self.level = level
                self.edges.append((now, level))


outputs = [Output(text, chr(33 + place)) for place, text in enumerate(outputs)]
bases = {output.timer: TIMERS[output.timer] for output in outputs}
with Sim(firmware, chip="stm32f103") as sim:
    end = int(float(milliseconds) * HZ / 1000)
    while sim.cycles < end:
        sim.run_for(min(output.quiet(sim) for output in outputs) / CORE_HZ)
        for timer, base in bases.items():
            flags = sim.read_u32(base + SR) & 0x1F
            if flags:
                sim.write_u32(base + SR, 0)
                for output in outputs:
                    if output.timer == timer:
                        output.sees(flags, sim.cycles)
    edges, start = [], ""
    for output in outputs:
        assert output.is_made(sim), f"the registers do not make {output.name}"
        inverted = output.is_inverted(sim)
        start += f"{int(inverted)}{output.mark}\n"
        edges += [(now, f"{level ^ inverted}{output.mark}") for now, level in output.edges]
edges.sort()
with open(capture, "w", encoding="ascii") as file:
    head = "".join(f"$var wire 1 {output.mark} {output.name} $end\n" for output in outputs)
    picoseconds = [round(cycles * 1e12 / HZ) for cycles in (*(time for time, _ in edges), end)]
    file.write(f"$timescale 1 ps $end\n{head}$enddefinitions $end\n#0\n{start}")
    file.writelines(f"#{time}\n{change}\n" for time, (_, change) in zip(picoseconds, edges))
    file.write(f"#{picoseconds[-1]}\n")
