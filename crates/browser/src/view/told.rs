//! What the page knows already is not told again: only that it is the same.

use std::any::Any;
use std::collections::HashMap;
use std::rc::Rc;

use serde::Serialize;

/// A part of a view.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(untagged)]
pub enum Told<T> {
    /// As it is, for those who keep nothing.
    Plain(Rc<T>),
    /// As it is, and the name it is to be known by.
    Anew {
        /// The name.
        told: String,
        /// The part.
        is: Rc<T>,
    },
    /// As it was told last under this name.
    Same {
        /// The name.
        same: String,
    },
}

impl<T> From<T> for Told<T> {
    fn from(part: T) -> Self {
        Told::Plain(Rc::new(part))
    }
}

/// What was told last, by name.
#[derive(Default)]
pub struct Memory(HashMap<String, Rc<dyn Any>>);

impl Memory {
    /// Puts the name of a part in its place where it was told like this before.
    pub fn tell<T: PartialEq + 'static>(&mut self, name: String, part: &mut Told<T>) {
        let Told::Plain(is) = part else { return };
        let known = self.0.get(&name).and_then(|p| p.downcast_ref::<T>());
        *part = match known == Some(is) {
            true => Told::Same { same: name },
            false => {
                self.0.insert(name.clone(), is.clone());
                Told::Anew {
                    told: name,
                    is: is.clone(),
                }
            }
        };
    }

    /// Likewise for each of a list, by its number.
    pub(super) fn tell_each<T: PartialEq + 'static>(
        &mut self,
        what: &str,
        list: &mut [Told<T>],
        number: impl Fn(&T) -> u16,
    ) {
        for part in list {
            if let Told::Plain(is) = part {
                self.tell(format!("{what} {}", number(is)), part);
            }
        }
    }
}
