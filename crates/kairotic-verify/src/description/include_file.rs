//! Include files of an assembler: registers as `T2CON EQU H'0012'`, and the bits of each under a heading of its name.

use std::collections::BTreeMap;
use std::fs;
use std::path::Path;

use anyhow::{Context as _, Result};

use super::{DescribedField, DescribedRegister, PackageDescription};

/// The registers of a part in such a file, all of eight bits.
///
/// # Errors
/// A file that is missing.
pub fn read(path: &Path) -> Result<PackageDescription> {
    let bytes = fs::read(path).with_context(|| path.display().to_string())?;
    Ok(described(&String::from_utf8_lossy(&bytes)))
}

/// What the lines of a file say.
pub(crate) fn described(text: &str) -> PackageDescription {
    let mut addresses: BTreeMap<String, u64> = BTreeMap::new();
    let mut bits: BTreeMap<String, Vec<(String, u32)>> = BTreeMap::new();
    let mut register: Option<String> = None;
    for line in text.lines() {
        if let Some(heading) = line.strip_prefix(";-----") {
            register = heading.split_once(" Bits ").map(|(name, _)| name.trim().to_lowercase());
        }
        let Some((name, number)) = equal(line) else { continue };
        match &register {
            Some(register) => {
                bits.entry(register.clone())
                    .or_default()
                    .extend(u32::try_from(number).ok().map(|bit| (name, bit)));
            }
            None => {
                addresses.insert(name, number);
            }
        }
    }
    let mut found = PackageDescription::default();
    for (name, address) in addresses {
        let fields = bits.get(&name).map(|bits| fields(bits)).unwrap_or_default();
        found.add(address, DescribedRegister { name, bits: Some(8), reset: None, fields });
    }
    found
}

/// `NAME EQU H'1F'`: the name in lower case, and the number.
fn equal(line: &str) -> Option<(String, u64)> {
    let mut words = line.split_whitespace();
    let (name, "EQU", number) = (words.next()?, words.next()?, words.next()?) else { return None };
    let digits = number.strip_prefix("H'")?.strip_suffix('\'')?;
    Some((name.to_lowercase(), u64::from_str_radix(digits, 16).ok()?))
}

/// Bits that are called alike but for a number, and lie as that counts, are one field; each other is one by itself.
fn fields(bits: &[(String, u32)]) -> Vec<DescribedField> {
    let mut groups: BTreeMap<&str, Vec<(u32, u32)>> = BTreeMap::new();
    for (name, bit) in bits {
        let stem = name.trim_end_matches(|letter: char| letter.is_ascii_digit());
        if let Some(number) = name.strip_prefix(stem).and_then(|number| number.parse().ok()) {
            groups.entry(stem).or_default().push((number, *bit));
        }
    }
    let field = |name: &str, low: u32, high: u32| DescribedField {
        name: name.to_owned(),
        low,
        high,
        codes: Vec::new(),
    };
    let mut found = Vec::new();
    for (stem, members) in &mut groups {
        members.sort_unstable();
        let (Some((0, low)), Some((_, high))) = (members.first().copied(), members.last().copied()) else {
            continue;
        };
        if members.len() > 1
            && (0..).zip(members.iter()).all(|(place, member)| *member == (place, low + place))
        {
            found.push(field(stem, low, high));
        }
    }
    let whole: Vec<String> = found.iter().map(|field| field.name.clone()).collect();
    let is_part = |name: &str| {
        whole.iter().any(|stem| name.trim_end_matches(|letter: char| letter.is_ascii_digit()) == stem)
    };
    found.extend(bits.iter().filter(|(name, _)| !is_part(name)).map(|(name, bit)| field(name, *bit, *bit)));
    found
}
