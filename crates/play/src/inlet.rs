//! What comes from keyboards and controllers, before it is played: how a keyboard is touched, learnt controllers, keys and programs
//! that switch articulations, and a clock that sets the tempo. Messages are those of the MIDI 1.0 specification (MIDI Manufacturers
//! Association, 1996).

use serde::{Deserialize, Serialize};

use zolvik_patch::Patch;
use zolvik_patch::address::Address;
use zolvik_patch::catalogue::param;
use zolvik_patch::document::Audition;
use zolvik_patch::movement::{Macro, SourceKind};
use zolvik_patch::playing::controllers::may_be_learnt;

/// How a keyboard is touched.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(rename_all = "snake_case")]
pub enum Touch {
    /// Hard to strike: velocities are lifted.
    Heavy,
    /// Velocities as they come.
    #[default]
    Even,
    /// Easy to strike: velocities are lowered.
    Light,
}

impl Touch {
    /// What a velocity becomes: `127 (velocity / 127)^exponent`. A key that is struck stays struck.
    pub fn velocity(self, struck: u8) -> u8 {
        let exponent = match self {
            Touch::Heavy => 0.6,
            Touch::Even => 1.0,
            Touch::Light => 1.7,
        };
        match struck {
            0 => 0,
            struck => {
                let share = f64::from(struck.min(127)) / 127.0;
                (127.0 * libm::pow(share, exponent)).round().max(1.0) as u8
            }
        }
    }
}

/// What a controller moves.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(untagged)]
pub enum Moved {
    /// The macro in this place, counted from 0, of whatever patch is open.
    Macro(u8),
    /// A value.
    Value(Address),
}

impl Moved {
    /// The value that is meant, in a patch that has it.
    fn address(self, patch: &Patch) -> Option<Address> {
        match self {
            Moved::Macro(at) => {
                let sources = patch.movement.sources.iter();
                let mut macros = sources.filter(|s| matches!(s.kind, SourceKind::Macro(_)));
                Some(Address::new(Macro::PLACE, macros.nth(at.into())?.id.0))
            }
            Moved::Value(address) => address.get(patch).is_ok().then_some(address),
        }
    }
}

/// A controller and what it moves.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
pub struct Learnt {
    /// Its number.
    pub controller: u8,
    /// What it moves.
    pub moves: Moved,
}

/// What a message means here.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "types", derive(ts_rs::TS))]
#[serde(tag = "is", rename_all = "snake_case")]
pub enum Meant {
    /// It is played.
    Play {
        /// Bytes of the message.
        message: [u8; 3],
    },
    /// A value goes to a place on its bar.
    Place {
        /// The controller that moves it.
        controller: u8,
        /// The value.
        address: Address,
        /// 0 to 1.
        place: f64,
    },
    /// The controller was learnt; these no longer move what it does.
    Learnt {
        /// The controller, and what it moves from now on.
        learnt: Learnt,
        /// All that is learnt now.
        list: Vec<Learnt>,
        /// Controllers that are forgotten.
        gone: Vec<u8>,
    },
    /// Another articulation is heard; none is the base.
    Switch {
        /// Counted from 0.
        at: Option<u8>,
    },
    /// The tempo follows a clock.
    Tempo {
        /// Beats a minute.
        bpm: f64,
    },
    /// What is played begins.
    Start {
        /// Where, in beats; none to go on where it was stopped.
        at_beats: Option<f64>,
    },
    /// What is played ends.
    Stop,
    /// Something to be told.
    Said {
        /// What, and what to do.
        words: String,
    },
}

/// Ticks of a clock in a beat.
const TICKS: usize = 24;
/// Changes of the tempo below this are the clock's unrest, in beats a minute.
const UNREST_BPM: f64 = 0.4;
/// Controllers below this have a fine part as many numbers above.
const PAIRED: u8 = 32;

/// What is known of what comes in.
#[derive(Debug, Clone, Default)]
pub struct Inlet {
    learnt: Vec<Learnt>,
    learning: Option<Moved>,
    /// Coarse parts as they came last.
    coarse: [Option<u8>; PAIRED as usize],
    /// When ticks of the clock came, in milliseconds, oldest first.
    ticks: Vec<f64>,
    /// Whether it was told that the clock's tempo is none of ours.
    told: bool,
    /// Where what goes on is to begin, if that was told, in beats.
    position_beats: Option<f64>,
}

impl Inlet {
    /// What is learnt already.
    pub fn knows(&mut self, learnt: Vec<Learnt>) {
        self.learnt = learnt;
    }

    /// What is learnt.
    pub fn learnt(&self) -> &[Learnt] {
        &self.learnt
    }

    /// The next controller that is moved will move this; or none will.
    pub fn learn(&mut self, what: Option<Moved>) {
        self.learning = what;
    }

    /// Nothing moves this any more. Gives the controllers that are forgotten.
    pub fn forget(&mut self, what: Moved) -> Vec<u8> {
        let (gone, kept) = self.learnt.iter().partition(|known| known.moves == what);
        self.learnt = kept;
        let gone: Vec<Learnt> = gone;
        gone.into_iter().map(|known| known.controller).collect()
    }

