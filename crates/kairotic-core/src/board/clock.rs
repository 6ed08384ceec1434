//! The clock of a board's timers: which frequency reaches each, and how far it may be off.

use crate::clock::{Arrangement, Bus, SourceAsk, from_system, on_the_way, oscillator, state};
use crate::error::{Error, Result};
use crate::part::{Assignment, Oscillator, Part};
use crate::program::ClockRoute;
use crate::quantity::{Deviation, Frequency, Range, Time, Tolerance};

/// The clock of a board's timers: given as it is, by the system clock that it comes from, or by the registers of the
/// clock tree. As the part has it after reset where none is given.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct BoardClock {
    /// Where it starts: an internal oscillator, or what comes from outside.
    pub source: Option<SourceAsk>,
    /// The clock that reaches the timers.
    pub frequency: Option<Tolerance<Frequency>>,
    /// The system clock.
    pub system: Option<Tolerance<Frequency>>,
    /// Bus dividers and switches that are settled.
    pub buses: Vec<Bus>,
    /// Registers of the clock tree; those that are not given are as after reset.
    pub registers: Vec<Assignment>,
    /// How far temperature takes the oscillator.
    pub temperature: Option<Range<Deviation>>,
    /// How far the oscillator drifts over its life, either way.
    pub ageing: Option<Deviation>,
    /// The step of the oscillator's trim, where it is trimmed.
    pub trim: Option<Deviation>,
    /// Root mean square of what a PLL moves an edge.
    pub pll: Option<Time>,
}

/// The clock that reaches a timer, and how it gets there where the system clock was given.
type WayToTimer = (Option<Tolerance<Frequency>>, Option<Arrangement>);

impl BoardClock {
    /// The clock that reaches a timer, where the board says anything of it.
    ///
    /// # Errors
    /// What the clock tree refuses: names, sources and registers that it has not, limits that are broken.
    pub fn of(&self, part: &Part, timer: &str) -> Result<WayToTimer> {
        if let Some(system) = self.system {
            let buses = on_the_way(part, timer, &self.buses)?;
            let way = from_system(part, timer, system.nominal, &buses)?;
            let deviation = self.deviation(part)?;
            return Ok((Some(Tolerance { nominal: way.frequency, deviation }), Some(way)));
        }
        let nominal = match self.frequency {
            Some(frequency) => Some(frequency.nominal),
            None if self.source.is_some() || !self.registers.is_empty() => {
                Some(self.by_registers(part, timer)?)
            }
            None => None,
        };
        let deviation = self.deviation(part)?;
        Ok((nominal.map(|nominal| Tolerance { nominal, deviation }), None))
    }

    /// What the board says of the clocks, with the ways from the system clock to timers.
    pub fn route(&self, buses: Vec<Arrangement>) -> ClockRoute {
        ClockRoute {
            source: self.source.clone(),
            system: self.system.map(|system| system.nominal),
            buses,
            registers: self.registers.clone(),
        }
    }

    /// What the registers make of the source.
    fn by_registers(&self, part: &Part, timer: &str) -> Result<Frequency> {
        let state = state(part, &self.registers, self.source.as_ref())?;
        let illegal = |why: String| Error::ClockIllegal { timer: format!("{}/{timer}", part.name), why };
        if let Some(why) = state.nodes.iter().find_map(|node| node.illegal.clone()) {
            return Err(illegal(why));
        }
        let node = state.timers.iter().find(|found| found.timer == *timer).map(|found| &found.clock);
        let found = state.nodes.iter().find(|state| Some(&state.node) == node);
        let frequency = found.and_then(|node| node.frequency);
        frequency.ok_or_else(|| illegal("it comes from outside: name its `source`".to_owned()))
    }

    /// The internal oscillator that the board names as the clock's source, as it is in the catalogue.
    ///
    /// # Errors
    /// A source that the part does not have.
    pub fn oscillator<'p>(&self, part: &'p Part) -> Result<Option<&'p Oscillator>> {
        match &self.source {
            Some(source) if self.stated() == Deviation::ZERO => oscillator(part, source),
            _ => Ok(None),
        }
    }

    /// How far the clock may be off either way before temperature and age: as stated, else as far as the internal
    /// oscillator that it comes from ever is. Nothing where nothing is known.
    ///
    /// # Errors
    /// As [`BoardClock::oscillator`].
    pub fn deviation(&self, part: &Part) -> Result<Deviation> {
        let stated = self.stated();
        if stated > Deviation::ZERO {
            return Ok(stated);
        }
        let widest = self.oscillator(part)?.and_then(|oscillator| oscillator.accuracy.last());
        let further = |range: Range<Deviation>| {
            let ends = [range.low.value().magnitude(), range.high.value().magnitude()];
            ends.into_iter().max().map(Deviation::new)
        };
        Ok(widest.and_then(|widest| further(widest.within)).unwrap_or(Deviation::ZERO))
    }

    /// The deviation that stands behind a frequency.
    fn stated(&self) -> Deviation {
        let source = self.source.as_ref().and_then(|source| source.frequency);
        let stated = [self.frequency, self.system, source].into_iter().flatten();
        stated.map(|clock| clock.deviation).find(|known| *known > Deviation::ZERO).unwrap_or(Deviation::ZERO)
    }
}
