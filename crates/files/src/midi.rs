//! Standard MIDI files (MIDI Manufacturers Association, "Standard MIDI Files 1.0", 1996): phrases in and out.

use midly::num::{u4, u7, u15, u24, u28};
use midly::{
    Format, Header, MetaMessage, MidiMessage, PitchBend, Smf, Timing, TrackEvent, TrackEventKind,
};
use zolvik_patch::catalogue::param;
use zolvik_patch::document::Audition;
use zolvik_patch::playing::{Phrase, WheelPlace};
use zolvik_play::recorder::{NoPhrase, Recorder};

/// Largest file read, in bytes.
pub const MAX_BYTES: usize = 4 << 20;
/// Ticks a beat of what is written.
const TICKS: u16 = 480;
/// How finely the way from one turn to the next is written, in beats.
const TURN_STEP_BEATS: f64 = 1.0 / 32.0;

/// Why a file is no phrase. Each says what to do.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum MidiError {
    /// Too large.
    #[error("this file has {actual} bytes, at most {MAX_BYTES} are read; choose a single phrase")]
    Large {
        /// Bytes it has.
        actual: usize,
    },
    /// The bytes are none, or end too soon.
    #[error("this is no whole MIDI file ({problem}); export it again")]
    Broken {
        /// What is wrong.
        problem: String,
    },
    /// Several songs in one file.
    #[error("this file holds several songs (type 2); save one of them as type 0 or 1")]
    Songs,
    /// Time in frames of a film.
    #[error("this file counts time in film frames, not in beats; save it with ticks a beat")]
    Frames,
    /// Beats of no length.
    #[error("this file has 0 ticks a beat; save it with 96 or more")]
    NoTicks,
    /// No phrase can be made of it.
    #[error("this file makes no phrase: {0}")]
    NoPhrase(#[from] NoPhrase),
}

/// A phrase that was read.
#[derive(Debug, Clone, PartialEq)]
pub struct Read {
    /// The phrase, its keys counted from the root given.
    pub phrase: Phrase,
    /// The file's first tempo, in beats a minute, as near as a patch comes to it; none if it says none.
    pub tempo_bpm: Option<f64>,
    /// What was left out of it because it is more than a phrase takes, in words.
    pub left_out: Option<String>,
}

/// Reads a phrase. All tracks and channels are one; a beat is a quarter note, whatever the metre; the length is whole bars of four.
///
/// # Errors
/// If it is no file of notes in beats. Of more than a phrase takes the beginning is taken.
pub fn read(bytes: &[u8], name: &str, root: u8) -> Result<Read, MidiError> {
    if bytes.len() > MAX_BYTES {
        return Err(MidiError::Large {
            actual: bytes.len(),
        });
    }
    whole(bytes)?;
    let broken = |e: midly::Error| MidiError::Broken {
        problem: e.to_string(),
    };
    let (header, tracks) = midly::parse(bytes).map_err(broken)?;
    if header.format == Format::Sequential {
        return Err(MidiError::Songs);
    }
    let ticks = match header.timing {
        Timing::Metrical(ticks) if ticks.as_int() == 0 => return Err(MidiError::NoTicks),
        Timing::Metrical(ticks) => f64::from(ticks.as_int()),
        Timing::Timecode(..) => return Err(MidiError::Frames),
    };
    let mut recorder = Recorder::new(root);
    let (mut declared, mut tempo_bpm) = (0, None);
    for track in tracks {
        let track = track.map_err(broken)?;
        declared += 1;
        let mut at_ticks = 0u64;
        for event in track {
            let event = event.map_err(broken)?;
            at_ticks += u64::from(event.delta.as_int());
            match event.kind {
                TrackEventKind::Meta(MetaMessage::Tempo(micros)) if micros.as_int() > 0 => {
                    tempo_bpm.get_or_insert(60e6 / f64::from(micros.as_int()));
                }
                TrackEventKind::Midi { channel, message } => {
                    if let Some(bytes) = bytes_of(channel.as_int(), message) {
                        recorder.take(at_ticks as f64 / ticks, bytes);
                    }
                }
                _ => {}
            }
        }
        recorder.end(at_ticks as f64 / ticks);
    }
    if declared == 0 {
        return Err(MidiError::Broken {
            problem: "it has no tracks".into(),
        });
    }
    let (recorder, left_out) = recorder.fitted();
    let phrase = recorder.phrase(name, 0.0)?;
    // to a tenth, within what a patch takes
    let row = param(Audition::TEMPO_BPM);
    let held = |bpm: f64| ((bpm * 10.0).round() / 10.0).clamp(row.min, row.max);
    Ok(Read {
        phrase,
        tempo_bpm: tempo_bpm.map(held),
        left_out,
    })
}

