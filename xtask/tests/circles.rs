//! No file needs another that needs it in turn, however far round: each can be read with those it leans on alone.

use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};

use syn::visit::{self, Visit};
use syn::{Item, UseTree};

/// What each file needs.
type Needs = BTreeMap<String, BTreeSet<String>>;

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("..")
}

fn files(folder: &Path, endings: &[&str]) -> Vec<PathBuf> {
    let mut all = vec![];
    for entry in std::fs::read_dir(folder).into_iter().flatten().flatten() {
        let path = entry.path();
        if path.is_dir() {
            all.extend(files(&path, endings));
        } else if endings
            .iter()
            .any(|ending| path.to_string_lossy().ends_with(ending))
        {
            all.push(path);
        }
    }
    all
}

/// Takes away what needs nothing that is left, and what nothing needs, until only circles are left, and what lies between them.
fn circles(mut needs: Needs) -> Vec<String> {
    loop {
        let needed: BTreeSet<String> = needs.values().flatten().cloned().collect();
        let before = needs.len();
        let left: BTreeSet<String> = needs.keys().cloned().collect();
        needs.retain(|file, of| {
            needed.contains(file) && of.iter().any(|other| left.contains(other))
        });
        let left: BTreeSet<String> = needs.keys().cloned().collect();
        needs
            .values_mut()
            .for_each(|of| of.retain(|other| left.contains(other)));
        if needs.len() == before {
            return needs.into_keys().collect();
        }
    }
}

/// The paths a file names, as modules from the crate's root.
struct Named<'a> {
    module: &'a [String],
    children: BTreeSet<String>,
    /// How many modules within the file the place at hand is in.
    within: usize,
    paths: Vec<Vec<String>>,
}

impl Named<'_> {
    fn add(&mut self, path: &[String]) {
        let [first, rest @ ..] = path else { return };
        let mut full = match first.as_str() {
            "crate" => vec![],
            "self" | "super" => self.module.to_vec(),
            child if self.children.contains(child) => {
                [self.module, std::slice::from_ref(first)].concat()
            }
            _ => return,
        };
        let ups = path.iter().take_while(|name| *name == "super").count();
        full.truncate(full.len().saturating_sub(ups.saturating_sub(self.within)));
        let rest = &rest[ups.saturating_sub(1)..];
        full.extend_from_slice(rest);
        self.paths.push(full);
    }

    fn of_use(&mut self, before: &[String], tree: &UseTree) {
        let with = |name: &syn::Ident| [before, &[name.to_string()]].concat();
        match tree {
            UseTree::Path(path) => self.of_use(&with(&path.ident), &path.tree),
            UseTree::Name(name) => self.add(&with(&name.ident)),
            UseTree::Rename(name) => self.add(&with(&name.ident)),
            UseTree::Glob(_) => self.add(before),
            UseTree::Group(group) => group
                .items
                .iter()
                .for_each(|item| self.of_use(before, item)),
        }
    }
}

impl Visit<'_> for Named<'_> {
    fn visit_item(&mut self, item: &Item) {
        let attributes = match item {
            Item::Mod(item) => &item.attrs,
            Item::Fn(item) => &item.attrs,
            Item::Use(item) => &item.attrs,
            _ => &vec![],
        };
        let tested = |a: &syn::Attribute| {
            a.path().is_ident("cfg") && a.parse_args::<syn::Ident>().is_ok_and(|i| i == "test")
        };
        if attributes.iter().any(tested) {
            return;
        }
        if let Item::Use(item) = item {
            self.of_use(&[], &item.tree);
        }
        let inside = usize::from(matches!(item, Item::Mod(_)));
        self.within += inside;
        visit::visit_item(self, item);
        self.within -= inside;
    }

    /// What stands in a macro is words only; paths are found among them.
    fn visit_macro(&mut self, written: &syn::Macro) {
        let apart = |c: char| match c.is_alphanumeric() || c == '_' || c == ':' {
            true => c.to_string(),
            false => format!(" {c} "),
        };
        // what is quoted is for people
        let tokens = written.tokens.to_string().replace("\\\"", "");
        let bare: String = tokens.split('"').step_by(2).collect();
        let words: String = bare.chars().map(apart).collect();
        let words = words.replace("::", " :: ");
        let words: Vec<&str> = words.split_whitespace().collect();
        let is_name = |word: &str| word.chars().all(|c| c.is_alphanumeric() || c == '_');
        let mut at = 0;
        while at < words.len() {
            let mut path = vec![words[at].to_owned()];
            let inside = at > 0 && words[at - 1] == "::";
            at += 1;
            while let [colons, name, ..] = &words[at..] {
                if *colons != "::" || !is_name(name) {
                    break;
                }
                path.push((*name).to_owned());
                at += 2;
            }
            if path.len() > 1 && !inside {
                self.add(&path);
            }
        }
        visit::visit_macro(self, written);
    }

    fn visit_path(&mut self, path: &syn::Path) {
        let names: Vec<String> = path.segments.iter().map(|s| s.ident.to_string()).collect();
        if names.len() > 1 {
            self.add(&names);
        }
        visit::visit_path(self, path);
    }
}

