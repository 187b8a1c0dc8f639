//! The program serving: a private database that comes, stays and goes with it.

#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs)]

use std::net::TcpStream;
use std::path::Path;
use std::process::Command;

mod common;

use common::Served;

fn serve(data: &Path, web: &Path) -> Served {
    Served::on(data, &["--web", web.to_str().unwrap()])
}

#[test]
fn what_was_started_stops_and_what_was_stored_stays() {
    let data = tempfile::Builder::new().prefix("ticksage-serve-").tempdir().unwrap();
    let web = tempfile::tempdir().unwrap();
    std::fs::write(web.path().join("index.html"), "<!doctype html><title>Tick Sage</title>").unwrap();
    std::fs::create_dir(web.path().join("assets")).unwrap();

    let served = serve(data.path(), web.path());
    let yard = served.get("/api/candidates").body;
    assert_eq!(yard.matches("\"verdict\"").count(), 9);
    // Every answer carries the strict headers; a screen's own address gives the page.
    for path in ["/", "/c/anything/road", "/api/health"] {
        let answer = served.get(path).head.to_lowercase();
        assert!(answer.starts_with("http/1.1 200"), "{path}: {answer}");
        for header in
            ["content-security-policy: default-src 'none'; script-src 'self';", "x-content-type-options: nosniff"]
        {
            assert!(answer.contains(header), "{path} lacks {header}: {answer}");
        }
    }
    assert!(served.get("/c/anything/road").body.contains("<title>Tick Sage</title>"));
    let log = served.interrupt();
    let port: u16 = log
        .iter()
        .find_map(|l| l.split("127.0.0.1:").nth(1)?.split('/').next()?.parse().ok())
        .expect("it says where its database is");
    assert!(TcpStream::connect(("127.0.0.1", port)).is_err(), "the private database is gone");

    // Started again it has the same yard, and loads the demo only once.
    let again = serve(data.path(), web.path());
    assert_eq!(again.get("/api/candidates").body.matches("\"verdict\"").count(), 9);
    again.interrupt();
}

#[test]
fn a_port_in_use_is_said_in_a_sentence() {
    let taken = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    let port = taken.local_addr().unwrap().port().to_string();
    let data = tempfile::Builder::new().prefix("ticksage-serve-").tempdir().unwrap();
    let out = Command::new(env!("CARGO_BIN_EXE_ticksage"))
        .args(["serve", "--port", &port, "--web", "/nowhere", "--data"])
        .arg(data.path())
        .env_remove("DATABASE_URL")
        .output()
        .unwrap();
    assert!(!out.status.success());
    assert!(String::from_utf8_lossy(&out.stderr).contains("choose another with --port"));
}

#[test]
fn the_simulated_register_answers_alone_and_knows_its_own_vehicles() {
    let reports = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/history");
    let served = Served::start(["history-service", "--port", "0", "--reports", reports.to_str().unwrap()]);
    assert!(served.said.contains("simulated"), "{}", served.said);
    for file in std::fs::read_dir(&reports).unwrap() {
        let text = std::fs::read_to_string(file.unwrap().path()).unwrap();
        let report = ticksage_core::formats::documents::read_history(&text).unwrap();
        for query in [format!("vin={}", report.vin), format!("plate={}", report.plate.replace(' ', "%20"))] {
            let answer = served.get(&format!("/v1/reports?{query}"));
            assert_eq!(answer.status, 200, "{query}: {answer:?}");
            let told = ticksage_core::formats::documents::read_history(&answer.body).unwrap();
            assert!(told == report && told.simulated, "{query}");
        }
    }
    for query in ["vin=HSBFM2K40H1N99999", "plate=HS%20NOBODY", "", "vin="] {
        assert_eq!(served.get(&format!("/v1/reports?{query}")).status, 404, "{query}");
    }
    served.interrupt();
}

#[test]
fn a_register_without_reports_says_where_it_looked() {
    let folder = tempfile::tempdir().unwrap();
    let run = |reports: &Path| {
        Command::new(env!("CARGO_BIN_EXE_ticksage"))
            .args(["history-service", "--reports"])
            .arg(reports)
            .output()
            .unwrap()
    };
    let missing = run(&folder.path().join("nowhere"));
    assert!(!missing.status.success() && String::from_utf8_lossy(&missing.stderr).contains("nowhere"));
    std::fs::write(folder.path().join("odd.json"), "{\"format\": \"ticksage-history/2\"}").unwrap();
    let broken = run(folder.path());
    let said = String::from_utf8_lossy(&broken.stderr).into_owned();
    assert!(!broken.status.success() && said.contains("odd.json") && said.contains("items"), "{said}");
}