    /// Takes a message that came at a moment: what is meant by it, in order. What is cut off is passed over.
    pub fn take(&mut self, bytes: &[u8], time_ms: f64, touch: Touch, patch: &Patch) -> Vec<Meant> {
        let status = bytes.first().copied().unwrap_or(0);
        match status {
            0xF8 => return self.tick(time_ms, patch).into_iter().collect(),
            0xFA | 0xFB => {
                self.ticks.clear();
                self.told = false;
                let told = self.position_beats.take();
                let at_beats = if status == 0xFA { Some(0.0) } else { told };
                return vec![Meant::Start { at_beats }];
            }
            0xF2 if bytes.len() >= 3 => {
                let sixteenths = u16::from(bytes[2] & 127) << 7 | u16::from(bytes[1] & 127);
                self.position_beats = Some(f64::from(sixteenths) / 4.0);
                return vec![];
            }
            0xFC => return vec![Meant::Stop],
            0x80..=0xEF if bytes.len() >= 2 => {}
            _ => return vec![],
        }
        let (first, second) = (bytes[1] & 127, bytes.get(2).copied().unwrap_or(0) & 127);
        let second = match status & 0xF0 {
            0x90 => touch.velocity(second),
            _ => second,
        };
        let played = Meant::Play {
            message: [status, first, second],
        };
        match status & 0xF0 {
            0xB0 => match self.controller(first, second, patch) {
                Some(meant) => meant,
                None => vec![played],
            },
            0xC0 => vec![program(first, patch)],
            // a key that is let go may have been struck before it was to switch anything
            0x90 if second > 0 => match switch_of(first, patch) {
                Some(at) => {
                    let heard = patch.playing.articulation == Some(at);
                    vec![Meant::Switch {
                        at: (!heard).then_some(at),
                    }]
                }
                None => vec![played],
            },
            _ => vec![played],
        }
    }

    /// A controller, if it is learnt, or is now.
    fn controller(&mut self, number: u8, value: u8, patch: &Patch) -> Option<Vec<Meant>> {
        let mut meant = vec![];
        if let Some(moves) = self.learning.filter(|_| may_be_learnt(number)) {
            self.learning = None;
            let gone = self.forget(moves);
            let gone = gone.into_iter().filter(|other| *other != number).collect();
            self.learnt.retain(|known| known.controller != number);
            let learnt = Learnt {
                controller: number,
                moves,
            };
            self.learnt.push(learnt);
            let list = self.learnt.clone();
            meant.push(Meant::Learnt { learnt, list, gone });
        }
        let known = |number| self.learnt.iter().find(|known| known.controller == number);
        let (known, place) = match known(number) {
            Some(known) => {
                if let Some(coarse) = self.coarse.get_mut(usize::from(number)) {
                    *coarse = Some(value);
                }
                (known, f64::from(value) / 127.0)
            }
            // the fine part of one with 14 bits
            None => {
                let pair = number.checked_sub(PAIRED)?;
                let coarse = (*self.coarse.get(usize::from(pair))?)?;
                let both = u16::from(coarse) << 7 | u16::from(value);
                (known(pair)?, f64::from(both) / 16_383.0)
            }
        };
        meant.extend(known.moves.address(patch).map(|address| Meant::Place {
            controller: known.controller,
            address,
            place,
        }));
        Some(meant)
    }

    /// The tempo of the clock's last beat, where it is another one.
    fn tick(&mut self, time_ms: f64, patch: &Patch) -> Option<Meant> {
        self.ticks.push(time_ms);
        let before = self.ticks.len().checked_sub(TICKS + 1)?;
        let bpm = 60_000.0 / (time_ms - self.ticks[before]);
        self.ticks.drain(..=before);
        let row = param(Audition::TEMPO_BPM);
        let (min, max) = (row.min, row.max);
        if !(min - UNREST_BPM..=max + UNREST_BPM).contains(&bpm) {
            let words = format!(
                "The clock beats {bpm:.0} times a minute; tempos go from {min:.0} to {max:.0}. The tempo stays as it is."
            );
            let first = bpm.is_finite() && !std::mem::replace(&mut self.told, true);
            return first.then_some(Meant::Said { words });
        }
        self.told = false;
        let apart = (bpm - patch.audition.tempo_bpm).abs() >= UNREST_BPM;
        apart.then(|| Meant::Tempo {
            bpm: ((bpm * 10.0).round() / 10.0).clamp(min, max),
        })
    }
}

/// The articulation a key switches to.
fn switch_of(key: u8, patch: &Patch) -> Option<u8> {
    let mut all = patch.playing.articulations.iter();
    Some(all.position(|a| a.key == Some(key))? as u8)
}

/// Program 0 is the base, the others are the articulations.
fn program(number: u8, patch: &Patch) -> Meant {
    let there = patch.playing.articulations.len();
    match number {
        0 => Meant::Switch { at: None },
        at if usize::from(at) <= there => Meant::Switch { at: Some(at - 1) },
        at => {
            let are = match there {
                0 => "there are none".into(),
                1 => "there is one".into(),
                many => format!("there are {many}"),
            };
            let words = format!("Program {at}: there is no articulation {at}; {are}.");
            Meant::Said { words }
        }
    }
}
