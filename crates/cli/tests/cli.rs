//! The program as a person runs it.

#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs)]

use std::path::PathBuf;
use std::process::{Command, Output};

use ticksage_core::candidate::BundleFormat;
use ticksage_core::formats::{read_candidate, read_family};
use ticksage_core::{Assessment, Assumptions, Bundle, assess};

fn demo(file: &str) -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../demo").join(file)
}

fn text(file: &str) -> String {
    std::fs::read_to_string(demo(file)).unwrap()
}

fn run(args: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_ticksage")).args(args).env_remove("DATABASE_URL").output().unwrap()
}

fn bundle() -> Bundle {
    Bundle {
        format: BundleFormat::V1,
        candidate: read_candidate(&text("candidates/1-quay-ferryman.json")).unwrap(),
        families: ["bk4", "ferryman"].map(|f| read_family(&text(&format!("families/{f}.json"))).unwrap()).to_vec(),
    }
}

#[test]
fn assess_prints_the_whole_assessment_without_a_database() {
    let (bk4, body) = (demo("families/bk4.json"), demo("families/ferryman.json"));
    let candidate = demo("candidates/1-quay-ferryman.json");
    let out = run(&[
        "assess",
        "--family",
        bk4.to_str().unwrap(),
        body.to_str().unwrap(),
        "--candidate",
        candidate.to_str().unwrap(),
    ]);
    assert!(out.status.success(), "{}", String::from_utf8_lossy(&out.stderr));
    let printed: Assessment = serde_json::from_slice(&out.stdout).unwrap();
    let b = bundle();
    assert_eq!(printed, assess(&b.candidate, &b.families, &Assumptions::default()).unwrap());
}

#[test]
fn assess_reads_a_bundle_too() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("bundle.json");
    std::fs::write(&file, serde_json::to_string(&bundle()).unwrap()).unwrap();
    let out = run(&["assess", "--bundle", file.to_str().unwrap()]);
    assert!(out.status.success());
    assert!(String::from_utf8_lossy(&out.stdout).contains("\"verdict\""));
}

#[test]
fn faults_are_listed_with_their_paths_and_the_program_fails() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("bad.json");
    std::fs::write(&file, text("families/bk4.json").replace("\"job\": \"belt-set\"", "\"job\": \"nowhere\"")).unwrap();
    let candidate = demo("candidates/1-quay-ferryman.json");
    let out = run(&["assess", "--family", file.to_str().unwrap(), "--candidate", candidate.to_str().unwrap()]);
    let said = String::from_utf8_lossy(&out.stderr);
    assert!(!out.status.success());
    assert!(said.contains("/points/0/job") && said.contains("nowhere"), "{said}");
    let missing = run(&["assess", "--family", "/no/such/file", "--candidate", candidate.to_str().unwrap()]);
    assert!(String::from_utf8_lossy(&missing.stderr).contains("/no/such/file"));
}

#[test]
fn a_candidate_without_its_sheet_is_told_which_one() {
    let candidate = demo("candidates/1-quay-ferryman.json");
    let out = run(&[
        "assess",
        "--family",
        demo("families/bk4.json").to_str().unwrap(),
        "--candidate",
        candidate.to_str().unwrap(),
    ]);
    assert!(!out.status.success());
    assert!(String::from_utf8_lossy(&out.stderr).contains("ferryman"));
}
