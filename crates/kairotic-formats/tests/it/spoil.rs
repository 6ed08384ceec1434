//! Sound files with something else in them.

use proptest::prelude::*;
use proptest::sample::Index;

/// Where something is cut out, how much, and what stands there instead.
pub(crate) type Cut = (Index, usize, String);

/// A few cuts.
pub(crate) fn cuts() -> impl Strategy<Value = Vec<Cut>> {
    let text = "[0-9a-z\"{}\\[\\]=.,: \n-]{0,12}";
    prop::collection::vec((any::<Index>(), 0_usize..20, text), 1..4)
}

/// A text with other bytes in it.
pub(crate) fn spoiled(sound: &str, cuts: Vec<Cut>) -> Vec<u8> {
    let mut bytes = sound.as_bytes().to_vec();
    for (place, length, text) in cuts {
        let start = place.index(bytes.len());
        let end = (start + length).min(bytes.len());
        bytes.splice(start..end, text.into_bytes());
    }
    bytes
}
