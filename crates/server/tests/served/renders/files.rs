//! Files on the command line: their names, where they lead, what is refused.

use super::*;
use crate::server::Server;
use reqwest::Method;
use serde_json::json;
use std::process::Command;
use zolvik_edit::{Edit, apply};
use zolvik_patch::Patch;

fn zolvik(arguments: &[&std::ffi::OsStr]) -> std::process::Output {
    Command::new(env!("CARGO_BIN_EXE_zolvik"))
        .args(arguments)
        .output()
        .unwrap()
}

/// Names that differ by signs or case only, names of any script as long as they may be, velocities given twice.
#[test]
fn every_file_of_a_set_has_a_name_of_its_own_that_every_system_takes() {
    let data = tempfile::tempdir().unwrap();
    let mut patch = Patch::empty();
    patch.meta.name = "\u{1F33F}ガラス温室の夜".repeat(8);
    let long = "дождь".repeat(8);
    let names = [
        "Up +",
        "Up -",
        "Mute",
        "mute",
        "+",
        &long,
        &format!("{}ж", &long[..78]),
        "CON",
    ];
    for name in names {
        patch = apply(&patch, &Edit::AddArticulation { name: name.into() })
            .unwrap()
            .0;
    }
    let file = data.path().join("patch.json");
    std::fs::write(&file, zolvik_patch::json::write(&patch)).unwrap();
    let out = data.path().join("set");
    let done = zolvik(&[
        "render".as_ref(),
        file.as_ref(),
        "--set".as_ref(),
        "C3:C3:1".as_ref(),
        "--velocities".as_ref(),
        "90,90,90,40".as_ref(),
        "--all-articulations".as_ref(),
        "--rate".as_ref(),
        "8000".as_ref(),
        "--out".as_ref(),
        out.as_ref(),
    ]);
    assert!(done.status.success(), "{done:?}");
    let told = String::from_utf8_lossy(&done.stdout);
    assert!(told.contains("18 of 18"), "{told}");
    let files: Vec<String> = std::fs::read_dir(&out)
        .unwrap()
        .map(|e| e.unwrap().file_name().into_string().unwrap())
        .collect();
    assert_eq!(files.len(), 18, "{files:?}");
    let lower: std::collections::HashSet<String> = files.iter().map(|f| f.to_lowercase()).collect();
    assert_eq!(lower.len(), 18);
    assert!(files.iter().all(|f| f.len() <= 255), "{files:?}");
    assert_eq!(zolvik_files::file_name("Con", "wav"), "con-sound.wav");
    assert!(zolvik_files::file_name(&"夜".repeat(80), "json.txt").len() <= 255);
}

#[test]
fn what_cannot_be_written_is_refused_before_anything_is_rendered() {
    let data = tempfile::tempdir().unwrap();
    let file = data.path().join("patch.json");
    let mut patch = patch();
    patch.audition.hold_s = 10.0;
    std::fs::write(&file, zolvik_patch::json::write(&patch)).unwrap();
    for (name, bits, why) in [
        ("x.mp3", "24", "files ending in .mp3 are not written"),
        ("x.flac", "32", "16 or 24 bits, not 32"),
        ("x.wav", "20", "choose 16, 24 or 32"),
    ] {
        let out = data.path().join(name);
        let began = std::time::Instant::now();
        let refused = zolvik(&[
            "render".as_ref(),
            file.as_ref(),
            "--length".as_ref(),
            "500".as_ref(),
            "--rate".as_ref(),
            "192000".as_ref(),
            "--bits".as_ref(),
            bits.as_ref(),
            "--out".as_ref(),
            out.as_ref(),
        ]);
        let told = String::from_utf8_lossy(&refused.stderr);
        assert!(told.contains(why), "{told}");
        assert!(
            began.elapsed().as_secs_f64() < 2.0,
            "{name} was rendered first"
        );
        assert!(!out.exists());
    }
    // what has no end is read as far as a patch may be long
    for endless in ["/dev/zero", "/dev/urandom"] {
        let refused = zolvik(&["patch".as_ref(), "check".as_ref(), endless.as_ref()]);
        assert_eq!(refused.status.code(), Some(2));
        let refused = zolvik(&[
            "render".as_ref(),
            endless.as_ref(),
            "--out".as_ref(),
            data.path().join("x.wav").as_ref(),
        ]);
        assert_eq!(refused.status.code(), Some(2));
        assert!(String::from_utf8_lossy(&refused.stderr).contains("longer than"));
    }
}

