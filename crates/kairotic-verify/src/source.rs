//! The packages, and which of them describes which part.

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::iter;
use std::path::{Path, PathBuf};
use std::process::Command;

use anyhow::{Context as _, Result, bail};
use serde::Deserialize;

use crate::description::{
    PackageDescription, atdf, include_file, metapac, pads, pin_lists, ral, signals, svd, svd2pac, svd2rust,
};
use crate::verdict::{HeldAgainst, name_in};
use kairotic_core::part::Claim;

/// The packages, and which of them describes which part.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct PackageList {
    /// The version of each crate.
    pub crates: BTreeMap<String, String>,
    /// The version of each crate that is a driver, and would not go into one project with the others.
    pub drivers: BTreeMap<String, String>,
    /// The version of each package from the Python registry that comes as source.
    pub python: BTreeMap<String, String>,
    /// The version of each package from the Python registry that comes built.
    pub wheels: BTreeMap<String, String>,
    /// An archive that is in a package, for each that has one.
    pub archives: BTreeMap<String, String>,
    /// The version of each package of Debian.
    pub debian: BTreeMap<String, String>,
    /// What packages call nodes of the clock tree, where a reader had to say it.
    pub words: BTreeMap<String, String>,
    /// The parts.
    pub parts: BTreeMap<String, PartSource>,
    /// What was decided of differences.
    #[serde(default)]
    pub decisions: Vec<Decision>,
}

/// What describes a part.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct PartSource {
    /// The crate.
    pub package: String,
    /// What is in it.
    pub format: PackageFormat,
    /// The module of the device, or its file; none where the crate has one device.
    #[serde(default)]
    pub device: Option<String>,
    /// The chip whose metadata say what comes out where, and what gives a timer its clock.
    #[serde(default)]
    pub metadata: Option<String>,
    /// The file, under the packages, that says what its pads can carry.
    #[serde(default)]
    pub pads: Option<String>,
    /// What parts of the file's names of registers, in lower case, are in the package's.
    #[serde(default)]
    pub names: BTreeMap<String, String>,
    /// After how many outputs a peripheral's repeat the first ones.
    #[serde(default)]
    pub repeats: BTreeMap<String, u32>,
    /// Packages that are asked what this one does not say, in turn.
    #[serde(default)]
    pub further: Vec<PartSource>,
}

/// What a package has.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum PackageFormat {
    /// Modules that were generated from a description of registers.
    Svd2rust,
    /// The same by another generator: places and bits are numbers in types.
    Svd2pac,
    /// Structures of registers, and modules of their fields.
    Ral,
    /// Device files of AVR parts.
    Atdf,
    /// A maker's description, in XML.
    Svd,
    /// Registers and metadata of chips as Rust data.
    Metapac,
    /// Include files of an assembler.
    Include,
    /// What comes out on which pin.
    Signals,
    /// The same, in the lists of a driver.
    PinLists,
}

/// What was decided of a difference: the family file stays as it is.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Decision {
    /// The part.
    pub part: String,
    /// The claim, as the page words it.
    pub claim: String,
    /// Why.
    pub reason: String,
}

/// The project whose dependencies the crates are.
const PROJECT: &str = r#"[package]
name = "packages"
version = "0.0.0"
edition = "2024"

[workspace]

[dependencies]
"#;

impl PackageList {
    /// The list that stands beside this crate.
    ///
    /// # Errors
    /// A list that is none.
    pub fn listed() -> Result<Self> {
        toml::from_str(include_str!("../sources.toml")).context("sources.toml")
    }

    /// The version of a package.
    pub fn version(&self, package: &str) -> &str {
        let versions = [&self.crates, &self.drivers, &self.python, &self.wheels, &self.debian];
        versions
            .into_iter()
            .find_map(|versions| versions.get(package))
            .map(String::as_str)
            .unwrap_or_default()
    }

    /// Fetches every package into a folder.
    ///
    /// # Errors
    /// A folder that cannot be written, and what Cargo, pip, tar or apt refuse.
    pub fn fetch(&self, folder: &Path) -> Result<()> {
        vendor(folder, &self.crates)?;
        for (name, version) in &self.drivers {
            vendor(&driver_in(folder, name), &BTreeMap::from([(name.clone(), version.clone())]))?;
        }
        for (name, version) in &self.python {
            let own = folder.join("python").join(name);
            fs::create_dir_all(&own)?;
            let wanted = format!("{name}=={version}");
            let pip = ["-m", "pip", "download", "--quiet", "--no-deps", "--no-binary", ":all:", &wanted];
            let archive = format!("{name}-{version}.tar.gz");
            run(&own, "python3", &pip)?;
            run(&own, "tar", &["-xzf", &archive, "--strip-components", "1"])?;
        }
        for (name, version) in &self.wheels {
            let own = folder.join("python").join(name);
            fs::create_dir_all(&own)?;
            let wanted = format!("{name}=={version}");
            let pip = ["-m", "pip", "download", "--quiet", "--no-deps", "--only-binary", ":all:", &wanted];
            run(&own, "python3", &pip)?;
            let wheel = format!("{}-{version}-py3-none-any.whl", name.replace('-', "_"));
            run(&own, "python3", &["-m", "zipfile", "-e", &wheel, "."])?;
        }
        for (name, archive) in &self.archives {
            run(&folder.join("python").join(name), "python3", &["-m", "zipfile", "-e", archive, "."])?;
        }
        for (name, version) in &self.debian {
            let own = folder.join("debian").join(name);
            fs::create_dir_all(&own)?;
            run(&own, "apt-get", &["download", "-qq", &format!("{name}={version}")])?;
            run(&own, "dpkg-deb", &["-x", &format!("{name}_{version}_all.deb"), "."])?;
        }
        Ok(())
    }
}

