//! A claim against what a package says.

use std::collections::BTreeMap;

use crate::description::{
    DescribedCode, DescribedField, DescribedPin, DescribedRegister, PackageDescription,
};
use kairotic_core::part::{Claim, Claimed, CodeMeaning};

/// What a package makes of a claim.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Judgement {
    /// The package says the same.
    Agrees,
    /// The package says something else.
    Differs(String),
    /// The package does not say.
    Open(String),
}

/// A package that claims are held against.
#[derive(Debug)]
pub struct HeldAgainst<'s> {
    /// What it says.
    pub description: PackageDescription,
    /// What parts of the file's names of registers are in the package's.
    pub names: &'s BTreeMap<String, String>,
    /// What it calls nodes of the clock tree, where a reader had to say it.
    pub words: &'s BTreeMap<String, String>,
}

/// Holds a claim against packages: the first that says anything of it decides.
pub fn judge_by(claim: &Claim, packages: &[HeldAgainst<'_>]) -> Judgement {
    let mut all = packages.iter().map(|package| judge(claim, package));
    let first = all.next().unwrap_or_else(|| Judgement::Open("no package is read".to_owned()));
    match first {
        Judgement::Open(_) => all.find(|next| !matches!(next, Judgement::Open(_))).unwrap_or(first),
        said => said,
    }
}

/// Holds a claim against a package.
pub fn judge(claim: &Claim, package: &HeldAgainst<'_>) -> Judgement {
    let description = &package.description;
    let own = name_in(claim, package.names);
    let there = match claim.address {
        Some(address) => at(description, address),
        None => called(description, &own),
    };
    let is_there = || !there.is_empty();
    match &claim.what {
        Claimed::Pin { pin, channel, by } => self::pin(&claim.register, channel, (pin, by), description),
        Claimed::Gate { timer, field } => gate(timer, &claim.register, field, description),
        _ if !is_there() => absent(claim, &own, description),
        Claimed::Address => named(claim, &own, &there, description),
        Claimed::Width(bits) => width(*bits, &there),
        Claimed::Reset { value, mask } => reset(*value, *mask, &there),
        Claimed::Field { name, low, high } => field(name, (*low, *high), &there),
        Claimed::Code { field, low, code, means } => {
            let words = match means {
                CodeMeaning::From(node) => package.words.get(node).map(String::as_str),
                CodeMeaning::Factor(_) => None,
            };
            self::code(field.as_deref(), *low, (*code, means), words, &there)
        }
    }
}

/// An output on a pin: where the package has that output on other pins alone, or with another code, it differs.
fn pin(timer: &str, channel: &str, (pin, by): (&str, &str), description: &PackageDescription) -> Judgement {
    // What a family file says of the way may be the signal itself: half of a timer is no peripheral of its own.
    let signal = by.split(',').next().unwrap_or(by);
    let own = |of: &&DescribedPin| {
        (is_timer(&of.peripheral, timer) && label_of(&of.signal) == channel)
            || format!("{} {}", of.peripheral, of.signal).eq_ignore_ascii_case(signal)
    };
    let all: Vec<&DescribedPin> = description.pins.iter().filter(own).collect();
    let here: Vec<&&DescribedPin> = all.iter().filter(|of| of.pin.eq_ignore_ascii_case(pin)).collect();
    let codes: Vec<&str> = here.iter().filter_map(|of| of.code.as_deref()).collect();
    if !here.is_empty() {
        return match codes.is_empty() || codes.contains(&by) || !same_kind(by, &codes) {
            true => Judgement::Agrees,
            false => Judgement::Differs(format!("it is there by {}", codes.join(", "))),
        };
    }
    let pins: Vec<&str> = all.iter().map(|of| of.pin.as_str()).collect();
    match pins.is_empty() {
        true => Judgement::Open("the package has no pins of it".to_owned()),
        false => Judgement::Differs(format!("it is on {}", pins.join(", "))),
    }
}

/// Whether the codes are of the kind that the family file has: `AF2` of an alternate function, `function 2` of a port.
fn same_kind(by: &str, codes: &[&str]) -> bool {
    let kind = |code: &str| code.trim_end_matches(|letter: char| letter.is_ascii_digit()).to_owned();
    codes.iter().any(|code| kind(code) == kind(by))
}

fn gate(timer: &str, register: &str, field: &str, description: &PackageDescription) -> Judgement {
    let Some(gate) = description.gates.iter().find(|gate| gate.peripheral == timer) else {
        return Judgement::Open("the package does not say what gives it its clock".to_owned());
    };
    match is_called(register, &gate.register) && plain(field) == plain(&gate.field) {
        true => Judgement::Agrees,
        false => Judgement::Differs(format!("it is {}.{}", gate.register, gate.field)),
    }
}

/// Whether a peripheral is a timer: `TC0` is `timer0` as well.
fn is_timer(peripheral: &str, timer: &str) -> bool {
    peripheral == timer
        || timer.strip_prefix("timer").is_some_and(|number| peripheral == format!("tc{number}"))
}

/// The channel's label in the signal's name: `CH1N` is `1n`, `OC1A` and `OCA` are `a`, `OC1AINV` is `an`, `WO0` is `0`.
fn label_of(signal: &str) -> String {
    let lower = signal.to_lowercase().replace("inv", "n");
    // A timer's only output has no number.
    if lower == "out" {
        return "1".to_owned();
    }
    for start in ["ch", "wo"] {
        if let Some(label) = lower.strip_prefix(start) {
            return label.to_owned();
        }
    }
    let label = lower.strip_prefix("oc").unwrap_or(&lower);
    let letters = label.trim_start_matches(|letter: char| letter.is_ascii_digit());
    if letters.is_empty() { label.to_owned() } else { letters.to_owned() }
}

/// A register's name as a package has it.
pub fn name_in(claim: &Claim, names: &BTreeMap<String, String>) -> String {
    names.iter().fold(claim.register.to_lowercase(), |name, (own, other)| name.replace(own, other))
}

/// The registers of that name.
fn called<'d>(description: &'d PackageDescription, own: &str) -> Vec<(&'d DescribedRegister, u32)> {
    let all = description.registers.values().flatten();
    all.filter(|register| is_register(&register.name, own)).map(|register| (register, 0)).collect()
}

