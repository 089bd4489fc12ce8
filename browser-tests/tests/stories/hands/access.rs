//! Every view and state, light and dark, is looked at by an accessibility checker.

use serde_json::Value;
use zolvik_browser_tests::{Stage, stage_with};

/// What the checker finds on the page now, as lines of rule and element, by all of its rules or by those of colour alone.
async fn faults(stage: &Stage, within: &str, rules: &str) -> Vec<String> {
    let folder = concat!(
        env!("CARGO_MANIFEST_DIR"),
        "/../web/node_modules/axe-core/axe.min.js"
    );
    let source =
        std::fs::read_to_string(folder).expect("axe-core is installed with the page's packages");
    // nothing fades while it is looked at; the checker comes once a page
    if stage.js("return !window.axe", vec![]).await == true {
        let still = "const still = new CSSStyleSheet(); still.replaceSync('* { transition: none !important }'); document.adoptedStyleSheets.push(still);";
        stage.js(&format!("{still} {source}"), vec![]).await;
    }
    // under what is open all is as it was
    let run = "const done = arguments[arguments.length - 1];\
        const open = [...document.querySelectorAll('[role=dialog], .p-menu, .p-contextmenu, .p-popover')].at(-1);\
        axe.run(open ?? document.querySelector(arguments[0]), { resultTypes: ['violations'], preload: false, ...arguments[1] }).then(r => done(r.violations.flatMap(v => v.nodes.map(n => v.id + ': ' + n.target.join(' ') + ' ' + n.html.slice(0, 140) + (v.id === 'color-contrast' ? ' ' + (n.any[0]?.message ?? '') : '')))), e => done(['' + e]))";
    let found = stage
        .driver
        .execute_async(
            run,
            vec![within.into(), serde_json::from_str(rules).expect("JSON")],
        )
        .await
        .expect("the checker runs");
    let list = found.json().as_array().cloned().unwrap_or_default();
    list.iter()
        .filter_map(Value::as_str)
        .map(Into::into)
        .collect()
}

/// All of the page.
async fn check(stage: &Stage, state: &str, all: &mut Vec<String>) {
    check_within(stage, "html", state, all).await;
}

/// What stands beside the strips, where all else is as it was.
async fn check_beside(stage: &Stage, state: &str, all: &mut Vec<String>) {
    check_within(stage, ".inspector", state, all).await;
}

