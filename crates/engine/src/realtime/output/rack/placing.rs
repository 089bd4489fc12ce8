//! Effects come, go and change places: made before they are heard, put in place once what stands there has faded.

use zolvik_patch::finish::{CHAINS, MAX_EFFECTS};

use crate::program::Program;
use crate::realtime::output::rack::slot::Slot;
use crate::realtime::output::rack::wait::Wait;
use crate::realtime::output::rack::{Rack, WAIT_S};

/// Effects there is room for: those of a program, and as many that fade out.
const SLOTS: usize = 2 * MAX_EFFECTS;

impl Rack {
    /// Makes the effects of a program that are not there yet, and lets go of those that are heard no more. Not for the audio path.
    pub(crate) fn reserve(&mut self, program: &Program) {
        if self.slots.is_empty() && program.rack.plain != 0 {
            return;
        }
        if self.waits.is_empty() {
            self.waits = (0..4).map(|_| Wait::new(WAIT_S, self.rate_hz)).collect();
        }
        let heard: Vec<bool> = (0..self.slots.len()).map(|s| self.order.has(s)).collect();
        let wanted = |slot: &Slot| {
            let effects = program.rack.effects().iter();
            effects
                .clone()
                .any(|e| (e.id, e.kind) == (slot.id, slot.kind))
        };
        for (slot, heard) in self.slots.iter_mut().zip(&heard) {
            if !heard && !wanted(slot) {
                slot.node = None;
            }
        }
        for effect in program.rack.effects() {
            let same = |s: &Slot| s.node.is_some() && (s.id, s.kind) == (effect.id, effect.kind);
            if self.slots.iter().any(same) {
                continue;
            }
            let made = Slot::new(effect, self.rate_hz);
            match self.slots.iter().position(|s| s.node.is_none()) {
                Some(free) => self.slots[free] = made,
                None if self.slots.len() < SLOTS => self.slots.push(made),
                None => {}
            }
        }
    }

    /// Takes up the chains of a program, whose effects must have been made.
    pub(crate) fn install(&mut self, program: &Program) {
        for slot in &mut self.slots {
            slot.at = None;
        }
        self.order.set_target();
        let mut at = 0;
        for chain in 0..CHAINS {
            for effect in program.rack.chain(chain) {
                let same =
                    |s: &Slot| s.node.is_some() && (s.id, s.kind) == (effect.id, effect.kind);
                if let Some(slot) = self.slots.iter().position(same) {
                    self.slots[slot].at = Some(at);
                    self.order.aim_at(chain, slot as u8);
                }
                at += 1;
            }
        }
        for slot in &mut self.slots {
            slot.in_place = false;
        }
        for chain in 0..CHAINS {
            let slots = &mut self.slots;
            self.order
                .stay(chain, |slot| slots[usize::from(slot)].in_place = true);
        }
        if self.awake == 0 {
            // nothing sounds: all is as it is to be at once
            self.adopt();
            for slot in &mut self.slots {
                let effect = slot.at.map(|at| &program.rack.effects[at]);
                slot.fade = f32::from(u8::from(effect.is_some_and(|e| e.on != 0)));
                slot.latency = effect.map_or(0, |e| slot.latency_of(program, e));
                slot.begun = false;
            }
            self.jumps = true;
        }
    }

    /// Everything is where it is to be.
    pub(super) fn adopt(&mut self) {
        self.order.adopt();
        for chain in 0..CHAINS {
            for slot in self.order.of(chain) {
                self.slots[usize::from(*slot)].in_place = true;
            }
        }
    }

    /// Puts effects where they are to be, once all that go or move are faded out.
    pub(super) fn settle(&mut self) {
        if self.order.is_settled() {
            return;
        }
        let waits = (0..CHAINS).any(|chain| {
            self.order.of(chain).iter().any(|slot| {
                let slot = &self.slots[usize::from(*slot)];
                !slot.in_place && !slot.is_out()
            })
        });
        if !waits {
            for chain in 0..CHAINS {
                for slot in self.order.of(chain) {
                    let slot = &mut self.slots[usize::from(*slot)];
                    // what goes, and what begins anew elsewhere
                    if !slot.in_place {
                        slot.forget();
                    }
                }
            }
            self.adopt();
        }
    }
}
