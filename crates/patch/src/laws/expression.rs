//! Small sums as people type them into a field: `3:2`, `2.5 + 0.018`, `sqrt(2)`, `1.2k`, `2pi`.

/// Value of an expression; none if it is no sum of numbers, or not finite.
///
/// Known: `+ - * / :` (a colon divides), brackets, `sqrt(..)`, `pi`, and `k` after a number for thousands.
pub fn evaluate(text: &str) -> Option<f64> {
    let mut reader = Reader {
        rest: text,
        depth: 0,
    };
    let value = reader.sum()?;
    (reader.peek().is_none() && value.is_finite()).then_some(value)
}

struct Reader<'a> {
    rest: &'a str,
    depth: usize,
}

/// Nesting allowed; beyond it a text is no value, so that typed nonsense cannot exhaust the stack.
const MAX_DEPTH: usize = 20;

impl Reader<'_> {
    fn peek(&mut self) -> Option<char> {
        self.rest = self.rest.trim_start();
        self.rest.chars().next()
    }

    fn take(&mut self, word: &str) -> bool {
        self.peek();
        match self.rest.strip_prefix(word) {
            Some(rest) => {
                self.rest = rest;
                true
            }
            None => false,
        }
    }

    fn sum(&mut self) -> Option<f64> {
        let mut value = self.product()?;
        loop {
            if self.take("+") {
                value += self.product()?;
            } else if self.take("-") {
                value -= self.product()?;
            } else {
                return Some(value);
            }
        }
    }

    fn product(&mut self) -> Option<f64> {
        let mut value = self.factor()?;
        loop {
            if self.take("*") || self.take("×") {
                value *= self.factor()?;
            } else if self.take("/") || self.take(":") {
                value /= self.factor()?;
            } else {
                return Some(value);
            }
        }
    }

    fn factor(&mut self) -> Option<f64> {
        self.depth += 1;
        if self.depth > MAX_DEPTH {
            return None;
        }
        let value = if self.take("-") {
            -self.factor()?
        } else if self.take("+") {
            self.factor()?
        } else if self.take("sqrt") {
            self.bracket().map(libm::sqrt)?
        } else if self.take("pi") || self.take("π") {
            core::f64::consts::PI
        } else if self.peek()? == '(' {
            self.bracket()?
        } else {
            self.number()?
        };
        self.depth -= 1;
        Some(value)
    }

    fn bracket(&mut self) -> Option<f64> {
        if !self.take("(") {
            return None;
        }
        let value = self.sum()?;
        self.take(")").then_some(value)
    }

    fn number(&mut self) -> Option<f64> {
        self.peek();
        let end = self
            .rest
            .find(|c: char| !c.is_ascii_digit() && c != '.')
            .unwrap_or(self.rest.len());
        let value: f64 = self.rest[..end].parse().ok()?;
        self.rest = &self.rest[end..];
        if self.take("k") {
            return Some(value * 1000.0);
        }
        Some(if self.take("pi") || self.take("π") {
            value * core::f64::consts::PI
        } else {
            value
        })
    }
}