async fn check_within(stage: &Stage, within: &str, state: &str, all: &mut Vec<String>) {
    // what opens fades in
    let opaque = "return [...document.querySelectorAll('[role=dialog]')].every((d) => getComputedStyle(d).opacity === '1')";
    stage.wait_until("what opened is there", opaque).await;
    // only colours are different in the dark
    for (theme, rules) in [
        ("light", "{}"),
        ("dark", r#"{"runOnly": ["color-contrast"]}"#),
    ] {
        stage
            .js(
                "document.documentElement.dataset.theme = arguments[0]",
                vec![theme.into()],
            )
            .await;
        all.extend(
            faults(stage, within, rules)
                .await
                .into_iter()
                .map(|fault| format!("{state}, {theme}: {fault}")),
        );
    }
}

#[tokio::test]
async fn no_view_or_state_has_a_fault() {
    let stage = stage_with(true).await;
    let patches = stage.patches().await;
    let of = |name: &str| patches.iter().find(|p| p["name"] == name).unwrap()["id"].clone();
    let mut all = vec![];
    stage.open("/").await;
    stage.find(".list .row").await;
    check(&stage, "library", &mut all).await;
    stage.visit(&format!("/patch/{}", of("Frost Fern"))).await;
    stage.find("[data-unit='3']").await;
    stage.select_patch().await;
    check(&stage, "build, the patch", &mut all).await;
    stage.press("3").await;
    stage.click("Mute Stem").await;
    stage.click("Halo on").await;
    check(&stage, "build, a strip", &mut all).await;
    stage.chord(thirtyfour::Key::Shift, "4").await;
    check_beside(&stage, "build, two strips", &mut all).await;
    stage.click("Group 2").await;
    stage.click("Algorithms").await;
    check(&stage, "build, algorithms and a group", &mut all).await;
    stage.click("Close algorithms").await;
    stage.chord(thirtyfour::Key::Control, "k").await;
    stage.find("#found [role=option]").await;
    check(&stage, "find", &mut all).await;
    stage.press(thirtyfour::Key::Escape + "").await;
    stage
        .wait_until("closed", "return document.querySelector('#found') === null")
        .await;
    stage.press("?").await;
    stage.find(".groups dl").await;
    check(&stage, "help", &mut all).await;
    stage.click("A bell").await;
    stage.find("[data-testid=guide] img").await;
    check(&stage, "guide", &mut all).await;
    stage.press(thirtyfour::Key::Escape + "").await;
    stage
        .wait_until(
            "closed",
            "return document.querySelector('.groups dl') === null",
        )
        .await;
    stage.click("Render").await;
    stage.find("[aria-label=Depth]").await;
    check(&stage, "render", &mut all).await;
    stage.press(thirtyfour::Key::Escape + "").await;
    stage.click("About & versions").await;
    stage.find("[role=dialog]").await;
    check(&stage, "about", &mut all).await;
    stage.press(thirtyfour::Key::Escape + "").await;
    stage.visit(&format!("/patch/{}", of("Talking Pond"))).await;
    stage.find("[data-unit='1']").await;
    check(&stage, "build, talking pond", &mut all).await;
    stage
        .visit(&format!("/patch/{}", of("Glasshouse Air")))
        .await;
    stage.find("[data-unit='3']").await;
    stage.press("3").await;
    check_beside(&stage, "build, a sample", &mut all).await;
    stage
        .visit(&format!("/patch/{}/move", of("Gate Opens")))
        .await;
    stage.find("[data-source='1001']").await;
    check(&stage, "move, all links", &mut all).await;
    stage.press("1").await;
    stage.find("[data-testid=shape]").await;
    stage.click("Add link").await;
    check_beside(&stage, "move, a shape", &mut all).await;
    stage.press(thirtyfour::Key::Escape + "").await;
    stage
        .visit(&format!("/patch/{}/move", of("Glass Moths")))
        .await;
    stage.find("[data-source='1001']").await;
    stage.press("2").await;
    stage.find("[data-testid=steps]").await;
    check_beside(&stage, "move, steps", &mut all).await;
    stage.click("Build").await;
    stage.find("[data-unit='1']").await;
    stage.press("1").await;
    stage.field("Fine").await.focus().await.unwrap();
    stage.press("l").await;
    stage.find("[data-testid=field-menu]").await;
    check(&stage, "build, what moves a field", &mut all).await;
    stage.press(thirtyfour::Key::Escape + "").await;
    stage.click("+ Macro").await;
    stage.find(".editor").await;
    check_beside(&stage, "a macro", &mut all).await;
    stage.click("Controllers").await;
    stage.find("[data-testid=controllers]").await;
    check(&stage, "controllers", &mut all).await;
    stage.press(thirtyfour::Key::Escape + "").await;
    stage.choose("Picture", "Phrase").await;
    stage.find("[data-note='0']").await.click().await.unwrap();
    check(&stage, "a phrase", &mut all).await;
    stage.click("Phrases").await;
    stage.find("[aria-label='Phrases'] .line").await;
    check(&stage, "phrases to choose from", &mut all).await;
    stage.press(thirtyfour::Key::Escape + "").await;
    stage.choose("Picture", "Note").await;
    stage.visit(&format!("/patch/{}", of("Tin Rain"))).await;
    stage.find("[data-unit='1']").await;
    stage.choose("Articulation", "Closed C1").await;
    check(&stage, "an articulation", &mut all).await;
    stage.click("Differences").await;
    stage.find(".table td").await;
    check(&stage, "differences", &mut all).await;
    stage
        .visit(&format!("/patch/{}/finish", of("Frost Fern")))
        .await;
    stage.find("[data-testid=effect-2001]").await;
    check(&stage, "finish, nothing selected", &mut all).await;
    stage
        .find("[role=listitem][aria-label='EQ']")
        .await
        .click()
        .await
        .unwrap();
    stage.find("[data-testid=band-0]").await;
    check_beside(&stage, "finish, an EQ", &mut all).await;
    stage.click("Settings").await;
    stage.find("[aria-label='Ready settings']").await;
    check_beside(&stage, "finish, ready settings", &mut all).await;
    stage
        .find("[data-testid=chain-common] .add")
        .await
        .click()
        .await
        .unwrap();
    stage.find("input[aria-label='Find an effect']").await;
    check(&stage, "finish, effects to add", &mut all).await;
    stage.press(thirtyfour::Key::Escape + "").await;
    stage
        .find("[data-testid=chain-first] .open")
        .await
        .click()
        .await
        .unwrap();
    stage.find(".ways .btn").await;
    check(&stage, "finish, ways in", &mut all).await;
    all.sort();
    all.dedup();
    assert!(all.is_empty(), "{} faults:\n{}", all.len(), all.join("\n"));
}

/// A click with the right button.
async fn ask(stage: &Stage, css: &str) {
    let element = stage.find(css).await;
    let chain = stage.driver.action_chain();
    chain
        .context_click_element(&element)
        .perform()
        .await
        .unwrap();
}

#[tokio::test]
async fn no_menu_list_or_refusal_has_a_fault() {
    let stage = stage_with(true).await;
    let patches = stage.patches().await;
    let of = |name: &str| patches.iter().find(|p| p["name"] == name).unwrap()["id"].clone();
    let mut all = vec![];
    stage.open(&format!("/patch/{}", of("Frost Fern"))).await;
    ask(&stage, "[data-unit='2'] .called").await;
    stage.find(".p-contextmenu [role=menuitem]").await;
    check(&stage, "menu of a strip", &mut all).await;
    stage.press(thirtyfour::Key::Escape + "").await;
    stage.click("+ More").await;
    stage.find(".p-menu [role=menuitem]").await;
    check(&stage, "what can be added", &mut all).await;
    stage.press(thirtyfour::Key::Escape + "").await;
    let waves = stage.find(".choose button[aria-haspopup=true]").await;
    waves.click().await.unwrap();
    stage.find("[role=listbox]").await;
    check(&stage, "waves", &mut all).await;
    stage.press(thirtyfour::Key::Escape + "").await;
    stage.click("Messages").await;
    stage.find("ul[aria-label=Messages]").await;
    check(&stage, "messages", &mut all).await;
    stage.press(thirtyfour::Key::Escape + "").await;
    stage.click("Partials explained").await;
    stage.find("[data-testid=partials] td").await;
    check(&stage, "partials explained", &mut all).await;
    stage.click("Close the list").await;
    stage.set_value("Ratio", "abc").await;
    stage.find("[role=alert]").await;
    let line = stage.find(".add input").await;
    line.send_keys("foo").await.unwrap();
    check(&stage, "a field and a line refused", &mut all).await;
    stage
        .visit(&format!("/patch/{}/move", of("Frost Fern")))
        .await;
    stage.find("[data-source]").await;
    for kind in ["Random", "Performance", "Envelope"] {
        stage.click(&format!("+ {kind}")).await;
        check_beside(&stage, kind, &mut all).await;
    }
    stage
        .visit(&format!("/patch/{}/finish", of("Frost Fern")))
        .await;
    for effect in ["Drive", "Delay"] {
        let row = format!("[role=listitem][aria-label='{effect}']");
        let row = stage.find(&row).await;
        row.find(thirtyfour::By::Css("[role=switch]"))
            .await
            .unwrap()
            .click()
            .await
            .unwrap();
        check(&stage, &format!("{effect}, switched off"), &mut all).await;
    }
    stage.click("Library").await;
    let first = stage.find(".row.patch [type=checkbox]").await;
    first.click().await.unwrap();
    check(&stage, "library, one marked", &mut all).await;
    stage.click("Bin").await;
    stage.find(".empty").await;
    check(&stage, "the bin", &mut all).await;
    all.sort();
    all.dedup();
    assert!(all.is_empty(), "{} faults:\n{}", all.len(), all.join("\n"));
}
