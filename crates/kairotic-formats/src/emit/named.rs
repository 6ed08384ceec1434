//! A board with what its parts are called in the code.

use kairotic_core::board::{self, PlannedLevels, PlannedSignal};
use kairotic_core::part::ReachedBy;
use kairotic_core::program::{Action, CompareUpdate, Phase, ProgramStep, compare_update};

use super::code::{EmittedFrom, digest};
use super::drives::{EmittedDrive, drives};
use super::held::{EmittedHold, holds};
use super::identifiers::{identifier, identifiers};
use super::{EmitError, EmitRequest, harmless};

/// A board with the identifiers that its code has.
pub(super) struct Named<'a> {
    pub(super) request: EmitRequest<'a>,
    /// What everything is called after: `dome`.
    pub(super) board: String,
    /// What each signal is called: `dome_shutter`.
    pub(super) signals: Vec<String>,
    /// The same without the board: `shutter`.
    pub(super) short: Vec<String>,
    /// What each signal's load makes of whole numbers; none where that was not asked for, or there is no such load.
    pub(super) levels: Vec<Option<PlannedLevels>>,
    /// What each signal drives as the first line of a motor that turns both ways.
    pub(super) drives: Vec<Option<EmittedDrive>>,
    /// How each signal's compare value is written while it runs; none where that takes more.
    pub(super) updates: Vec<Option<CompareUpdate>>,
    /// The timers whose channels can get their new compare values together.
    pub(super) holds: Vec<EmittedHold>,
}

impl<'a> Named<'a> {
    pub(super) fn of(request: EmitRequest<'a>, with_levels: bool) -> Result<Self, EmitError> {
        let stem = identifier(request.stem)?;
        // An identifier does not begin with a digit; what follows has this before it.
        let board =
            if stem.starts_with(|c: char| c.is_ascii_digit()) { format!("board_{stem}") } else { stem };
        let names = identifiers(request.plan.signals.iter().map(|signal| signal.name.as_str()))?;
        let signals = names.iter().map(|name| format!("{board}_{name}")).collect();
        // What begins a name in Rust is no digit.
        let begun = |name: String| {
            if name.starts_with(|c: char| c.is_ascii_digit()) { format!("signal_{name}") } else { name }
        };
        let short: Vec<String> = names.into_iter().map(begun).collect();
        let short = identifiers(short.iter().map(String::as_str))?;
        let (mut updates, mut levels) = (Vec::new(), Vec::new());
        for (signal, asked) in request.plan.signals.iter().zip(&request.board.signals) {
            let load = request.board.load_of(asked).filter(|_| with_levels);
            let known = load.zip(signal.span.as_ref()).map(|(load, span)| board::levels(&load.kind, span));
            levels.push(known.transpose()?.flatten());
            let timer = request.plan.timers.get(signal.timer);
            let update = timer.map(|timer| compare_update(request.part, timer, &signal.channel));
            updates.push(update.transpose()?.flatten());
        }
        // What cannot be set at all has no drive.
        let settable = levels.iter().zip(&updates);
        let settable = settable.map(|(levels, update)| levels.clone().filter(|_| update.is_some()));
        let drives = drives(request, &settable.collect::<Vec<Option<PlannedLevels>>>())?;
        let holds = holds(request, &updates)?;
        Ok(Self { request, board, signals, short, levels, drives, updates, holds })
    }

    /// The levels of a signal whose compare value a function sets; the second line of a motor has those of the first.
    pub(super) fn settable_levels(&self, signal: usize) -> Option<&PlannedLevels> {
        if self.first_line(signal).is_some() {
            return None;
        }
        self.updates.get(signal)?.as_ref()?;
        self.levels.get(signal)?.as_ref()
    }

    /// What every file begins with, a line each. The digests tell a change of the board from one of the code.
    pub(super) fn origin(&self, code: &str) -> [String; 3] {
        let EmitRequest { file, text, line, version, .. } = self.request;
        [
            format!("Made by Kairotic {version} from {} (SHA-256 {}...).", harmless(file), digest(text)),
            format!("Again by: {}", harmless(line)),
            format!(
                "What is changed here by hand is lost then. All that follows: SHA-256 {}...",
                digest(code.as_bytes())
            ),
        ]
    }