/// Looks whether all parts of a file are there, which readers are lenient about, and how it counts time.
fn whole(bytes: &[u8]) -> Result<(), MidiError> {
    let broken = |problem: &str| MidiError::Broken {
        problem: problem.into(),
    };
    if bytes.len() < 14 || !bytes.starts_with(b"MThd") {
        return Err(broken("it does not begin as one"));
    }
    if bytes[12] & 0x80 != 0 {
        return Err(MidiError::Frames);
    }
    let mut rest = bytes;
    while let Some((head, after)) = rest.split_at_checked(8) {
        let length = head[4..]
            .iter()
            .fold(0, |sum, b| sum << 8 | usize::from(*b));
        rest = after
            .get(length..)
            .ok_or_else(|| broken("it ends too soon"))?;
    }
    Ok(())
}

/// A message as its bytes; none for those that make no phrase.
fn bytes_of(channel: u8, message: MidiMessage) -> Option<[u8; 3]> {
    Some(match message {
        MidiMessage::NoteOn { key, vel } => [0x90 | channel, key.as_int(), vel.as_int()],
        MidiMessage::NoteOff { key, vel } => [0x80 | channel, key.as_int(), vel.as_int()],
        MidiMessage::Controller { controller, value } => {
            [0xB0 | channel, controller.as_int(), value.as_int()]
        }
        MidiMessage::PitchBend { bend } => {
            let bits = bend.0.as_int();
            [0xE0 | channel, (bits & 127) as u8, (bits >> 7) as u8]
        }
        _ => return None,
    })
}

/// Writes a phrase as a file of type 0, its keys counted from a root. Its moments are those at which it is heard: `heard` gives them
/// for those of the even grid, in beats.
pub fn write(phrase: &Phrase, root: u8, tempo_bpm: f64, heard: impl Fn(f64) -> f64) -> Vec<u8> {
    let tick = |beats: f64| (heard(beats).max(0.0) * f64::from(TICKS)).round() as u32;
    // time, what comes first of what is at once, message
    let mut list: Vec<(u32, u8, MidiMessage)> = vec![];
    for note in &phrase.notes {
        let Ok(key) = u8::try_from(i16::from(root) + note.semitones) else {
            continue;
        };
        let Some(key) = u7::try_from(key) else {
            continue;
        };
        let from = tick(note.at_beats);
        let until = tick(note.at_beats + note.length_beats).max(from + 1);
        let vel = u7::from(note.velocity & 127);
        list.push((from, 2, MidiMessage::NoteOn { key, vel }));
        let vel = u7::from(64);
        list.push((until, 0, MidiMessage::NoteOff { key, vel }));
    }
    for (at, place) in along(&phrase.wheel) {
        let value = u7::from((place * 127.0).round().clamp(0.0, 127.0) as u8);
        let controller = u7::from(1);
        list.push((tick(at), 1, MidiMessage::Controller { controller, value }));
    }
    for (at, place) in along(&phrase.bend) {
        let bend = PitchBend::from_f64(place);
        list.push((tick(at), 1, MidiMessage::PitchBend { bend }));
    }
    list.sort_by_key(|(at, first, _)| (*at, *first));
    let micros = u24::from(((60e6 / tempo_bpm).round() as u32).min(0xFF_FFFF));
    let mut track = vec![
        meta(0, MetaMessage::TrackName(phrase.name.as_bytes())),
        meta(0, MetaMessage::Tempo(micros)),
    ];
    let mut now = 0;
    for (at, _, message) in list {
        track.push(TrackEvent {
            delta: u28::from(at - now),
            kind: TrackEventKind::Midi {
                channel: u4::from(0),
                message,
            },
        });
        now = at;
    }
    let end = tick(phrase.length_beats).max(now);
    track.push(meta(end - now, MetaMessage::EndOfTrack));
    let file = Smf {
        header: Header::new(Format::SingleTrack, Timing::Metrical(u15::from(TICKS))),
        tracks: vec![track],
    };
    let mut bytes = vec![];
    // writing to memory does not fail
    let _ = file.write_std(&mut bytes);
    bytes
}

fn meta(delta: u32, message: MetaMessage<'_>) -> TrackEvent<'_> {
    TrackEvent {
        delta: u28::from(delta),
        kind: TrackEventKind::Meta(message),
    }
}

/// Turns with the way between them in small steps.
fn along(turns: &[WheelPlace]) -> Vec<(f64, f64)> {
    let mut list = vec![];
    for (at, turn) in turns.iter().enumerate() {
        list.push((turn.at_beats, turn.place));
        let Some(next) = turns.get(at + 1).filter(|n| n.place != turn.place) else {
            continue;
        };
        let mut between = turn.at_beats + TURN_STEP_BEATS;
        while between < next.at_beats {
            list.push((between, Phrase::place_at(turns, between)));
            between += TURN_STEP_BEATS;
        }
    }
    list
}
