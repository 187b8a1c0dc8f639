//! The yard in one file, and back from it.

#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs)]

use std::fs::File;
use std::io::{Read, Seek, Write};
use std::path::Path;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Mutex, OnceLock};

use ticksage_core::documents::finding::{Finding, FindingResult};
use ticksage_core::formats::base_sheets;
use ticksage_core::formats::documents::{read_candidate, read_family};
use ticksage_store::backup::BackupError;
use ticksage_store::cluster::{Cluster, Keep};
use ticksage_store::papers::{Attachment, Behind};
use ticksage_store::{Store, StoreError};
use uuid::Uuid;

async fn store() -> Store {
    static CLUSTER: OnceLock<Mutex<(Cluster, tempfile::TempDir)>> = OnceLock::new();
    static NEXT: AtomicUsize = AtomicUsize::new(0);
    let held = CLUSTER.get_or_init(|| {
        let folder = tempfile::Builder::new().prefix("ticksage-backup-").tempdir().unwrap();
        Mutex::new((Cluster::start(folder.path(), Keep::Briefly).unwrap(), folder))
    });
    let name = format!("b{}", NEXT.fetch_add(1, Ordering::Relaxed));
    let url = held.lock().unwrap().0.create_database(&name).unwrap();
    let store = Store::open(&url).unwrap();
    store.migrate().await.unwrap();
    for sheet in base_sheets::sheets().unwrap() {
        store.put_family(&sheet).await.unwrap();
    }
    store
}

fn files(folder: &str) -> Vec<String> {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo").join(folder);
    let mut paths: Vec<_> = std::fs::read_dir(folder).unwrap().map(|e| e.unwrap().path()).collect();
    paths.sort();
    paths
        .into_iter()
        .filter(|p| p.extension().is_some_and(|x| x == "json"))
        .map(|p| std::fs::read_to_string(p).unwrap())
        .collect()
}

/// A yard with the demo, an edit, a photo, and a paper and a finding taken back; the ids of its candidates.
async fn yard() -> (Store, Vec<Uuid>, Uuid) {
    let store = store().await;
    for text in files("families") {
        store.put_family(&read_family(&text).unwrap()).await.unwrap();
    }
    let mut ids = Vec::new();
    for text in files("candidates") {
        ids.push(store.create_candidate(&read_candidate(&text).unwrap()).await.unwrap());
    }
    let first = store.candidate(ids[0]).await.unwrap();
    let mut edited = first.candidate.clone();
    edited.note = "rang on Tuesday; \u{1F698} \"quoted\"\nand a second line".to_owned();
    store.update_candidate(ids[0], first.version, &edited).await.unwrap();
    let paper = first.paper_ids.ledger[0];
    store.undo_papers(ids[0], &[paper], true).await.unwrap();
    store.undo_finding(ids[0], first.finding_ids[0], true).await.unwrap();
    let photo = Uuid::new_v4();
    let file = Attachment {
        name: "bill.jpg".into(),
        media: "image/jpeg".into(),
        bytes: (0..=255).cycle().take(50_000).collect(),
    };
    store.attach(ids[0], Behind::Paper(first.paper_ids.ledger[1]), photo, &file).await.unwrap();
    (store, ids, photo)
}

/// A backup in a file that is gone when it is closed.
async fn backup(store: &Store) -> File {
    let mut file = tempfile::tempfile().unwrap();
    store.backup(&mut file).await.unwrap();
    file.rewind().unwrap();
    file
}

