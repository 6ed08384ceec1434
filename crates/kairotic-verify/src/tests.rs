//! A small package in each format, and errors in what is claimed of it.

use std::collections::BTreeMap;
use std::fs;

use kairotic_core::part::{Claim, Claimed, CodeMeaning};

use crate::description::{
    PackageDescription, atdf, include_file, metapac, pads, ral, signals, svd, svd2pac, svd2rust,
};
use crate::planted::spoiled;
use crate::verdict::{HeldAgainst, Judgement, judge};

mod several_packages;

/// A crate with a timer at 0x4000_0400 whose compare registers are an array, with clusters, another of its kind, and a peripheral
/// as older generators have it.
fn generated() -> PackageDescription {
    let folder = tempfile::tempdir().unwrap();
    for file in include_str!("../fixtures/small-crate.txt").split("== ").filter(|file| !file.is_empty()) {
        let (name, text) = file.split_once('\n').unwrap();
        let path = folder.path().join("src").join(name);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, text).unwrap();
    }
    let addresses = [0x4000_0434, 0x4000_0800, 0x4000_1008].into();
    svd2rust::read(folder.path(), None, (&addresses, &Default::default())).unwrap()
}

fn claim(register: &str, address: u64, what: Claimed) -> Claim {
    Claim { subject: String::new(), register: register.to_owned(), address: Some(address), what }
}

fn field(name: &str, low: u32, high: u32) -> Claimed {
    Claimed::Field { name: name.to_owned(), low, high }
}

fn divides(code: u64, by: u64) -> Claimed {
    Claimed::Code { field: Some("DIV".to_owned()), low: 1, code, means: CodeMeaning::Factor(by) }
}

fn verdict(claim: &Claim, description: &PackageDescription) -> Judgement {
    let none = BTreeMap::new();
    judge(claim, &HeldAgainst { description: description.clone(), names: &none, words: &none })
}

#[test]
fn generated_modules_say_where_everything_is() {
    let found = generated();
    let claims = [
        claim("TIM3_CR", 0x4000_0400, Claimed::Address),
        claim("TIM3_CR", 0x4000_0400, field("EN", 0, 0)),
        claim("TIM3_CR", 0x4000_0400, field("DIV", 1, 3)),
        claim("TIM3_CR", 0x4000_0400, divides(0, 1)),
        claim("TIM3_CR", 0x4000_0400, divides(1, 8)),
        claim("TIM3_CR", 0x4000_0400, Claimed::Reset { value: 2, mask: 0xf }),
        claim("TIM3_CCR1", 0x4000_0438, Claimed::Address),
        claim("TIM3_CCR1", 0x4000_0438, Claimed::Width(16)),
        claim("TIM3_CH1_TOP", 0x4000_044c, Claimed::Address),
        // Two registers of 16 bits follow one another without a word on where the second is.
        claim("TIM3_NARROW1", 0x4000_0462, Claimed::Address),
        claim("TIM4_CR", 0x4000_0800, field("EN", 0, 0)),
        claim("OLD_CTL", 0x4000_1008, field("MODE", 3, 3)),
        claim("OLD_CTL", 0x4000_1008, Claimed::Reset { value: 5, mask: 7 }),
    ];
    for claim in &claims {
        assert_eq!(verdict(claim, &found), Judgement::Agrees, "{claim:?}");
    }
}