/// What the files of a crate need of each other.
fn needs_of_crate(source: &Path) -> Needs {
    let module = |file: &Path| -> Vec<String> {
        let inside = file
            .strip_prefix(source)
            .expect("a file of the crate")
            .with_extension("");
        let mut names: Vec<String> = inside.iter().map(|n| n.to_string_lossy().into()).collect();
        if names
            .last()
            .is_some_and(|last| ["mod", "lib", "main"].contains(&last.as_str()))
        {
            names.pop();
        }
        names
    };
    let all: BTreeMap<Vec<String>, PathBuf> = files(source, &[".rs"])
        .into_iter()
        .map(|f| (module(&f), f))
        .collect();
    let name = |module: &[String]| match module {
        [] => "lib".to_owned(),
        module => module.join("/"),
    };
    let needs = all.iter().map(|(module, file)| {
        let text = std::fs::read_to_string(file).expect("the file");
        let syntax = syn::parse_file(&text).expect("Rust");
        let children = syntax.items.iter().filter_map(|item| match item {
            Item::Mod(item) if item.content.is_none() => Some(item.ident.to_string()),
            _ => None,
        });
        let mut named = Named {
            module,
            children: children.collect(),
            within: 0,
            paths: vec![],
        };
        named.visit_file(&syntax);
        let file_of = |path: Vec<String>| {
            (0..=path.len())
                .rev()
                .find_map(|n| all.contains_key(&path[..n]).then(|| path[..n].to_vec()))
        };
        let of = named
            .paths
            .into_iter()
            .filter_map(file_of)
            .filter(|other| other != module);
        (name(module), of.map(|other| name(&other)).collect())
    });
    needs.collect()
}

/// What the files of the front end need of each other.
fn needs_of_page(source: &Path) -> Needs {
    let all: BTreeSet<PathBuf> = files(source, &[".ts", ".vue"]).into_iter().collect();
    let name = |file: &Path| {
        file.strip_prefix(source)
            .expect("a file of the page")
            .to_string_lossy()
            .into_owned()
    };
    let needs = all.iter().map(|file| {
        let text = std::fs::read_to_string(file).expect("the file");
        let quoted = text
            .split('\'')
            .skip(1)
            .step_by(2)
            .filter(|path| path.starts_with('.'));
        let found = quoted.filter_map(|path| {
            let mut there = file.parent().expect("a folder").to_path_buf();
            for part in path.split('/') {
                match part {
                    "." => {}
                    ".." => drop(there.pop()),
                    part => there.push(part),
                }
            }
            let endings = ["", ".ts", ".vue"]
                .map(|ending| PathBuf::from(format!("{}{ending}", there.display())));
            endings
                .into_iter()
                .find(|path| all.contains(path) && path != file)
        });
        (name(file), found.map(|other| name(&other)).collect())
    });
    needs.collect()
}

#[test]
fn no_file_of_a_crate_needs_one_that_needs_it() {
    let mut crates: Vec<PathBuf> = std::fs::read_dir(root().join("crates"))
        .expect("the crates")
        .flatten()
        .map(|entry| entry.path().join("src"))
        .collect();
    crates.sort();
    assert!(crates.len() > 5);
    for source in crates {
        let needs = needs_of_crate(&source);
        assert!(!needs.is_empty(), "{}", source.display());
        assert_eq!(circles(needs), Vec::<String>::new(), "{}", source.display());
    }
}

#[test]
fn no_file_of_the_page_needs_one_that_needs_it() {
    let needs = needs_of_page(&root().join("web/src"));
    assert!(needs.len() > 100 && needs.values().any(|of| of.len() > 5));
    assert_eq!(circles(needs), Vec::<String>::new());
}

#[test]
fn a_circle_is_found_and_what_leads_to_it_is_not() {
    let needs = [("a", "b"), ("b", "c"), ("c", "b"), ("c", "d"), ("d", "e")];
    let mut all = Needs::new();
    for (file, other) in needs {
        all.entry(file.into()).or_default().insert(other.into());
    }
    assert_eq!(circles(all.clone()), ["b", "c"]);
    all.remove("c");
    assert_eq!(circles(all), Vec::<String>::new());
}

#[test]
fn paths_are_found_however_they_are_written() {
    let text = "use crate::a::{self, b::C, d::*}; use super::e::F; mod g;
        mod n { use super::o::p; use super::super::q::r; }
        part! { also { #[doc = \"see crate::no::one\"] s: T = (crate::u::V::w()) } }
        fn h() { super::super::i::j(); g::k(); self::l::m(); std::mem::take(&mut 0); }
        #[cfg(test)] mod tests { use crate::never::Used; }";
    let module = ["x".to_owned(), "y".to_owned()];
    let mut named = Named {
        module: &module,
        children: BTreeSet::from(["g".to_owned()]),
        within: 0,
        paths: vec![],
    };
    named.visit_file(&syn::parse_file(text).unwrap());
    let found: Vec<String> = named.paths.iter().map(|path| path.join("/")).collect();
    assert_eq!(
        found,
        [
            "a/self", "a/b/C", "a/d", "x/e/F", "x/y/o/p", "x/q/r", "u/V/w", "i/j", "x/y/g/k",
            "x/y/l/m"
        ]
    );
}
