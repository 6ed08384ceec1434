//! Quantities, ranges, tolerances, sources and assignments from any text: refused, or the same again from their exact text.
#![no_main]

use kairotic_core::clock::SourceAsk;
use kairotic_core::part::Assignment;
use kairotic_core::quantity::{
    Dimension, DutyDimension, FrequencyDimension, Quantity, TimeDimension, VoltageDimension, parse,
};
use libfuzzer_sys::fuzz_target;

fn again<D: Dimension>(text: &str) {
    // Generic quantities are not copied: their value is, which makes them again.
    if let Ok(value) = parse::quantity::<D>(text).map(Quantity::value) {
        let quantity = || Quantity::<D>::new(value);
        let exact = quantity().exact();
        assert_eq!(parse::quantity::<D>(&exact).ok().map(Quantity::value), Some(value), "{text:?} {exact:?}");
        let _ = (quantity().told(), quantity().rounded(5));
    }
    let _ = (parse::range::<D>(text), parse::tolerance::<D>(text));
}

fuzz_target!(|text: &str| {
    again::<FrequencyDimension>(text);
    again::<TimeDimension>(text);
    again::<DutyDimension>(text);
    again::<VoltageDimension>(text);
    let _ = (text.parse::<SourceAsk>(), text.parse::<Assignment>());
});