#[test]
fn a_file_is_written_where_its_name_leads_and_has_the_rights_of_its_surroundings() {
    use std::os::unix::fs::{FileTypeExt, MetadataExt, PermissionsExt, symlink};
    let data = tempfile::tempdir().unwrap();
    let at = |name: &str| data.path().join(name);
    let written = |path: &std::path::Path| zolvik_server::atomic::write(path, b"sound").unwrap();
    // through a link, and one that leads to nothing yet
    std::fs::write(at("real"), "old").unwrap();
    symlink("real", at("link")).unwrap();
    symlink("later", at("dangling")).unwrap();
    written(&at("link"));
    written(&at("dangling"));
    assert!(at("link").symlink_metadata().unwrap().is_symlink());
    assert!(at("dangling").symlink_metadata().unwrap().is_symlink());
    assert_eq!(std::fs::read(at("real")).unwrap(), b"sound");
    assert_eq!(std::fs::read(at("later")).unwrap(), b"sound");
    // a file of two names stays one
    std::fs::write(at("one"), "much longer than what comes").unwrap();
    std::fs::hard_link(at("one"), at("two")).unwrap();
    written(&at("one"));
    assert_eq!(std::fs::read(at("two")).unwrap(), b"sound");
    assert_eq!(at("one").metadata().unwrap().nlink(), 2);
    // a device stays one
    written(std::path::Path::new("/dev/null"));
    assert!(
        std::fs::metadata("/dev/null")
            .unwrap()
            .file_type()
            .is_char_device()
    );
    // the rights the surroundings say for new ones, their own for those that were there
    let patch = at("patch.json");
    std::fs::write(&patch, zolvik_patch::json::write(&Patch::empty())).unwrap();
    let script = format!(
        "umask 027; {} render {} --length 0.1 --rate 8000 --out {} && {0} render {1} --length 0.1 --rate 8000 --out /dev/stdout | head -c 4",
        env!("CARGO_BIN_EXE_zolvik"),
        patch.display(),
        at("new.wav").display(),
    );
    let done = Command::new("sh").arg("-c").arg(script).output().unwrap();
    assert_eq!(done.stdout, b"RIFF", "{done:?}");
    let mode = |name: &str| at(name).metadata().unwrap().permissions().mode() & 0o777;
    assert_eq!(mode("new.wav"), 0o640);
    std::fs::set_permissions(at("new.wav"), std::fs::Permissions::from_mode(0o604)).unwrap();
    written(&at("new.wav"));
    assert_eq!(mode("new.wav"), 0o604);
}

#[tokio::test]
async fn names_of_any_script_survive_a_download() {
    let data = tempfile::tempdir().unwrap();
    let server = Server::start(data.path(), &[]);
    let mut patch = Patch::empty();
    patch.meta.name = "Füße \"夜\"".into();
    let body = json!({ "document": zolvik_patch::json::write(&patch) });
    let (_, made) = server.ask(Method::POST, "/api/patches", Some(body)).await;
    let path = format!("/api/patches/{}/file", made["summary"]["id"]);
    let (_, headers, bytes) = server.fetch(&path).await;
    let full = "filename*=UTF-8''f%C3%BC%C3%9Fe-%E5%A4%9C.json";
    assert!(
        headers.contains(full) && headers.contains("f__e-_.json"),
        "{headers}"
    );
    assert!(
        headers.contains(&format!("\"content-length\": \"{}\"", bytes.len())),
        "{headers}"
    );
}
