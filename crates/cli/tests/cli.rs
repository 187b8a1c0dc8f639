//! The program as a person runs it.

#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs)]

use std::io::Write;
use std::path::PathBuf;
use std::process::{Command, Output, Stdio};

use ticksage_core::decision::point_result::{PointResult, WhyKind};
use ticksage_core::documents::candidate::BundleFormat;
use ticksage_core::formats::documents::{read_candidate, read_family};
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
        format: BundleFormat::V2,
        candidate: read_candidate(&text("candidates/1-quay-ferryman.json")).unwrap(),
        families: ["bk4", "ferryman", "s6"]
            .map(|f| read_family(&text(&format!("families/{f}.json"))).unwrap())
            .into_iter()
            .chain(
                ticksage_core::formats::base_sheets::sheets().unwrap().into_iter().filter(|f| f.id == "base-vehicle"),
            )
            .collect(),
    }
}

#[test]
fn assess_prints_the_whole_assessment_without_a_database() {
    let (bk4, body, gearbox) = (demo("families/bk4.json"), demo("families/ferryman.json"), demo("families/s6.json"));
    let candidate = demo("candidates/1-quay-ferryman.json");
    let out = run(&[
        "assess",
        "--family",
        bk4.to_str().unwrap(),
        body.to_str().unwrap(),
        gearbox.to_str().unwrap(),
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

/// Feeds `lines` to the program, one candidate a line.
fn lines(input: &str, more: &[&str]) -> Output {
    let families: Vec<String> = ["bk4", "ferryman", "tarn22", "s6", "k440", "skerry700"]
        .iter()
        .map(|f| demo(&format!("families/{f}.json")).to_str().unwrap().to_owned())
        .collect();
    let mut child = Command::new(env!("CARGO_BIN_EXE_ticksage"))
        .args(["assess", "--lines", "--family"])
        .args(&families)
        .args(more)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    let mut stdin = child.stdin.take().unwrap();
    let input = input.to_owned();
    let writer = std::thread::spawn(move || stdin.write_all(input.as_bytes()));
    let out = child.wait_with_output().unwrap();
    writer.join().unwrap().unwrap();
    out
}

fn one_line(file: &str) -> String {
    let v: serde_json::Value = serde_json::from_str(&text(file)).unwrap();
    v.to_string()
}

#[test]
fn many_candidates_are_judged_line_by_line_in_their_order() {
    let files = [
        "candidates/2-harbour-office.json",
        "candidates/7-kittiwake-engine.json",
        "candidates/6-courier-twin.json",
        "candidates/5-repainted.json",
    ];
    let input: String = files.iter().cycle().take(22).map(|f| one_line(f) + "\n\n").collect();
    let out = lines(&input, &[]);
    assert!(out.status.success(), "{}", String::from_utf8_lossy(&out.stderr));
    let answers: Vec<Assessment> =
        String::from_utf8(out.stdout).unwrap().lines().map(|l| serde_json::from_str(l).unwrap()).collect();
    assert_eq!(answers.len(), 22);
    for (n, answer) in answers.iter().enumerate() {
        let c = read_candidate(&text(files[n % 4])).unwrap();
        assert!((answer.odometer.shown - c.usage.on_clock()).abs() < 1e-9, "line {n} is out of its order");
    }
    assert_eq!(answers[0], answers[4], "the same line gives the same answer");
    let b = bundle();
    let whole = assess(&b.candidate, &b.families, &Assumptions::default()).unwrap();
    let alone = lines(&one_line("candidates/1-quay-ferryman.json"), &[]);
    assert_eq!(serde_json::from_slice::<Assessment>(&alone.stdout).unwrap(), whole);
    let lean = lines(&one_line("candidates/1-quay-ferryman.json"), &["--lean"]);
    let lean: Assessment = serde_json::from_slice(&lean.stdout).unwrap();
    // Three steps of the why, and one more where another fault wears the point.
    let steps = |p: &PointResult| p.why.iter().filter(|s| s.kind != WhyKind::WornBy).count();
    assert!(lean.points.iter().all(|p| p.sources.is_empty() && steps(p) == 3));
    assert_eq!((lean.value, &lean.bill, &lean.care), (whole.value, &whole.bill, &whole.care));
}

#[test]
fn a_faulty_line_is_told_in_its_place_and_the_others_are_judged() {
    let good = one_line("candidates/6-courier-twin.json");
    let bad = good.replace("\"asking\":3000", "\"asking\":-3000");
    assert_ne!(good, bad);
    let out = lines(&format!("{good}\nno JSON at all\n{bad}\n{good}\n"), &[]);
    assert!(!out.status.success());
    assert!(String::from_utf8_lossy(&out.stderr).contains("2 of 4"));
    let answers: Vec<serde_json::Value> =
        String::from_utf8(out.stdout).unwrap().lines().map(|l| serde_json::from_str(l).unwrap()).collect();
    assert_eq!(answers.len(), 4);
    assert_eq!((&answers[1]["line"], &answers[2]["line"]), (&2.into(), &3.into()));
    assert_eq!(answers[2]["faults"][0]["path"], "/asking");
    assert_eq!(answers[0], answers[3]);
}

#[test]
fn sheets_are_validated_and_what_is_odd_is_told() {
    let sheet = demo("families/bk4.json");
    let out = run(&["validate", sheet.to_str().unwrap()]);
    let said = String::from_utf8(out.stdout).unwrap();
    assert!(out.status.success() && said.contains("makes sense"), "{said}");
    // A check whose worse outcome speaks less for its point is told with its path, and is no failure.
    let mut odd: serde_json::Value = serde_json::from_str(&text("families/bk4.json")).unwrap();
    let checks = odd["checks"].as_array_mut().unwrap();
    let at = checks.iter().position(|c| c["leak"].as_array().unwrap().len() == 3 && c["links"][0].is_object()).unwrap();
    checks[at]["leak"] = serde_json::json!([0.9, 0.02, 0.08]);
    checks[at]["links"][0]["present"] = serde_json::json!([0.1, 0.5, 0.4]);
    let file = tempfile::NamedTempFile::new().unwrap();
    std::fs::write(file.path(), odd.to_string()).unwrap();
    let out = run(&["validate", file.path().to_str().unwrap()]);
    let said = String::from_utf8(out.stdout).unwrap();
    assert!(out.status.success() && said.contains(&format!("/checks/{at}/links/0/present")), "{said}");
    // What is wrong ends the program.
    odd["checks"][at]["leak"] = serde_json::json!([0.9, 0.02, 0.07]);
    std::fs::write(file.path(), odd.to_string()).unwrap();
    let out = run(&["validate", file.path().to_str().unwrap()]);
    assert!(!out.status.success() && String::from_utf8(out.stderr).unwrap().contains(&format!("/checks/{at}/leak")));
}

#[test]
fn talk_tells_what_it_understood_and_writes_a_sheet() {
    let folder = tempfile::tempdir().unwrap();
    let (lines, out) = (folder.path().join("talk.txt"), folder.path().join("new.json"));
    std::fs::write(&lines, "10:15 glow plugs: common past 150k km, 180\nthe weather was fine\nimpeller\n").unwrap();
    let sheet = demo("families/pilot-estate.json");
    let args = ["talk", lines.to_str().unwrap(), "--sheet", sheet.to_str().unwrap(), "--out", out.to_str().unwrap()];
    let told = run(&args);
    assert!(told.status.success(), "{}", String::from_utf8_lossy(&told.stderr));
    let said = String::from_utf8_lossy(&told.stdout);
    for line in ["[10:15] glow plugs", "part: glow plugs", "claim: from about 150 000 km", "kept as a note", "1 placed"]
    {
        assert!(said.contains(line), "{said}");
    }
    let written = read_family(&std::fs::read_to_string(&out).unwrap()).unwrap();
    let point = written.points.iter().find(|p| p.part.as_deref() == Some("glow-plugs")).unwrap();
    assert!(written.version == 2 && point.life[0].stands.is_some());
    // The same once more changes nothing.
    let again =
        run(&["talk", lines.to_str().unwrap(), "--sheet", out.to_str().unwrap(), "--out", out.to_str().unwrap()]);
    assert!(String::from_utf8_lossy(&again.stdout).contains("0 lines changed the sheet, 1 it held already"));
}

#[test]
fn a_list_of_adverts_comes_back_as_a_table_the_best_first() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("adverts.txt");
    let lines = "diesel van manual alder, 2016, 118 000 km, 6 800\n\
        diesel van manual birch, 2016, 118 500 km, 5 400\n\
        lovely thing, ring me\n\
        =HYPERLINK diesel van manual cedar, 2017, 98 000 km, 7 900\n";
    std::fs::write(&file, lines).unwrap();
    let out = run(&["screen", file.to_str().unwrap(), "--currency", "HSC"]);
    assert!(out.status.success(), "{}", String::from_utf8_lossy(&out.stderr));
    let table = String::from_utf8_lossy(&out.stdout);
    let rows: Vec<&str> = table.lines().collect();
    assert_eq!(rows.len(), 4, "{table}");
    let at = |name: &str| rows.iter().position(|r| r.contains(name)).unwrap();
    assert!(at("birch") < at("alder"), "{table}");
    assert!(rows.iter().all(|r| !r.contains(",\"=")), "no cell is a formula: {table}");
    assert!(String::from_utf8_lossy(&out.stderr).contains("missing"));
}

#[test]
fn a_list_in_parts_comes_to_the_same_as_the_whole() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("adverts.csv");
    // A table, with one price in another currency.
    let mut list = "Title;Year;Mileage (km);Price\n".to_owned();
    for i in 0..12 {
        let price = if i == 5 { "€5000".to_owned() } else { format!("{}", 5200 + 130 * i) };
        list += &format!(
            "diesel van manual {};{};{};{price}\n",
            "abcdefghijkl".get(i..=i).unwrap(),
            2013 + i % 5,
            90_000 + 7000 * i
        );
    }
    std::fs::write(&file, &list).unwrap();
    let screen = |more: &[&str]| {
        let args = [&["screen", file.to_str().unwrap(), "--currency", "HSC", "--rate", "EUR=1.1"], more].concat();
        let out = run(&args);
        assert!(out.status.success(), "{}", String::from_utf8_lossy(&out.stderr));
        let mut rows: Vec<String> = String::from_utf8_lossy(&out.stdout).lines().skip(1).map(str::to_owned).collect();
        rows.sort();
        rows
    };
    let whole = screen(&[]);
    assert_eq!(whole.len(), 12, "{whole:?}");
    assert!(whole.iter().any(|r| r.starts_with("7,") && r.split(',').nth(3) == Some("5500")), "at the rate: {whole:?}");
    let mut parts: Vec<String> = ["1/3", "2/3", "3/3"].iter().flat_map(|p| screen(&["--part", p])).collect();
    parts.sort();
    assert_eq!(parts, whole);
    for wrong in [["--part", "4/3"], ["--part", "0/2"], ["--rate", "EUR"], ["--rate", "EUR=-1"]] {
        assert!(!run(&[&["screen", file.to_str().unwrap()], wrong.as_slice()].concat()).status.success(), "{wrong:?}");
    }
}
