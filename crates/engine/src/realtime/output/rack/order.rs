//! The order in which effects are heard, chain by chain, and that which is to be.

use zolvik_patch::finish::{CHAINS, MAX_CHAIN_EFFECTS};

/// Effects in a chain, those that fade out included.
const CHAIN_SLOTS: usize = 2 * MAX_CHAIN_EFFECTS;

/// The slots of one chain, in the order they are heard.
#[derive(Debug, Clone, Copy, Default)]
struct Row {
    slots: [u8; CHAIN_SLOTS],
    count: usize,
}

impl Row {
    fn list(&self) -> &[u8] {
        &self.slots[..self.count]
    }
}

/// The order there is and the one there is to be.
#[derive(Debug, Default)]
pub(super) struct Order {
    now: [Row; CHAINS],
    goal: [Row; CHAINS],
    /// Whether it is to be another.
    changes: bool,
}

impl Order {
    /// The slots of a chain.
    pub(super) fn of(&self, chain: usize) -> &[u8] {
        self.now[chain].list()
    }

    /// Whether a slot is heard.
    pub(super) fn has(&self, slot: usize) -> bool {
        let mut all = self.now.iter().flat_map(Row::list);
        all.any(|s| usize::from(*s) == slot)
    }

    /// Whether no slot is heard.
    pub(super) fn is_empty(&self) -> bool {
        self.now.iter().all(|row| row.count == 0)
    }

    /// Whether it is as it is to be.
    pub(super) fn is_settled(&self) -> bool {
        !self.changes
    }

    /// From here on it is to be another; as yet without any slots.
    pub(super) fn set_target(&mut self) {
        self.goal = Default::default();
        self.changes = true;
    }

    /// A slot is to be heard after those of its chain told before.
    pub(super) fn aim_at(&mut self, chain: usize, slot: u8) {
        let row = &mut self.goal[chain];
        row.slots[row.count] = slot;
        row.count += 1;
    }

    /// It is as it is to be.
    pub(super) fn adopt(&mut self) {
        (self.now, self.changes) = (self.goal, false);
    }

    /// Tells the slots of a chain that need not move: the longest row that both orders have (Wagner and Fischer, "The String-to-String
    /// Correction Problem", 1974).
    pub(super) fn stay(&self, chain: usize, mut tell: impl FnMut(u8)) {
        let (a, b) = (self.now[chain].list(), self.goal[chain].list());
        let mut table = [[0u8; CHAIN_SLOTS + 1]; CHAIN_SLOTS + 1];
        for i in (0..a.len()).rev() {
            for j in (0..b.len()).rev() {
                table[i][j] = match a[i] == b[j] {
                    true => table[i + 1][j + 1] + 1,
                    false => table[i + 1][j].max(table[i][j + 1]),
                };
            }
        }
        let (mut i, mut j) = (0, 0);
        while i < a.len() && j < b.len() {
            if a[i] == b[j] {
                tell(a[i]);
                (i, j) = (i + 1, j + 1);
            } else if table[i + 1][j] >= table[i][j + 1] {
                i += 1;
            } else {
                j += 1;
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn order(now: &[u8], goal: &[u8]) -> Order {
        let mut order = Order::default();
        for (slots, last) in [(now, false), (goal, true)] {
            order.set_target();
            slots.iter().for_each(|slot| order.aim_at(1, *slot));
            if !last {
                order.adopt();
            }
        }
        order
    }

    #[rstest]
    #[case::nothing_changes(&[1, 2, 3], &[1, 2, 3], &[1, 2, 3])]
    #[case::one_comes(&[1, 2], &[1, 5, 2], &[1, 2])]
    #[case::one_goes(&[1, 2, 3], &[1, 3], &[1, 3])]
    #[case::the_last_comes_first(&[1, 2, 3, 4], &[4, 1, 2, 3], &[1, 2, 3])]
    #[case::the_first_goes_last(&[1, 2, 3, 4], &[2, 3, 4, 1], &[2, 3, 4])]
    #[case::turned_round(&[1, 2, 3], &[3, 2, 1], &[3])]
    #[case::all_new(&[1, 2], &[3, 4], &[])]
    fn as_few_as_can_be_are_moved(#[case] now: &[u8], #[case] goal: &[u8], #[case] stays: &[u8]) {
        let mut order = order(now, goal);
        let mut told = vec![];
        order.stay(1, |slot| told.push(slot));
        assert_eq!(told, stays);
        assert!(!order.is_settled());
        assert_eq!((order.of(1), order.of(0)), (now, &[][..]));
        order.adopt();
        assert!(order.is_settled() && !order.is_empty());
        assert_eq!(order.of(1), goal);
        assert!(goal.iter().all(|slot| order.has(usize::from(*slot))));
        assert!(!order.has(9));
    }
}
