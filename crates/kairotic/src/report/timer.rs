//! What `parts PART/TIMER` shows: the laws of a timer and where they stand.

use kairotic_core::part::{
    Block, ClockInput, CompareLaw, DeadUnit, DividerStage, Fact, Mode, Register, Steps, Timer, TopSource,
};
use serde::Serialize;

use super::parts::documents;
use super::words::after_reset;
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, envelope};

/// One timer, with each base counter that it can choose.
#[derive(Debug)]
pub struct TimerPage {
    /// The timer's default view.
    pub timer: Timer,
    /// Its other views.
    pub others: Vec<Timer>,
}

impl TimerPage {
    fn views(&self) -> impl Iterator<Item = &Timer> {
        std::iter::once(&self.timer).chain(&self.others)
    }

    /// Every mode of every view once, with the view that it belongs to.
    fn modes(&self) -> Vec<(&Timer, &Mode)> {
        let mut modes: Vec<(&Timer, &Mode)> = Vec::new();
        for (timer, mode) in
            self.views().flat_map(|timer| timer.block.modes.iter().map(move |mode| (timer, mode)))
        {
            if !modes.iter().any(|(_, known)| known.name == mode.name) {
                modes.push((timer, mode));
            }
        }
        modes
    }

    fn facts(&self) -> Vec<&Fact> {
        let timer = &self.timer;
        let dividers = timer.block.dividers.iter().flat_map(|stage| &stage.facts);
        let modes = self.modes();
        let mode_facts = modes.iter().flat_map(|(_, mode)| &mode.facts);
        let mut facts: Vec<&Fact> = Vec::new();
        let dead_time = timer.dead_time.iter().flat_map(|dead_time| &dead_time.facts);
        for fact in (timer.clock.facts.iter().chain(&timer.facts).chain(&timer.block.facts))
            .chain(dividers)
            .chain(mode_facts)
            .chain(dead_time)
            .chain(timer.block.inputs.iter().flat_map(|inputs| &inputs.facts))
        {
            if !facts.contains(&fact) {
                facts.push(fact);
            }
        }
        facts
    }
}

/// What a timer can do besides: dither, start offsets, forced ends, inputs, dead time.
fn extras(timer: &Timer, modes: &[(&Timer, &Mode)]) -> Vec<Line> {
    let row = |what: &str, how: String| Line::Row(vec![Cell::left(what), Cell::left(how)]);
    let mut lines = Vec::new();
    for (_, mode) in modes {
        if let Some(dither) = mode.dither {
            let parts = 1_u64 << dither.bits.min(32);
            lines.push(row("dither", format!("{}: N and H above are in parts of 1/{parts} tick", mode.name)));
        }
    }
    if modes.iter().any(|(_, mode)| mode.start.is_some()) {
        lines.push(row("start", "a pulse can start later in the period: --phase".to_owned()));
    }
    if modes.iter().any(|(_, mode)| mode.ends.is_some()) {
        lines.push(row("ends", "0 % and 100 % are made by fields of their own".to_owned()));
    }
    if let Some(inputs) = &timer.block.inputs {
        let how = match (inputs.capture, inputs.count) {
            (true, true) => "can time pulses and count them",
            (true, false) => "can time pulses",
            (false, true) => "can count pulses",
            (false, false) => "none",
        };
        let instead = inputs.instead.as_ref().map(|instead| format!("; what can time them: {instead}"));
        lines.push(row("inputs", format!("{how}{}", instead.unwrap_or_default())));
    }
    if let Some(dead_time) = &timer.dead_time {
        let fields: Vec<String> = dead_time.slots.iter().map(|slot| slot.join(":")).collect();
        let by: Vec<String> = dead_time.divisions().iter().map(|tap| tap.by.to_string()).collect();
        let unit = if dead_time.counts == DeadUnit::Clocks { "clocks" } else { "ticks" };
        let channels: Vec<&str> = dead_time.outputs.keys().map(String::as_str).collect();
        let reach = format!("up to {} {unit}, divided by {}", dead_time.most(), by.join(", "));
        let how = format!("{}: {reach}; complements of {}", fields.join(" "), channels.join(" "));
        lines.push(row("dead time", how));
    }
    lines
}

