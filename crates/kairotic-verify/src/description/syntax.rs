//! Names, numbers and documentation in Rust code.

use syn::{Attribute, Expr, Lit, Meta, Type};

/// The lines of documentation.
pub fn docs(attributes: &[Attribute]) -> Vec<String> {
    let text = attributes.iter().filter_map(|attribute| match &attribute.meta {
        Meta::NameValue(pair) if pair.path.is_ident("doc") => match &pair.value {
            Expr::Lit(value) => match &value.lit {
                Lit::Str(text) => Some(text.value()),
                _ => None,
            },
            _ => None,
        },
        _ => None,
    });
    text.flat_map(|text| text.lines().map(str::to_owned).collect::<Vec<_>>()).collect()
}

/// The names of a path.
pub fn type_path(of: &Type) -> Option<Vec<String>> {
    match of {
        Type::Path(path) => Some(path.path.segments.iter().map(|part| part.ident.to_string()).collect()),
        _ => None,
    }
}

/// The name of a type without the modules before it; of `crate::Reg<cr1::CR1_SPEC>` the name inside.
pub fn last_name(of: &Type) -> Option<String> {
    match of {
        Type::Path(path) => path.path.segments.last().map(|last| last.ident.to_string()),
        _ => None,
    }
}

/// A number, whatever it is cast to.
pub fn number(of: &Expr) -> Option<u64> {
    match of {
        Expr::Lit(literal) => match &literal.lit {
            Lit::Int(number) => number.base10_parse().ok(),
            Lit::Bool(bit) => Some(bit.value.into()),
            _ => None,
        },
        Expr::Cast(cast) => number(&cast.expr),
        Expr::Paren(inner) => number(&inner.expr),
        _ => None,
    }
}
