//! How well typed words fit a name.

use super::synonyms::SYNONYMS;

/// Words as they were typed.
pub(super) struct Words(Vec<String>);

impl Words {
    pub(super) fn of(text: &str) -> Self {
        let words = text.to_lowercase();
        Words(words.split_whitespace().map(str::to_owned).collect())
    }

    /// How far a name is from what was typed: 0 if it is just so. None where a word is not in it. The number of the strip that has it counts as
    /// a word of it.
    pub(super) fn fit(&self, name: &str, number: Option<u16>) -> Option<u32> {
        let name = name.to_lowercase();
        let parts: Vec<&str> = name
            .split(|c: char| c.is_whitespace() || "(),".contains(c))
            .collect();
        let number = number.map(|n| n.to_string());
        let far = |word: &String| match parts.contains(&word.as_str()) {
            _ if number.as_ref() == Some(word) => Some(0),
            true => Some(0),
            false if parts.iter().any(|part| part.starts_with(word.as_str())) => Some(2),
            false if name.contains(word.as_str()) => Some(4),
            false => None,
        };
        let far: Option<Vec<u32>> = self.0.iter().map(far).collect();
        let sum: u32 = far?.iter().sum();
        // all of the name before a part of one
        Some(sum + u32::from(name != self.0.join(" ")))
    }

    /// As [`Words::fit`], where a word may also be what people call something else by.
    pub(super) fn called(&self, name: &str) -> Option<u32> {
        /// What is called so fits before what is only meant.
        const MEANT: u32 = 8;
        let typed = self.0.join(" ");
        let meant = SYNONYMS
            .iter()
            .filter(|(word, _)| *word == typed || self.0 == [*word]);
        let meant = meant.flat_map(|(_, names)| names.iter().enumerate());
        let by_meaning =
            meant.filter_map(|(at, other)| Some(Words::of(other).whole(name)? + MEANT + at as u32));
        let each = || {
            // of several words each may be one of those
            let fits = self.0.iter().map(|word| {
                let alone = Words(vec![word.clone()]);
                alone
                    .fit(name, None)
                    .or_else(|| Words::meant(word, name).map(|far| far + MEANT))
            });
            let all: Option<Vec<u32>> = fits.collect();
            all.map(|all| all.iter().sum())
        };
        let by_name = self.fit(name, None);
        by_name
            .or_else(|| by_meaning.min())
            .or_else(|| if self.0.len() > 1 { each() } else { None })
    }

    fn meant(word: &str, name: &str) -> Option<u32> {
        let (_, names) = SYNONYMS.iter().find(|(typed, _)| *typed == word)?;
        names
            .iter()
            .filter_map(|other| Words::of(other).whole(name))
            .min()
    }

    /// As [`Words::fit`], but none where a word is only in the middle of another one.
    fn whole(&self, name: &str) -> Option<u32> {
        /// How far a word in the middle of another one is.
        const INSIDE: u32 = 4;
        self.fit(name, None).filter(|far| *far < INSIDE)
    }
}
