//! Browser and command line render the same bits.

use zolvik_browser_tests::stage_with;
use zolvik_lab::Note;
use zolvik_lab::render::render_for_file;

/// Every so many-th patch; all of them are `cargo xtask measure bits`.
const EVERY: usize = 6;

#[tokio::test]
async fn demo_patches_have_the_same_bits_in_browser_and_core() {
    have_the_same_bits(EVERY).await;
}

#[tokio::test]
#[ignore = "minutes; cargo xtask measure bits"]
async fn every_demo_patch_has_the_same_bits_in_browser_and_core() {
    have_the_same_bits(1).await;
}

async fn have_the_same_bits(every: usize) {
    let stage = stage_with(true).await;
    stage.open("/").await;
    stage.find(".row.patch").await;
    for (turn, entry) in stage.patches().await.into_iter().step_by(every).enumerate() {
        let name = entry["name"].as_str().unwrap().to_owned();
        stage
            .find(&format!("[role=row][aria-label='{name}'] .acts .btn"))
            .await
            .click()
            .await
            .unwrap();
        stage.find("[data-unit]").await;
        stage.click("Render").await;
        stage.click("32 bit float").await;
        // tails of half a minute have the same bits as what comes before them: some are enough
        let to_its_end = turn % 9 == 0;
        let length = ["Visible range", "Full tail"][usize::from(to_its_end)];
        stage.click(length).await;
        stage.click("Save WAV").await;
        let file = stage.download("wav").await;
        let mut reader = hound::WavReader::open(&file).unwrap();
        let browser: Vec<u32> = reader
            .samples::<f32>()
            .map(|s| s.unwrap().to_bits())
            .collect();
        std::fs::remove_file(&file).unwrap();
        let patch = stage.stored(entry["id"].as_i64().unwrap()).await;
        let mut note = Note::auditioned(&patch, 48_000.0);
        if to_its_end {
            note = note.to_its_end(&patch);
        }
        let sound = render_for_file(&patch, &note, &zolvik_waves::NoClips);
        let native: Vec<u32> = sound
            .left
            .iter()
            .zip(&sound.right)
            .flat_map(|(l, r)| [l.to_bits(), r.to_bits()])
            .collect();
        assert_eq!(browser.len(), native.len(), "{name}");
        let differing = browser.iter().zip(&native).filter(|(a, b)| a != b).count();
        assert_eq!(
            differing,
            0,
            "{name}: {differing} of {} samples differ",
            native.len()
        );
        assert!(
            native.iter().any(|bits| f32::from_bits(*bits).abs() > 0.1),
            "{name} sounds"
        );
        stage.click("Library").await;
    }
}
