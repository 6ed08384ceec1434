//! Register crates that lay a peripheral out as a structure, in the order of its registers: where one lies is what stands before it.
//! Fields are modules of a register's module, each with an `offset` and a `mask`.

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::Path;

use anyhow::{Context as _, Result};
use syn::{BinOp, Expr, Fields, GenericArgument, Item, Lit, Meta, PathArguments, Type};

use super::syntax::{docs, last_name, number};
use super::{DescribedCode, DescribedField, DescribedRegister, PackageDescription};

/// The description in a crate's folder, of the peripherals of a device in which one of the addresses lies.
///
/// # Errors
/// A file that is missing or is no Rust.
pub fn read(folder: &Path, device: &str, addresses: &BTreeSet<u64>) -> Result<PackageDescription> {
    let source = folder.join("src");
    let peripherals = peripherals(&parsed(&source.join(format!("{device}.rs")))?);
    let bases: BTreeSet<u64> = peripherals.iter().map(|peripheral| peripheral.base).collect();
    let wanted: BTreeSet<u64> =
        addresses.iter().filter_map(|address| bases.range(..=*address).next_back().copied()).collect();
    let mut known: BTreeMap<&str, Vec<(u64, DescribedRegister)>> = BTreeMap::new();
    let mut found = PackageDescription::default();
    for peripheral in peripherals.iter().filter(|peripheral| wanted.contains(&peripheral.base)) {
        let file = peripheral.file.as_str();
        if !known.contains_key(file) {
            let items = parsed(&source.join(file))?;
            known.insert(file, block(&items).with_context(|| file.to_owned())?.registers);
        }
        for (offset, register) in known.get(file).into_iter().flatten() {
            let name = format!("{}_{}", peripheral.name, register.name);
            found.add(peripheral.base + offset, DescribedRegister { name, ..register.clone() });
        }
    }
    Ok(found)
}

fn parsed(path: &Path) -> Result<Vec<Item>> {
    let text = fs::read_to_string(path).with_context(|| path.display().to_string())?;
    Ok(syn::parse_file(&text).with_context(|| path.display().to_string())?.items)
}

/// A peripheral and the file that lays it out.
struct RalPeripheral {
    name: String,
    base: u64,
    file: String,
}

/// `pub mod pwm { pub const PWM1: *const RegisterBlock = 0x403d_c000 as …; #[path = "blocks/…/pwm.rs"] mod blocks; }`.
fn peripherals(items: &[Item]) -> Vec<RalPeripheral> {
    let mut found = Vec::new();
    let modules = items.iter().filter_map(|item| match item {
        Item::Mod(module) => module.content.as_ref().map(|(_, items)| items),
        _ => None,
    });
    for inside in modules {
        let file = inside.iter().find_map(|item| match item {
            Item::Mod(module) => module.attrs.iter().find_map(|attribute| match &attribute.meta {
                Meta::NameValue(pair) if pair.path.is_ident("path") => match &pair.value {
                    Expr::Lit(text) => match &text.lit {
                        Lit::Str(text) => Some(text.value()),
                        _ => None,
                    },
                    _ => None,
                },
                _ => None,
            }),
            _ => None,
        });
        let Some(file) = file else { continue };
        for item in inside {
            let Item::Const(constant) = item else { continue };
            if let (Type::Ptr(_), Some(base)) = (constant.ty.as_ref(), number(&constant.expr)) {
                let name = constant.ident.to_string().to_lowercase();
                found.push(RalPeripheral { name, base, file: file.clone() });
            }
        }
    }
    found
}

/// A structure of registers: how long it is, how it has to lie, and its registers with their distance from its beginning.
struct RalBlock {
    size: u64,
    align: u64,
    registers: Vec<(u64, DescribedRegister)>,
}

