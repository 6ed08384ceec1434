//! The page: what packages say of every part.

use std::collections::{BTreeMap, BTreeSet};
use std::fmt::Write as _;
use std::path::Path;

use anyhow::Result;
use kairotic_core::part::{Claim, ClaimKind, Part, Trust};
use kairotic_parts::Catalogue;

use crate::digest;
use crate::planted::spoiled;
use crate::source::{PackageList, PartSource};
use crate::statements::HeldClaims;
use crate::verdict::{HeldAgainst, Judgement, judge_by};

/// What a package says of a part.
struct HeldPart<'s> {
    name: &'s str,
    source: &'s PartSource,
    /// Each claim once, with its kind.
    verdicts: BTreeMap<String, (ClaimKind, Judgement)>,
    /// For each kind the errors that were planted, and how many of them were found.
    planted: BTreeMap<ClaimKind, [usize; 2]>,
    /// What claims that agree are about.
    agreed: HeldClaims,
}

impl<'s> HeldPart<'s> {
    fn of(
        name: &'s str,
        source: &'s PartSource,
        part: &Part,
        (sources, folder): (&'s PackageList, &Path),
    ) -> Result<Self> {
        let claims = part.claims();
        let packages = source.read(folder, &claims, &sources.words)?;
        let mut held = Self {
            name,
            source,
            verdicts: BTreeMap::new(),
            planted: BTreeMap::new(),
            agreed: HeldClaims::default(),
        };
        for claim in &claims {
            held.add(claim, &packages);
        }
        Ok(held)
    }

    fn add(&mut self, claim: &Claim, packages: &[HeldAgainst<'_>]) {
        let verdict = judge_by(claim, packages);
        let kind = claim.what.kind();
        if verdict == Judgement::Agrees {
            self.agreed.add(claim);
        }
        if verdict == Judgement::Agrees
            && let Some(wrong) = spoiled(claim)
        {
            let [planted, found] = self.planted.entry(kind).or_default();
            *planted += 1;
            *found += usize::from(matches!(judge_by(&wrong, packages), Judgement::Differs(_)));
        }
        match self.verdicts.get_mut(&claim.subject) {
            None => drop(self.verdicts.insert(claim.subject.clone(), (kind, verdict))),
            // Of several timers one that differs decides, and one that agrees is better than one that is open.
            Some((_, known)) => match (&known, &verdict) {
                (Judgement::Differs(_), _) => {}
                (_, Judgement::Differs(_)) | (Judgement::Open(_), Judgement::Agrees) => *known = verdict,
                _ => {}
            },
        }
    }

    fn count(&self, kind: Option<ClaimKind>, fits: impl Fn(&Judgement) -> bool) -> usize {
        let of_kind = |own: &ClaimKind| kind.is_none_or(|kind| kind == *own);
        self.verdicts.values().filter(|(own, verdict)| of_kind(own) && fits(verdict)).count()
    }
}

fn agrees(verdict: &Judgement) -> bool {
    *verdict == Judgement::Agrees
}

fn differs(verdict: &Judgement) -> bool {
    matches!(verdict, Judgement::Differs(_))
}

fn is_open(verdict: &Judgement) -> bool {
    matches!(verdict, Judgement::Open(_))
}

/// The page.
///
/// # Errors
/// Packages that are missing or cannot be read.
pub fn page(sources: &PackageList, folder: &Path) -> Result<String> {
    let catalogue = Catalogue::embedded();
    let mut held = Vec::new();
    for (name, source) in &sources.parts {
        held.push(HeldPart::of(name, source, catalogue.whole_part(name)?, (sources, folder))?);
    }
    let mut page = String::from(HEAD);
    writeln!(page, "Catalogue: {}\n", digest::of_parts()?)?;
    parts_table(&mut page, sources, &held)?;
    kinds_table(&mut page, &held)?;
    differences(&mut page, sources, &held)?;
    open_reasons(&mut page, &held)?;
    statements(&mut page, &catalogue, sources, &held)?;
    Ok(page)
}

/// What differs and what is open of one part.
///
/// # Errors
/// As [`page`].
pub fn one(sources: &PackageList, folder: &Path, name: &str) -> Result<String> {
    let catalogue = Catalogue::embedded();
    let part = catalogue.whole_part(name)?;
    let source = sources.parts.get(name).ok_or_else(|| anyhow::anyhow!("no package describes {name}"))?;
    let held = HeldPart::of(name, source, part, (sources, folder))?;
    let mut text = String::new();
    for (subject, (_, verdict)) in &held.verdicts {
        match verdict {
            Judgement::Agrees => {}
            Judgement::Differs(says) => writeln!(text, "differs  {subject}: {says}")?,
            Judgement::Open(says) => writeln!(text, "open     {subject}: {says}")?,
        }
    }
    Ok(text)
}

const HEAD: &str = "# What register packages say of the catalogue

Printed by `scripts/verify-silicon`, which fetches the packages and compares. A *claim* is one thing that a family file says of a register
and a machine can decide: where it is, how wide, where its fields lie, what their values do, what it holds after reset, and besides which pins
an output has, and what gives a timer its clock. What several timers of a part have in common counts once. The comparison is tried as well: every claim that agrees is
spoiled in one place (the next bit, another address, twice the factor, the next pin), and the table of kinds says how many of those errors
it finds. Where a part has several packages, the first that says anything of a claim decides it. Where a package has other words for a clock's
source, a person read them once; the claim agrees as long as the package says just these (sources.toml).

";

fn parts_table(page: &mut String, sources: &PackageList, held: &[HeldPart<'_>]) -> Result<()> {
    writeln!(page, "## Parts\n")?;
    writeln!(page, "| part | package | agree | differ | open |")?;
    writeln!(page, "|---|---|---|---|---|")?;
    let mut sums = [0; 3];
    for held in held {
        let counts = [held.count(None, agrees), held.count(None, differs), held.count(None, is_open)];
        sums.iter_mut().zip(counts).for_each(|(sum, count)| *sum += count);
        let [agree, differ, open] = counts;
        let named = |source: &PartSource| format!("{} {}", source.package, sources.version(&source.package));
        let packages: Vec<String> = held.source.packages().map(named).collect();
        writeln!(page, "| {} | {} | {agree} | {differ} | {open} |", held.name, packages.join(", "))?;
    }
    let [agree, differ, open] = sums;
    writeln!(page, "| all | | {agree} | {differ} | {open} |")?;
    let all = sums.iter().sum::<usize>().max(1);
    writeln!(page, "\n{} of {all} claims agree: {:.1} %.\n", agree, 100.0 * agree as f64 / all as f64)?;
    let catalogue = Catalogue::embedded();
    let others: Vec<&str> = unread(&catalogue, sources).collect();
    let claims = unread_claims(&catalogue, sources)?;
    writeln!(
        page,
        "No package is read for {}: their {claims} claims are not among these.\n",
        others.join(", ")
    )?;
    Ok(())
}

/// The parts that no package is read for.
fn unread(catalogue: &Catalogue, sources: &PackageList) -> impl Iterator<Item = &'static str> {
    catalogue.names().filter(|name| !sources.parts.contains_key(*name))
}

/// How many claims their files make.
fn unread_claims(catalogue: &Catalogue, sources: &PackageList) -> Result<usize> {
    let subjects = |name| {
        let claims = catalogue.part(name)?.claims();
        Ok(claims.into_iter().map(|claim| claim.subject).collect::<BTreeSet<_>>().len())
    };
    unread(catalogue, sources).map(subjects).sum()
}

fn kinds_table(page: &mut String, held: &[HeldPart<'_>]) -> Result<()> {
    writeln!(page, "## Kinds\n")?;
    writeln!(page, "| claims | agree | differ | open | errors planted | of these found |")?;
    writeln!(page, "|---|---|---|---|---|---|")?;
    for kind in ClaimKind::ALL {
        let sum = |fits: fn(&Judgement) -> bool| {
            held.iter().map(|held| held.count(Some(kind), fits)).sum::<usize>()
        };
        let planted = held.iter().filter_map(|held| held.planted.get(&kind));
        let [planted, found] =
            planted.fold([0, 0], |[planted, found], one| [planted + one[0], found + one[1]]);
        writeln!(
            page,
            "| {} | {} | {} | {} | {planted} | {found} |",
            kind.words(),
            sum(agrees),
            sum(differs),
            sum(is_open)
        )?;
    }
    writeln!(
        page,
        "\nAn error that is not found leaves the claim open: the package says nothing of what it became.\n"
    )?;
    Ok(())
}

fn differences(page: &mut String, sources: &PackageList, held: &[HeldPart<'_>]) -> Result<()> {
    writeln!(page, "## Differences\n")?;
    writeln!(page, "| part | the family file says | the package says | decided |")?;
    writeln!(page, "|---|---|---|---|")?;
    for held in held {
        for (subject, (_, verdict)) in &held.verdicts {
            let Judgement::Differs(says) = verdict else { continue };
            let known =
                sources.decisions.iter().find(|known| known.part == held.name && known.claim == *subject);
            let decided = known.map_or("open", |known| known.reason.as_str());
            writeln!(page, "| {} | {subject} | {says} | {decided} |", held.name)?;
        }
    }
    writeln!(page)?;
    Ok(())
}

fn open_reasons(page: &mut String, held: &[HeldPart<'_>]) -> Result<()> {
    writeln!(page, "## What the packages do not say\n")?;
    let mut reasons: BTreeMap<&str, BTreeMap<&str, usize>> = BTreeMap::new();
    for held in held {
        for (_, verdict) in held.verdicts.values() {
            let Judgement::Open(says) = verdict else { continue };
            // Without the place or the value that it is about.
            let kind = [
                "nothing at",
                "has no register",
                "bits, as the bus",
                "in which is no number",
                "needs a reader",
                " at 0x",
            ];
            let kind = kind.into_iter().find(|kind| says.contains(kind));
            let words = match kind {
                Some("nothing at") => "it has no register at the address",
                Some("has no register") => "it has no register of that name, and the family file no address",
                Some("bits, as the bus") => "it gives every register the width of the bus",
                Some("in which is no number") => "its words for a value have no number in them",
                Some("needs a reader") => "its words for a source are others",
                Some(_) => "it calls the register otherwise",
                None => says.as_str(),
            };
            *reasons.entry(words).or_default().entry(held.name).or_default() += 1;
        }
    }
    writeln!(page, "| why | claims | parts |")?;
    writeln!(page, "|---|---|---|")?;
    let mut reasons: Vec<_> =
        reasons.into_iter().map(|(why, parts)| (parts.values().sum::<usize>(), why, parts)).collect();
    reasons.sort_by(|left, right| right.0.cmp(&left.0).then_with(|| left.1.cmp(right.1)));
    for (count, why, parts) in reasons {
        let parts: Vec<String> = parts.iter().map(|(part, count)| format!("{part} {count}")).collect();
        writeln!(page, "| {why} | {count} | {} |", parts.join(", "))?;
    }
    writeln!(page)?;
    Ok(())
}

/// The statements in words, whose marks somebody set, and how many of those that are marked as verified rest on claims.
fn statements(
    page: &mut String,
    catalogue: &Catalogue,
    sources: &PackageList,
    held: &[HeldPart<'_>],
) -> Result<()> {
    writeln!(page, "## Statements in words\n")?;
    writeln!(
        page,
        "Behaviour, limits and what else stands in words is not decided here. Its marks were set by who read it: in a package, in a \
         manual, or from memory. A statement that is marked as verified is *held* where it names a register or a field of which a \
         claim above agrees, or stands where such claims were made: at a divider, a dead time, the pins, the addresses; and where \
         cases measured on simulators of others show it, which the tests hold (of the ATmega328P, for all parts with its timers, and \
         of the PIC16F877A).\n"
    )?;
    writeln!(page, "| part | verified | of these held | memory | unsure |")?;
    writeln!(page, "|---|---|---|---|---|")?;
    let mut sums = [0; 4];
    for name in catalogue.names() {
        let part = catalogue.whole_part(name)?;
        let count = |trust: Trust| part.facts().filter(|fact| fact.trust == trust).count();
        let agreed = held.iter().find(|held| held.name == name).map(|held| &held.agreed);
        let rests = agreed.map_or(0, |agreed| agreed.held(part));
        let counts = [count(Trust::Verified), rests, count(Trust::Memory), count(Trust::Unsure)];
        sums.iter_mut().zip(counts).for_each(|(sum, count)| *sum += count);
        let [verified, rests, memory, unsure] = counts;
        writeln!(page, "| {name} | {verified} | {rests} | {memory} | {unsure} |")?;
    }
    let [verified, rests, memory, unsure] = sums;
    writeln!(page, "| all | {verified} | {rests} | {memory} | {unsure} |")?;
    let agree: usize = held.iter().map(|held| held.count(None, agrees)).sum();
    let claims: usize = held.iter().map(|held| held.verdicts.len()).sum();
    let unread = unread_claims(catalogue, sources)?;
    let (own, all) = (agree + rests, claims + verified + memory + unsure);
    writeln!(
        page,
        "\nClaims and statements together: {own} of {all} are held by a package or a simulator, {:.1} %; with the {unread} claims of parts that no \
         package is read for, {:.1} %.",
        100.0 * own as f64 / all.max(1) as f64,
        100.0 * own as f64 / (all + unread).max(1) as f64
    )?;
    Ok(())
}
