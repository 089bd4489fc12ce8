//! Routes by drag, menu and keyboard; what cannot be heard; mute and solo.

use thirtyfour::prelude::*;
use zolvik_browser_tests::{Stage, in_turn, stage};
use zolvik_patch::document::{Send, UnitId};

in_turn! {
    routing:
    routes_are_drawn_by_drag_by_menu_and_by_keyboard,
    a_rail_is_dragged_and_the_result_follows_live,
    an_unheard_strip_says_why_and_offers_the_cure,
    mute_and_solo_leave_no_trace_in_the_patch,
    operators_are_named_switched_duplicated_and_removed,
}

async fn three_operators() -> Stage {
    let stage = stage().await;
    stage.open("/").await;
    stage.click("New patch").await;
    stage.find("[data-unit='1']").await;
    stage.click("+ Carrier").await;
    stage.find("[data-unit='2']").await;
    stage.click("+ Carrier").await;
    stage.find("[data-unit='3'][aria-selected=true]").await;
    stage
}

async fn stored(stage: &Stage) -> zolvik_patch::Patch {
    stage.wait_saved().await;
    let id = stage.patches().await[0]["id"].as_i64().unwrap();
    stage.stored(id).await
}

fn leads(patch: &zolvik_patch::Patch, from: u16, to: u16) -> Option<f64> {
    patch.sends(UnitId(from)).find_map(|r| match r.send {
        Send::Phase {
            to: target,
            index_rad,
        } if target == UnitId(to) => Some(index_rad),
        _ => None,
    })
}

async fn routes_are_drawn_by_drag_by_menu_and_by_keyboard() {
    let stage = three_operators().await;
    // by drag: 3 onto 1
    let from = stage.middle("[data-unit='3'] .grip").await;
    let to = stage.middle("[data-unit='1'] .plot").await;
    stage.drag(from, to).await;
    stage
        .wait_until(
            "a second send",
            "return document.querySelectorAll('[data-send]').length === 2",
        )
        .await;
    // by menu: 3 to 2
    stage.click("Add send").await;
    stage
        .find("li[role=menuitem][aria-label='2 Operator 2'] .p-menu-item-content")
        .await
        .click()
        .await
        .unwrap();
    stage
        .wait_until(
            "a third send",
            "return document.querySelectorAll('[data-send]').length === 3",
        )
        .await;
    let patch = stored(&stage).await;
    assert_eq!(
        (leads(&patch, 3, 1), leads(&patch, 3, 2)),
        (Some(0.5), Some(0.5)),
        "both arrive gently"
    );
    // by keyboard only: choose strip 2, then its Add send
    stage
        .js("document.querySelector('[role=grid]').focus()", vec![])
        .await;
    stage
        .driver
        .action_chain()
        .send_keys(Key::Down + "")
        .send_keys(Key::Down + "")
        .send_keys(Key::Down + "")
        .perform()
        .await
        .unwrap();
    stage.find("[data-unit='2'][aria-selected=true]").await;
    stage
        .control("Add send")
        .await
        .send_keys(Key::Enter + "")
        .await
        .unwrap();
    stage.find("li[role=menuitem]").await;
    stage
        .wait_until(
            "the menu has the focus",
            "return document.activeElement.getAttribute('role') === 'menu'",
        )
        .await;
    stage
        .driver
        .action_chain()
        .send_keys(Key::Down + "")
        .send_keys(Key::Enter + "")
        .perform()
        .await
        .unwrap();
    stage
        .wait_until(
            "a send from 2",
            "return document.querySelectorAll('[data-send]').length === 2",
        )
        .await;
    // the same route twice is refused, and said
    let from = stage.middle("[data-unit='3'] .grip").await;
    let to = stage.middle("[data-unit='1'] .plot").await;
    stage.drag(from, to).await;
    stage
        .wait_until(
            "it is said",
            "return document.querySelector('.p-toast-detail')?.textContent.includes('already has a route') ?? false",
        )
        .await;
}

