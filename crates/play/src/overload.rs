//! Whether the machine keeps up with the sound, judged by the time its blocks take.

/// Blocks that are looked at together.
const LOOK: usize = 48;
/// When as many in a row take far too long, something is done at once.
const AT_ONCE: usize = 3;
/// A block that takes so many times the time there is takes far too long.
const FAR: f64 = 3.0;
/// Above this share of the time there is the work is too much.
const TOO_MUCH: f64 = 0.95;
/// A block that takes more than this share is slow: of those looked at half must be, for a few may only have been interrupted.
const SLOW: f64 = 0.7;
/// Below this share, in so many looks one after the other, there is room for more.
const EASY: f64 = 0.4;
const EASY_LOOKS: u32 = 12;

/// What is to be done.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Verdict {
    /// Nothing.
    Goes,
    /// Less is to be computed: the work takes so many times the time there is.
    TooMuch(f64),
    /// More may be computed again.
    Easy,
}

/// Takes the time of block after block.
#[derive(Debug, Clone)]
pub struct LoadWatch {
    spent_ms: [f64; LOOK],
    taken: usize,
    easy_looks: u32,
    /// Share of the time there is that the work took when it was last looked at.
    pub load: f64,
    /// Blocks since the start that took longer than they last: they may have been heard as a gap.
    pub late_blocks: u32,
}

impl Default for LoadWatch {
    fn default() -> Self {
        LoadWatch {
            spent_ms: [0.0; LOOK],
            taken: 0,
            easy_looks: 0,
            load: 0.0,
            late_blocks: 0,
        }
    }
}

impl LoadWatch {
    /// A block that lasts `there_ms` took `spent_ms`. The clock may be coarse: single blocks say little, sums much.
    ///
    /// # Real time
    /// No allocation, no lock, no panic.
    pub fn take(&mut self, spent_ms: f64, there_ms: f64) -> Verdict {
        self.late_blocks += u32::from(spent_ms > there_ms);
        self.spent_ms[self.taken % LOOK] = spent_ms;
        self.taken += 1;
        let spent = &self.spent_ms[..self.taken.min(LOOK)];
        // the least of the last few: one that was only interrupted does not count
        let last = spent.len().checked_sub(AT_ONCE).map(|from| &spent[from..]);
        let least = last.map_or(0.0, |last| {
            last.iter().fold(f64::INFINITY, |a, b| a.min(*b))
        });
        let at_once = (least > FAR * there_ms).then_some(least / there_ms);
        if at_once.is_none() && spent.len() < LOOK {
            return Verdict::Goes;
        }
        let blocks = spent.len() as f64;
        let share = spent.iter().sum::<f64>() / (blocks * there_ms);
        let slow = spent.iter().filter(|ms| **ms > SLOW * there_ms).count();
        let in_all = (share > TOO_MUCH && 2 * slow > spent.len()).then_some(share);
        self.load = share;
        self.taken = 0;
        self.easy_looks = if share < EASY { self.easy_looks + 1 } else { 0 };
        if let Some(load) = at_once.or(in_all) {
            self.easy_looks = 0;
            return Verdict::TooMuch(load);
        }
        if self.easy_looks < EASY_LOOKS {
            return Verdict::Goes;
        }
        self.easy_looks = 0;
        Verdict::Easy
    }
}
