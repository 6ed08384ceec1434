//! What a family file says that a register package can decide: a claim is one thing.

use super::register_map::uses;
use super::{Access, NodeInput, Part, Pinout, Register, Scale, Slot, Steps, largest};

/// One thing that a family file says.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Claim {
    /// What it is about, so that the same claim of several timers is one.
    pub subject: String,
    /// The register's name as the file has it.
    pub register: String,
    /// The register's address, where the file has it.
    pub address: Option<u64>,
    /// What is claimed.
    pub what: Claimed,
}

/// What is claimed of a register.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Claimed {
    /// It is there.
    Address,
    /// So many bits, where it is one number.
    Width(u32),
    /// What it holds after reset.
    Reset {
        /// The value.
        value: u64,
        /// The bits that the file knows of.
        mask: u64,
    },
    /// Where a field lies.
    Field {
        /// Its name.
        name: String,
        /// Its lowest bit.
        low: u32,
        /// Its highest bit.
        high: u32,
    },
    /// What a value of a field does.
    Code {
        /// The field; none where the register is one number.
        field: Option<String>,
        /// Its lowest bit.
        low: u32,
        /// The value.
        code: u64,
        /// What it means.
        means: CodeMeaning,
    },
    /// A timer's output on a pin.
    Pin {
        /// The pin.
        pin: String,
        /// The channel's label, with an `n` behind it for a complement.
        channel: String,
        /// What chooses it.
        by: String,
    },
    /// A field that gives the timer its clock; the claim's register has it.
    Gate {
        /// The timer.
        timer: String,
        /// The field.
        field: String,
    },
}

impl Claimed {
    /// The word for its kind, as the page has it.
    pub const fn kind(&self) -> ClaimKind {
        match self {
            Self::Address => ClaimKind::Address,
            Self::Width(_) => ClaimKind::Width,
            Self::Reset { .. } => ClaimKind::Reset,
            Self::Field { .. } => ClaimKind::Field,
            Self::Code { .. } => ClaimKind::Code,
            Self::Pin { .. } => ClaimKind::Pin,
            Self::Gate { .. } => ClaimKind::Gate,
        }
    }
}

/// The kinds of claims.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum ClaimKind {
    /// Addresses of registers.
    Address,
    /// Their widths.
    Width,
    /// Positions of fields.
    Field,
    /// Meanings of values.
    Code,
    /// Values after reset.
    Reset,
    /// Outputs on pins.
    Pin,
    /// What gives timers their clocks.
    Gate,
}

impl ClaimKind {
    /// All of them.
    pub const ALL: [Self; 7] =
        [Self::Address, Self::Width, Self::Field, Self::Code, Self::Reset, Self::Pin, Self::Gate];

    /// The words for it.
    pub const fn words(self) -> &'static str {
        match self {
            Self::Address => "addresses",
            Self::Width => "widths",
            Self::Field => "fields",
            Self::Code => "codes",
            Self::Reset => "reset values",
            Self::Pin => "pins",
            Self::Gate => "clock gates",
        }
    }
}

/// What a value does.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum CodeMeaning {
    /// It divides or multiplies by this.
    Factor(u64),
    /// It takes the clock of this node.
    From(String),
}

impl Part {
    /// Everything that the part says and a register package can decide, each as one claim.
    pub fn claims(&self) -> Vec<Claim> {
        let mut all = Collected::default();
        for instance in &self.timers {
            let Ok(views) = self.views(instance) else { continue };
            for timer in views {
                let base = timer.base.as_ref().map(|base| format!("/{}", base.name)).unwrap_or_default();
                let place = format!("{}{base}", instance.block);
                // What no channel and no mode of this timer names is another's.
                let uses = uses(&timer);
                let registers = timer.block.registers.iter().filter(|(name, register)| {
                    // A word of a buffer in memory is no register that a package could have.
                    uses.contains(*name) && register.access != Access::Buffer
                });
                for (name, register) in registers {
                    let address = self.address_of(&timer, name);
                    all.register(&place, &format!("{}{name}", timer.prefix), name, register, address);
                }
                for divider in &timer.block.dividers {
                    let slot = timer.slot(&divider.slot).ok();
                    let address = |register: &str| self.address_of(&timer, register);
                    all.codes((&place, &timer.prefix), slot.as_ref(), &taps(&divider.steps), &address);
                }
                if let Some(divider) = timer.dead_time.as_ref().and_then(|dead| dead.divider.as_ref()) {
                    let slot = timer.slot(&divider.slot).ok();
                    let taps = divider.taps.iter().map(|tap| (tap.code, CodeMeaning::Factor(tap.by.into())));
                    let address = |register: &str| self.address_of(&timer, register);
                    let place = format!("{place} dead time");
                    all.codes((&place, &timer.prefix), slot.as_ref(), &taps.collect::<Vec<_>>(), &address);
                }
            }
        }
        let tree = self.tree.iter().flat_map(|tree| &tree.registers);
        let bring_up = self.bring_up.iter().flat_map(|bring_up| &bring_up.registers);
        for (name, register) in tree.chain(bring_up).filter(|(name, _)| !name.contains('{')) {
            all.register("clock and bring-up", name, name, register, self.bring_up_address(name));
        }
        if let Some(tree) = &self.tree {
            let address = |register: &str| self.bring_up_address(register);
            for node in &tree.nodes {
                let place = format!("tree {}", node.name);
                if let Scale::Divide { slot, steps, .. } | Scale::Multiply { slot, steps, .. } = &node.scale {
                    all.codes((&place, ""), tree.slot(slot).ok().as_ref(), &taps(steps), &address);
                }
                if let NodeInput::Choice { slot, routes, .. } = &node.input {
                    let routes =
                        routes.iter().map(|route| (route.code, CodeMeaning::From(route.from.clone())));
                    let routes: Vec<_> = routes.collect();
                    all.codes((&place, ""), tree.slot(slot).ok().as_ref(), &routes, &address);
                }
            }
        }
        all.pins(self);
        all.gates(self);
        all.claims
    }
}