impl Report for TimerPage {
    fn page(&self) -> Result<Page> {
        let timer = &self.timer;
        let mut page = Page::headed([timer.path(), timer.block.title.clone()]);
        let clock = &timer.clock;
        page.push(
            "clock",
            &["clock", "after reset", "at most"],
            vec![Line::Row(vec![
                Cell::left(clock.title.clone()),
                Cell::left(after_reset(clock)),
                Cell::left(format!("at most {}", clock.maximum)),
            ])]
            .into_iter()
            .chain(clock.off.iter().map(|off| Line::Prose(format!("{}: {}", off.field, off.told()))))
            .collect(),
        );
        let bases = self.views().filter_map(|view| {
            let base = view.base.as_ref()?;
            Some(Line::Row(vec![
                Cell::left(format!("--base {}", base.name)),
                Cell::left(format!("{}={}", base.field, base.code)),
                Cell::left(base.title.clone()),
            ]))
        });
        page.push("base", &["option", "field", "what it is"], bases.collect());
        let mut dividers: Vec<Line> = timer.block.dividers.iter().map(divider).collect();
        if timer.block.fixed_divider != 1 {
            let fixed = format!("by {}", timer.block.fixed_divider);
            dividers
                .insert(0, Line::Row(vec![Cell::left("no field"), Cell::left("always"), Cell::left(fixed)]));
        }
        page.table("divide", &["field", "takes effect", "divides"], dividers);
        let modes = self.modes();
        let rows = modes.iter().map(|(timer, mode)| mode_row(timer, mode));
        page.table("modes", &["mode", "what it is"], rows.collect());
        let mut laws: Vec<Line> = modes.iter().map(|(_, mode)| law_row(mode)).collect();
        laws.push(Line::Prose("N ticks a period, H of them active".to_owned()));
        let starred = |cell: &Cell| cell.text.ends_with('*');
        if laws.iter().any(|line| matches!(line, Line::Row(cells) if cells.iter().any(starred))) {
            laws.push(Line::Prose(STAR.to_owned()));
        }
        page.table("laws", &["mode", "a period", "active", "0 %", "100 %"], laws);
        page.push("extras", &["what", "how"], extras(timer, &modes));
        let channels = timer.block.channels.iter().map(|channel| {
            let roles: Vec<String> = channel.roles.values().cloned().collect();
            Line::Row(vec![
                Cell::left(channel.label.clone()),
                Cell::left(channel.compare.join(":")),
                Cell::left(roles.join(" ")),
            ])
        });
        page.push("channel", &["channel", "compare", "other fields"], channels.collect());
        page.table("fields", &["register", "width", "fields with their bits"], registers(timer));
        let facts = self.facts().into_iter().map(|fact| {
            Line::Row(vec![
                Cell::left(fact.trust.word()),
                Cell::left(fact.document.clone()),
                Cell::left(fact.says.clone()),
            ])
        });
        page.push("facts", &["trust", "document", "statement"], facts.collect());
        page.push("from", &["key", "document"], documents(&timer.documents));
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let rows = self.modes().into_iter().map(|(timer, mode)| {
            let law = Laws::of(mode);
            vec![
                timer.part.clone(),
                timer.name.clone(),
                mode.name.clone(),
                mode.title.clone(),
                mode.alignment.word().to_owned(),
                mode.usual.to_string(),
                law.period,
                law.active,
                law.zero,
                law.full,
            ]
        });
        Ok(Table::new(
            &[
                "part",
                "timer",
                "mode",
                "title",
                "alignment",
                "usual",
                "period_ticks",
                "active_ticks",
                "compare_for_zero",
                "compare_for_full",
            ],
            rows,
        ))
    }

    fn json(&self) -> Result<String> {
        #[derive(Serialize)]
        struct TimerView<'r> {
            timer: &'r Timer,
            bases: Vec<&'r str>,
            clock: &'r ClockInput,
            block: &'r Block,
        }
        let timer = &self.timer;
        let bases = self.views().filter_map(|view| view.base.as_ref()).map(|base| base.name.as_str());
        envelope(
            "parts",
            TimerView { timer, bases: bases.collect(), clock: &timer.clock, block: &timer.block },
            &[],
        )
    }
}