#[test]
fn planted_errors_are_found() {
    let found = generated();
    let wrong = [
        claim("TIM3_CR", 0x4000_0404, Claimed::Address),
        claim("TIM3_CR", 0x4000_0434, Claimed::Address),
        claim("TIM3_CR", 0x4000_0400, field("EN", 1, 1)),
        claim("TIM3_CR", 0x4000_0400, field("DIV", 2, 4)),
        // On the place of another field.
        claim("TIM3_CR", 0x4000_0400, field("EN", 1, 3)),
        claim("TIM3_CR", 0x4000_0400, divides(0, 2)),
        claim("TIM3_CR", 0x4000_0400, divides(1, 16)),
        claim("TIM3_CR", 0x4000_0400, Claimed::Reset { value: 3, mask: 0xf }),
        claim("TIM3_CCR1", 0x4000_043c, Claimed::Address),
        claim("TIM3_CCR1", 0x4000_0438, Claimed::Width(17)),
        claim("OLD_CTL", 0x4000_1008, Claimed::Reset { value: 4, mask: 7 }),
    ];
    for claim in &wrong {
        assert!(
            matches!(verdict(claim, &found), Judgement::Differs(_)),
            "{claim:?}: {:?}",
            verdict(claim, &found)
        );
    }
    // What a package does not tell is open, and no agreement.
    for claim in [
        claim("TIM9_CR", 0x5000_0000, Claimed::Address),
        claim("TIM3_CR", 0x4000_0400, field("OTHER", 7, 9)),
        claim("TIM3_CR", 0x4000_0400, divides(2, 64)),
        claim("TIM3_NARROW0", 0x4000_0460, Claimed::Reset { value: 0, mask: 1 }),
    ] {
        assert!(matches!(verdict(&claim, &found), Judgement::Open(_)), "{claim:?}");
    }
}

/// A chip's metadata, with a register block.
const CHIP: &str = r#"
pub(crate) static PERIPHERALS: &[Peripheral] = &[Peripheral {
    name: "TIM2",
    address: 0x40000000,
    registers: Some(PeripheralRegisters { kind: "timer", version: "v1", block: "TIM_GP16", ir: &timer::REGISTERS }),
    rcc: Some(PeripheralRcc {
        bus_clock: "PCLK1",
        enable: Some(PeripheralRccRegister { register: "APB1ENR", field: "TIM2EN" }),
    }),
    pins: &[
        PeripheralPin { pin: "PA0", signal: "CH1", af: Some(1) },
        PeripheralPin { pin: "PA5", signal: "CH1", af: Some(2) },
        PeripheralPin { pin: "PB13", signal: "CH1N", af: None },
    ],
}];
"#;

const BLOCK: &str = r#"
pub(crate) static REGISTERS: IR = IR {
    blocks: &[Block {
        name: "TimGp16",
        items: &[BlockItem {
            name: "ccmr",
            array: Some(Array::Regular(RegularArray { len: 2, stride: 4 })),
            byte_offset: 0x18,
            inner: BlockItemInner::Register(Register { bit_size: 32, fieldset: Some("Ccmr") }),
        }],
    }],
    fieldsets: &[FieldSet {
        name: "Ccmr",
        fields: &[Field {
            name: "ocm",
            bit_offset: BitOffset::Regular(RegularBitOffset { offset: 4 }),
            bit_size: 3,
            array: Some(Array::Regular(RegularArray { len: 2, stride: 8 })),
            enumm: None,
        }],
    }],
    enums: &[],
};
"#;

#[test]
fn metadata_say_pins_gates_and_registers() {
    let folder = tempfile::tempdir().unwrap();
    let files = [
        ("src/chips/chip/metadata.rs", "include!(\"../metadata_0001.rs\");"),
        ("src/chips/metadata_0001.rs", CHIP),
        ("src/registers/timer_v1.rs", BLOCK),
    ];
    for (name, text) in files {
        let path = folder.path().join(name);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, text).unwrap();
    }
    let found = metapac::read(folder.path(), "chip", &[0x4000_001c].into()).unwrap();
    let pin = |pin: &str, channel: &str, by: &str| {
        let what = Claimed::Pin { pin: pin.to_owned(), channel: channel.to_owned(), by: by.to_owned() };
        verdict(&Claim { address: None, ..claim("tim2", 0, what) }, &found)
    };
    for (name, channel, by) in [("PA0", "1", "AF1"), ("PA5", "1", "AF2"), ("PB13", "1n", "AF1")] {
        assert_eq!(pin(name, channel, by), Judgement::Agrees, "{name}");
    }
    assert_eq!(pin("PA0", "1", "AF2"), Judgement::Differs("it is there by AF1".to_owned()));
    assert_eq!(pin("PA1", "1", "AF1"), Judgement::Differs("it is on PA0, PA5".to_owned()));
    assert!(matches!(pin("PA1", "2", "AF1"), Judgement::Open(_)));
    let gate = |field: &str| {
        let what = Claimed::Gate { timer: "tim2".to_owned(), field: field.to_owned() };
        verdict(&Claim { address: None, ..claim("RCC_APB1ENR", 0, what) }, &found)
    };
    assert_eq!(gate("TIM2EN"), Judgement::Agrees);
    assert_eq!(gate("TIM3EN"), Judgement::Differs("it is APB1ENR.TIM2EN".to_owned()));
    assert_eq!(verdict(&claim("TIM2_CCMR1", 0x4000_001c, field("OC2M", 12, 14)), &found), Judgement::Agrees);
}