async fn a_rail_is_dragged_and_the_result_follows_live() {
    let stage = three_operators().await;
    let from = stage.middle("[data-unit='3'] .grip").await;
    let to = stage.middle("[data-unit='1'] .plot").await;
    stage.drag(from, to).await;
    stage
        .wait_until(
            "a second send",
            "return document.querySelectorAll('[data-send]').length === 2",
        )
        .await;
    let version = "Number(document.querySelector('.score').dataset.version)";
    let before = stage
        .js(&format!("return {version}"), vec![])
        .await
        .as_i64()
        .unwrap();
    let route = stored(&stage)
        .await
        .routes
        .iter()
        .find(|r| r.send.target() == Some(UnitId(1)))
        .unwrap()
        .id
        .0;
    // a point on the line itself, found in the page's own geometry
    let point = stage
        .js(&format!("const p = document.querySelector(\"[data-route='{route}']\"); const at = p.getPointAtLength(p.getTotalLength() - 6); const m = p.getScreenCTM(); return [at.x + m.e, at.y + m.f]"), vec![])
        .await;
    let point = (
        point[0].as_f64().unwrap() as i64,
        point[1].as_f64().unwrap() as i64,
    );
    stage
        .driver
        .action_chain()
        .move_to(point.0, point.1)
        .click_and_hold()
        .move_to(point.0, point.1 - 40)
        .perform()
        .await
        .unwrap();
    stage
        .wait_until(
            "the picture follows while the hand is down",
            &format!("return {version} > {before}"),
        )
        .await;
    assert!(
        stage
            .find(".flag")
            .await
            .text()
            .await
            .unwrap()
            .contains("1 : 1"),
        "the rail reads its pair"
    );
    stage
        .driver
        .action_chain()
        .release()
        .perform()
        .await
        .unwrap();
    let index = leads(&stored(&stage).await, 3, 1).unwrap();
    assert!(index > 1.5, "dragged up to {index} rad");
    // a double click types it
    stage
        .driver
        .action_chain()
        .move_to(point.0, point.1)
        .double_click()
        .perform()
        .await
        .unwrap();
    let input = stage.find("input[aria-label='Index, typed']").await;
    input.send_keys(Key::Control + "a").await.unwrap();
    input.send_keys("1.25").await.unwrap();
    input.send_keys(Key::Enter + "").await.unwrap();
    assert_eq!(stage.value("Index").await, "1.25 rad");
}

async fn an_unheard_strip_says_why_and_offers_the_cure() {
    let stage = three_operators().await;
    stage.click("Remove route to Output").await;
    let flag = stage.find("[data-unit='3'] [data-testid=unheard]").await;
    assert!(flag.text().await.unwrap().contains("no way to the output"));
    stage.click("Send to output").await;
    stage
        .wait_until(
            "it is heard again",
            "return !document.querySelector('[data-testid=unheard]')",
        )
        .await;
    assert!(
        stored(&stage)
            .await
            .sends(UnitId(3))
            .any(|r| r.send.target().is_none())
    );
}

async fn mute_and_solo_leave_no_trace_in_the_patch() {
    let stage = three_operators().await;
    let before = stored(&stage).await;
    stage.click("Mute Operator 1").await;
    stage.click("Solo Operator 2").await;
    stage
        .wait_until(
            "one is soloed",
            "return document.querySelectorAll('[data-testid=unheard]').length === 2",
        )
        .await;
    assert!(
        stage
            .find("[data-testid=listening]")
            .await
            .text()
            .await
            .unwrap()
            .contains("Muted")
    );
    assert_eq!(stored(&stage).await, before);
    stage.click("Hear all").await;
    stage
        .wait_until(
            "all are heard",
            "return !document.querySelector('[data-testid=unheard]')",
        )
        .await;
}

async fn operators_are_named_switched_duplicated_and_removed() {
    let stage = three_operators().await;
    stage.click("Name of the strip: Operator 3. Rename").await;
    let field = stage.find("input[aria-label='Name of the strip']").await;
    field.send_keys(Key::Control + "a").await.unwrap();
    field.send_keys("Glint").await.unwrap();
    field.send_keys(Key::Enter + "").await.unwrap();
    stage.find("[role=row][aria-label='Glint']").await;
    stage.click("Duplicate").await;
    stage
        .find("[role=row][aria-label='Glint copy'][aria-selected=true]")
        .await;
    stage.click("Glint copy on").await;
    let patch = stored(&stage).await;
    assert_eq!(
        patch
            .units
            .iter()
            .map(|u| (u.name.as_str(), u.on))
            .collect::<Vec<_>>()[2..],
        [("Glint", true), ("Glint copy", false)]
    );
    stage.click("Remove").await;
    stage
        .wait_until(
            "it is gone",
            "return document.querySelectorAll('[data-unit]').length === 3",
        )
        .await;
    stage.click("Undo").await;
    stage
        .wait_until(
            "it is back",
            "return document.querySelectorAll('[data-unit]').length === 4",
        )
        .await;
}
