//! Beats to hear a patch against: patterns of struck sounds, over two bars of four.

use crate::params::choice::options;

options! {
    /// A beat.
    pub enum Beat {
        /// None.
        #[default]
        None,
        /// Straight, four on the floor, claps on two and four.
        PaperLantern,
        /// Skipping, with late sixteenths.
        WetStairs,
        /// Half the pace, wide open.
        HalfMoon,
        /// Four on the floor with open hats between.
        NightTrain,
        /// Slow, with a soft shaker.
        SlowGate,
        /// Broken up.
        BrokenPane,
    }
}

/// What is struck.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
#[repr(u8)]
#[allow(missing_docs)] // each says what it is
pub enum Drum {
    Kick,
    Snare,
    Clap,
    ClosedHat,
    OpenHat,
    Shaker,
    Rim,
}

impl Drum {
    /// All there are.
    pub const ALL: [Drum; 7] = [
        Drum::Kick,
        Drum::Snare,
        Drum::Clap,
        Drum::ClosedHat,
        Drum::OpenHat,
        Drum::Shaker,
        Drum::Rim,
    ];

    /// Its name.
    pub fn label(self) -> &'static str {
        match self {
            Drum::Kick => "kick",
            Drum::Snare => "snare",
            Drum::Clap => "clap",
            Drum::ClosedHat => "closed hat",
            Drum::OpenHat => "open hat",
            Drum::Shaker => "shaker",
            Drum::Rim => "rim",
        }
    }
}

/// One stroke of a beat.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Stroke {
    /// When, in beats from the begin of the pattern, without swing.
    pub at_beats: f64,
    /// What.
    pub drum: Drum,
    /// How hard, 0 to 1.
    pub accent: f64,
}

/// How long a pattern is, in beats.
pub const PATTERN_BEATS: f64 = 8.0;

impl Beat {
    /// What is struck when, in words: beats counted from 1, of the bars of the pattern.
    pub fn words(self) -> String {
        let place = |sixteenth: usize| match (sixteenth / 4 + 1, sixteenth % 4) {
            (beat, 0) => format!("{beat}"),
            (beat, quarter) => format!("{beat}.{:02}", quarter * 25),
        };
        let row = |(drum, strokes): &(Drum, &str)| {
            let struck = strokes.char_indices().filter(|(_, c)| *c != '.');
            let places: Vec<String> = struck.map(|(at, _)| place(at)).collect();
            format!("{} at {}", drum.label(), places.join(", "))
        };
        let rows: Vec<String> = self.rows().iter().map(row).collect();
        match rows.is_empty() {
            true => "No beat".into(),
            false => format!("Over eight beats: {}", rows.join("; ")),
        }
    }

    /// Rows of sixteenths over two bars: `x` is a stroke, `o` a softer one, `.` none.
    pub fn rows(self) -> &'static [(Drum, &'static str)] {
        use Drum::{Clap, ClosedHat, Kick, OpenHat, Rim, Shaker, Snare};
        match self {
            Beat::None => &[],
            Beat::PaperLantern => &[
                (Kick, "x...x...x...x...x...x...x...x..."),
                (Clap, "....x.......x.......x.......x..."),
                (ClosedHat, "o.x.o.x.o.x.o.x.o.x.o.x.o.x.ooxo"),
                (Shaker, "..............o...............o."),
            ],
            Beat::WetStairs => &[
                (Kick, "x.........x.....x......o..x....."),
                (Snare, "....x.......x.......x.......x..."),
                (ClosedHat, "x.xox.xox.xox.xox.xox.xox.xoxoxo"),
                (Rim, ".......o.........o.......o......"),
            ],
            Beat::HalfMoon => &[
                (Kick, "x.....o.........x.........x....."),
                (Snare, "........x...............x......."),
                (ClosedHat, "x.o.x.o.x.o.x.o.x.o.x.oox.o.x.o."),
                (OpenHat, "..............x................."),
            ],
            Beat::NightTrain => &[
                (Kick, "x...x...x...x...x...x...x...x..."),
                (OpenHat, "..x...x...x...x...x...x...x...x."),
                (ClosedHat, "xo.oxo.oxo.oxo.oxo.oxo.oxo.oxo.o"),
                (Clap, "............x...............x..o"),
            ],
            Beat::SlowGate => &[
                (Kick, "x.........o.....x..............."),
                (Rim, "....x.......x.......x.......x.o."),
                (Shaker, "x.o.x.o.x.o.x.o.x.o.x.o.x.o.x.oo"),
            ],
            Beat::BrokenPane => &[
                (Kick, "x.x.......xx....x..x......x....."),
                (Snare, "....x..o.o..x..o....x..o.o....x."),
                (ClosedHat, "x.x.x.x.x.x.x.x.x.x.x.x.x.x.x.x."),
                (OpenHat, "......................x........."),
            ],
        }
    }

    /// Whether it has a kick.
    pub fn has_kick(self) -> bool {
        self.rows().iter().any(|(drum, _)| *drum == Drum::Kick)
    }

    /// Its strokes over two bars, in time.
    pub fn strokes(self) -> Vec<Stroke> {
        let rows = self.rows().iter();
        let mut list: Vec<Stroke> = rows
            .flat_map(|(drum, row)| {
                row.bytes().enumerate().filter_map(|(n, what)| {
                    let accent = match what {
                        b'x' => 1.0,
                        b'o' => 0.5,
                        _ => return None,
                    };
                    Some(Stroke {
                        at_beats: n as f64 * 0.25,
                        drum: *drum,
                        accent,
                    })
                })
            })
            .collect();
        list.sort_by(|a, b| a.at_beats.total_cmp(&b.at_beats).then(a.drum.cmp(&b.drum)));
        list
    }
}