#[test]
fn a_claim_that_is_spoiled_is_another() {
    let whats = [
        Claimed::Address,
        Claimed::Width(16),
        Claimed::Reset { value: 0, mask: 8 },
        field("EN", 0, 0),
        divides(1, 8),
    ];
    for what in whats {
        let claim = claim("TIM3_CR", 0x4000_0400, what);
        assert_ne!(spoiled(&claim).unwrap(), claim);
    }
}

#[test]
fn device_files_and_descriptions_in_xml_say_the_same() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("part.xml");
    fs::write(
        &path,
        r#"<avr-tools-device-file><devices><device><peripherals><module name="TC8"><instance name="TC0">
        <register-group name="TC0" name-in-module="TC0" offset="0x40"/></instance></module></peripherals></device></devices>
        <modules><module name="TC8"><register-group name="TC0"><register name="TCCR0B" offset="0x05" size="1" initval="0x04">
        <bitfield name="CS0" mask="0x07" values="CLK"/></register></register-group>
        <value-group name="CLK"><value name="RUNNING_CLK_8" caption="Running, CLK/8" value="0x02"/></value-group>
        </module></modules></avr-tools-device-file>"#,
    )
    .unwrap();
    let device = atdf::read(&path).unwrap();
    fs::write(
        &path,
        r#"<device><size>8</size><resetValue>0x4</resetValue><peripherals><peripheral><name>TC0</name><baseAddress>0x40</baseAddress>
        <registers><register><name>TCCR0B</name><addressOffset>5</addressOffset><fields><field><name>CS0</name>
        <bitRange>[2:0]</bitRange><enumeratedValues><enumeratedValue><name>010</name><description>Divide by 8</description>
        <value>#010</value></enumeratedValue></enumeratedValues></field></fields></register></registers></peripheral>
        <peripheral derivedFrom="TC0"><name>TC2</name><baseAddress>0x80</baseAddress></peripheral></peripherals></device>"#,
    )
    .unwrap();
    let description = svd::read(&path).unwrap();
    let by =
        |by| Claimed::Code { field: Some("CS0".to_owned()), low: 0, code: 2, means: CodeMeaning::Factor(by) };
    for found in [&device, &description] {
        for what in [Claimed::Address, field("CS0", 0, 2), by(8), Claimed::Reset { value: 4, mask: 7 }] {
            assert_eq!(verdict(&claim("TCCR0B", 0x45, what.clone()), found), Judgement::Agrees, "{what:?}");
        }
        for what in [field("CS0", 1, 3), by(64), Claimed::Reset { value: 0, mask: 7 }] {
            assert!(
                matches!(verdict(&claim("TCCR0B", 0x45, what.clone()), found), Judgement::Differs(_)),
                "{what:?}"
            );
        }
    }
    assert_eq!(verdict(&claim("TC2_TCCR0B", 0x85, Claimed::Address), &description), Judgement::Agrees);
}

#[test]
fn a_field_named_after_a_pin_says_what_comes_out_there() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("part.xml");
    fs::write(
        &path,
        r#"<device><peripherals><peripheral><name>PINCONNECT</name><baseAddress>0x4002C000</baseAddress><registers><register>
        <name>PINSEL7</name><addressOffset>0x1c</addressOffset><fields><field><name>P3_25</name><bitRange>[19:18]</bitRange>
        <enumeratedValues><enumeratedValue><name>GPIO</name><description>GPIO P3.25</description><value>0</value></enumeratedValue>
        <enumeratedValue><name>MAT0</name><description>MAT0.0</description><value>2</value></enumeratedValue>
        <enumeratedValue><name>PWM1</name><description>PWM1.2</description><value>3</value></enumeratedValue></enumeratedValues>
        </field></fields></register></registers></peripheral></peripherals></device>"#,
    )
    .unwrap();
    let found = svd::read(&path).unwrap();
    let pin = |timer: &str, pin: &str, channel: &str, by: &str| {
        let what = Claimed::Pin { pin: pin.to_owned(), channel: channel.to_owned(), by: by.to_owned() };
        verdict(&Claim { address: None, ..claim(timer, 0, what) }, &found)
    };
    assert_eq!(found.pins.len(), 2, "a port's own function is no signal");
    assert_eq!(pin("pwm1", "P3.25", "2", "function 3"), Judgement::Agrees);
    assert_eq!(pin("mat0", "P3.25", "0", "function 2"), Judgement::Agrees);
    let elsewhere = Judgement::Differs("it is there by function 3".to_owned());
    assert_eq!(pin("pwm1", "P3.25", "2", "function 2"), elsewhere);
    assert_eq!(pin("pwm1", "P3.26", "2", "function 3"), Judgement::Differs("it is on P3.25".to_owned()));
}

