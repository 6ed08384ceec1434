//! Register crates in which a register's place is a number in the function that gives it, and a field's bits are numbers of
//! its type: `RegisterField<16, 0x7, 1, 0, gtcr::Md, …>`.

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::Path;

use anyhow::{Context as _, Result};
use syn::{Expr, GenericArgument, ImplItem, Item, PathArguments, ReturnType, Stmt, Type};

use super::syntax::{docs, last_name, number, type_path};
use super::{DescribedCode, DescribedField, DescribedRegister, PackageDescription};

/// The description in a crate's folder: of the peripherals in which one of the addresses lies, and of those with whose names one
/// of the names begins.
///
/// # Errors
/// A file that is missing or is no Rust.
pub fn read(
    folder: &Path,
    (addresses, names): (&BTreeSet<u64>, &BTreeSet<String>),
) -> Result<PackageDescription> {
    let items = parsed(&folder.join("src/lib.rs"))?;
    let modules: Vec<String> = items
        .iter()
        .filter_map(|item| match item {
            Item::Mod(module) => Some(module.ident.to_string()),
            _ => None,
        })
        .collect();
    let all: Vec<(String, String, u64)> = items.iter().filter_map(peripheral).collect();
    let bases: BTreeSet<u64> = all.iter().map(|(_, _, base)| *base).collect();
    let last = |address: &u64| bases.range(..=*address).next_back().copied();
    let wanted: BTreeSet<u64> = addresses.iter().filter_map(last).collect();
    let mut known: BTreeMap<String, Vec<(u64, DescribedRegister)>> = BTreeMap::new();
    let mut found = PackageDescription::default();
    for (name, of, base) in &all {
        let start = format!("{}_", name.to_lowercase());
        if !wanted.contains(base) && !names.iter().any(|of| of.starts_with(&start)) {
            continue;
        }
        if !known.contains_key(of) {
            let module = modules.iter().find(|module| module.replace('_', "") == of.to_lowercase());
            let module = module.with_context(|| format!("no module of {of} in {}", folder.display()))?;
            known.insert(of.clone(), registers(&parsed(&folder.join(format!("src/{module}.rs")))?, of));
        }
        for (offset, register) in known.get(of).into_iter().flatten() {
            let name = format!("{start}{}", register.name);
            found.add(base + offset, DescribedRegister { name, ..register.clone() });
        }
    }
    Ok(found)
}

fn parsed(path: &Path) -> Result<Vec<Item>> {
    let text = fs::read_to_string(path).with_context(|| path.display().to_string())?;
    Ok(syn::parse_file(&text).with_context(|| path.display().to_string())?.items)
}

/// `pub const GPT321: self::Gpt320 = self::Gpt320 { ptr: 0x40169100u32 as _ };`: its name, its type and its address.
fn peripheral(item: &Item) -> Option<(String, String, u64)> {
    let Item::Const(constant) = item else { return None };
    let Expr::Struct(made) = constant.expr.as_ref() else { return None };
    let base = made.fields.first().and_then(|field| number(&field.expr))?;
    Some((constant.ident.to_string(), last_name(&constant.ty)?, base))
}

/// The registers of a peripheral's type, with their distance from its beginning.
fn registers(items: &[Item], of: &str) -> Vec<(u64, DescribedRegister)> {
    let functions = implemented(items, of).filter_map(|item| match item {
        ImplItem::Fn(function) => Some(function),
        _ => None,
    });
    functions
        .filter_map(|function| {
            let offset = function.block.stmts.first().and_then(offset)?;
            let ReturnType::Type(_, given) = &function.sig.output else { return None };
            let own = register_type(given)?;
            let name = function.sig.ident.to_string().to_lowercase();
            Some((offset, DescribedRegister { name, ..register(items, &own) }))
        })
        .collect()
}

/// `unsafe { … from_ptr(self._svd2pac_as_ptr().add(44usize)) }`.
fn offset(statement: &Stmt) -> Option<u64> {
    let Stmt::Expr(Expr::Unsafe(inside), _) = statement else { return None };
    let Stmt::Expr(Expr::Call(call), _) = inside.block.stmts.first()? else { return None };
    let Expr::MethodCall(add) = call.args.first()? else { return None };
    add.args.first().filter(|_| add.method == "add").and_then(number)
}

/// The register's type: of `&'static Reg<self::Gtcr_SPEC, RW>` it is `Gtcr`, of `&'static self::CtlT` it is `Ctl`.
fn register_type(given: &Type) -> Option<String> {
    let Type::Reference(reference) = given else { return None };
    let name = last_name(&reference.elem)?;
    if name != "Reg" {
        return name.strip_suffix('T').map(str::to_owned);
    }
    let inner = arguments(&reference.elem).find_map(|argument| match argument {
        GenericArgument::Type(inner) => last_name(inner),
        _ => None,
    })?;
    inner.strip_suffix("_SPEC").map(str::to_owned)
}

