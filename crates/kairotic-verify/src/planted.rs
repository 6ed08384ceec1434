//! Errors that are planted, to see how many of them are found.

use kairotic_core::part::{Claim, Claimed, CodeMeaning};

/// The same claim with one thing wrong: another address, one bit more, the next bit, another value, twice the factor, the next pin,
/// another field.
/// `None` for a claim that is about names only.
pub fn spoiled(claim: &Claim) -> Option<Claim> {
    let mut wrong = claim.clone();
    match &mut wrong.what {
        Claimed::Address => wrong.address = wrong.address.map(|address| address + 4),
        Claimed::Width(bits) => *bits += 1,
        Claimed::Reset { value, mask } => *value ^= 1 << mask.trailing_zeros().min(63),
        Claimed::Field { low, high, .. } => (*low, *high) = (*low + 1, *high + 1),
        Claimed::Code { means: CodeMeaning::Factor(by), .. } => *by *= 2,
        Claimed::Code { means: CodeMeaning::From(_), .. } => return None,
        Claimed::Pin { pin, .. } => {
            let number = pin.rfind(|letter: char| !letter.is_ascii_digit()).map_or(0, |at| at + 1);
            let next = pin.get(number..)?.parse::<u32>().ok()? + 1;
            pin.replace_range(number.., &next.to_string());
        }
        Claimed::Gate { field, .. } => field.insert(3, '9'),
    }
    Some(wrong)
}
