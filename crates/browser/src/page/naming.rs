//! How well typed words fit a name.

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
}
