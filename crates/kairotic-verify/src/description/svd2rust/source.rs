//! A file of a generated crate, and where its modules are.

use std::cell::RefCell;
use std::collections::HashMap;
use std::fs;
use std::path::{Path, PathBuf};
use std::rc::Rc;

use anyhow::{Context as _, Result};
use syn::{Attribute, Expr, Item, Lit, Meta, Type, UseTree};

use super::super::syntax::{last_name, number, type_path};

/// The files of a crate that were read.
struct CrateFiles {
    root: PathBuf,
    read: RefCell<HashMap<PathBuf, Rc<[Item]>>>,
}

/// A module.
pub struct ModuleFile {
    files: Rc<CrateFiles>,
    /// Where its own modules lie.
    folder: PathBuf,
    pub items: Rc<[Item]>,
}

impl ModuleFile {
    /// The first module of a crate.
    pub fn root(path: &Path) -> Result<Self> {
        let files = CrateFiles { root: path.to_owned(), read: RefCell::default() };
        Self::of(&Rc::new(files), path)
    }

    /// The module in a file.
    fn of(files: &Rc<CrateFiles>, path: &Path) -> Result<Self> {
        let stem = path.file_stem().unwrap_or_default();
        let own = stem == "lib" || stem == "mod";
        let folder = if own { path.parent().unwrap_or(path).to_owned() } else { path.with_extension("") };
        let known = files.read.borrow().get(path).cloned();
        let items = match known {
            Some(items) => items,
            None => {
                let text = fs::read_to_string(path).with_context(|| path.display().to_string())?;
                let parsed = syn::parse_file(&text).with_context(|| path.display().to_string())?;
                let items: Rc<[Item]> = parsed.items.into();
                files.read.borrow_mut().insert(path.to_owned(), Rc::clone(&items));
                items
            }
        };
        Ok(Self { files: Rc::clone(files), folder, items })
    }

    /// The module that a path leads to, from here or from the crate's first.
    fn resolve(&self, path: &[String]) -> Result<Self> {
        match path {
            [first, rest @ ..] if first == "crate" => {
                Self::of(&self.files, &self.files.root)?.module(&rest.join("::"))
            }
            [first, rest @ ..] if first == "self" => self.module(&rest.join("::")),
            _ => self.module(&path.join("::")),
        }
    }

    /// A module of this one, by its name or by another that it is used as.
    pub fn module(&self, name: &str) -> Result<Self> {
        let (first, rest) = name.split_once("::").map_or((name, None), |(first, rest)| (first, Some(rest)));
        let found = self.own_module(first)?;
        match rest {
            Some(rest) => found.module(rest),
            None => Ok(found),
        }
    }

    fn own_module(&self, name: &str) -> Result<Self> {
        for item in self.items.iter() {
            match item {
                Item::Mod(module) if module.ident == name => {
                    if let Some((_, items)) = &module.content {
                        let (files, items) = (Rc::clone(&self.files), items.clone().into());
                        return Ok(Self { files, folder: self.folder.join(name), items });
                    }
                    if let Some(path) = path_of(&module.attrs) {
                        // Modules of a file that is named so lie beside it.
                        let file = self.folder.join(path);
                        let folder = file.parent().unwrap_or(&self.folder).to_owned();
                        return Ok(Self { folder, ..Self::of(&self.files, &file)? });
                    }
                    let file = self.folder.join(format!("{name}.rs"));
                    let file = if file.exists() { file } else { self.folder.join(name).join("mod.rs") };
                    return Self::of(&self.files, &file);
                }
                Item::Use(used) => {
                    if let Some(other) = renamed(&used.tree, name).filter(|other| other != name) {
                        return self.own_module(&other);
                    }
                    if let Some(from) = brought(&used.tree, name, &[]) {
                        return self.resolve(&from)?.module(name);
                    }
                }
                _ => {}
            }
        }
        anyhow::bail!("no module {name} in {}", self.folder.display())
    }

    /// The module of a register or a cluster, by its type; `None` for what is neither.
    pub fn module_of(&self, of: &Type) -> Option<Self> {
        match last_name(of)?.as_str() {
            "Reg" => self.module(&inner_module(of)?).ok(),
            name => self.register_module(name),
        }
    }