/// A mode in words.
fn mode_row(timer: &Timer, mode: &Mode) -> Line {
    let mut notes = vec![mode.title.clone()];
    if mode.usual {
        notes.push("usual".to_owned());
    }
    notes.extend(costs(mode).map(|channel| format!("costs channel {channel}")));
    if timer.base.is_some() && matches!(mode.top, TopSource::Fixed(_)) {
        notes.extend(timer.base.as_ref().map(|base| base.name.clone()));
    }
    Line::Row(vec![Cell::left(mode.name.clone()), Cell::left(notes.join(", "))])
}

/// A mode's laws in the words of the registers.
fn law_row(mode: &Mode) -> Line {
    let laws = Laws::of(mode);
    let fixed = matches!(mode.top, TopSource::Fixed(_));
    let at = |point: &str, reached: bool| match point {
        "never" => point.to_owned(),
        _ if fixed && !reached => "never".to_owned(),
        _ if !reached => format!("at {point} *"),
        _ => format!("at {point}"),
    };
    Line::Row(vec![
        Cell::left(mode.name.clone()),
        Cell::left(format!("N = {}", laws.period)),
        Cell::left(format!("H = {}", laws.active)),
        Cell::left(format!("0 % {}", at(&laws.zero, laws.zero_at_largest_top))),
        Cell::left(format!("100 % {}", at(&laws.full, laws.full_at_largest_top))),
    ])
}

/// What the star of a law means.
const STAR: &str = "* not at the largest top: the compare register does not hold it";

/// The laws of a mode as formulas.
struct Laws {
    period: String,
    active: String,
    zero: String,
    full: String,
    zero_at_largest_top: bool,
    full_at_largest_top: bool,
}

impl Laws {
    fn of(mode: &Mode) -> Self {
        let fixed = match mode.top {
            TopSource::Fixed(top) => mode.period.ticks(top).map(|ticks| ticks.to_string()),
            _ => None,
        };
        let period = fixed.unwrap_or_else(|| mode.period.to_string());
        match &mode.compare {
            CompareLaw::Toggle => Self {
                period,
                active: "N / 2".to_owned(),
                zero: "never".to_owned(),
                full: "never".to_owned(),
                zero_at_largest_top: false,
                full_at_largest_top: false,
            },
            CompareLaw::Linear(law) => Self {
                period,
                active: law.to_string(),
                zero: law.zero.to_string(),
                full: law.full.to_string(),
                zero_at_largest_top: law.zero_at_largest_top,
                full_at_largest_top: law.full_at_largest_top,
            },
        }
    }
}

fn costs(mode: &Mode) -> Option<&str> {
    match &mode.top {
        TopSource::Compare { channel, .. } => Some(channel),
        _ => None,
    }
}

/// The registers with their fields, as `decode` takes them.
fn registers(timer: &Timer) -> Vec<Line> {
    let row = |(name, register): (&String, &Register)| {
        let fields = register.fields.iter().map(|(field, bits)| format!("{field} {}", String::from(*bits)));
        Line::Row(vec![
            Cell::left(name.clone()),
            Cell::right(format!("{} bit", register.bits)),
            Cell::left(fields.collect::<Vec<_>>().join(", ")),
        ])
    };
    timer.block.registers.iter().map(row).collect()
}

fn divider(stage: &DividerStage) -> Line {
    Line::Row(vec![
        Cell::left(stage.slot.join(":")),
        Cell::left(format!("takes effect {}", stage.update.words())),
        Cell::left(steps(&stage.steps)),
    ])
}

/// The divisions of a divider, in words.
fn steps(steps: &Steps) -> String {
    match steps {
        Steps::Range { min, max, minus_one: true } => format!("by {min} to {max}, one less is written"),
        Steps::Range { min, max, minus_one: false } => format!("by {min} to {max}"),
        Steps::List(taps) => {
            let taps: Vec<String> =
                taps.iter().map(|tap| format!("{} (code {})", tap.by, tap.code)).collect();
            format!("by {}", taps.join(", "))
        }
        Steps::Fraction { min, max, fraction_bits, minus_one } => {
            let whole = 1_u64.checked_shl(*fraction_bits).unwrap_or(1);
            let less = if *minus_one { ", one less is written" } else { "" };
            format!("by {min}/{whole} to {max}/{whole} in steps of 1/{whole}{less}")
        }
    }
}