/// A crate of the other generator: the older of its forms, and the newer.
const NUMBERS_IN_TYPES: [(&str, &str); 2] = [
    (
        "pub mod gpt320; pub struct Gpt320 { ptr: *mut u8 }
        pub const GPT321: self::Gpt320 = self::Gpt320 { ptr: 0x40169100u32 as _ };",
        "impl super::Gpt320 {
            pub const fn gtcr(&self) -> &'static crate::common::Reg<self::Gtcr_SPEC, crate::common::RW> {
                unsafe { crate::common::Reg::<self::Gtcr_SPEC, crate::common::RW>::from_ptr(self._svd2pac_as_ptr().add(44usize)) }
            }
        }
        impl crate::sealed::RegSpec for Gtcr_SPEC { type DataType = u32; }
        pub type Gtcr = crate::RegValueT<Gtcr_SPEC>;
        impl Gtcr {
            pub fn md(self) -> crate::common::RegisterField<16, 0x7, 1, 0, gtcr::Md, gtcr::Md, Gtcr_SPEC, crate::common::RW> { }
            pub fn cst(self) -> crate::common::RegisterFieldBool<0, 1, 0, Gtcr_SPEC, crate::common::RW> { }
        }
        impl ::core::default::Default for Gtcr {
            fn default() -> Gtcr { <crate::RegValueT<Gtcr_SPEC> as RegisterValue<_>>::new(256) }
        }
        pub mod gtcr {
            impl Md {
                #[doc = \"Divides by 8\"]
                pub const _100: Self = Self::new(4);
            }
        }",
    ),
    (
        "pub mod gpt320; pub struct Gpt320 { ptr: *mut u8 }
        pub const GPT321: self::Gpt320 = self::Gpt320 { ptr: 0x40169100u32 as _ };",
        "impl super::Gpt320 {
            pub fn gtcr(&self) -> &'static self::GtcrT {
                unsafe { self::GtcrT::from_ptr(self._svd2pac_as_ptr().add(44usize)) }
            }
        }
        impl crate::common::RegisterValue for Gtcr { type DataType = u32; }
        impl Gtcr {
            pub fn md(self) -> crate::common::RegisterField<16, 0x7, 1, 0, gtcr::Md, gtcr::Md, Gtcr, common::RW> { }
            pub fn cst(self) -> crate::common::RegisterFieldBool<0, 1, 0, Gtcr, common::RW> { }
        }
        impl crate::common::ResetValue<Gtcr> for GtcrT { fn reset_value(&self) -> Gtcr { Gtcr::new(256) } }
        pub mod gtcr {
            impl Md {
                #[doc = \"Divides by 8\"]
                pub const EIGHTH: Self = Self(4);
            }
        }",
    ),
];

