//! Throwaway pictures.
use thirtyfour::prelude::*;
use zolvik_browser_tests::stage_with;
#[tokio::test]
#[ignore = "by hand"]
async fn explore() {
    let stage = stage_with(true).await;
    let shot = |n: &str| std::path::PathBuf::from(format!("/tmp/shots/{n}.png"));
    stage.open("/").await;
    stage.click("New patch").await;
    stage.find("[data-unit='1']").await;
    tokio::time::sleep(std::time::Duration::from_millis(900)).await;
    stage.picture(&shot("x1-empty")).await;
    for _ in 0..11 {
        stage
            .find(".add .btn:nth-child(1)")
            .await
            .click()
            .await
            .unwrap();
    }
    for (a, b) in [
        (5, 1),
        (6, 5),
        (7, 1),
        (8, 2),
        (9, 3),
        (10, 9),
        (11, 4),
        (12, 2),
        (3, 10),
        (12, 12),
        (1, 6),
    ] {
        stage
            .js(
                &format!("document.querySelector(\"[data-unit='{a}']\").scrollIntoView()"),
                vec![],
            )
            .await;
        stage
            .find(&format!("[data-unit='{a}'] .head .second"))
            .await
            .click()
            .await
            .unwrap();
        stage.click("Add send").await;
        let label = if a == b {
            "Itself (feedback)".to_owned()
        } else {
            format!("{b} Operator {b}")
        };
        let item = stage
            .find(&format!(
                "li[role=menuitem][aria-label='{label}'] .p-menu-item-content"
            ))
            .await;
        item.scroll_into_view().await.unwrap();
        item.click().await.unwrap();
        tokio::time::sleep(std::time::Duration::from_millis(150)).await;
    }
    stage.click("Add send").await;
    tokio::time::sleep(std::time::Duration::from_millis(600)).await;
    stage.picture(&shot("x2-many")).await;
    stage
        .driver
        .action_chain()
        .send_keys(Key::Escape + "")
        .perform()
        .await
        .unwrap();
    stage.click("About & versions").await;
    tokio::time::sleep(std::time::Duration::from_millis(600)).await;
    stage.picture(&shot("x3-about")).await;
    stage
        .find("[aria-label=Close]")
        .await
        .click()
        .await
        .unwrap();
    tokio::time::sleep(std::time::Duration::from_millis(400)).await;
    stage.set_value("Attack", "soon").await;
    stage.picture(&shot("x4-problem")).await;
    stage
        .driver
        .action_chain()
        .send_keys(Key::Escape + "")
        .perform()
        .await
        .unwrap();
    stage.open("/").await;
    stage
        .find("[role=row][aria-label='Pollen Drift'] .acts .btn")
        .await
        .click()
        .await
        .unwrap();
    stage
        .find("[data-unit='4'] .head .second")
        .await
        .click()
        .await
        .unwrap();
    stage.click("Dark").await;
    stage.click("Mute Bloom").await;
    let from = stage.middle("[data-unit='4'] .grip").await;
    let to = stage.middle("[data-unit='6'] .plot").await;
    stage
        .driver
        .action_chain()
        .move_to(from.0, from.1)
        .click_and_hold()
        .move_to(from.0 + 30, from.1 + 30)
        .move_to(to.0, to.1)
        .perform()
        .await
        .unwrap();
    tokio::time::sleep(std::time::Duration::from_millis(500)).await;
    stage.picture(&shot("x5-wire")).await;
    stage
        .driver
        .action_chain()
        .release()
        .perform()
        .await
        .unwrap();
    stage.click("Play phrase").await;
    tokio::time::sleep(std::time::Duration::from_millis(1200)).await;
    stage.click("Render").await;
    tokio::time::sleep(std::time::Duration::from_millis(500)).await;
    stage.picture(&shot("x6-render")).await;
}