/// Sends a PDF to be cleaned, as the application does.
fn clean(name: &str, bytes: &[u8]) -> Result<ticksage_store::papers::Attachment, String> {
    let program = Some(env!("CARGO_BIN_EXE_ticksage").into());
    ticksage_server::cleaner::Cleaner { program }.clean(name, bytes)
}

/// A PDF of one page whose catalogue holds `what`.
fn pdf(what: &str) -> Vec<u8> {
    format!(
        "%PDF-1.4\n1 0 obj\n<</Type/Catalog/Pages 2 0 R/X {what}>>\nendobj\n2 0 obj\n<</Type/Pages/Kids[3 0 R]/Count 1>>\nendobj\n\
         3 0 obj\n<</Type/Page/Parent 2 0 R/MediaBox[0 0 9 9]>>\nendobj\ntrailer\n<</Root 1 0 R/Size 4>>\n%%EOF\n"
    )
    .into_bytes()
}

#[test]
fn files_are_cleaned_in_a_process_of_their_own() {
    let mut picture = std::io::Cursor::new(Vec::new());
    image::RgbImage::new(3, 2).write_to(&mut picture, image::ImageFormat::Png).unwrap();
    let cleaned = clean("a \"picture\".png", picture.get_ref()).unwrap();
    assert_eq!((cleaned.name.as_str(), cleaned.media.as_str()), ("a picture.png", "image/jpeg"));
    assert_eq!(image::load_from_memory(&cleaned.bytes).unwrap().width(), 3);
    // What is refused is told in the same words.
    assert!(clean("notes.txt", b"hello").unwrap_err().contains("is no picture"));
    // Nested so deep that what reads PDFs runs out of stack: refused before it is read, and this process lives on.
    for depth in [40, 90, 100_000] {
        let nested = pdf(&format!("{}1{}", "[".repeat(depth), "]".repeat(depth)));
        assert!(clean("deep.pdf", &nested).unwrap_err().contains("nested deeper"), "{depth}");
    }
    // Several at once, more than there are cores.
    std::thread::scope(|scope| {
        let all: Vec<_> = (0..8).map(|_| scope.spawn(|| clean("p.png", picture.get_ref()).is_ok())).collect();
        assert!(all.into_iter().all(|t| t.join().unwrap()));
    });
}

#[test]
fn a_process_that_dies_on_a_file_ends_in_a_sentence() {
    let dying = tempfile::tempdir().unwrap();
    let program = dying.path().join("dies");
    std::fs::write(&program, "#!/bin/sh\nkill -SEGV $$\n").unwrap();
    std::fs::set_permissions(&program, std::os::unix::fs::PermissionsExt::from_mode(0o755)).unwrap();
    let cleaner = ticksage_server::cleaner::Cleaner { program: Some(program) };
    assert!(cleaner.clean("bad.pdf", &pdf("1")).unwrap_err().contains("\"bad.pdf\" cannot be read"));
}

#[test]
fn the_built_web_is_packed_and_kept_and_nothing_else_is_in_its_folder() {
    let (data, web) = (common::data(), common::data());
    let assets = web.path().join("assets");
    std::fs::create_dir(&assets).unwrap();
    std::fs::write(web.path().join("index.html"), "page").unwrap();
    std::fs::write(web.path().join("secret.txt"), "secret").unwrap();
    std::fs::write(assets.join("index-x.js"), "plain").unwrap();
    std::fs::write(assets.join("index-x.js.gz"), "packed").unwrap();
    let served = serve(data.path(), web.path());
    let plain = served.get("/assets/index-x.js");
    assert_eq!((plain.status, plain.body.as_str()), (200, "plain"));
    let head = plain.head.to_lowercase();
    assert!(
        head.contains("immutable") && head.contains("vary: accept-encoding") && head.contains("javascript"),
        "{head}"
    );
    let mut stream = std::net::TcpStream::connect(&served.address).unwrap();
    let asked = format!(
        "GET /assets/index-x.js HTTP/1.1\r\nHost: {}\r\nConnection: close\r\nAccept-Encoding: gzip\r\n\r\n",
        served.address
    );
    std::io::Write::write_all(&mut stream, asked.as_bytes()).unwrap();
    let mut answer = Vec::new();
    std::io::Read::read_to_end(&mut stream, &mut answer).unwrap();
    let packed = common::read(&answer);
    assert!(packed.body == "packed" && packed.head.to_lowercase().contains("content-encoding: gzip"), "{packed:?}");
    for outside in ["/assets/none.js", "/assets/..%2fsecret.txt", "/assets/%2e%2e%2fsecret.txt", "/assets/.hidden"] {
        let answer = served.get(outside);
        assert!(answer.status >= 400 && !answer.body.contains("secret"), "{outside}: {answer:?}");
    }
}