#[test]
fn numbers_in_types_say_where_everything_is() {
    for (root, module) in NUMBERS_IN_TYPES {
        let folder = tempfile::tempdir().unwrap();
        fs::create_dir(folder.path().join("src")).unwrap();
        fs::write(folder.path().join("src/lib.rs"), root).unwrap();
        fs::write(folder.path().join("src/gpt320.rs"), module).unwrap();
        let found = svd2pac::read(folder.path(), (&[0x4016_912c].into(), &[].into())).unwrap();
        let says = |what: Claimed| verdict(&claim("GPT321_GTCR", 0x4016_912c, what), &found);
        let by = |by| Claimed::Code {
            field: Some("MD".to_owned()),
            low: 16,
            code: 4,
            means: CodeMeaning::Factor(by),
        };
        let reset = |value| Claimed::Reset { value, mask: 0xfff };
        for right in [Claimed::Address, field("MD", 16, 18), field("CST", 0, 0), reset(256), by(8)] {
            assert_eq!(says(right.clone()), Judgement::Agrees, "{right:?}");
        }
        for wrong in [field("MD", 16, 17), field("CST", 1, 1), reset(0), by(4)] {
            assert!(matches!(says(wrong.clone()), Judgement::Differs(_)), "{wrong:?}");
        }
        let elsewhere = claim("GPT321_GTCR", 0x4016_9130, Claimed::Address);
        assert!(matches!(verdict(&elsewhere, &found), Judgement::Differs(_)));
        let named = svd2pac::read(folder.path(), (&[].into(), &["gpt321_gtcr".to_owned()].into())).unwrap();
        assert_eq!(named.registers.keys().collect::<Vec<_>>(), [&0x4016_912c]);
    }
}

