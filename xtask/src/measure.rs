//! Measurements that are not part of the test command, as they differ from run to run.

use std::time::SystemTime;

use clap::Subcommand;

use crate::build;
use crate::run::{Result, SETTINGS, command, run};

#[derive(Subcommand)]
pub enum Measure {
    /// The random tests with new cases, several times over.
    Random {
        /// How many times.
        #[arg(long, default_value_t = 3)]
        times: u32,
    },
    /// Every byte of a small library turned, one after the other.
    Flips,
    /// The bits of every demo patch in the browser beside the core's.
    Bits,
    /// All seven whole jobs by the keyboard alone.
    Keys,
    /// The engine's speed beside a bare sine loop and another library.
    Speed,
}

/// Crates whose tests take random cases.
const RANDOM: [&str; 4] = [
    "zolvik-patch",
    "zolvik-effects",
    "zolvik-engine",
    "zolvik-play",
];

pub fn measure(what: &Measure) -> Result {
    match what {
        Measure::Random { times } => (0..*times).try_for_each(|_| random()),
        Measure::Flips => by_hand("library", "every_turned_byte"),
        Measure::Bits => story("every_demo_patch_has_the_same_bits"),
        Measure::Keys => story("all_seven_by_the_keyboard_alone"),
        Measure::Speed => run(command("reference", "cargo", &["bench"])),
    }
}

/// All tests of those crates from a seed that is printed, so that what was found can be found again.
fn random() -> Result {
    let now = SystemTime::now().duration_since(SystemTime::UNIX_EPOCH);
    let seed = now.map_or(1, |since| since.as_nanos() as u64);
    println!("xtask: random tests from PROPTEST_RNG_SEED={seed}");
    let mut tests = command("", "cargo", &["test", "--quiet"]);
    for name in RANDOM {
        tests.args(["--package", name]);
    }
    tests
        .args(["--features", "zolvik-patch/testing", "--no-fail-fast"])
        .env("PROPTEST_RNG_SEED", seed.to_string());
    run(tests)
}

/// A story on the application as it is now.
fn story(name: &str) -> Result {
    build::quick()?;
    by_hand("stories", name)
}

/// Tests that are run by hand alone, as they take minutes.
fn by_hand(file: &str, name: &str) -> Result {
    let mut tests = command("", "cargo", &["test"]);
    tests.args(SETTINGS).args(["--test", file]);
    tests.args(["--", "--ignored", "--nocapture", name]);
    run(tests)
}