    /// The functions that have to be supplied, each once, and why.
    pub(super) fn supplies(&self) -> Vec<(String, String)> {
        let mut all: Vec<(String, String)> = Vec::new();
        for step in self.request.plan.program.unknown() {
            if let Action::Supply { function } = &step.action {
                let function = self.supplied(function);
                if !all.iter().any(|(known, _)| *known == function) {
                    all.push((function, step.why.clone()));
                }
            }
        }
        all
    }

    pub(super) fn supplied(&self, function: &str) -> String {
        format!("{}_{function}", self.board)
    }

    /// What of the board a step is made of.
    pub(super) fn origin_of(&self, step: &ProgramStep) -> EmittedFrom {
        match (step.phase, self.request.plan.signal_of(step)) {
            (Phase::Clock, _) => EmittedFrom::Clock,
            (_, Some(signal)) => EmittedFrom::Signal(signal),
            (_, None) => EmittedFrom::Board,
        }
    }

    /// The width of addresses in bits: what pointers have to hold.
    pub(super) fn address_bits(&self) -> u32 {
        let steps = self.request.plan.program.steps.iter();
        let highest = steps.filter_map(|step| match &step.action {
            Action::Write(write) => write.register.address,
            Action::Until { register, .. } => register.address,
            _ => None,
        });
        if highest.max().unwrap_or(0) > 0xFFFF { 32 } else { 16 }
    }

    /// The device's address, for a part at the end of a bus.
    pub(super) fn device(&self) -> Option<u8> {
        match self.request.part.memory.as_ref().map(|memory| memory.reach) {
            Some(ReachedBy::I2c { address }) => Some(address),
            _ => None,
        }
    }

    /// The functions with parameters that have to be supplied, and why.
    pub(super) fn special_supplies(&self) -> Vec<(String, String)> {
        let sends = (format!("{}_transfer", self.board), "bytes go to the device on the bus".to_owned());
        let transfer = self.device().map(|_| sends);
        self.direction_supplies().into_iter().chain(transfer).collect()
    }

    /// Whether the firmware has to supply anything.
    pub(super) fn needs_supplied(&self) -> bool {
        self.delays() || !self.supplies().is_empty() || !self.special_supplies().is_empty()
    }

    /// Whether a step waits for a time.
    pub(super) fn delays(&self) -> bool {
        self.request.plan.program.steps.iter().any(|step| matches!(step.action, Action::Delay { .. }))
    }

    /// The signals that no compare value puts to rest.
    pub(super) fn moving(&self) -> impl Iterator<Item = &PlannedSignal> {
        let signals = self.request.plan.signals.iter().zip(&self.updates);
        signals.filter(|(signal, update)| signal.off.is_none() || update.is_none()).map(|(signal, _)| signal)
    }

    /// What is programmed with the firmware, and has to be so, in words.
    pub(super) fn programmed(&self) -> Vec<String> {
        let steps = self.request.plan.program.steps.iter();
        let told = steps.filter_map(|step| {
            let Action::Programmed { register, mask, value, .. } = &step.action else { return None };
            let digits = usize::try_from(register.bits.div_ceil(4)).unwrap_or(1);
            let name = &register.name;
            Some(format!(
                "It relies on {name} = 0x{value:0digits$X} under 0x{mask:0digits$X}, which is programmed with the firmware: {}.",
                step.why
            ))
        });
        told.collect()
    }

    /// A function's name without the board's before it.
    pub(super) fn without_board<'f>(&self, function: &'f str) -> &'f str {
        let rest = function.strip_prefix(self.board.as_str()).and_then(|rest| rest.strip_prefix('_'));
        rest.unwrap_or(function)
    }

    /// The full name of a buffer that a register of the same timer points to.
    pub(super) fn buffer_named(&self, register: &str, name: &str) -> String {
        register.split_once('_').map_or_else(|| name.to_owned(), |(timer, _)| format!("{timer}_{name}"))
    }

    /// What a buffer is called in the code.
    pub(super) fn buffer(&self, name: &str) -> Result<String, EmitError> {
        Ok(format!("{}_{}", self.board, identifier(name)?))
    }

    /// The name of the buffer that a word belongs to.
    pub(super) fn buffer_of(&self, word: &str) -> String {
        let timer = word.split_once('_').map_or(word, |(timer, _)| timer);
        let buffers = self.request.plan.program.steps.iter().filter_map(|step| match &step.action {
            Action::Buffer { name, .. } => Some(name),
            _ => None,
        });
        buffers.clone().find(|name| name.split('_').next() == Some(timer)).cloned().unwrap_or_default()
    }
}
