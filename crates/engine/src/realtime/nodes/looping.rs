//! Loops of recordings that links move while they sound: each lane has its own, faded as it is read.

use zolvik_waves::recording::MovingLoop;

use crate::realtime::sine::Lanes;
use crate::sizes::LANES;

/// The shortest loop, in samples of the recording.
const SHORTEST: f64 = 32.0;

/// Where a loop begins and ends and over how long its end fades into what leads to its begin, in samples; that far it always lies
/// behind the recording's begin.
#[derive(Debug, Clone, Copy)]
struct Loop {
    start: f64,
    end: f64,
    fade: f64,
}

impl Loop {
    const NONE: Loop = Loop {
        start: 0.0,
        end: 0.0,
        fade: 0.0,
    };

    /// That between two shares of the whole recording, of which so many frames are played; shortened as one that stands still is.
    fn between(moving: &MovingLoop, frames: usize, shares: [f32; 2]) -> Loop {
        let frames = frames as f64;
        let place = |share: f32| {
            let place = f64::from(share) * moving.total as f64 - moving.from as f64;
            place.clamp(0.0, frames)
        };
        let [mut start, mut end] = match (moving.reverse, shares.map(place)) {
            (true, [start, end]) => [frames - end, frames - start],
            (false, places) => places,
        };
        // one that ends before it begins stays as short as can be
        end = end.max(start + SHORTEST).min(frames);
        start = start.min(end - SHORTEST).max(0.0);
        let (wanted, length) = (moving.fade as f64, end - start);
        let (before, within) = (start.min(length), 0.5 * length);
        if wanted <= before || before >= within {
            let fade = wanted.min(before);
            return Loop { start, end, fade };
        }
        let fade = wanted.min(within);
        let start = start + fade;
        Loop { start, end, fade }
    }

    fn length(&self) -> f64 {
        (self.end - self.start).max(1.0)
    }

    fn fades_at(&self, place: f64) -> bool {
        place >= self.end - self.fade
    }
}

/// The loops of eight lanes.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Loops {
    /// That each goes round, and that it is to go round from the next time on it is free to.
    now: [Loop; LANES],
    wanted: [Loop; LANES],
}

impl Loops {
    pub(crate) const NONE: Loops = Loops {
        now: [Loop::NONE; LANES],
        wanted: [Loop::NONE; LANES],
    };

    /// Takes up where loops are to begin and end from the block at hand on, with lanes at these places.
    pub(crate) fn set_target(
        &mut self,
        (moving, frames): (&MovingLoop, usize),
        [starts, ends]: [Lanes; 2],
        places: &[f64; LANES],
    ) {
        let (starts, ends) = (starts.to_array(), ends.to_array());
        for lane in 0..LANES {
            self.wanted[lane] = Loop::between(moving, frames, [starts[lane], ends[lane]]);
            if !self.now[lane].fades_at(places[lane]) || self.now[lane].end == 0.0 {
                self.take(lane, places[lane]);
            }
        }
    }

    /// Goes round the wanted loop from now on; where its end lies behind already it is left from here.
    fn take(&mut self, lane: usize, place: f64) {
        let wanted = self.wanted[lane];
        self.now[lane] = match wanted.fades_at(place) {
            true => Loop {
                end: place + wanted.fade.max(1.0),
                ..wanted
            },
            false => wanted,
        };
    }

    /// Where a place leads once it is led back.
    #[inline]
    pub(crate) fn led_back(&self, lane: usize, place: f64) -> f64 {
        let now = &self.now[lane];
        match place >= now.end {
            true => place - ((place - now.end + 1e-9) / now.length()).ceil() * now.length(),
            false => place,
        }
    }

    /// The same of the place a lane plays on from: having gone round it takes up the wanted loop.
    #[inline]
    pub(crate) fn go_on(&mut self, lane: usize, place: f64) -> f64 {
        if place < self.now[lane].end {
            return place;
        }
        let place = self.led_back(lane, place);
        self.take(lane, place);
        place
    }

    /// What a place is faded into, and how far, 0 to 1; none outside of the fade.
    #[inline]
    pub(crate) fn other(&self, lane: usize, place: f64) -> Option<(f64, f32)> {
        let now = &self.now[lane];
        now.fades_at(place).then(|| {
            let share = (place - (now.end - now.fade)) / now.fade.max(1.0);
            (place - now.length(), share.clamp(0.0, 1.0) as f32)
        })
    }
}

/// Both sounds of a crossfade: as loud as they are where they are half alike.
#[inline]
pub(crate) fn crossed(out: f32, back: f32, share: f32) -> f32 {
    (out * (1.0 - share) + back * share) / (1.0 - share + share * share).sqrt()
}