    /// The same by its type's name.
    fn register_module(&self, of: &str) -> Option<Self> {
        for item in self.items.iter() {
            match item {
                // pub type CR1 = crate::Reg<cr1::CR1_SPEC>;
                Item::Type(alias) if alias.ident == of => {
                    let module = inner_module(&alias.ty);
                    return module.and_then(|module| self.module(&module).ok());
                }
                // pub use self::ch::CH; pub use crate::stm32f411::tim2::CR1; pub use CCMR1 as CCMR2;
                Item::Use(used) => {
                    if let Some(from) = brought(&used.tree, of, &[]) {
                        let found = self.resolve(&from).ok()?;
                        return if found.has_block(of) { Some(found) } else { found.register_module(of) };
                    }
                    if let Some(other) = renamed(&used.tree, of).filter(|other| other != of) {
                        return self.register_module(&other);
                    }
                }
                // pub struct CR1 { register: vcell::VolatileCell<u32> }, beside pub mod cr1;
                Item::Struct(register) if register.ident == of => {
                    return self.module(&of.to_lowercase()).ok();
                }
                _ => {}
            }
        }
        None
    }

    /// Whether it has a struct whose fields have places.
    pub fn has_block(&self, name: &str) -> bool {
        self.items.iter().any(|item| matches!(item, Item::Struct(of) if of.ident == name))
            && !self
                .items
                .iter()
                .any(|item| matches!(item, Item::Type(of) if of.ident == "R" || of.ident == "W"))
    }

    /// How many elements the array of that name in the block has.
    pub fn length_of(&self, name: &str) -> Option<u64> {
        self.items.iter().find_map(|item| {
            let Item::Struct(of) = item else { return None };
            let field =
                of.fields.iter().find(|field| field.ident.as_ref().is_some_and(|ident| ident == name))?;
            let Type::Array(array) = &field.ty else { return None };
            number(&array.len)
        })
    }
}

/// The module of `crate::Reg<cr1::CR1_SPEC>`, or of an older `crate::Reg<u32, _CR1>`.
fn inner_module(of: &Type) -> Option<String> {
    let Type::Path(path) = of else { return None };
    let last = path.path.segments.last()?;
    let syn::PathArguments::AngleBracketed(arguments) = &last.arguments else { return None };
    arguments.args.iter().find_map(|argument| {
        let syn::GenericArgument::Type(inner) = argument else { return None };
        let names = type_path(inner)?;
        match names.as_slice() {
            [module, _] => Some(module.clone()),
            [name] => name.strip_prefix('_').map(str::to_lowercase),
            _ => None,
        }
    })
}

/// The file in `#[path = "…"]`.
fn path_of(attributes: &[Attribute]) -> Option<String> {
    attributes.iter().find_map(|attribute| match &attribute.meta {
        Meta::NameValue(pair) if pair.path.is_ident("path") => match &pair.value {
            Expr::Lit(value) => match &value.lit {
                Lit::Str(text) => Some(text.value()),
                _ => None,
            },
            _ => None,
        },
        _ => None,
    })
}

/// What `pub use self::tim3 as tim4` takes `tim4` from.
fn renamed(tree: &UseTree, name: &str) -> Option<String> {
    match tree {
        UseTree::Path(path) => renamed(&path.tree, name),
        UseTree::Rename(rename) if rename.rename == name => Some(rename.ident.to_string()),
        UseTree::Group(group) => group.items.iter().find_map(|tree| renamed(tree, name)),
        _ => None,
    }
}

/// The path of the module from which a `use` brings a name.
fn brought(tree: &UseTree, name: &str, before: &[String]) -> Option<Vec<String>> {
    match tree {
        UseTree::Path(path) => brought(&path.tree, name, &[before, &[path.ident.to_string()]].concat()),
        UseTree::Name(used) if used.ident == name => Some(before.to_vec()).filter(|before| {
            !matches!(before.as_slice(), [] | [_]) || before.first().is_some_and(|first| first != "self")
        }),
        UseTree::Group(group) => group.items.iter().find_map(|tree| brought(tree, name, before)),
        _ => None,
    }
}
