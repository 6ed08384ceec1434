//! Names of a board as identifiers of C and Rust.

use std::collections::BTreeMap;

use super::EmitError;

/// So long a name of a signal or a file may be: what is made of it stays below the 63 characters that compilers tell apart.
const LONGEST: usize = 32;

/// A name in lower case with `_` for everything that no identifier has, and no two in a row.
///
/// # Errors
/// [`EmitError::Name`] for a name of which nothing is left, and for one that is too long.
pub(super) fn identifier(name: &str) -> Result<String, EmitError> {
    let mut made = String::new();
    for letter in name.chars() {
        match letter {
            letter if letter.is_ascii_alphanumeric() => made.push(letter.to_ascii_lowercase()),
            _ if made.ends_with('_') || made.is_empty() => {}
            _ => made.push('_'),
        }
    }
    let made = made.trim_end_matches('_');
    if made.is_empty() || made.len() > LONGEST {
        return Err(EmitError::Name { name: name.chars().take(60).collect(), longest: LONGEST });
    }
    Ok(made.to_owned())
}

/// The identifiers of several names.
///
/// # Errors
/// As [`identifier`]; [`EmitError::Clash`] for two names that become one.
pub(super) fn identifiers<'n>(names: impl Iterator<Item = &'n str>) -> Result<Vec<String>, EmitError> {
    let (mut taken, mut all) = (BTreeMap::new(), Vec::new());
    for name in names {
        let made = identifier(name)?;
        if let Some(first) = taken.insert(made.clone(), name) {
            let (first, second) = (first.to_owned(), name.to_owned());
            return Err(EmitError::Clash { first, second, identifier: made });
        }
        all.push(made);
    }
    Ok(all)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_become_identifiers() {
        for (name, made) in [
            ("shutter", "shutter"),
            ("Flat-Field", "flat_field"),
            ("a*/b", "a_b"),
            ("9x", "9x"),
            ("--a--", "a"),
        ] {
            assert_eq!(identifier(name).unwrap(), made);
        }
    }

    #[test]
    fn what_is_none_is_refused() {
        let long = "a".repeat(300);
        for name in ["", "*/", "é", long.as_str()] {
            assert!(matches!(identifier(name), Err(EmitError::Name { .. })), "{name}");
        }
        let clash = identifiers(["dome-lamp", "dome", "dome lamp"].into_iter()).unwrap_err();
        assert_eq!(clash.to_string(), "`dome-lamp` and `dome lamp` would both be called dome_lamp");
    }
}