#[tokio::test]
async fn a_yard_comes_back_as_it_was() {
    let (from, ids, photo) = yard().await;
    let issued = from.issue_report(ids[0], |n, _| (format!("{{\"number\":{n}}}"), "ab".to_owned())).await.unwrap();
    let counts = serde_json::json!({"currency": "EUR", "unit": "km", "rates": {}});
    from.set_settings(&counts).await.unwrap();
    let to = store().await;
    to.set_settings(&serde_json::json!({"currency": "GBP"})).await.unwrap();
    let held = to.restore(backup(&from).await).await.unwrap();
    assert_eq!(to.report(ids[0], issued.id).await.unwrap(), "{\"number\":1}");
    assert_eq!((to.settings().await.unwrap(), to.reports(ids[0]).await.unwrap().len()), (Some(counts), 1));
    assert_eq!((held.rows("candidates"), held.rows("attachments")), (ids.len(), 1));
    for id in &ids {
        assert_eq!(from.candidate(*id).await.unwrap(), to.candidate(*id).await.unwrap());
    }
    assert_eq!(from.attachment(ids[0], photo).await.unwrap(), to.attachment(ids[0], photo).await.unwrap());
    // It is a yard like any other: what was taken back is put in force again, and new evidence comes last.
    let before = to.candidate(ids[0]).await.unwrap();
    assert_eq!(before.taken_back.len(), 1);
    to.undo_papers(ids[0], &[before.taken_back[0].id], false).await.unwrap();
    let again: Finding = Finding { result: FindingResult::Skipped, ..before.candidate.findings[0].clone() };
    let name = Uuid::new_v4();
    to.add_finding(ids[0], name, &again).await.unwrap();
    assert_eq!(to.candidate(ids[0]).await.unwrap().finding_ids.last(), Some(&name));
    let edited = to.candidate(ids[0]).await.unwrap();
    assert!(matches!(
        to.update_candidate(ids[0], edited.version - 1, &edited.candidate).await,
        Err(StoreError::Conflict { .. })
    ));
}

#[tokio::test]
async fn a_yard_that_is_not_empty_is_left_alone() {
    let (from, ids, _) = yard().await;
    let before = from.candidate(ids[0]).await.unwrap();
    let refused = from.restore(backup(&from).await).await.unwrap_err();
    assert!(matches!(refused, BackupError::NotEmpty(n) if n == i64::try_from(ids.len()).unwrap()), "{refused}");
    assert_eq!(from.candidate(ids[0]).await.unwrap(), before);
}

#[tokio::test]
async fn half_a_file_and_a_changed_one_are_refused_whole() {
    let (from, _, _) = yard().await;
    let mut whole = Vec::new();
    backup(&from).await.read_to_end(&mut whole).unwrap();
    let to = store().await;
    let refused = async |bytes: &[u8]| {
        let mut file = tempfile::tempfile().unwrap();
        file.write_all(bytes).unwrap();
        file.rewind().unwrap();
        let said = to.restore(file).await.unwrap_err();
        assert!(matches!(said, BackupError::NotWhole(_) | BackupError::File(_)), "{said:?}");
        assert_eq!(to.yard("any").await.unwrap().len(), 0, "nothing was put back");
    };
    refused(b"").await;
    refused(&whole[..whole.len() / 2]).await;
    // A byte of the photo, which is stored as it is.
    let photo: Vec<u8> = (0..=255).collect();
    let at = whole.windows(256).position(|w| w == photo.as_slice()).unwrap();
    let mut changed = whole.clone();
    changed[at + 7] ^= 1;
    refused(&changed).await;
    to.restore(backup(&from).await).await.unwrap();
}

#[tokio::test]
async fn a_sheet_that_says_something_else_stops_it_and_the_same_one_does_not() {
    let (from, _, _) = yard().await;
    let (same, other) = (store().await, store().await);
    let sheet = read_family(&files("families")[0]).unwrap();
    same.put_family(&sheet).await.unwrap();
    same.restore(backup(&from).await).await.unwrap();
    let mut differs = sheet.clone();
    differs.summary = "another summary".into();
    other.put_family(&differs).await.unwrap();
    let refused = other.restore(backup(&from).await).await.unwrap_err();
    assert!(matches!(&refused, BackupError::SheetDiffers(id) if id.starts_with(&sheet.id)), "{refused}");
}

#[tokio::test]
async fn who_goes_while_a_record_is_read_leaves_its_connection_as_it_was() {
    let (store, ids, _) = yard().await;
    let one = store.candidate(ids[0]).await.unwrap().candidate;
    // Dropped after so many looks: before its transaction begins, while it does, and later.
    for looks in 0..120 {
        tokio::select! {
            biased;
            _ = store.with_families(ids[0]) => {}
            () = async { for _ in 0..looks { tokio::task::yield_now().await } } => {}
        }
        // The connection comes back to the pool.
        tokio::time::sleep(std::time::Duration::from_millis(2)).await;
        store.create_candidate(&one).await.unwrap_or_else(|e| panic!("after {looks} looks: {e}"));
    }
    assert_eq!(store.yard("").await.unwrap().len(), ids.len() + 120);
}
