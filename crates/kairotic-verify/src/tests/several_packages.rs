//! What several packages, and a reader's words, make of a claim.

use kairotic_core::part::{Claimed, CodeMeaning};

use super::claim;
use crate::description::{DescribedCode, DescribedField, DescribedRegister, PackageDescription};
use crate::verdict::{HeldAgainst, Judgement, judge_by};

#[test]
fn the_first_package_that_says_anything_decides() {
    let package = |bits: Option<u32>, reset: Option<u64>| {
        let mut description = PackageDescription::default();
        let field = DescribedField { name: "div".to_owned(), low: 0, high: 2, codes: Vec::new() };
        let name = "tim_ctl".to_owned();
        description.add(0x100, DescribedRegister { name, bits, reset, fields: vec![field] });
        description
    };
    let names = Default::default();
    let silent = HeldAgainst { description: package(Some(16), None), names: &names, words: &names };
    let telling = HeldAgainst { description: package(Some(16), Some(5)), names: &names, words: &names };
    let other = HeldAgainst { description: package(Some(16), Some(6)), names: &names, words: &names };
    let reset = |value| claim("TIM_CTL", 0x100, Claimed::Reset { value, mask: 7 });
    let packages = [silent, telling, other];
    assert_eq!(judge_by(&reset(5), &packages), Judgement::Agrees);
    let differs = Judgement::Differs("it holds 0x5 after reset".to_owned());
    assert_eq!(judge_by(&reset(6), &packages), differs);
    let open = Judgement::Open("the package tells no value after reset".to_owned());
    assert_eq!(judge_by(&reset(5), packages.get(..1).unwrap()), open);
}

#[test]
fn a_reader_s_words_for_a_source_decide_only_what_the_package_says_in_them() {
    let mut description = PackageDescription::default();
    let code =
        |code: u64, says: &str| DescribedCode { code, name: format!("_{code}"), says: says.to_owned() };
    let codes = vec![code(0, "External reference"), code(1, "Internal reference")];
    let fields = vec![DescribedField { name: "clks".to_owned(), low: 6, high: 7, codes }];
    description.add(0x100, DescribedRegister { name: "mcg_c1".to_owned(), fields, ..Default::default() });
    let (names, words) = (Default::default(), [("osc".to_owned(), "External reference".to_owned())].into());
    let packages = [HeldAgainst { description, names: &names, words: &words }];
    let from = |code: u64, node: &str| {
        let means = CodeMeaning::From(node.to_owned());
        let what = Claimed::Code { field: Some("CLKS".to_owned()), low: 6, code, means };
        judge_by(&claim("MCG_C1", 0x100, what), &packages)
    };
    assert_eq!(from(0, "osc"), Judgement::Agrees);
    assert!(matches!(from(1, "osc"), Judgement::Open(_)), "other words");
    assert!(matches!(from(0, "irc"), Judgement::Open(_)), "no words are known");
}