fn taps(steps: &Steps) -> Vec<(u64, CodeMeaning)> {
    match steps {
        Steps::List(taps) => taps.iter().map(|tap| (tap.code, CodeMeaning::Factor(tap.by.into()))).collect(),
        // A range has no codes of its own: what is written is the number, or one less.
        Steps::Range { .. } | Steps::Fraction { .. } => Vec::new(),
    }
}

#[derive(Default)]
struct Collected {
    claims: Vec<Claim>,
}

impl Collected {
    fn register(&mut self, place: &str, full: &str, name: &str, register: &Register, address: Option<u64>) {
        let mut made: Vec<(String, Claimed)> = Vec::new();
        if address.is_some() {
            made.push((format!("{place}: {full} is there"), Claimed::Address));
        }
        if register.fields.is_empty() {
            made.push((format!("{place}: {name} has {} bits", register.bits), Claimed::Width(register.bits)));
        }
        for (field, bits) in &register.fields {
            let (low, high) = (bits.low, bits.low + bits.width - 1);
            let what = Claimed::Field { name: field.clone(), low, high };
            made.push((format!("{place}: {name}.{field} is {high}:{low}"), what));
        }
        let known = register.fields.values().map(|bits| largest(bits.width) << bits.low);
        let mask = match register.fields.is_empty() {
            true => largest(register.bits),
            false => known.fold(0, |mask, bits| mask | bits),
        };
        // Of a register that the file does not place it says nothing of that kind.
        if address.is_some() {
            let reset = Claimed::Reset { value: register.reset & mask, mask };
            made.push((format!("{place}: {name} holds {:#x} after reset", register.reset & mask), reset));
        }
        for (subject, what) in made {
            self.claims.push(Claim { subject, register: full.to_owned(), address, what });
        }
    }

    fn pins(&mut self, part: &Part) {
        for output in part.pinout.iter().flat_map(Pinout::outputs).filter(|output| !output.channel.is_empty())
        {
            let subject = format!("{} is on {} by {}", output.output(), output.pin, output.by);
            let what = Claimed::Pin { pin: output.pin, channel: output.channel, by: output.by };
            self.claims.push(Claim { subject, register: output.timer, address: None, what });
        }
    }

    /// The fields that a timer's recipe sets and that are called after it.
    fn gates(&mut self, part: &Part) {
        let recipes = part.bring_up.iter().flat_map(|bring_up| &bring_up.timers);
        for (timer, set) in recipes
            .flat_map(|(timer, steps)| steps.iter().filter_map(move |step| Some((timer, step.set.as_ref()?))))
        {
            let Some((register, field)) = set.field.split_once('.') else { continue };
            if !field.to_lowercase().starts_with(timer.as_str()) {
                continue;
            }
            let subject = format!("{timer} has its clock by {register}.{field}");
            let what = Claimed::Gate { timer: timer.clone(), field: field.to_owned() };
            self.claims.push(Claim { subject, register: register.to_owned(), address: None, what });
        }
    }

    /// Codes of a field that is one place.
    fn codes(
        &mut self,
        (place, prefix): (&str, &str),
        slot: Option<&Slot>,
        codes: &[(u64, CodeMeaning)],
        address: &dyn Fn(&str) -> Option<u64>,
    ) {
        let Some([field]) = slot.map(|slot| slot.0.as_slice()) else { return };
        let at = address(&field.register);
        for (code, means) in codes {
            let told = match means {
                CodeMeaning::Factor(by) => format!("by {by}"),
                CodeMeaning::From(node) => format!("from {node}"),
            };
            let subject = format!("{place}: {} = {code} is {told}", field.name());
            let what = Claimed::Code {
                field: field.field.clone(),
                low: field.low,
                code: *code,
                means: means.clone(),
            };
            let register = format!("{prefix}{}", field.register);
            self.claims.push(Claim { subject, register, address: at, what });
        }
    }
}
