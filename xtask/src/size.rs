//! What the browser module is made of, and the module without what only names its parts.

use std::collections::BTreeMap;

use wasmparser::{KnownCustom, Name, Parser, Payload, TypeRef};

use crate::run::Result;

/// Crates below this are told together, in bytes.
const SMALL: usize = 10 * 1024;

/// The module without its custom sections: the names of functions, which take as much room as the functions themselves.
pub fn without_names(module: &[u8]) -> Result<Vec<u8>> {
    const HEAD: usize = 8;
    let mut bare = module.get(..HEAD).ok_or("this is no module")?.to_vec();
    let mut before = HEAD;
    for payload in Parser::new(0).parse_all(module) {
        let payload = payload.map_err(|e| format!("the module cannot be read: {e}"))?;
        let is_custom = matches!(payload, Payload::CustomSection(_));
        // a section's own head lies between the end of the one before and its contents
        if let Some((_, range)) = payload.as_section() {
            let end = range.end as usize;
            if !is_custom {
                bare.extend_from_slice(&module[before..end]);
            }
            before = end;
        }
    }
    Ok(bare)
}

/// Bytes of code of each crate, largest first. What is generic counts for the crate that wrote it.
fn by_crate(module: &[u8]) -> Result<Vec<(String, usize)>> {
    let (mut imported, mut bodies, mut names) = (0, vec![], BTreeMap::new());
    for payload in Parser::new(0).parse_all(module) {
        match payload.map_err(|e| format!("the module cannot be read: {e}"))? {
            Payload::ImportSection(list) => {
                let list = list.into_imports().flatten();
                imported = list.filter(|i| matches!(i.ty, TypeRef::Func(_))).count();
            }
            Payload::CodeSectionEntry(body) => {
                let range = body.range();
                bodies.push((range.end - range.start) as usize);
            }
            Payload::CustomSection(section) => {
                let KnownCustom::Name(parts) = section.as_known() else {
                    continue;
                };
                for part in parts.into_iter().flatten() {
                    if let Name::Function(functions) = part {
                        let named = functions.into_iter().flatten();
                        names.extend(named.map(|n| (n.index as usize, n.name.to_owned())));
                    }
                }
            }
            _ => {}
        }
    }
    let mut crates = BTreeMap::<String, usize>::new();
    for (at, bytes) in bodies.into_iter().enumerate() {
        let name = names.get(&(imported + at)).map_or("", String::as_str);
        *crates.entry(crate_of(name)).or_default() += bytes;
    }
    let mut list: Vec<_> = crates.into_iter().collect();
    list.sort_by_key(|(_, bytes)| std::cmp::Reverse(*bytes));
    Ok(list)
}

/// The crate a function was written in.
fn crate_of(mangled: &str) -> String {
    let name = format!("{:#}", rustc_demangle::demangle(mangled));
    // the trait of `<Type as Trait>::function` is where it was written, unless it is one of ours
    let words = name.split(|c: char| !c.is_alphanumeric() && c != '_' && c != ':');
    let first = words
        .filter(|w| w.contains("::"))
        .map(|w| w.trim_matches(':'));
    let first = first
        .filter_map(|w| w.split("::").next())
        .find(|w| !w.is_empty());
    first.unwrap_or("others").to_owned()
}

/// Prints what the module is made of.
pub fn report(module: &[u8]) -> Result {
    let (large, small): (Vec<_>, Vec<_>) = by_crate(module)?
        .into_iter()
        .partition(|(_, b)| *b >= SMALL);
    let rest: usize = small.iter().map(|(_, bytes)| bytes).sum();
    for (name, bytes) in large.iter().chain([&("all others".to_owned(), rest)]) {
        println!("xtask: {:>7} KB  {name}", bytes / 1024);
    }
    Ok(())
}
