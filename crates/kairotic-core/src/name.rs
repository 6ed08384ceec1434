//! Names that come from outside, and go into every output: onto terminals, into tables, pictures and captures.
//!
//! ```
//! use kairotic_core::name::{distinct, refused};
//!
//! assert_eq!(refused("dome-1"), None);
//! assert_eq!(refused("dome 1"), Some(' '));
//! assert_eq!(distinct(vec!["fan".to_owned(), "fan".to_owned()]), ["fan", "fan~2"]);
//! ```

use std::collections::HashSet;

/// Whether a character is not to be seen, or changes how others are: control characters, and those that only format or turn the
/// direction of writing.
fn is_hidden(letter: char) -> bool {
    letter.is_control()
        || matches!(
            letter,
            '\u{ad}' | '\u{61c}' | '\u{180e}' | '\u{feff}'
                | '\u{200b}'..='\u{200f}'
                | '\u{2028}'..='\u{202e}'
                | '\u{2060}'..='\u{206f}'
                | '\u{fff9}'..='\u{fffb}'
                | '\u{e0000}'..='\u{e007f}'
        )
}

/// A name as it was read, with the replacement character in place of what cannot be seen.
pub fn cleaned(name: &str) -> String {
    name.chars().map(|letter| if is_hidden(letter) { char::REPLACEMENT_CHARACTER } else { letter }).collect()
}

/// The same names, each only once: one that stands before already gets a number.
pub fn distinct(names: Vec<String>) -> Vec<String> {
    let mut taken: HashSet<String> = HashSet::new();
    let one = |name: String| {
        let numbered = (2_u64..).map(|number| format!("{name}~{number}"));
        let free = std::iter::once(name.clone()).chain(numbered).find(|name| !taken.contains(name));
        let free = free.unwrap_or(name);
        taken.insert(free.clone());
        free
    };
    names.into_iter().map(one).collect()
}

/// The first character of a name that one given to a signal or a load may not have: letters, digits, hyphens and underscores
/// go through every output as they are.
pub fn refused(name: &str) -> Option<char> {
    name.chars().find(|letter| !letter.is_alphanumeric() && !matches!(letter, '-' | '_'))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_cannot_be_seen_is_replaced() {
        assert_eq!(cleaned("a\u{1b}[31mb\u{202e}c\u{200b}\n"), "a\u{fffd}[31mb\u{fffd}c\u{fffd}\u{fffd}");
        assert_eq!(cleaned("µ-Shutter_1 ünïcödé"), "µ-Shutter_1 ünïcödé");
    }

    #[test]
    fn no_two_names_are_the_same() {
        let names = ["a", "b", "a", "a~2", "a"].map(str::to_owned).to_vec();
        assert_eq!(distinct(names), ["a", "b", "a~2", "a~2~2", "a~3"]);
    }

    #[test]
    fn given_names_are_plain() {
        assert_eq!(["shutter", "Kuppel-2_ß"].map(refused), [None, None]);
        assert_eq!(["a b", "a,b", "=1", "a.b"].map(refused), [Some(' '), Some(','), Some('='), Some('.')]);
    }
}
