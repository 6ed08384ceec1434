// Runs firmware in the memory of a simulated RP2040, and writes what its pins did.
// node closed-loop-rp2040.mjs PACKAGES FIRMWARE MILLISECONDS CAPTURE PIN=NAME...
import { createRequire } from 'node:module';
import { readFileSync, writeFileSync } from 'node:fs';

const [packages, firmware, milliseconds, capture, ...pins] = process.argv.slice(2);
const { Simulator, GPIOPinState } = createRequire(`${packages}/`)('rp2040js');

const { rp2040: chip, clock } = new Simulator();
chip.logger = { debug() {}, info() {}, warn() {}, error(name, text) { throw new Error(`${name}: ${text}`); } };
chip.sram.set(readFileSync(firmware), 0);
chip.core.SP = 0x20040000;
chip.core.PC = 0x20000000;

// Edges in picoseconds: a fractional divider of this simulator makes them between clocks.
const edges = [];
const traces = pins.map((pin, place) => {
  const [number, name] = pin.split('=');
  const mark = String.fromCharCode(33 + place);
  chip.gpio[number].addListener((state) => {
    const level = state === GPIOPinState.High ? 1 : 0;
    edges.push([Math.round(clock.nanos * 1000), `${level}${mark}`]);
  });
  return { name, mark };
});

const end = Number(milliseconds) * 1e6;
while (clock.nanos < end) {
  const cycles = chip.core.executeInstruction();
  clock.tick((cycles * 1e9) / chip.clkSys);
}

const head = traces.map(({ name, mark }) => `$var wire 1 ${mark} ${name} $end\n`).join('');
const start = traces.map(({ mark }) => `0${mark}\n`).join('');
let text = `$timescale 1 ps $end\n${head}$enddefinitions $end\n#0\n${start}`;
for (const [time, change] of edges) text += `#${time}\n${change}\n`;
writeFileSync(capture, `${text}#${Math.round(end * 1000)}\n`);
