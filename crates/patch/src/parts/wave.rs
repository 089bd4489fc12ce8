//! Which wave an operator repeats: a plain cycle, a table scanned by a position, or harmonics drawn by hand.
//! Only names and numbers stand here; `zolvik-waves` makes the cycles.

use std::sync::Arc;

use base64::Engine as _;
use base64::engine::general_purpose::STANDARD as BASE64;
use serde::{Deserialize, Deserializer, Serialize, Serializer};

/// Most harmonics of a wave drawn by hand.
pub const MAX_BARS: usize = 64;
/// Most cycles of a table.
pub const MAX_CYCLES: usize = 256;
/// Most harmonics of an imported cycle.
pub const MAX_HARMONICS: usize = 512;
/// Most cycles times harmonics of one imported table: 256 KiB, so that a patch stays a small file.
pub const MAX_TABLE_POINTS: usize = 1 << 16;
/// Most imported tables of a patch.
pub const MAX_TABLES: usize = 8;

/// The wave of an operator.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum Wave {
    /// One cycle of a plain form.
    Shape(Shape),
    /// One of the tables that come with the application.
    Table(Table),
    /// Harmonics drawn by hand.
    Bars(Bars),
    /// An imported table of this patch, by number.
    Own(TableId),
}

impl Default for Wave {
    fn default() -> Self {
        Wave::Shape(Shape::Sine)
    }
}

/// Number of an imported table, stable for the life of the patch.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct TableId(pub u16);

macro_rules! names {
    ($(#[$doc:meta])* $type:ident: $($(#[$each:meta])* $variant:ident $family:literal $label:literal,)*) => {
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
        #[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
        #[cfg_attr(feature = "types", derive(ts_rs::TS))]
        #[serde(rename_all = "snake_case")]
        pub enum $type { $($(#[$each])* $variant,)* }

        impl $type {
            /// All of them, in the order in which they are stepped through.
            pub const ALL: &[$type] = &[$($type::$variant,)*];

            /// Its name on the screen.
            pub fn label(self) -> &'static str {
                match self { $($type::$variant => $label,)* }
            }

            /// The family it is listed under.
            pub fn family(self) -> &'static str {
                match self { $($type::$variant => $family,)* }
            }
        }
    };
}

names! {
    /// Plain cycles. All start at zero, rising.
    Shape:
    /// One harmonic.
    Sine "Plain" "Sine",
    /// Odd harmonics, soft.
    Triangle "Plain" "Triangle",
    /// All harmonics.
    Saw "Plain" "Saw",
    /// Odd harmonics, strong.
    Square "Plain" "Square",
    /// A square whose two parts differ in length by the operator's width.
    Pulse "Plain" "Pulse",
    /// The upper half of a sine, then rest.
    HalfSine "Half waves" "Half sine",
    /// A sine folded upward: twice as many humps.
    FoldedSine "Half waves" "Folded sine",
    /// One full sine in the first half, then rest.
    ShortSine "Half waves" "Short sine",
    /// A fading burst of three ripples.
    LowFormant "Formant" "Low formant",
    /// A fading burst of six ripples.
    MidFormant "Formant" "Mid formant",
    /// A fading burst of twelve ripples.
    HighFormant "Formant" "High formant",
}

names! {
    /// Tables that come with the application; position 0 to 1 scans each from first to last cycle.
    Table:
    /// A pulse from even to a needle.
    Narrowing "Pulse sweep" "Narrowing",
    /// Two pulses that part.
    TwinGates "Pulse sweep" "Twin gates",
    /// A rising number of pulses in one cycle.
    PicketRow "Pulse sweep" "Picket row",
    /// Five open vowels, one after another.
    FiveVowels "Vowels" "Five vowels",
    /// From closed lips to an open mouth.
    HumToAh "Vowels" "Hum to ah",
    /// Between two singers' vowels, brighter.
    FarChoir "Vowels" "Far choir",
    /// A closed pipe blown harder and harder.
    ReedPipe "Hollow" "Reed pipe",
    /// Odd harmonics entering one by one.
    OddLadder "Hollow" "Odd ladder",
    /// An odd spectrum with a wandering gap.
    BottleRow "Hollow" "Bottle row",
    /// High partials in uneven groups.
    TinLid "Metallic" "Tin lid",
    /// Few, widely spread partials.
    StruckBar "Metallic" "Struck bar",
    /// Partials of prime numbers.
    PrimeWire "Metallic" "Prime wire",
    /// Drawn octave and fifth stops.
    NineStops "Organ" "Nine stops",
    /// Octaves only, from one to eight.
    OctaveStack "Organ" "Octave stack",
    /// Fifths and thirds joining the octaves.
    Mixture "Organ" "Mixture",
    /// A ramp in ever coarser steps.
    StairRamp "Digital" "Stair ramp",
    /// A binary pattern that changes bit by bit.
    BitWeave "Digital" "Bit weave",
    /// A block of equal harmonics that climbs.
    GlassGrid "Digital" "Glass grid",
    /// A saw whose lowest formant opens and closes.
    LowGrowl "Growl" "Low growl",
    /// Two formants moving against each other.
    Throat "Growl" "Throat",
    /// A saw folded over and over.
    FoldRasp "Growl" "Fold rasp",
    /// From one pure partial to a small bell.
    SmallBell "Bell" "Small bell",
    /// A rubbed bowl, partials far apart.
    RubbedBowl "Bell" "Rubbed bowl",
    /// A cluster of high chimes.
    ChimeCluster "Bell" "Chime cluster",
}

/// Harmonics drawn by hand: a cycle is the sum of `amplitude * sin(2 pi (n t + phase))`, scaled to full.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct Bars {
    /// Amplitudes of harmonics 1 to 64 at most, each 0 to 1.
    pub amplitudes: Vec<f64>,
    /// Their phases in turns, 0 to 1; missing ones are 0.
    pub phases_turns: Vec<f64>,
}

/// A table imported into the patch.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct OwnTable {
    /// Stable number.
    pub id: TableId,
    /// The user's name for it, 1 to 40 characters.
    pub name: String,
    /// Harmonics of each cycle, 1 to 512.
    pub harmonics: u16,
    /// CycleShape by cycle, for each harmonic cosine and sine part: 16 bit little-endian whole numbers, in base64.
    #[cfg_attr(feature = "schema", schemars(with = "String"))]
    #[cfg_attr(feature = "types", ts(type = "string"))]
    pub cycles: Points,
}