/// Fetches crates into a folder, as dependencies of one project.
fn vendor(folder: &Path, crates: &BTreeMap<String, String>) -> Result<()> {
    fs::create_dir_all(folder.join("src"))?;
    let one = |(name, version): (&String, &String)| {
        format!("{name} = {{ version = \"={version}\", default-features = false }}\n")
    };
    let dependencies: String = crates.iter().map(one).collect();
    fs::write(folder.join("Cargo.toml"), format!("{PROJECT}{dependencies}"))?;
    fs::write(folder.join("src/lib.rs"), "")?;
    let cargo = std::env::var_os("CARGO").unwrap_or_else(|| "cargo".into());
    let status = Command::new(cargo)
        .args(["vendor", "--quiet", "vendor"])
        .current_dir(folder)
        .stdout(std::process::Stdio::null())
        .status()?;
    if !status.success() {
        bail!("cargo vendor failed in {}", folder.display());
    }
    Ok(())
}

/// The project of a driver.
fn driver_in(folder: &Path, name: &str) -> PathBuf {
    folder.join("drivers").join(name)
}

/// Runs a program in a folder.
fn run(folder: &Path, program: &str, words: &[&str]) -> Result<()> {
    let status = Command::new(program).args(words).current_dir(folder).status();
    if !status.with_context(|| program.to_owned())?.success() {
        bail!("{program} failed on {}", words.join(" "));
    }
    Ok(())
}

impl PartSource {
    /// The package, and those that are asked what it does not say.
    pub fn packages(&self) -> impl Iterator<Item = &Self> {
        iter::once(self).chain(&self.further)
    }

    /// What the packages say of the peripherals that claims are about, in the order in which they are asked.
    ///
    /// # Errors
    /// A file that is missing or cannot be read.
    pub fn read<'s>(
        &'s self,
        folder: &Path,
        claims: &[Claim],
        words: &'s BTreeMap<String, String>,
    ) -> Result<Vec<HeldAgainst<'s>>> {
        let read = |source: &'s Self| {
            let description = source.description(folder, claims)?;
            Ok(HeldAgainst { description, names: &source.names, words })
        };
        self.packages().map(read).collect()
    }

    fn description(&self, folder: &Path, claims: &[Claim]) -> Result<PackageDescription> {
        let addresses: BTreeSet<u64> = claims.iter().filter_map(|claim| claim.address).collect();
        let unplaced = claims.iter().filter(|claim| claim.address.is_none());
        let named: BTreeSet<String> = unplaced.map(|claim| name_in(claim, &self.names)).collect();
        let package = folder.join("vendor").join(&self.package);
        let mut found = match self.format {
            PackageFormat::Svd2rust => svd2rust::read(&package, self.device.as_deref(), (&addresses, &named)),
            PackageFormat::Svd2pac => svd2pac::read(&package, (&addresses, &named)),
            PackageFormat::Ral => {
                ral::read(&package, self.device.as_deref().context("a device is missing")?, &addresses)
            }
            PackageFormat::Svd => {
                let device = self.device.as_deref().context("a description is missing")?;
                svd::read(&folder.join("python").join(&self.package).join(device))
            }
            PackageFormat::Include => {
                let file = self.device.as_deref().context("an include file is missing")?;
                include_file::read(&folder.join("debian").join(&self.package).join(file))
            }
            PackageFormat::Signals => {
                let file = self.device.as_deref().context("a file of pins is missing")?;
                signals::read(&folder.join("python").join(&self.package).join(file), &self.repeats)
            }
            PackageFormat::PinLists => {
                let package = driver_in(folder, &self.package).join("vendor").join(&self.package);
                pin_lists::read(&package.join(self.device.as_deref().context("a file of pins is missing")?))
            }
            PackageFormat::Metapac => {
                metapac::read(&package, self.device.as_deref().context("a chip is missing")?, &addresses)
            }
            PackageFormat::Atdf => {
                let device = self.device.as_deref().context("a device file is missing")?;
                atdf::read(&package.join("vendor").join(format!("{device}.atdf")))
            }
        }?;
        if let Some(chip) = &self.metadata {
            // Another reading of the same chip: what one package leaves out the other may say.
            found.join(metapac::read(&folder.join("vendor/stm32-metapac"), chip, &addresses)?);
        }
        if let Some(file) = &self.pads {
            found.pins.extend(pads::read(&folder.join("vendor").join(file))?);
        }
        Ok(found)
    }
}
