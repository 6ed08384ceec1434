//! Changes to a file: a value change dump or a table.

use std::io::{self, Write};

use kairotic_core::quantity::Rational;
use kairotic_core::simulation::{Change, Logic};

/// What a capture is written as.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum WriterKind {
    /// A value change dump.
    Vcd,
    /// A table with a row for each time at which something changes.
    Csv,
}

/// Writes changes in the order of their times.
pub struct Writer<W: Write> {
    output: W,
    kind: WriterKind,
    tick: Rational,
    levels: Vec<Logic>,
    now: Option<u64>,
}

/// The identifier code of a signal: its number in the 94 characters that there are.
fn code(mut place: usize) -> String {
    let mut code = String::new();
    loop {
        code.push(char::from(b'!' + (place % 94) as u8));
        place /= 94;
        if place == 0 {
            return code;
        }
        place -= 1;
    }
}

impl<W: Write> Writer<W> {
    /// Writes the header. The tick is 1, 10 or 100 of a unit of time.
    ///
    /// # Errors
    /// Those of the output, and a tick that a dump cannot have.
    pub fn new(
        mut output: W,
        kind: WriterKind,
        tick: Rational,
        title: &str,
        names: &[String],
    ) -> io::Result<Self> {
        match kind {
            WriterKind::Vcd => {
                let scale = timescale(tick).ok_or_else(|| io::Error::other("no such timescale"))?;
                let word = |text: &str| text.replace(char::is_whitespace, "-");
                writeln!(output, "$version kairotic {} $end", env!("CARGO_PKG_VERSION"))?;
                writeln!(output, "$timescale {scale} $end")?;
                writeln!(output, "$scope module {} $end", word(title))?;
                for (place, name) in names.iter().enumerate() {
                    writeln!(output, "$var wire 1 {} {} $end", code(place), word(name))?;
                }
                writeln!(output, "$upscope $end\n$enddefinitions $end")?;
            }
            WriterKind::Csv => writeln!(output, "time_s,{}", names.join(","))?,
        }
        Ok(Self { output, kind, tick, levels: vec![Logic::Unknown; names.len()], now: None })
    }

    /// Writes a change.
    ///
    /// # Errors
    /// Those of the output.
    pub fn change(&mut self, change: Change) -> io::Result<()> {
        if self.now != Some(change.at) {
            self.row()?;
            self.now = Some(change.at);
            if self.kind == WriterKind::Vcd {
                writeln!(self.output, "#{}", change.at)?;
            }
        }
        let place = change.signal as usize;
        if let Some(level) = self.levels.get_mut(place) {
            *level = change.level;
        }
        if self.kind == WriterKind::Vcd {
            writeln!(self.output, "{}{}", letter(change.level), code(place))?;
        }
        Ok(())
    }

    /// Writes what is left, and the end of the capture.
    ///
    /// # Errors
    /// Those of the output.
    pub fn finish(mut self, end: u64) -> io::Result<W> {
        self.row()?;
        if self.now.is_none_or(|now| now < end) {
            self.now = Some(end);
            match self.kind {
                WriterKind::Vcd => writeln!(self.output, "#{end}")?,
                WriterKind::Csv => self.row()?,
            }
        }
        self.output.flush()?;
        Ok(self.output)
    }

    /// The row of a table for the time that is over.
    fn row(&mut self) -> io::Result<()> {
        let Some(now) = self.now.filter(|_| self.kind == WriterKind::Csv) else { return Ok(()) };
        let parts = self.tick.denominator().unsigned_abs();
        let ticks = u128::from(now) * self.tick.numerator().unsigned_abs();
        // The denominator is a power of ten.
        let places = parts.ilog10() as usize;
        write!(self.output, "{}.{:0places$}", ticks / parts, ticks % parts)?;
        for level in &self.levels {
            write!(self.output, ",{}", letter(*level))?;
        }
        writeln!(self.output)
    }
}

const fn letter(level: Logic) -> char {
    match level {
        Logic::Low => '0',
        Logic::High => '1',
        Logic::Unknown => 'x',
    }
}

/// A tick as a dump has it.
fn timescale(tick: Rational) -> Option<String> {
    const UNITS: [(&str, i64); 6] = [
        ("s", 1),
        ("ms", 1_000),
        ("us", 1_000_000),
        ("ns", 1_000_000_000),
        ("ps", 1_000_000_000_000),
        ("fs", 1_000_000_000_000_000),
    ];
    UNITS.into_iter().find_map(|(unit, parts)| {
        let number = tick.times(Rational::whole(parts)).filter(|number| number.is_whole())?;
        matches!(number.numerator(), 1 | 10 | 100).then(|| format!("{} {unit}", number.numerator()))
    })
}