/// The registers at an address, each with how many bits before it in a wider one it begins.
fn at(description: &PackageDescription, address: u64) -> Vec<(&DescribedRegister, u32)> {
    if let Some(exact) = description.registers.get(&address) {
        return exact.iter().map(|register| (register, 0)).collect();
    }
    (1..4_u32)
        .filter_map(|before| {
            let wider = description.registers.get(&address.checked_sub(before.into())?)?;
            let reaches = |register: &&DescribedRegister| register.bits.is_some_and(|bits| bits > 8 * before);
            Some(wider.iter().filter(reaches).map(move |register| (register, 8 * before)).collect::<Vec<_>>())
        })
        .find(|found| !found.is_empty())
        .unwrap_or_default()
}

/// Something is at the address: it has to be the register, by its name.
fn named(
    claim: &Claim,
    own: &str,
    there: &[(&DescribedRegister, u32)],
    description: &PackageDescription,
) -> Judgement {
    let is_own = |name: &str| is_register(name, own);
    if there.iter().any(|(register, _)| is_own(&register.name)) {
        return Judgement::Agrees;
    }
    let all = description.registers.iter();
    let elsewhere =
        all.flat_map(|(address, registers)| registers.iter().map(move |register| (address, register)));
    match elsewhere.into_iter().find(|(_, register)| is_register(&register.name, own)) {
        Some((address, _)) => {
            Judgement::Differs(format!("it is at {address:#x}, not at {:#x}", claim.address.unwrap_or(0)))
        }
        None => {
            let names: Vec<&str> = there.iter().map(|(register, _)| register.name.as_str()).collect();
            Judgement::Open(format!(
                "the package has {} at {:#x}",
                names.join(", "),
                claim.address.unwrap_or(0)
            ))
        }
    }
}

/// Nothing is at the address: a difference where the package has the register somewhere else in the same peripheral.
fn absent(claim: &Claim, own: &str, description: &PackageDescription) -> Judgement {
    let is_own = |register: &DescribedRegister| is_register(&register.name, own);
    let elsewhere = description.registers.iter().find(|(_, registers)| registers.iter().any(is_own));
    match elsewhere {
        Some((address, register)) => Judgement::Differs(format!(
            "{} is at {address:#x}, not at {:#x}",
            register.first().map(|register| register.name.as_str()).unwrap_or_default(),
            claim.address.unwrap_or(0)
        )),
        None => Judgement::Open(match claim.address {
            Some(address) => format!("the package has nothing at {address:#x}"),
            None => format!("the package has no register {own}"),
        }),
    }
}

