//! Statements in words, and the claims that they rest on.

use std::collections::BTreeSet;

use kairotic_core::part::{Claim, ClaimKind, Claimed, Fact, Part, Trust};

/// What claims that agree are about.
#[derive(Debug, Default)]
pub struct HeldClaims {
    /// The names of registers and fields.
    names: BTreeSet<String>,
    /// The kinds.
    kinds: BTreeSet<ClaimKind>,
}

impl HeldClaims {
    /// Adds what a claim that agrees is about.
    pub fn add(&mut self, claim: &Claim) {
        self.kinds.insert(claim.what.kind());
        self.names.extend(claim.register.rsplit('_').next().map(str::to_owned));
        let named = match &claim.what {
            Claimed::Field { name, .. } | Claimed::Gate { field: name, .. } => Some(name),
            Claimed::Code { field, .. } => field.as_ref(),
            _ => None,
        };
        self.names.extend(named.cloned());
    }

    /// How many of a part's statements that are marked as verified rest on them: they name one of the registers or fields, or stand
    /// where such a claim was made, at a divider, a dead time, the pins, the addresses. What simulators showed does not need them.
    pub fn held(&self, part: &Part) -> usize {
        let placed: BTreeSet<*const Fact> = self.placed(part).into_iter().map(std::ptr::from_ref).collect();
        let shown: BTreeSet<&str> = shown_documents(part).collect();
        let rests = |fact: &&Fact| {
            shown.contains(fact.document.as_str())
                || placed.contains(&std::ptr::from_ref(*fact))
                || self.are_in(&fact.says)
        };
        part.facts().filter(|fact| fact.trust == Trust::Verified).filter(rests).count()
    }

    /// The statements that stand where a claim was made.
    fn placed<'p>(&self, part: &'p Part) -> Vec<&'p Fact> {
        let mut placed = Vec::new();
        if self.kinds.contains(&ClaimKind::Address) {
            placed.extend(part.memory.iter().flat_map(|memory| &memory.facts));
            placed.extend(part.bring_up.iter().flat_map(|bring_up| bring_up.facts()));
        }
        if self.kinds.contains(&ClaimKind::Pin) {
            placed.extend(part.pinout.iter().flat_map(|pinout| &pinout.facts));
        }
        let own = part.timers.iter().flat_map(|timer| &timer.with.dividers);
        let dividers = part.blocks.values().flat_map(|block| &block.dividers).chain(own);
        for divider in dividers.filter(|divider| self.has(&divider.slot)) {
            placed.extend(&divider.facts);
        }
        for dead in part.timers.iter().filter_map(|timer| timer.with.dead_time.as_ref()) {
            if dead.slots.iter().any(|slot| self.has(slot)) {
                placed.extend(&dead.facts);
            }
        }
        placed
    }

    /// Whether one of the places is a register or a field of theirs; of names with a gap in them, what is behind it.
    fn has(&self, slot: &[String]) -> bool {
        let plain = |place: &String| {
            let name = place.rsplit('.').next().unwrap_or(place);
            name.rsplit(['}', '_']).next().unwrap_or(name).to_owned()
        };
        slot.iter().any(|place| self.names.iter().any(|name| name.ends_with(&plain(place))))
    }

    /// Whether a statement names one of them.
    fn are_in(&self, says: &str) -> bool {
        let words = says.split(|letter: char| !letter.is_ascii_alphanumeric() && letter != '_');
        let mut names =
            words.filter(|word| word.len() > 1 && word.contains(|of: char| of.is_ascii_uppercase()));
        names.any(|word| {
            let last = word.rsplit('_').next().unwrap_or(word);
            self.names.iter().any(|name| stands_for(last, name))
        })
    }
}

/// The keys of documents that are cases measured on simulators of others, which the tests hold.
fn shown_documents(part: &Part) -> impl Iterator<Item = &str> {
    let of_simulators = part.documents.iter().filter(|(_, title)| title.contains("simulator"));
    of_simulators.map(|(key, _)| key.as_str())
}

/// Whether a word is the name, or the name of several: in `OCxM` and `CnV` small letters stand for the number of a channel.
fn stands_for(word: &str, name: &str) -> bool {
    let mut letters = word.chars();
    let same = |(of_word, of_name): (char, char)| {
        of_word == of_name || (of_word.is_ascii_lowercase() && of_name.is_ascii_digit())
    };
    word.len() == name.len()
        && name.chars().all(|of_name| letters.next().is_some_and(|of_word| same((of_word, of_name))))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_statement_rests_on_claims_about_what_it_names() {
        let mut held = HeldClaims::default();
        let claim = |register: &str, field: &str| Claim {
            subject: String::new(),
            register: register.to_owned(),
            address: None,
            what: Claimed::Field { name: field.to_owned(), low: 0, high: 2 },
        };
        held.add(&claim("TIM3_CCMR1", "OC1M"));
        held.add(&claim("TIM3_CCR2", "CCR2"));
        for named in
            ["OCxM has a fourth bit", "what CCR2 holds", "a field of TIM3_CCMR1", "CCMRx holds the modes"]
        {
            assert!(held.are_in(named), "{named}");
        }
        for other in ["OCxPE buffers it", "the timers count the bus clock", "CCR 2", "oc1m"] {
            assert!(!held.are_in(other), "{other}");
        }
    }
}
