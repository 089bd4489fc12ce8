//! MIDI messages as the engine takes them.

use crate::realtime::engine::Engine;
use crate::realtime::input::keys::Control;
use zolvik_patch::playing::controllers::SUSTAIN;

impl Engine {
    /// Takes a MIDI message: note on and off, pitch bend, zones of channels that are one note's each with their bend, pressure and timbre (74), pressure of keys and channel, wheel (1), expression (11), sustain pedal (64),
    /// all sound off (120), all notes off (123).
    /// Others are passed over. Data bytes are read as 7 bits.
    ///
    /// # Real time
    /// No allocation, no lock, no panic.
    pub fn midi(&mut self, message: [u8; 3]) {
        let [status, a, b] = [message[0], message[1] & 127, message[2] & 127];
        let share = f32::from(b) * (1.0 / 127.0);
        let channel = status & 15;
        if self.channels.is_member(channel) && self.of_one_note(channel, [status, a, b]) {
            return;
        }
        match (status & 0xF0, a) {
            (0x90, _) => {
                self.press_on(a, channel);
                self.note_on(a, b);
            }
            (0x80, _) => {
                self.control(Control::Lift(a), share);
                self.note_off(a);
            }
            (0xA0, _) => self.control(Control::KeyPressure(a), share),
            (0xD0, _) => self.control(Control::Pressure, f32::from(a) * (1.0 / 127.0)),
            (0xB0, 1) => self.control(Control::Wheel, share),
            (0xB0, 11) => self.control(Control::Expression, share),
            (0xE0, _) => self.pitch_bend(bend(a, b)),
            (0xB0, 6 | 100 | 101) => self.channels.control(channel, a, b),
            (0xB0, SUSTAIN) => {
                self.pedal_at(b);
                self.control(Control::Pedal, share);
            }
            (0xB0, 120) => self.silence(),
            (0xB0, 123) => self.all_notes_off(),
            _ => {}
        }
    }

    /// A key goes down on a channel: its note is bent as that stands, where it is the note's own. To be told before the note begins.
    ///
    /// # Real time
    /// No allocation, no lock, no panic.
    pub fn press_on(&mut self, key: u8, channel: u8) {
        let oct = self.channels.press(key, channel & 15);
        self.voices.bend_note(key & 127, oct, true);
        if self.channels.is_member(channel & 15) {
            self.control(Control::KeyPressure(key), 0.0);
        }
    }

    /// A message of a channel that has one note of its own: bend, pressure and timbre are that note's. Gives whether it was one.
    fn of_one_note(&mut self, channel: u8, [status, a, b]: [u8; 3]) -> bool {
        let (what, value) = match (status & 0xF0, a) {
            (0xE0, _) => {
                let oct = self.channels.turn(channel, bend(a, b) as f32);
                for key in self.channels.keys(channel) {
                    self.voices.bend_note(key, oct, false);
                }
                return true;
            }
            (0xD0, _) => (Control::KeyPressure as fn(u8) -> Control, a),
            (0xB0, 74) => (Control::KeyTimbre as fn(u8) -> Control, b),
            (0xB0, 6 | 100 | 101) => {
                self.channels.control(channel, a, b);
                return true;
            }
            _ => return false,
        };
        for key in 0..128 {
            if self.channels.keys(channel).any(|own| own == key) {
                self.control(what(key), f32::from(value) * (1.0 / 127.0));
            }
        }
        true
    }
}

/// Where a bend of two data bytes stands, -1 to 1.
fn bend(a: u8, b: u8) -> f64 {
    let place = f64::from(u16::from(a) | u16::from(b) << 7) - 8192.0;
    match place > 0.0 {
        true => place / 8191.0,
        false => place / 8192.0,
    }
}