/// What is said of a register's type: its fields, its width, and what it holds after reset.
fn register(items: &[Item], of: &str) -> DescribedRegister {
    let codes = items.iter().find_map(|item| match item {
        Item::Mod(module) if module.ident.to_string().replace('_', "") == of.to_lowercase() => {
            module.content.as_ref().map(|(_, items)| items.as_slice())
        }
        _ => None,
    });
    let fields =
        implemented(items, of).filter_map(|item| field(item, codes.unwrap_or_default())).collect::<Vec<_>>();
    let (own, alias) = ([of.to_owned(), format!("{of}_SPEC")], format!("{of}T"));
    let traits = items.iter().filter_map(|item| match item {
        Item::Impl(implemented) if implemented.trait_.is_some() => Some(implemented),
        _ => None,
    });
    let (mut bits, mut reset) = (None, None);
    for implemented in traits {
        let name = last_name(&implemented.self_ty).unwrap_or_default();
        for item in &implemented.items {
            match item {
                ImplItem::Type(kind) if kind.ident == "DataType" && own.contains(&name) => {
                    bits = last_name(&kind.ty).and_then(|kind| kind.strip_prefix('u')?.parse().ok());
                }
                // fn default() -> Gtcr { <… as RegisterValue<_>>::new(0) }, fn reset_value(&self) -> Ctl { Ctl::new(0) }
                ImplItem::Fn(function) if own.contains(&name) || name == alias => {
                    let is_reset = function.sig.ident == "default" || function.sig.ident == "reset_value";
                    if let (true, Some(Stmt::Expr(Expr::Call(call), _))) =
                        (is_reset, function.block.stmts.first())
                    {
                        reset = call.args.first().and_then(number);
                    }
                }
                _ => {}
            }
        }
    }
    DescribedRegister { name: String::new(), bits, reset, fields }
}

/// `pub fn md(self) -> RegisterField<16, 0x7, 1, 0, gtcr::Md, …>`, or `RegisterFieldBool<8, …>`.
fn field(item: &ImplItem, codes: &[Item]) -> Option<DescribedField> {
    let ImplItem::Fn(function) = item else { return None };
    let ReturnType::Type(_, given) = &function.sig.output else { return None };
    let kind = last_name(given)?;
    let mut numbers = arguments(given).filter_map(|argument| match argument {
        GenericArgument::Const(value) => number(value),
        _ => None,
    });
    let low = u32::try_from(numbers.next()?).ok()?;
    let width = match kind.as_str() {
        "RegisterFieldBool" => 1,
        "RegisterField" => 64 - numbers.next()?.leading_zeros(),
        _ => return None,
    };
    let values = arguments(given).find_map(|argument| match argument {
        GenericArgument::Type(of) => type_path(of).filter(|path| path.len() == 2)?.pop(),
        _ => None,
    });
    let codes = values.map(|of| implemented(codes, &of).filter_map(code).collect()).unwrap_or_default();
    let name = function.sig.ident.to_string().to_lowercase();
    Some(DescribedField { name, low, high: low + width.max(1) - 1, codes })
}

/// `pub const _100: Self = Self::new(4);`, or `Self(4)`, with what is said of it.
fn code(item: &ImplItem) -> Option<DescribedCode> {
    let ImplItem::Const(constant) = item else { return None };
    let Expr::Call(call) = &constant.expr else { return None };
    let code = call.args.first().and_then(number)?;
    Some(DescribedCode { code, name: constant.ident.to_string(), says: docs(&constant.attrs).join(" ") })
}

/// What a type has without a trait.
fn implemented<'i>(items: &'i [Item], of: &'i str) -> impl Iterator<Item = &'i ImplItem> {
    items
        .iter()
        .filter_map(move |item| match item {
            Item::Impl(own) if own.trait_.is_none() && last_name(&own.self_ty).as_deref() == Some(of) => {
                Some(&own.items)
            }
            _ => None,
        })
        .flatten()
}

/// What stands in the angle brackets of a type.
fn arguments(of: &Type) -> impl Iterator<Item = &GenericArgument> {
    let last = match of {
        Type::Path(path) => path.path.segments.last(),
        _ => None,
    };
    let inside = last.and_then(|last| match &last.arguments {
        PathArguments::AngleBracketed(inside) => Some(&inside.args),
        _ => None,
    });
    inside.into_iter().flatten()
}