fn block(items: &[Item]) -> Result<RalBlock> {
    let structure = items.iter().find_map(|item| match item {
        Item::Struct(structure) if structure.ident == "RegisterBlock" => Some(&structure.fields),
        _ => None,
    });
    let Some(Fields::Named(fields)) = structure else { anyhow::bail!("no RegisterBlock") };
    let mut all = RalBlock { size: 0, align: 1, registers: Vec::new() };
    for field in &fields.named {
        let name = field.ident.as_ref().map(ToString::to_string).unwrap_or_default();
        let (of, count) = match &field.ty {
            Type::Array(array) => (array.elem.as_ref(), number(&array.len)),
            other => (other, None),
        };
        let element = element(items, &name, of)?;
        all.align = all.align.max(element.align);
        all.size = all.size.next_multiple_of(element.align);
        for index in 0..count.unwrap_or(1) {
            for (offset, register) in &element.registers {
                // `SMCTRL` of the first of a cluster `SM` is `SM0CTRL`; the second of an array `CHANNEL` is `CHANNEL1`.
                let rest = register.name.strip_prefix(&name.to_lowercase()).unwrap_or(&register.name);
                let own = match count {
                    Some(_) => format!("{}{index}{rest}", name.to_lowercase()),
                    None => register.name.clone(),
                };
                all.registers.push((all.size + offset, DescribedRegister { name: own, ..register.clone() }));
            }
            all.size += element.size;
        }
    }
    all.size = all.size.next_multiple_of(all.align);
    Ok(all)
}

/// What one field of a structure is: a register, a cluster of them, or room that is not used.
fn element(items: &[Item], name: &str, of: &Type) -> Result<RalBlock> {
    let kind = last_name(of).unwrap_or_default();
    if kind == "RegisterBlock" {
        let module = match of {
            Type::Path(path) => path.path.segments.first().map(|first| first.ident.to_string()),
            _ => None,
        };
        let inside = module.and_then(|module| inside(items, &module));
        return block(inside.with_context(|| format!("no module of {name}"))?);
    }
    let bits = match kind.strip_suffix("Register") {
        Some(_) => argument(of).and_then(|of| of.strip_prefix('u')?.parse().ok()),
        None => kind.strip_prefix('u').and_then(|bits| bits.parse().ok()),
    };
    let bits: u32 = bits.with_context(|| format!("{name} is neither a register nor room"))?;
    let mut all = RalBlock { size: u64::from(bits / 8), align: u64::from(bits / 8), registers: Vec::new() };
    if kind.ends_with("Register") {
        let fields = inside(items, name).unwrap_or_default().iter().filter_map(field).collect();
        let register = DescribedRegister { name: name.to_lowercase(), bits: Some(bits), reset: None, fields };
        all.registers.push((0, register));
    }
    Ok(all)
}

/// The items of a module.
fn inside<'i>(items: &'i [Item], name: &str) -> Option<&'i [Item]> {
    items.iter().find_map(|item| match item {
        Item::Mod(module) if module.ident == name => {
            module.content.as_ref().map(|(_, items)| items.as_slice())
        }
        _ => None,
    })
}

/// `pub mod PRSC { pub const offset: u16 = 4; pub const mask: u16 = 0x07 << offset; pub mod RW { … } }`.
fn field(item: &Item) -> Option<DescribedField> {
    let Item::Mod(module) = item else { return None };
    let (_, items) = module.content.as_ref()?;
    let constant = |name: &str| {
        items.iter().find_map(|item| match item {
            Item::Const(constant) if constant.ident == name => Some(constant.expr.as_ref()),
            _ => None,
        })
    };
    let low = u32::try_from(constant("offset").and_then(number)?).ok()?;
    let mask = match constant("mask")? {
        Expr::Binary(shifted) if matches!(shifted.op, BinOp::Shl(_)) => number(&shifted.left)?,
        _ => return None,
    };
    let values = ["R", "W", "RW"].iter().filter_map(|name| inside(items, name)).flatten();
    let codes = values.filter_map(|item| match item {
        Item::Const(constant) => Some(DescribedCode {
            code: number(&constant.expr)?,
            name: constant.ident.to_string(),
            says: docs(&constant.attrs).join(" "),
        }),
        _ => None,
    });
    let width = 64 - mask.leading_zeros();
    let name = module.ident.to_string().to_lowercase();
    Some(DescribedField { name, low, high: low + width.max(1) - 1, codes: codes.collect() })
}

/// The name in the angle brackets of a type.
fn argument(of: &Type) -> Option<String> {
    let Type::Path(path) = of else { return None };
    let PathArguments::AngleBracketed(inside) = &path.path.segments.last()?.arguments else { return None };
    inside.args.iter().find_map(|argument| match argument {
        GenericArgument::Type(inner) => last_name(inner),
        _ => None,
    })
}