#[test]
fn structures_say_where_their_registers_are() {
    let folder = tempfile::tempdir().unwrap();
    let files = [
        ("src/part.rs", "pub mod pwm { pub const PWM2: *const RegisterBlock = 0x403e_0000 as *const RegisterBlock; #[path = \"blocks/pwm.rs\"] mod blocks; }"),
        (
            "src/blocks/pwm.rs",
            "pub struct RegisterBlock { pub SM: [sm::RegisterBlock; 2usize], pub OUTEN: crate::RWRegister<u16>, _reserved0: [u8; 0x02], pub LAST: crate::RWRegister<u32> }
            pub mod sm {
                pub struct RegisterBlock { pub SMCNT: crate::RORegister<u16>, _reserved0: [u8; 0x04], pub SMCTRL: crate::RWRegister<u16>, _reserved1: [u8; 0x58] }
                pub mod SMCTRL { pub mod PRSC { pub const offset: u16 = 4; pub const mask: u16 = 0x07 << offset; pub mod R {} pub mod RW {
                    #[doc = \"PWM clock frequency = fclk\"] pub const PRSC_0: u16 = 0;
                    #[doc = \"PWM clock frequency = fclk/4\"] pub const PRSC_2: u16 = 0x02; } } }
            }",
        ),
    ];
    for (name, text) in files {
        let path = folder.path().join(name);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, text).unwrap();
    }
    // A cluster is 0x60 long; what has 32 bits begins at a multiple of four.
    let places = [("PWM2_SM1CTRL", 0x403e_0066), ("PWM2_OUTEN", 0x403e_00c0), ("PWM2_LAST", 0x403e_00c4)];
    let found = ral::read(folder.path(), "part", &places.map(|(_, address)| address).into()).unwrap();
    for (name, address) in places {
        assert_eq!(verdict(&claim(name, address, Claimed::Address), &found), Judgement::Agrees, "{name}");
        let elsewhere = claim(name, address + 4, Claimed::Address);
        assert!(matches!(verdict(&elsewhere, &found), Judgement::Differs(_)), "{name}");
    }
    let says = |what: Claimed| verdict(&claim("PWM2_SM1CTRL", 0x403e_0066, what), &found);
    let by = |code, by| Claimed::Code {
        field: Some("PRSC".to_owned()),
        low: 4,
        code,
        means: CodeMeaning::Factor(by),
    };
    for right in [field("PRSC", 4, 6), by(0, 1), by(2, 4)] {
        assert_eq!(says(right.clone()), Judgement::Agrees, "{right:?}");
    }
    for wrong in [field("PRSC", 4, 5), by(0, 2), by(2, 2)] {
        assert!(matches!(says(wrong.clone()), Judgement::Differs(_)), "{wrong:?}");
    }
}

#[test]
fn pads_say_what_they_carry() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("flexpwm.rs");
    fs::write(
        &path,
        "use x;\npwm!(module: U2, submodule: U0, alt: 1, pad: GPIO_EMC_06, output: A, daisy: None);\n",
    )
    .unwrap();
    let found = PackageDescription { pins: pads::read(&path).unwrap(), ..Default::default() };
    let pin = |pin: &str, channel: &str, by: &str| {
        let what = Claimed::Pin { pin: pin.to_owned(), channel: channel.to_owned(), by: by.to_owned() };
        verdict(&Claim { address: None, ..claim("pwm2-0", 0, what) }, &found)
    };
    assert_eq!(pin("GPIO_EMC_06", "a", "ALT1"), Judgement::Agrees);
    assert!(matches!(pin("GPIO_EMC_06", "a", "ALT2"), Judgement::Differs(_)));
    assert!(matches!(pin("GPIO_EMC_07", "a", "ALT1"), Judgement::Differs(_)));
    assert!(matches!(pin("GPIO_EMC_06", "b", "ALT1"), Judgement::Open(_)));
}

#[test]
fn include_files_say_where_registers_are_and_which_bits_are_one_field() {
    let text = "
W                EQU  H'0000'
;----- Register Files -----------
;-----Bank0------------------
T2CON            EQU  H'0012'
CCP1CON          EQU  H'0017'
PR2              EQU  H'0092'

;----- T2CON Bits ---------------
TMR2ON           EQU  H'0002'

T2CKPS0          EQU  H'0000'
T2CKPS1          EQU  H'0001'
TOUTPS0          EQU  H'0003'
TOUTPS1          EQU  H'0004'
;----- CCP1CON Bits -------------
CCP1Y            EQU  H'0004'
CCP1X            EQU  H'0005'
";
    let found = include_file::described(text);
    let says = |register: &str, address, what| verdict(&claim(register, address, what), &found);
    let right = [
        ("T2CON", 0x12, Claimed::Address),
        ("PR2", 0x92, Claimed::Width(8)),
        ("T2CON", 0x12, field("T2CKPS", 0, 1)),
        ("T2CON", 0x12, field("TMR2ON", 2, 2)),
        ("CCP1CON", 0x17, field("CCP1X", 5, 5)),
    ];
    for (register, address, what) in right {
        assert_eq!(says(register, address, what.clone()), Judgement::Agrees, "{what:?}");
    }
    let wrong = [
        ("T2CON", 0x17, Claimed::Address),
        ("PR2", 0x92, Claimed::Width(16)),
        ("T2CON", 0x12, field("T2CKPS", 0, 2)),
        ("T2CON", 0x12, field("TMR2ON", 3, 3)),
        ("CCP1CON", 0x17, field("CCP1X", 4, 4)),
    ];
    for (register, address, what) in wrong {
        assert!(matches!(says(register, address, what.clone()), Judgement::Differs(_)), "{what:?}");
    }
}

#[test]
fn outputs_beyond_the_compare_registers_repeat_the_first() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("part.xml");
    fs::write(
        &path,
        r#"<modm><device><driver name="gpio"><gpio port="A" pin="04"><signal driver="adc" name="ain" function="b" index="4"/>
        <signal driver="tcc" instance="0" name="wo" function="e" index="0"/></gpio><gpio port="A" pin="15">
        <signal driver="tcc" instance="0" name="wo" function="f" index="5"/></gpio><gpio port="C" pin="6">
        <signal driver="tc" instance="4" name="oc4ainv"/></gpio></driver></device></modm>"#,
    )
    .unwrap();
    let found = signals::read(&path, &[("tcc0".to_owned(), 4)].into()).unwrap();
    let pin = |timer: &str, pin: &str, channel: &str, by: &str| {
        let what = Claimed::Pin { pin: pin.to_owned(), channel: channel.to_owned(), by: by.to_owned() };
        verdict(&Claim { address: None, ..claim(timer, 0, what) }, &found)
    };
    assert_eq!(pin("tcc0", "PA04", "0", "function E"), Judgement::Agrees);
    assert_eq!(pin("tcc0", "PA15", "1", "function F"), Judgement::Agrees);
    assert_eq!(pin("tcc0", "PA15", "0", "function F"), Judgement::Differs("it is on PA04".to_owned()));
    assert_eq!(pin("timer4", "PC6", "an", "OC4A inverted"), Judgement::Agrees);
    // Half of a timer, which the package does not know, by the signal that the file names.
    assert_eq!(pin("tcc0h", "PA04", "3", "TCC0 WO0, alternative"), Judgement::Agrees);
}
