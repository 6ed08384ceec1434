//! Descriptions of registers as makers publish them, in XML.

use std::collections::BTreeMap;
use std::path::Path;

use anyhow::{Context as _, Result};
use roxmltree::{Document, Node};

use super::{DescribedCode, DescribedField, DescribedPin, DescribedRegister, PackageDescription};

/// The description in a file.
///
/// # Errors
/// A file that is missing or is no XML.
pub fn read(path: &Path) -> Result<PackageDescription> {
    let text = std::fs::read_to_string(path).with_context(|| path.display().to_string())?;
    let document = Document::parse(&text).with_context(|| path.display().to_string())?;
    let device = document.root_element();
    let defaults =
        SvdDefaults { bits: number(device, "size").unwrap_or(32), reset: number(device, "resetValue") };
    let mut found = PackageDescription::default();
    let peripherals: BTreeMap<&str, Node<'_, '_>> = children(device, "peripherals")
        .flat_map(|all| children(all, "peripheral"))
        .filter_map(|peripheral| Some((text_of(peripheral, "name")?, peripheral)))
        .collect();
    for (name, peripheral) in &peripherals {
        let Some(base) = number(*peripheral, "baseAddress") else { continue };
        let name = name.to_lowercase();
        // One that is like another has the other's registers.
        let like = peripheral.attribute("derivedFrom").and_then(|like| peripherals.get(like));
        let own = children(*peripheral, "registers").next();
        let registers = own.or_else(|| like.and_then(|like| children(*like, "registers").next()));
        let defaults = defaults.of(*peripheral);
        if let Some(registers) = registers {
            add(&mut found, registers, base, &format!("{name}_"), defaults);
        }
    }
    Ok(found)
}

/// What holds where a register does not say it.
#[derive(Debug, Clone, Copy)]
struct SvdDefaults {
    bits: u64,
    reset: Option<u64>,
}

impl SvdDefaults {
    fn of(self, node: Node<'_, '_>) -> Self {
        Self {
            bits: number(node, "size").unwrap_or(self.bits),
            reset: number(node, "resetValue").or(self.reset),
        }
    }
}

fn add(
    found: &mut PackageDescription,
    registers: Node<'_, '_>,
    base: u64,
    prefix: &str,
    defaults: SvdDefaults,
) {
    for node in registers.children().filter(Node::is_element) {
        let Some(offset) = number(node, "addressOffset") else { continue };
        for (name, more) in elements(node) {
            let (at, name) = (base + offset + more, format!("{prefix}{name}").to_lowercase());
            if node.has_tag_name("cluster") {
                add(found, node, at, &format!("{name}_"), defaults);
            } else if node.has_tag_name("register") {
                let SvdDefaults { bits, reset } = defaults.of(node);
                let fields = children(node, "fields").flat_map(|fields| children(fields, "field"));
                let fields: Vec<DescribedField> = fields.flat_map(fields_of).collect();
                found.pins.extend(fields.iter().flat_map(pins_of));
                found.add(at, DescribedRegister { name, bits: u32::try_from(bits).ok(), reset, fields });
            }
        }
    }
}

/// The names of an array's elements, with their distance from the first; the name alone of what is no array.
fn elements(node: Node<'_, '_>) -> Vec<(String, u64)> {
    let name = text_of(node, "name").unwrap_or_default();
    let Some(count) = number(node, "dim") else { return vec![(name.to_owned(), 0)] };
    let apart = number(node, "dimIncrement").unwrap_or(0);
    let indices = text_of(node, "dimIndex").map(indices).unwrap_or_default();
    (0..count)
        .map(|index| {
            let own = usize::try_from(index).ok().and_then(|index| indices.get(index).cloned());
            let own = own.unwrap_or_else(|| index.to_string());
            (name.replace("[%s]", &own).replace("%s", &own), index * apart)
        })
        .collect()
}