fn width(bits: u32, there: &[(&DescribedRegister, u32)]) -> Judgement {
    let highest = |(register, before): &(&DescribedRegister, u32)| {
        let of_fields = register.fields.iter().map(|field| field.high + 1).max();
        of_fields.or(register.bits).map(|bits| bits.saturating_sub(*before))
    };
    let found: Vec<u32> = there.iter().filter_map(highest).collect();
    if found.contains(&bits) {
        return Judgement::Agrees;
    }
    match found.iter().max() {
        None => Judgement::Open("the package tells no width".to_owned()),
        Some(most) if *most < bits => Judgement::Differs(format!("it has {most} bits")),
        // Generated descriptions often give all registers the width of the bus.
        Some(most) => Judgement::Open(format!("the package gives it {most} bits, as the bus has them")),
    }
}

fn reset(value: u64, mask: u64, there: &[(&DescribedRegister, u32)]) -> Judgement {
    let found = there.iter().filter_map(|(register, before)| Some(register.reset? >> before));
    let found: Vec<u64> = found.map(|reset| reset & mask).collect();
    match found.first() {
        None => Judgement::Open("the package tells no value after reset".to_owned()),
        Some(_) if found.contains(&value) => Judgement::Agrees,
        Some(other) => Judgement::Differs(format!("it holds {other:#x} after reset")),
    }
}

fn field(name: &str, (low, high): (u32, u32), there: &[(&DescribedRegister, u32)]) -> Judgement {
    let place = |field: &DescribedField, before: u32| {
        Some((field.low.checked_sub(before)?, field.high.checked_sub(before)?))
    };
    let all = || {
        there.iter().flat_map(|(register, before)| register.fields.iter().map(move |field| (field, *before)))
    };
    let same_place = all().any(|(field, before)| place(field, before) == Some((low, high)));
    let named: Vec<_> = all().filter(|(field, _)| is_called(&field.name, name)).collect();
    if named.iter().any(|(field, before)| place(field, *before) == Some((low, high))) {
        return Judgement::Agrees;
    }
    // One number that a package cuts into pieces.
    let inside: u32 = all()
        .filter_map(|(field, before)| place(field, before))
        .filter(|place| low <= place.0 && place.1 <= high)
        .map(|place| place.1 - place.0 + 1)
        .sum();
    let around = all()
        .filter_map(|(field, before)| place(field, before))
        .any(|place| place.0 <= low && high <= place.1 && place != (low, high));
    let is_cut = inside == high - low + 1;
    // The same name at another place is a difference, whatever is at this one; a name that is only like it may be another's.
    let exactly = named.iter().find(|(field, _)| plain(&field.name) == plain(name));
    if let Some((field, before)) =
        exactly.or_else(|| named.first().filter(|_| !is_cut && !same_place && !around))
    {
        let (low, high) = (field.low.saturating_sub(*before), field.high.saturating_sub(*before));
        return Judgement::Differs(format!("{} is {high}:{low}", field.name));
    }
    if same_place || is_cut {
        return Judgement::Agrees;
    }
    if around {
        return Judgement::Open("the package does not cut the field that it lies in".to_owned());
    }
    Judgement::Open("the package has no such field".to_owned())
}

fn code(
    name: Option<&str>,
    low: u32,
    (code, means): (u64, &CodeMeaning),
    words: Option<&str>,
    there: &[(&DescribedRegister, u32)],
) -> Judgement {
    let fields =
        there.iter().flat_map(|(register, before)| register.fields.iter().map(move |field| (field, *before)));
    let fits = |(field, before): &(&DescribedField, u32)| {
        let same = field.low.checked_sub(*before) == Some(low);
        same && (name.is_none_or(|name| is_called(&field.name, name)) || !field.codes.is_empty())
    };
    // Of several views, or of several packages, one that says the same is enough, and one that says something else is more than
    // one that says nothing.
    let all = fields.filter(fits).map(|(field, _)| value(field, code, means, words));
    let rank = |judgement: &Judgement| match judgement {
        Judgement::Agrees => 2,
        Judgement::Differs(_) => 1,
        Judgement::Open(_) => 0,
    };
    all.max_by_key(rank).unwrap_or_else(|| Judgement::Open("the package has no such field".to_owned()))
}

