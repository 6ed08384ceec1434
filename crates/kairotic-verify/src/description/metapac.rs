//! The metadata of a chip as Rust data: which signal comes out where, what gives a peripheral its clock, and registers.

use std::collections::BTreeSet;
use std::path::Path;

use anyhow::{Context as _, Result};
use syn::{Expr, Item, Lit};

use super::{
    DescribedCode, DescribedField, DescribedGate, DescribedPin, DescribedRegister, PackageDescription,
};

/// The timer unit and the channel of a signal: `CHA1` of an HRTIM is `CH1` of its unit A.
fn of_unit(peripheral: &str, signal: String) -> (String, String) {
    let unit = signal.strip_prefix("CH").and_then(|rest| rest.split_at_checked(1));
    match unit.filter(|_| peripheral.starts_with("hrtim")) {
        Some((unit, channel)) => (format!("hrtim-{}", unit.to_lowercase()), format!("CH{channel}")),
        None => (peripheral.to_owned(), signal),
    }
}

/// Adds what a chip's metadata say of pins and clock gates.
///
/// # Errors
/// A file that is missing or is no Rust.
fn add(package: &Path, chip: &str, found: &mut PackageDescription) -> Result<()> {
    for peripheral in &peripherals(package, chip)? {
        let Some(name) = member(peripheral, "name").and_then(text_of) else { continue };
        let name = name.to_lowercase();
        for pin in member(peripheral, "pins").map(elements).unwrap_or_default() {
            let words = [member(pin, "pin"), member(pin, "signal")].map(|word| word.and_then(text_of));
            let [Some(pin_name), Some(signal)] = words else { continue };
            let code = member(pin, "af").and_then(inside).and_then(number_of).map(|code| format!("AF{code}"));
            let (peripheral, signal) = of_unit(&name, signal);
            found.pins.push(DescribedPin { peripheral, pin: pin_name, signal, code });
        }
        let enable =
            member(peripheral, "rcc").and_then(inside).and_then(|rcc| inside(member(rcc, "enable")?));
        let words = enable.map(|enable| {
            [member(enable, "register"), member(enable, "field")].map(|word| word.and_then(text_of))
        });
        if let Some([Some(register), Some(field)]) = words {
            found.gates.push(DescribedGate { peripheral: name, register, field });
        }
    }
    Ok(())
}

/// The description of a chip whose registers are data as well: of the peripherals in which one of the addresses lies.
///
/// # Errors
/// A file that is missing or is no Rust.
pub fn read(package: &Path, chip: &str, addresses: &BTreeSet<u64>) -> Result<PackageDescription> {
    let mut found = PackageDescription::default();
    let all = peripherals(package, chip)?;
    let base = |peripheral: &Expr| member(peripheral, "address").and_then(number_of);
    let bases: BTreeSet<u64> = all.iter().filter_map(base).collect();
    let wanted: BTreeSet<u64> =
        addresses.iter().filter_map(|address| bases.range(..=*address).next_back().copied()).collect();
    for peripheral in &all {
        let name = member(peripheral, "name").and_then(text_of);
        let (Some(name), Some(base)) = (name, base(peripheral).filter(|base| wanted.contains(base))) else {
            continue;
        };
        let name = name.to_lowercase();
        let Some(registers) = member(peripheral, "registers").and_then(inside) else { continue };
        let words = ["kind", "version", "block"].map(|word| member(registers, word).and_then(text_of));
        let [Some(kind), Some(version), Some(block)] = words else { continue };
        let path = package.join("src/registers").join(format!("{kind}_{version}.rs"));
        let file = parsed(&path)?;
        let Some(data) = list(&file, "REGISTERS") else { continue };
        for (offset, register) in registers_of(data, &block) {
            let name = format!("{name}_{}", register.name);
            found.add(base + offset, DescribedRegister { name, ..register });
        }
    }
    add(package, chip, &mut found)?;
    Ok(found)
}

/// The peripherals of a chip.
fn peripherals(package: &Path, chip: &str) -> Result<Vec<Expr>> {
    let chips = package.join("src/chips");
    let own = chips.join(chip).join("metadata.rs");
    let text = std::fs::read_to_string(&own).with_context(|| own.display().to_string())?;
    // Chips that are alike share a file.
    let shared =
        text.split_once("include!(\"../").and_then(|(_, rest)| rest.split_once('"')).map(|(name, _)| name);
    let file = parsed(&chips.join(shared.with_context(|| format!("{chip} includes nothing"))?))?;
    let all = list(&file, "PERIPHERALS").map(elements).unwrap_or_default();
    Ok(all.into_iter().cloned().collect())
}

fn parsed(path: &Path) -> Result<syn::File> {
    let text = std::fs::read_to_string(path).with_context(|| path.display().to_string())?;
    syn::parse_file(&text).with_context(|| path.display().to_string())
}

