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
    pub(super) fn tell<T: PartialEq + 'static>(&mut self, name: String, part: &mut Told<T>) {
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

#[cfg(test)]
mod tests {
    use super::*;

    fn told(memory: &mut Memory, text: &str) -> String {
        let mut part = Told::from(text.to_owned());
        memory.tell("name".into(), &mut part);
        serde_json::to_string(&part).unwrap()
    }

    #[test]
    fn what_was_told_is_only_named_until_it_changes() {
        let mut memory = Memory::default();
        assert_eq!(told(&mut memory, "a"), r#"{"told":"name","is":"a"}"#);
        assert_eq!(told(&mut memory, "a"), r#"{"same":"name"}"#);
        assert_eq!(told(&mut memory, "b"), r#"{"told":"name","is":"b"}"#);
        assert_eq!(told(&mut memory, "a"), r#"{"told":"name","is":"a"}"#);
    }

    #[test]
    fn another_kind_of_part_under_the_same_name_is_told() {
        let mut memory = Memory::default();
        told(&mut memory, "a");
        let mut part = Told::from(3);
        memory.tell("name".into(), &mut part);
        assert_eq!(
            part,
            Told::Anew {
                told: "name".into(),
                is: Rc::new(3)
            }
        );
    }

    #[test]
    fn by_itself_a_part_is_written_as_it_is() {
        assert_eq!(
            serde_json::to_string(&Told::from(vec![1, 2])).unwrap(),
            "[1,2]"
        );
    }
}
