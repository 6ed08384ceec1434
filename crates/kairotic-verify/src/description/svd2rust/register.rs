//! A register: its width, what it holds after reset, its fields and what their values mean.

use std::collections::BTreeMap;

use syn::{GenericArgument, ImplItem, Item, PathArguments, ReturnType, Type};

use super::super::syntax::{docs, last_name, number};
use super::super::{DescribedCode, DescribedField, DescribedRegister};
use super::source::ModuleFile;

/// The register that a module describes.
pub fn read(source: &ModuleFile, name: String) -> DescribedRegister {
    let enums = enums(source);
    let readers = readers(source);
    let mut fields: Vec<DescribedField> = Vec::new();
    for item in source.items.iter() {
        let Item::Impl(of) = item else { continue };
        let is_view = last_name(&of.self_ty).is_some_and(|name| name == "R" || name == "W");
        if of.trait_.is_some() || !is_view {
            continue;
        }
        for item in &of.items {
            let ImplItem::Fn(function) = item else { continue };
            let Some((low, high)) = docs(&function.attrs).iter().find_map(|line| bits(line)) else {
                continue;
            };
            let name = function.sig.ident.to_string();
            let name = name.trim_start_matches("r#").trim_end_matches('_').to_lowercase();
            let made = match &function.sig.output {
                ReturnType::Type(_, made) => last_name(made).unwrap_or_default(),
                ReturnType::Default => String::new(),
            };
            let codes = codes(&made, &readers, &enums);
            match fields.iter_mut().find(|field| field.name == name) {
                Some(known) if known.codes.is_empty() => known.codes = codes,
                Some(_) => {}
                None => fields.push(DescribedField { name, low, high, codes }),
            }
        }
    }
    DescribedRegister { name: name.to_lowercase(), bits: width(source), reset: reset(source), fields }
}

/// `Bits 4:6 - …` and `Bit 0 - …`, whichever end comes first.
fn bits(line: &str) -> Option<(u32, u32)> {
    let line = line.trim();
    let rest = line.strip_prefix("Bits ").or_else(|| line.strip_prefix("Bit "))?;
    let end = rest.find(|letter: char| !letter.is_ascii_digit() && letter != ':').unwrap_or(rest.len());
    let place = rest.get(..end)?;
    let (one, other) = place.split_once(':').unwrap_or((place, place));
    let (one, other): (u32, u32) = (one.parse().ok()?, other.parse().ok()?);
    Some((one.min(other), one.max(other)))
}

/// The values of each enumeration.
fn enums(source: &ModuleFile) -> BTreeMap<String, Vec<DescribedCode>> {
    let mut found = BTreeMap::new();
    for item in source.items.iter() {
        let Item::Enum(of) = item else { continue };
        let codes = of.variants.iter().filter_map(|variant| {
            let code = variant.discriminant.as_ref().and_then(|(_, value)| number(value))?;
            let says = docs(&variant.attrs).join(" ");
            // The value stands before what is said of it.
            let says = says.split_once(": ").map_or(says.clone(), |(_, says)| says.to_owned());
            Some(DescribedCode { code, name: variant.ident.to_string(), says: says.trim().to_owned() })
        });
        let codes: Vec<DescribedCode> = codes.collect();
        if !codes.is_empty() {
            found.insert(of.ident.to_string(), codes);
        }
    }
    found
}

/// For each reader's type the names that stand in it: of `crate::BitReader<CEN>` that is `CEN`.
fn readers(source: &ModuleFile) -> BTreeMap<String, Vec<String>> {
    let mut found = BTreeMap::new();
    for item in source.items.iter() {
        match item {
            Item::Type(alias) => {
                found.insert(alias.ident.to_string(), names_in(&alias.ty));
            }
            // pub use CC1P_R as CC2P_R;
            Item::Use(used) => {
                if let syn::UseTree::Rename(rename) = &used.tree {
                    found.insert(rename.rename.to_string(), vec![rename.ident.to_string()]);
                }
            }
            _ => {}
        }
    }
    found
}

fn names_in(of: &Type) -> Vec<String> {
    let Type::Path(path) = of else { return Vec::new() };
    let Some(last) = path.path.segments.last() else { return Vec::new() };
    let mut names = vec![last.ident.to_string()];
    if let PathArguments::AngleBracketed(arguments) = &last.arguments {
        for argument in &arguments.args {
            if let GenericArgument::Type(inner) = argument {
                names.extend(names_in(inner));
            }
        }
    }
    names
}

fn codes(
    made: &str,
    readers: &BTreeMap<String, Vec<String>>,
    enums: &BTreeMap<String, Vec<DescribedCode>>,
) -> Vec<DescribedCode> {
    let mut names = vec![made.to_owned()];
    for _ in 0..3 {
        if let Some(codes) = names.iter().find_map(|name| enums.get(name)) {
            return codes.clone();
        }
        names = names.iter().filter_map(|name| readers.get(name)).flatten().cloned().collect();
    }
    // Older generators name the enumeration after the field.
    let stem = made.trim_end_matches("_R").trim_end_matches("_W");
    let stem = stem.strip_suffix(['R', 'W']).unwrap_or(stem);
    let known = enums.iter().find(|(name, _)| *name == stem || **name == format!("{stem}_A"));
    known.map(|(_, codes)| codes.clone()).unwrap_or_default()
}

/// Its width: what stands for its number.
fn width(source: &ModuleFile) -> Option<u32> {
    let of_type = |of: &Type| last_name(of)?.strip_prefix('u')?.parse().ok();
    source.items.iter().find_map(|item| match item {
        Item::Impl(of) => of.items.iter().find_map(|item| match item {
            ImplItem::Type(own) if own.ident == "Ux" || own.ident == "Type" => of_type(&own.ty),
            ImplItem::Fn(function) if function.sig.ident == "bits" => match &function.sig.output {
                ReturnType::Type(_, made) => of_type(made),
                ReturnType::Default => None,
            },
            _ => None,
        }),
        _ => None,
    })
}

/// What it holds after reset; zero where it can be reset and nothing else is said.
fn reset(source: &ModuleFile) -> Option<u64> {
    source.items.iter().find_map(|item| {
        let Item::Impl(of) = item else { return None };
        let (_, path, _) = of.trait_.as_ref()?;
        let resets =
            path.segments.last().is_some_and(|last| last.ident == "Resettable" || last.ident == "ResetValue");
        if !resets {
            return None;
        }
        let said = of.items.iter().find_map(|item| match item {
            ImplItem::Const(constant) if constant.ident == "RESET_VALUE" => Some(number(&constant.expr)),
            ImplItem::Fn(function) if function.sig.ident == "reset_value" => {
                Some(function.block.stmts.first().and_then(|stmt| match stmt {
                    syn::Stmt::Expr(expr, _) => number(expr),
                    _ => None,
                }))
            }
            _ => None,
        });
        Some(said.unwrap_or(Some(0)))
    })?
}