/// Cosine and sine parts of harmonics, 32767 being full. Shared, since documents are copied at every edit.
#[derive(Clone, PartialEq, Default)]
pub struct Points(pub Arc<[i16]>);

impl core::fmt::Debug for Points {
    fn fmt(&self, f: &mut core::fmt::Formatter<'_>) -> core::fmt::Result {
        write!(f, "{} points", self.0.len())
    }
}

impl Serialize for Points {
    fn serialize<S: Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        let bytes: Vec<u8> = self.0.iter().flat_map(|p| p.to_le_bytes()).collect();
        to.serialize_str(&BASE64.encode(bytes))
    }
}

impl<'de> Deserialize<'de> for Points {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        let text = String::deserialize(from)?;
        let wrong = |why: &dyn core::fmt::Display| serde::de::Error::custom(why);
        let bytes = BASE64.decode(text).map_err(|e| wrong(&e))?;
        let (pairs, rest) = bytes.as_chunks::<2>();
        if !rest.is_empty() {
            return Err(wrong(&"end inside a number"));
        }
        Ok(Points(
            pairs.iter().map(|p| i16::from_le_bytes(*p)).collect(),
        ))
    }
}

impl OwnTable {
    /// How many cycles it has.
    pub fn cycle_count(&self) -> usize {
        self.cycles.0.len() / (2 * usize::from(self.harmonics).max(1))
    }
}

impl Wave {
    /// Every wave of the application, in the order in which they are stepped through.
    pub fn all() -> impl Iterator<Item = Wave> {
        let shapes = Shape::ALL.iter().map(|s| Wave::Shape(*s));
        shapes.chain(Table::ALL.iter().map(|t| Wave::Table(*t)))
    }

    /// What it is called where it is typed; waves of the patch's own have no such name, and are called a sine.
    pub fn label(&self) -> String {
        let name = match self {
            Wave::Shape(shape) => shape.label(),
            Wave::Table(table) => table.label(),
            Wave::Bars(_) | Wave::Own(_) => Shape::Sine.label(),
        };
        name.to_lowercase()
    }

    /// Whether a position scans it.
    pub fn is_scanned(&self) -> bool {
        matches!(self, Wave::Table(_) | Wave::Own(_))
    }

    /// The wave some steps further in the list of all waves and the patch's own tables, around the end.
    pub fn stepped(&self, own: &[OwnTable], steps: i32) -> Wave {
        let list: Vec<Wave> = Wave::all()
            .chain(own.iter().map(|t| Wave::Own(t.id)))
            .collect();
        let at = list
            .iter()
            .position(|w| w == self)
            .map_or(-1, |at| at as i32);
        // from bars drawn by hand one comes to the first or the last of the list
        let from = if at < 0 && steps < 0 { 0 } else { at };
        list[(from + steps).rem_euclid(list.len() as i32) as usize].clone()
    }
}

impl Bars {
    /// One harmonic at full.
    pub fn single() -> Self {
        Bars {
            amplitudes: vec![1.0],
            phases_turns: vec![],
        }
    }

    /// Amplitude and phase of a harmonic, counted from 1.
    pub fn harmonic(&self, n: usize) -> (f64, f64) {
        let of = |list: &[f64]| n.checked_sub(1).and_then(|i| list.get(i)).copied();
        (
            of(&self.amplitudes).unwrap_or(0.0),
            of(&self.phases_turns).unwrap_or(0.0),
        )
    }

    /// Sets a harmonic, counted from 1; values outside are pulled in, harmonics above the 64th passed over.
    pub fn set(&mut self, n: usize, amplitude: f64, phase_turns: f64) {
        if !(1..=MAX_BARS).contains(&n) {
            return;
        }
        let amplitude = if amplitude.is_finite() {
            amplitude
        } else {
            0.0
        };
        let phase = if phase_turns.is_finite() {
            phase_turns
        } else {
            0.0
        };
        put(&mut self.amplitudes, n - 1, amplitude.clamp(0.0, 1.0));
        put(&mut self.phases_turns, n - 1, phase - phase.floor());
    }
}

/// Writes at a place, making room; nothing is stored after the last value that is not zero.
fn put(list: &mut Vec<f64>, at: usize, value: f64) {
    if list.len() <= at {
        list.resize(at + 1, 0.0);
    }
    list[at] = value;
    while list.last() == Some(&0.0) {
        list.pop();
    }
}
