//! Steps of a command, some side by side: it says what it does, how long that usually takes, and what is left.

use std::sync::Mutex;
use std::thread;
use std::time::Instant;

use crate::run::Result;

/// One step.
#[derive(Clone, Copy)]
pub struct Step {
    /// What it does, in a few words.
    pub name: &'static str,
    /// How long it usually takes on two cores when nothing is there yet, in seconds.
    pub usual_s: u32,
    /// The work; quick where everything is up to date.
    pub act: fn() -> Result,
}

/// A step.
pub const fn step(name: &'static str, usual_s: u32, act: fn() -> Result) -> Step {
    Step { name, usual_s, act }
}

/// Steps that go on side by side with others: each waits for the one before it.
pub type Lane<'a> = &'a [Step];

struct Progress {
    begun: usize,
    all: usize,
    /// Usual time of what has not ended yet, in seconds, lane by lane of the stages to come.
    left_s: Vec<Vec<u32>>,
}

impl Progress {
    /// Stages follow each other; within one the longest lane counts.
    fn left_s(&self) -> u32 {
        let stage = |lanes: &Vec<u32>| lanes.iter().copied().max().unwrap_or(0);
        self.left_s.iter().map(stage).sum()
    }
}

/// Runs stages one after the other, the lanes of each side by side.
pub fn run(stages: &[&[Lane<'_>]]) -> Result {
    let usual = |lane: &Lane<'_>| lane.iter().map(|s| s.usual_s).sum();
    let progress = Mutex::new(Progress {
        begun: 0,
        all: stages.iter().flat_map(|s| s.iter()).map(|l| l.len()).sum(),
        left_s: stages
            .iter()
            .map(|stage| stage.iter().map(usual).collect())
            .collect(),
    });
    let began = Instant::now();
    for (at, stage) in stages.iter().enumerate() {
        thread::scope(|scope| {
            let lanes: Vec<_> = stage
                .iter()
                .enumerate()
                .map(|(lane, steps)| {
                    let progress = &progress;
                    scope.spawn(move || steps.iter().try_for_each(|s| go(s, progress, (at, lane))))
                })
                .collect();
            lanes.into_iter().try_for_each(|lane| {
                let ended = lane.join();
                ended.unwrap_or_else(|_| Err("a step broke down".into()))
            })
        })?;
    }
    println!("xtask: done in {}", words(began.elapsed().as_secs() as u32));
    Ok(())
}

fn go(step: &Step, progress: &Mutex<Progress>, (stage, lane): (usize, usize)) -> Result {
    let locked = || progress.lock().unwrap_or_else(|e| e.into_inner());
    {
        let mut progress = locked();
        progress.begun += 1;
        println!(
            "xtask: step {} of {}: {}, usually {}; about {} left",
            progress.begun,
            progress.all,
            step.name,
            words(step.usual_s),
            words(progress.left_s()),
        );
    }
    let began = Instant::now();
    let ended = (step.act)().map_err(|why| format!("{}: {why}", step.name));
    let took_s = began.elapsed().as_secs() as u32;
    let mut progress = locked();
    let left = &mut progress.left_s[stage][lane];
    *left = left.saturating_sub(step.usual_s);
    if ended.is_ok() {
        println!("xtask: {} took {}", step.name, words(took_s));
    }
    ended
}

/// A time in words.
fn words(seconds: u32) -> String {
    match seconds {
        0..=99 => format!("{seconds} s"),
        _ => format!("{} min", (seconds + 30) / 60),
    }
}
