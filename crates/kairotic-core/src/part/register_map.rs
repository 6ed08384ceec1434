//! Every register of a part by the name that device headers give it.

use std::collections::{BTreeMap, BTreeSet};

use serde::Serialize;

use super::{Access, Bits, Part, Register, Timer, TopSource};

/// A register with everything that the part says of it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct MappedRegister {
    /// Its whole name.
    pub name: String,
    /// The timer that it belongs to; none for those of clocks and pins.
    pub timer: Option<String>,
    /// Where it is; none where the part does not say that, or where it depends on the pin.
    pub address: Option<u64>,
    /// Width in bits.
    pub bits: u32,
    /// Width of an access in bits.
    pub word: u32,
    /// What it holds after reset.
    pub reset: u64,
    /// What can be done with it.
    pub access: Access,
    /// Its fields; none where it is one number.
    pub fields: BTreeMap<String, Bits>,
}

impl Part {
    /// Every register that the timers, the clock tree and the way from reset name, timers first, each once.
    pub fn register_map(&self) -> Vec<MappedRegister> {
        let mut map: Vec<MappedRegister> = Vec::new();
        for instance in &self.timers {
            let mut of_timer: BTreeMap<String, MappedRegister> = BTreeMap::new();
            for timer in self.views(instance).unwrap_or_default() {
                let uses = uses(&timer);
                for (name, register) in &timer.block.registers {
                    if uses.contains(name) {
                        let full = format!("{}{name}", timer.prefix);
                        let address = self.address_of(&timer, name);
                        of_timer
                            .entry(name.clone())
                            .or_insert_with(|| self.mapped(full, Some(&instance.name), register, address));
                    }
                }
            }
            map.extend(of_timer.into_values());
        }
        let tree = self.tree.iter().flat_map(|tree| &tree.registers);
        let bring_up = self.bring_up.iter().flat_map(|bring_up| &bring_up.registers);
        let others: BTreeMap<&String, &Register> = tree.chain(bring_up).collect();
        for (name, register) in others {
            map.push(self.mapped(name.clone(), None, register, self.bring_up_address(name)));
        }
        map
    }

    fn mapped(
        &self,
        name: String,
        timer: Option<&String>,
        register: &Register,
        address: Option<u64>,
    ) -> MappedRegister {
        MappedRegister {
            name,
            timer: timer.cloned(),
            address,
            bits: register.bits,
            word: self.access_bits(register),
            reset: register.reset,
            access: register.access,
            fields: register.fields.clone(),
        }
    }
}

/// The registers that a timer's channels, modes, dividers and writes name.
pub(super) fn uses(timer: &Timer) -> BTreeSet<String> {
    let block = &timer.block;
    let channels = block.channels.iter().flat_map(|channel| {
        let slots = channel.compare.iter().chain(&channel.buffer);
        slots.chain(channel.roles.values())
    });
    let modes = block.modes.iter().flat_map(|mode| {
        let top = match &mode.top {
            TopSource::Register { slot, .. } | TopSource::PowerOfTwo { slot, .. } => slot.as_slice(),
            TopSource::Compare { .. } | TopSource::Fixed(_) => &[],
        };
        top.iter().chain(mode.setup.iter().flat_map(|write| &write.slot))
    });
    let dividers = block.dividers.iter().flat_map(|stage| &stage.slot);
    let setup = block.setup.iter().flat_map(|write| &write.slot);
    let pointers = block.pointers.iter().flat_map(|pointer| [&pointer.field, &pointer.to]);
    let waits = block
        .order
        .waits
        .iter()
        .flat_map(|wait| wait.until.iter().map(|until| &until.field).chain([&wait.after]));
    let hold = block.order.hold.iter().flat_map(|hold| [&hold.begin.field, &hold.end.field]);
    let dead_time = timer.dead_time.iter().flat_map(|dead| {
        let outputs = dead.outputs.values().flatten().map(|wanted| &wanted.field);
        dead.slots
            .iter()
            .flatten()
            .chain(dead.divider.iter().flat_map(|divider| &divider.slot))
            .chain(outputs)
    });
    let all = channels.chain(modes).chain(dividers).chain(setup).chain(pointers).chain(waits).chain(hold);
    let register = |place: &String| place.split('.').next().unwrap_or(place).to_owned();
    all.chain(dead_time).map(register).collect()
}