/// `0-3` and `A,B,C`.
fn indices(text: &str) -> Vec<String> {
    match text.split_once('-').map(|(from, to)| (from.parse::<u64>(), to.parse::<u64>())) {
        Some((Ok(from), Ok(to))) => (from..=to).map(|index| index.to_string()).collect(),
        _ => text.split(',').map(|index| index.trim().to_owned()).collect(),
    }
}

fn fields_of(node: Node<'_, '_>) -> Vec<DescribedField> {
    let narrow = |number: u64| u32::try_from(number).ok();
    let range = text_of(node, "bitRange").and_then(|range| {
        let (high, low) = range.trim_matches(['[', ']']).split_once(':')?;
        Some((low.parse().ok()?, high.parse().ok()?))
    });
    let ends = number(node, "lsb").zip(number(node, "msb"));
    let width = || number(node, "bitWidth").unwrap_or(1);
    let offset = number(node, "bitOffset").map(|low| (low, low + width() - 1));
    let Some((low, high)) = range.or(ends).or(offset) else { return Vec::new() };
    let values = children(node, "enumeratedValues").flat_map(|values| children(values, "enumeratedValue"));
    let codes = values.filter_map(|value| {
        Some(DescribedCode {
            code: number(value, "value")?,
            name: text_of(value, "name").unwrap_or_default().to_owned(),
            says: text_of(value, "description").unwrap_or_default().to_owned(),
        })
    });
    let codes: Vec<DescribedCode> = codes.collect();
    elements(node)
        .into_iter()
        .filter_map(|(name, more)| {
            let (low, high) = (narrow(low + more)?, narrow(high + more)?);
            Some(DescribedField { name: name.to_lowercase(), low, high, codes: codes.clone() })
        })
        .collect()
}

/// What a field that is named after a pin, `P3_25`, puts out there: values that are said to be a signal, `PWM1.2`, and nothing more.
fn pins_of(field: &DescribedField) -> Vec<DescribedPin> {
    let is_number = |text: &str| !text.is_empty() && text.bytes().all(|digit| digit.is_ascii_digit());
    let place = field.name.strip_prefix('p').and_then(|place| place.split_once('_'));
    let Some((port, pin)) = place.filter(|(port, pin)| is_number(port) && is_number(pin)) else {
        return Vec::new();
    };
    let signal = |says: &str| {
        let (peripheral, signal) = says.split_once('.')?;
        let is_name = peripheral.bytes().all(|letter| letter.is_ascii_alphanumeric());
        (is_name && is_number(signal)).then(|| (peripheral.to_lowercase(), signal.to_owned()))
    };
    let signals = field.codes.iter().filter_map(|value| Some((signal(&value.says)?, value.code)));
    let on_pin = |((peripheral, signal), code)| DescribedPin {
        peripheral,
        pin: format!("P{port}.{pin}"),
        signal,
        code: Some(format!("function {code}")),
    };
    signals.map(on_pin).collect()
}

fn children<'a, 'i>(node: Node<'a, 'i>, name: &'static str) -> impl Iterator<Item = Node<'a, 'i>> {
    node.children().filter(move |child| child.has_tag_name(name))
}

fn text_of<'a>(node: Node<'a, '_>, name: &'static str) -> Option<&'a str> {
    children(node, name).next()?.text().map(str::trim)
}

/// A number: decimal, `0x1f`, or `#101` in bits of which some may be anything.
fn number(node: Node<'_, '_>, name: &'static str) -> Option<u64> {
    let text = text_of(node, name)?.to_lowercase();
    if let Some(digits) = text.strip_prefix("0x") {
        return u64::from_str_radix(digits, 16).ok();
    }
    match text.strip_prefix('#').or_else(|| text.strip_prefix("0b")) {
        Some(bits) => u64::from_str_radix(&bits.replace('x', "0"), 2).ok(),
        None => text.parse().ok(),
    }
}
