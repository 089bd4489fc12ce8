//! MIDI messages as the engine takes them.

use super::engine::{Control, Engine};

impl Engine {
    /// Takes a MIDI message: note on and off, pitch bend, pressure of keys and channel, wheel (1), expression (11), sustain pedal (64),
    /// all sound off (120), all notes off (123).
    /// Others are passed over. Data bytes are read as 7 bits.
    ///
    /// # Real time
    /// No allocation, no lock, no panic.
    pub fn midi(&mut self, message: [u8; 3]) {
        let [status, a, b] = [message[0], message[1] & 127, message[2] & 127];
        let share = f32::from(b) * (1.0 / 127.0);
        match (status & 0xF0, a) {
            (0x90, _) => self.note_on(a, b),
            (0x80, _) => {
                self.control(Control::Lift(a), share);
                self.note_off(a);
            }
            (0xA0, _) => self.control(Control::KeyPressure(a), share),
            (0xD0, _) => self.control(Control::Pressure, f32::from(a) * (1.0 / 127.0)),
            (0xB0, 1) => self.control(Control::Wheel, share),
            (0xB0, 11) => self.control(Control::Expression, share),
            (0xE0, _) => {
                let place = f64::from(u16::from(a) | u16::from(b) << 7) - 8192.0;
                self.pitch_bend(if place > 0.0 {
                    place / 8191.0
                } else {
                    place / 8192.0
                });
            }
            (0xB0, 64) => self.pedal(b >= 64),
            (0xB0, 120) => self.silence(),
            (0xB0, 123) => self.all_notes_off(),
            _ => {}
        }
    }
}
