//! Register crates that were generated from a maker's description: one module a peripheral, one a register.
//!
//! Where a register lies and which bits a field has stands in documentation comments (`0x18 - …`, `Bits 4:6 - …`), in the
//! same words through all versions of the generator.

mod register;
mod source;

use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;

use anyhow::{Context as _, Result};
use syn::{Expr, ImplItem, Item, Lit, Type};

use self::source::ModuleFile;
use super::syntax::{docs, last_name, number, type_path};
use super::{DescribedRegister, PackageDescription};

/// The description in a crate's folder: of the device whose module that is, of the whole crate where none is named.
/// Of its peripherals those are read in which one of the addresses lies, and those with whose names one of the names begins.
///
/// # Errors
/// A file that is missing or is no Rust.
pub fn read(
    folder: &Path,
    device: Option<&str>,
    (addresses, names): (&BTreeSet<u64>, &BTreeSet<String>),
) -> Result<PackageDescription> {
    let root = ModuleFile::root(&folder.join("src/lib.rs"))?;
    let device = match device {
        Some(device) => root.module(device)?,
        None => root,
    };
    let mut found = PackageDescription::default();
    let mut known: BTreeMap<String, Vec<(u64, DescribedRegister)>> = BTreeMap::new();
    let all = peripherals(&device);
    let bases: BTreeSet<u64> = all.iter().map(|(_, _, base)| *base).collect();
    // Small peripherals may lie among one another.
    let near = |address: &u64| {
        let last = bases.range(..=*address).next_back().copied();
        bases.range(address.saturating_sub(AMONG)..=*address).copied().chain(last).collect::<Vec<_>>()
    };
    let wanted: BTreeSet<u64> = addresses.iter().flat_map(near).collect();
    for (name, module, base) in all {
        if !wanted.contains(&base) && !names.iter().any(|of| of.starts_with(&format!("{name}_"))) {
            continue;
        }
        if !known.contains_key(&module) {
            let source = device.module(&module).with_context(|| format!("{name} in {}", folder.display()))?;
            let mut registers = Vec::new();
            block(&source, "RegisterBlock", 0, "", &mut registers)
                .with_context(|| format!("{module} in {}", folder.display()))?;
            known.insert(module.clone(), registers);
        }
        for (offset, register) in known.get(&module).into_iter().flatten() {
            let name = format!("{name}_{}", register.name);
            found.add(base + offset, DescribedRegister { name, ..register.clone() });
        }
    }
    Ok(found)
}

/// How far a peripheral that lies among others reaches at most.
const AMONG: u64 = 0x40;

/// The peripherals with their modules and addresses.
fn peripherals(device: &ModuleFile) -> Vec<(String, String, u64)> {
    let mut found = Vec::new();
    for item in device.items.iter() {
        match item {
            // pub type TIM3 = crate::Periph<tim3::RegisterBlock, 0x4000_0400>;
            Item::Type(alias) => {
                let Some((block, [base, ..])) = periph(&alias.ty) else { continue };
                found.push((alias.ident.to_string().to_lowercase(), block, base));
            }
            // impl TIM3 { pub const PTR: *const tim3::RegisterBlock = 0x4000_0400 as *const _; }
            Item::Impl(of) if of.trait_.is_none() => {
                let Some(name) = type_path(&of.self_ty).and_then(|path| path.last().cloned()) else {
                    continue;
                };
                for item in &of.items {
                    let (block, value) = match item {
                        ImplItem::Const(constant) if constant.ident == "PTR" => {
                            (pointed(&constant.ty), number(&constant.expr))
                        }
                        ImplItem::Fn(function) if function.sig.ident == "ptr" => {
                            let syn::ReturnType::Type(_, made) = &function.sig.output else { continue };
                            let value = function.block.stmts.first().and_then(|stmt| match stmt {
                                syn::Stmt::Expr(expr, _) => number(expr),
                                _ => None,
                            });
                            (pointed(made), value)
                        }
                        _ => continue,
                    };
                    if let (Some(block), Some(base)) = (block, value) {
                        found.push((name.to_lowercase(), block, base));
                    }
                }
            }
            _ => {}
        }
    }
    found
}

/// The module and the numbers of `crate::Periph<tim3::RegisterBlock, 0x4000_0400>`.
fn periph(of: &Type) -> Option<(String, [u64; 1])> {
    let Type::Path(path) = of else { return None };
    let last = path.path.segments.last().filter(|last| last.ident == "Periph")?;
    let syn::PathArguments::AngleBracketed(arguments) = &last.arguments else { return None };
    let mut arguments = arguments.args.iter();
    let syn::GenericArgument::Type(block) = arguments.next()? else { return None };
    let syn::GenericArgument::Const(Expr::Lit(base)) = arguments.next()? else { return None };
    let Lit::Int(base) = &base.lit else { return None };
    Some((module_of(block)?, [base.base10_parse().ok()?]))
}