/// What a field's value means; `words` are those that the package has for the source.
fn value(field: &DescribedField, code: u64, means: &CodeMeaning, words: Option<&str>) -> Judgement {
    if field.codes.is_empty() {
        return Judgement::Open("the package tells no values of it".to_owned());
    }
    let Some(described) = field.codes.iter().find(|described| described.code == code) else {
        return Judgement::Open("the package does not tell this value".to_owned());
    };
    let said = format!("{} ({})", described.name, described.says);
    match means {
        CodeMeaning::Factor(by) => match factor(described) {
            Some(factor) if factor == *by => Judgement::Agrees,
            Some(_) => Judgement::Differs(format!("{code} is {said}")),
            None => Judgement::Open(format!("{code} is {said}, in which is no number")),
        },
        CodeMeaning::From(node) => {
            match is_source(&said, node) || words.is_some_and(|own| said.contains(own)) {
                true => Judgement::Agrees,
                false => Judgement::Open(format!("{code} is {said}; whether that is {node} needs a reader")),
            }
        }
    }
}

/// Whether what is said of a value names a node of the clock tree: by a part of the node's name, by that part without the number
/// behind it as a word of its own, or by a frequency.
fn is_source(said: &str, node: &str) -> bool {
    let (words, plain_said) = (said.to_lowercase(), plain(said));
    let mut words = words.split(|letter: char| !letter.is_ascii_alphanumeric());
    let parts = || node.split('-').filter(|part| part.len() > 2);
    let frequency = |part: &str| part.strip_suffix("hz").is_some_and(|short| plain_said.contains(short));
    parts().any(|part| plain_said.contains(&plain(part)) || frequency(part))
        || words.any(|word| {
            parts().any(|part| part.trim_end_matches(|letter: char| letter.is_ascii_digit()) == word)
        })
}

/// The number that a value divides or multiplies by, where the package tells one.
///
/// It is what the name ends in, unless that is only the value itself; else what stands behind a stroke, else the first number
/// that is said; and one where it says that nothing is divided.
fn factor(code: &DescribedCode) -> Option<u64> {
    let name = code.name.trim_matches('_');
    let ends = name.rsplit(|letter: char| !letter.is_ascii_digit()).next().unwrap_or_default();
    let lower = name.to_lowercase();
    let is_value =
        lower.starts_with("val") || lower.starts_with("b_0x") || lower.bytes().all(|c| c.is_ascii_digit());
    let ends = ends.parse().ok().filter(|_| !is_value);
    let words = format!("{lower} {}", code.says.to_lowercase());
    let none = [
        "no division",
        "not divided",
        "no prescal",
        "undivided",
        "nodiv",
        "without",
        "not div",
        "no clock div",
    ];
    let said = code.says.rsplit_once('/').map_or(code.says.as_str(), |(_, behind)| behind);
    let mut numbers = said.split(|letter: char| !letter.is_ascii_digit()).filter(|part| !part.is_empty());
    let said = numbers.next().and_then(|number| number.parse().ok());
    match ends {
        Some(ends) if ends != code.code => Some(ends),
        _ if none.iter().any(|none| words.contains(none)) || words.ends_with("= fclk") => Some(1),
        ends => said.or(ends),
    }
}

/// Whether a package's name for a register is the file's: of both names cut at underscores, one has all words of the other, in
/// the same order; or they differ in the number of the peripheral alone.
fn is_register(package: &str, own: &str) -> bool {
    let words =
        |name: &str| name.split('_').filter(|word| !word.is_empty()).map(str::to_owned).collect::<Vec<_>>();
    let has = |all: &[String], some: &[String]| {
        let mut all = all.iter();
        some.iter().all(|word| all.any(|other| other == word))
    };
    let (package_words, own_words) = (words(package), words(own));
    let last = |words: &[String]| words.last().cloned();
    let shared = last(&package_words) == last(&own_words)
        && (has(&package_words, &own_words) || has(&own_words, &package_words));
    let (first, rest) = package.split_once('_').unwrap_or((package, ""));
    let unnumbered = format!("{}{rest}", first.trim_end_matches(|letter: char| letter.is_ascii_digit()));
    shared || is_called(package, own) || plain(&unnumbered) == plain(own)
}

/// Whether a package's name is the file's, but for case, underscores, and what the package puts before or behind it.
fn is_called(package: &str, own: &str) -> bool {
    let (package, own) = (plain(package), plain(own));
    package == own || (own.len() > 2 && (package.ends_with(&own) || package.starts_with(&own)))
}

fn plain(name: &str) -> String {
    name.chars().filter(char::is_ascii_alphanumeric).collect::<String>().to_lowercase()
}
