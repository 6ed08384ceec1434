//! Device files of AVR parts: modules with register groups, and where the device has them.

use std::collections::BTreeMap;
use std::path::Path;

use anyhow::{Context as _, Result};
use roxmltree::{Document, Node};

use super::{DescribedCode, DescribedField, DescribedPin, DescribedRegister, PackageDescription};

/// The description in a device file.
///
/// # Errors
/// A file that is missing or is no XML.
pub fn read(path: &Path) -> Result<PackageDescription> {
    let text = std::fs::read_to_string(path).with_context(|| path.display().to_string())?;
    let document = Document::parse(&text).with_context(|| path.display().to_string())?;
    let root = document.root_element();
    let mut found = PackageDescription::default();
    let modules: BTreeMap<&str, Node<'_, '_>> = children(root, "modules")
        .flat_map(|modules| children(modules, "module"))
        .filter_map(|module| Some((module.attribute("name")?, module)))
        .collect();
    let devices = children(root, "devices").flat_map(|devices| children(devices, "device"));
    let peripherals = devices.flat_map(|device| children(device, "peripherals"));
    for module in peripherals.flat_map(|peripherals| children(peripherals, "module")) {
        let Some(described) = module.attribute("name").and_then(|name| modules.get(name)) else { continue };
        for instance in children(module, "instance") {
            let name = instance.attribute("name").unwrap_or_default().to_lowercase();
            for signal in children(instance, "signals").flat_map(|signals| children(signals, "signal")) {
                let index = signal.attribute("index").unwrap_or_default();
                let signals = signal.attribute("group").map(|group| format!("{group}{index}"));
                if let (Some(signal), Some(pin)) = (signals, signal.attribute("pad")) {
                    let (peripheral, pin) = (name.clone(), pin.to_owned());
                    found.pins.push(DescribedPin { peripheral, pin, signal, code: None });
                }
            }
            for group in children(instance, "register-group") {
                let Some(base) = number(group.attribute("offset")) else { continue };
                let of = group.attribute("name-in-module").unwrap_or_default();
                add_group(&mut found, *described, of, base, &name);
            }
        }
    }
    Ok(found)
}

/// Every register of a group, and of the groups that stand in it.
fn add_group(found: &mut PackageDescription, module: Node<'_, '_>, of: &str, base: u64, prefix: &str) {
    let groups = children(module, "register-group").filter(|group| group.attribute("name") == Some(of));
    for group in groups {
        for register in children(group, "register") {
            let Some(offset) = number(register.attribute("offset")) else { continue };
            found.add(base + offset, described(module, register, prefix));
        }
        for inner in children(group, "register-group") {
            let Some(offset) = number(inner.attribute("offset")) else { continue };
            let of = inner.attribute("name-in-module").unwrap_or_default();
            add_group(found, module, of, base + offset, prefix);
        }
    }
}

fn described(module: Node<'_, '_>, register: Node<'_, '_>, prefix: &str) -> DescribedRegister {
    let fields = children(register, "bitfield").filter_map(|field| {
        let mask = number(field.attribute("mask")).filter(|mask| *mask > 0)?;
        let group = field.attribute("values").unwrap_or_default();
        let values = children(module, "value-group").filter(|values| values.attribute("name") == Some(group));
        let codes = values.flat_map(|values| children(values, "value")).filter_map(|value| {
            Some(DescribedCode {
                code: number(value.attribute("value"))?,
                name: value.attribute("name").unwrap_or_default().to_owned(),
                says: value.attribute("caption").unwrap_or_default().to_owned(),
            })
        });
        Some(DescribedField {
            name: field.attribute("name").unwrap_or_default().to_lowercase(),
            low: mask.trailing_zeros(),
            high: u64::BITS - 1 - mask.leading_zeros(),
            codes: codes.collect(),
        })
    });
    let size = number(register.attribute("size"));
    DescribedRegister {
        name: format!("{prefix}_{}", register.attribute("name").unwrap_or_default()).to_lowercase(),
        bits: size.and_then(|bytes| u32::try_from(8 * bytes).ok()),
        reset: number(register.attribute("initval")),
        fields: fields.collect(),
    }
}

fn children<'a, 'i>(node: Node<'a, 'i>, name: &'static str) -> impl Iterator<Item = Node<'a, 'i>> {
    node.children().filter(move |child| child.has_tag_name(name))
}

fn number(text: Option<&str>) -> Option<u64> {
    let text = text?.trim();
    match text.strip_prefix("0x").or_else(|| text.strip_prefix("0X")) {
        Some(digits) => u64::from_str_radix(digits, 16).ok(),
        None => text.parse().ok(),
    }
}