/// The module of `*const tim3::RegisterBlock`.
fn pointed(of: &Type) -> Option<String> {
    match of {
        Type::Ptr(pointer) => module_of(&pointer.elem),
        _ => None,
    }
}

/// The module of `tim3::RegisterBlock`.
fn module_of(of: &Type) -> Option<String> {
    let path = type_path(of)?;
    path.len().checked_sub(2).and_then(|at| path.get(at).cloned())
}

/// The registers of a block, with their distance from its beginning.
fn block(
    source: &ModuleFile,
    name: &str,
    base: u64,
    prefix: &str,
    found: &mut Vec<(u64, DescribedRegister)>,
) -> Result<()> {
    for BlockPlace { name, at, until, of, is_indexed, count: bound } in places(source, name) {
        let (element, count) = match &of {
            Type::Array(array) => (array.elem.as_ref(), number(&array.len)),
            other => (other, None),
        };
        let Some(own) = last_name(element) else { continue };
        let count = count.or(bound).or_else(|| source.length_of(&name)).unwrap_or(1).max(1);
        let Some(inner) = source.module_of(element) else { continue };
        let is_cluster = inner.has_block(&own);
        let read = register::read(&inner, String::new());
        // Where a few narrow registers follow one another, no end is told: they are as far apart as they are wide.
        let wide = read.bits.filter(|_| !is_cluster).map_or(0, |bits| u64::from(bits / 8));
        let stride = until.map_or(wide, |until| (until - at) / count);
        // What is told of an array without a length is told of its elements as well.
        if is_indexed && count == 1 {
            continue;
        }
        for index in 0..count {
            let number = if count > 1 { index.to_string() } else { String::new() };
            let name = format!("{prefix}{}{number}", name.trim_start_matches("r#"));
            let at = base + at + index * stride;
            if is_cluster {
                block(&inner, &own, at, &format!("{name}_"), found)?;
            } else {
                found.push((at, DescribedRegister { name: name.to_lowercase(), ..read.clone() }));
            }
        }
    }
    Ok(())
}

/// Something in a block.
struct BlockPlace {
    name: String,
    at: u64,
    until: Option<u64>,
    of: Type,
    is_indexed: bool,
    /// How many there are, where the function that leads there says it.
    count: Option<u64>,
}

/// The bound in `[(); 6][n];`, with which an array's function begins.
fn bound(statement: &syn::Stmt) -> Option<u64> {
    let syn::Stmt::Expr(Expr::Index(indexed), _) = statement else { return None };
    let Expr::Repeat(repeated) = indexed.expr.as_ref() else { return None };
    number(&repeated.len)
}

/// What the documentation of a block's fields, or of the functions that lead to them, tells of their places.
fn places(source: &ModuleFile, block: &str) -> Vec<BlockPlace> {
    let mut found = Vec::new();
    for item in source.items.iter() {
        match item {
            Item::Struct(of) if of.ident == block => {
                for field in &of.fields {
                    let Some((at, until)) = place(&docs(&field.attrs)) else { continue };
                    let name = field.ident.as_ref().map(ToString::to_string).unwrap_or_default();
                    found.push(BlockPlace {
                        name,
                        at,
                        until,
                        of: field.ty.clone(),
                        is_indexed: false,
                        count: None,
                    });
                }
            }
            Item::Impl(of) if of.trait_.is_none() && last_name(&of.self_ty).as_deref() == Some(block) => {
                for item in &of.items {
                    let ImplItem::Fn(function) = item else { continue };
                    let Some((at, until)) = place(&docs(&function.attrs)) else { continue };
                    let syn::ReturnType::Type(_, made) = &function.sig.output else { continue };
                    let Type::Reference(made) = made.as_ref() else { continue };
                    // Views that are changed lie where those lie that are read.
                    if made.mutability.is_some() {
                        continue;
                    }
                    found.push(BlockPlace {
                        name: function.sig.ident.to_string(),
                        at,
                        until,
                        of: made.elem.as_ref().clone(),
                        is_indexed: function.sig.inputs.len() > 1,
                        count: function.block.stmts.iter().find_map(bound),
                    });
                }
            }
            _ => {}
        }
    }
    found
}

/// The place in `0x18 - capture/compare register` and in `0x00..0xa0 - cluster`.
fn place(docs: &[String]) -> Option<(u64, Option<u64>)> {
    docs.iter().find_map(|line| {
        // Behind it may be nothing.
        let (place, _) = line.trim_start().split_once(" -")?;
        let (at, until) = place.split_once("..").map_or((place, None), |(at, until)| (at, Some(until)));
        let hex = |text: &str| u64::from_str_radix(text.trim().strip_prefix("0x")?, 16).ok();
        Some((hex(at)?, until.and_then(hex)))
    })
}