/// The value of a static of that name.
fn list<'f>(file: &'f syn::File, name: &str) -> Option<&'f Expr> {
    file.items.iter().find_map(|item| match item {
        Item::Static(list) if list.ident == name => Some(list.expr.as_ref()),
        _ => None,
    })
}

/// The registers of a block with their distances from its beginning.
fn registers_of(data: &Expr, block: &str) -> Vec<(u64, DescribedRegister)> {
    let named = |list: &str, name: &str| {
        let is_own = |one: &&Expr| {
            member(one, "name")
                .and_then(text_of)
                .is_some_and(|own| own.eq_ignore_ascii_case(&name.replace('_', "")))
        };
        member(data, list).map(elements).unwrap_or_default().into_iter().find(is_own)
    };
    let items =
        named("blocks", block).and_then(|block| member(block, "items")).map(elements).unwrap_or_default();
    let register = |item: &Expr| {
        let (name, offset) = (text_of(member(item, "name")?)?, number_of(member(item, "byte_offset")?)?);
        let inner = inside(member(item, "inner")?)?;
        let bits = member(inner, "bit_size").and_then(number_of).and_then(|bits| u32::try_from(bits).ok());
        let set = member(inner, "fieldset").and_then(inside).and_then(text_of);
        let set = set.and_then(|set| member(named("fieldsets", &set)?, "fields"));
        let fields = set.map(elements).unwrap_or_default().into_iter().filter_map(|field| {
            let low = number_of(member(inside(member(field, "bit_offset")?)?, "offset")?)?;
            let width = number_of(member(field, "bit_size")?)?;
            let codes = member(field, "enumm").and_then(inside).and_then(text_of);
            let codes = codes.and_then(|codes| member(named("enums", &codes)?, "variants"));
            let codes = codes.map(elements).unwrap_or_default().into_iter().filter_map(|variant| {
                let (code, name) =
                    (number_of(member(variant, "value")?)?, text_of(member(variant, "name")?)?);
                Some(DescribedCode { code, name, says: String::new() })
            });
            let name = text_of(member(field, "name")?)?.to_lowercase();
            let array = member(field, "array").and_then(inside).and_then(inside);
            let part = |name: &str| array.and_then(|array| number_of(member(array, name)?));
            Some((name, low, width, codes.collect::<Vec<_>>(), part("len").zip(part("stride"))))
        });
        let fields = fields.flat_map(|(name, low, width, codes, array)| {
            let (len, stride) = array.unwrap_or((1, 0));
            (0..len).filter_map(move |index| {
                let name = if len > 1 { format!("{name}{index}") } else { name.clone() };
                let low = u32::try_from(low + index * stride).ok()?;
                Some(DescribedField {
                    name,
                    low,
                    high: low + u32::try_from(width).ok()? - 1,
                    codes: codes.clone(),
                })
            })
        });
        let count = member(item, "array").and_then(inside).and_then(inside);
        let part = |name: &str| count.and_then(|count| number_of(member(count, name)?));
        let (len, stride) = part("len").zip(part("stride")).unwrap_or((1, 0));
        let fields: Vec<DescribedField> = fields.collect();
        let made = (0..len).map(move |index| {
            let name = if len > 1 { format!("{name}{index}") } else { name.clone() };
            let register = DescribedRegister { name, bits, reset: None, fields: fields.clone() };
            (offset + index * stride, register)
        });
        Some(made.collect::<Vec<_>>())
    };
    items.into_iter().filter_map(register).flatten().collect()
}

/// The elements of `&[…]`.
fn elements(of: &Expr) -> Vec<&Expr> {
    match of {
        Expr::Reference(reference) => elements(&reference.expr),
        Expr::Array(array) => array.elems.iter().collect(),
        _ => Vec::new(),
    }
}

/// A field of a struct's expression.
fn member<'e>(of: &'e Expr, name: &str) -> Option<&'e Expr> {
    let Expr::Struct(of) = of else { return None };
    let is_own = |field: &&syn::FieldValue| matches!(&field.member, syn::Member::Named(own) if own == name);
    of.fields.iter().find(is_own).map(|field| &field.expr)
}

/// What is inside of `Some(…)`.
fn inside(of: &Expr) -> Option<&Expr> {
    match of {
        Expr::Call(call) => call.args.first(),
        _ => None,
    }
}

fn text_of(of: &Expr) -> Option<String> {
    match of {
        Expr::Lit(literal) => match &literal.lit {
            Lit::Str(text) => Some(text.value()),
            _ => None,
        },
        _ => None,
    }
}

fn number_of(of: &Expr) -> Option<u64> {
    match of {
        Expr::Lit(literal) => match &literal.lit {
            Lit::Int(number) => number.base10_parse().ok(),
            _ => None,
        },
        _ => None,
    }
}
