//! The records against a real PostgreSQL.

#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs)]

use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Mutex, OnceLock};

use serde_json::json;
use ticksage_core::base::units::{Usage, UsageUnit};
use ticksage_core::documents::finding::{Finding, FindingResult};
use ticksage_core::documents::paper::{DateKnown, Paper, Reading};
use ticksage_core::formats::documents::{read_candidate, read_family};
use ticksage_core::{Bundle, Candidate, Family};
use ticksage_store::candidates::{BundledBehind, BundledFile};
use ticksage_store::cluster::{Cluster, Keep};
use ticksage_store::families::Put;
use ticksage_store::papers::{Attachment, NamedPaper};
use ticksage_store::{Store, StoreError};
use uuid::Uuid;

/// One cluster for this run, a database for each test.
async fn store() -> Store {
    let store = Store::open(&fresh_url()).unwrap();
    store.migrate().await.unwrap();
    store
}

/// The same, with the sheets of [`candidate`].
async fn with_sheets() -> Store {
    let store = store().await;
    for sheet in bundle().families {
        store.put_family(&sheet).await.unwrap();
    }
    store
}

fn fresh_url() -> String {
    static CLUSTER: OnceLock<Mutex<(Cluster, tempfile::TempDir)>> = OnceLock::new();
    static NEXT: AtomicUsize = AtomicUsize::new(0);
    let held = CLUSTER.get_or_init(|| {
        let folder = tempfile::Builder::new().prefix("ticksage-store-").tempdir().unwrap();
        Mutex::new((Cluster::start(folder.path(), Keep::Briefly).unwrap(), folder))
    });
    let name = format!("t{}", NEXT.fetch_add(1, Ordering::Relaxed));
    held.lock().unwrap().0.create_database(&name).unwrap()
}

fn demo(file: &str) -> String {
    std::fs::read_to_string(format!("{}/../../demo/{file}", env!("CARGO_MANIFEST_DIR"))).unwrap()
}

fn family(id: &str) -> Family {
    read_family(&demo(&format!("families/{id}.json"))).unwrap()
}

fn base_vehicle() -> Family {
    ticksage_core::formats::base_sheets::sheets().unwrap().into_iter().find(|f| f.id == "base-vehicle").unwrap()
}

fn candidate() -> Candidate {
    read_candidate(&demo("candidates/2-harbour-office.json")).unwrap()
}

fn bundle() -> Bundle {
    Bundle {
        format: Default::default(),
        candidate: candidate(),
        families: vec![family("bk4"), family("ferryman"), family("s6"), base_vehicle()],
    }
}

fn finding(check: &str, outcome: usize) -> Finding {
    Finding {
        family: "ferryman".to_owned(),
        check: check.to_owned(),
        result: FindingResult::Outcome { outcome },
        reading: None,
        inputs: Vec::new(),
        note: "as seen".to_owned(),
        at: None,
        undone: false,
    }
}

#[tokio::test]
async fn a_sheet_once_published_never_changes() {
    let s = store().await;
    let mut f = family("bk4");
    let first = f.version;
    assert_eq!(s.put_family(&f).await.unwrap(), Put::Added);
    assert_eq!(s.put_family(&f).await.unwrap(), Put::AlreadyThere);
    f.name.push_str(" revised");
    assert!(matches!(s.put_family(&f).await, Err(StoreError::SheetDiffers { version, .. }) if version == first));
    f.version = first + 1;
    assert_eq!(s.put_family(&f).await.unwrap(), Put::Added);
    assert_eq!(s.family("bk4", None).await.unwrap(), f);
    assert_eq!(s.family("bk4", Some(first)).await.unwrap(), family("bk4"));
    assert!(matches!(s.family("bk4", Some(first + 2)).await, Err(StoreError::NotFound("family"))));
    assert_eq!(s.families().await.unwrap().len(), 1);
}

#[tokio::test]
async fn a_candidate_comes_back_as_it_was() {
    let s = store().await;
    let id = s.import_bundle(&bundle(), &[]).await.unwrap();
    let record = s.candidate(id).await.unwrap();
    assert_eq!(record.candidate, candidate());
    assert_eq!(record.version, 1);
    assert_eq!(record.finding_ids.len(), record.candidate.findings.len());
    let (_, families) = s.with_families(id).await.unwrap();
    assert_eq!(*families, [base_vehicle(), family("bk4"), family("ferryman"), family("s6")]);
}

#[tokio::test]
async fn a_bundle_with_a_contradicting_sheet_stores_nothing() {
    let s = store().await;
    let mut changed = family("ferryman");
    changed.summary = "another".to_owned();
    s.put_family(&changed).await.unwrap();
    assert!(matches!(s.import_bundle(&bundle(), &[]).await, Err(StoreError::SheetDiffers { .. })));
    assert!(matches!(s.family("bk4", None).await, Err(StoreError::NotFound(_))), "the first sheet was rolled back");
    assert_eq!(s.yard("any").await.unwrap(), []);
}

#[tokio::test]
async fn an_edit_from_an_old_version_is_a_conflict() {
    let s = store().await;
    let id = s.create_candidate(&candidate()).await.unwrap();
    let mut mine = candidate();
    mine.title = "Mine".to_owned();
    assert_eq!(s.update_candidate(id, 1, &mine).await.unwrap(), 2);
    let mut theirs = candidate();
    theirs.title = "Theirs".to_owned();
    let refused = s.update_candidate(id, 1, &theirs).await;
    assert!(matches!(refused, Err(StoreError::Conflict { current: 2 })), "{refused:?}");
    let record = s.candidate(id).await.unwrap();
    assert_eq!((record.candidate.title.as_str(), record.version), ("Mine", 2));
    assert_eq!(record.candidate.findings, candidate().findings, "an edit leaves findings alone");
}

#[tokio::test]
async fn every_edit_keeps_the_document_before_it() {
    let url = fresh_url();
    let s = Store::open(&url).unwrap();
    s.migrate().await.unwrap();
    let id = s.create_candidate(&candidate()).await.unwrap();
    let titled = |title: &str| Candidate { title: title.to_owned(), ..candidate() };
    s.update_candidate(id, 1, &titled("Second")).await.unwrap();
    s.update_candidate(id, 2, &titled("Third")).await.unwrap();
    // Given with another candidate's comparables: that is an edit, too.
    s.set_comparables((id, 3), &[], &candidate().comparables[..1]).await.unwrap();
    let pool = sqlx::PgPool::connect(&url).await.unwrap();
    let kept: Vec<(i32, String, i32)> = sqlx::query_as(
        "SELECT version, body->>'title', jsonb_array_length(body->'comparables') FROM candidate_versions \
         WHERE candidate = $1 ORDER BY version",
    )
    .bind(id)
    .fetch_all(&pool)
    .await
    .unwrap();
    let all = i32::try_from(candidate().comparables.len()).unwrap();
    let title = candidate().title;
    assert_eq!(kept, [(1, title, all), (2, "Second".to_owned(), all), (3, "Third".to_owned(), all)]);
}

#[tokio::test]
async fn of_two_edits_at_once_one_wins_and_one_is_told() {
    let s = store().await;
    let id = s.create_candidate(&candidate()).await.unwrap();
    let (a, b) = (candidate(), candidate());
    let (x, y) = tokio::join!(s.update_candidate(id, 1, &a), s.update_candidate(id, 1, &b));
    assert_eq!([&x, &y].iter().filter(|r| r.is_ok()).count(), 1, "{x:?} {y:?}");
}

#[tokio::test]
async fn a_finding_sent_twice_is_stored_once_and_taking_it_back_keeps_it() {
    let s = with_sheets().await;
    let id = s.create_candidate(&Candidate { findings: Vec::new(), ..candidate() }).await.unwrap();
    let name = Uuid::new_v4();
    s.add_finding(id, name, &finding("lamps", 1)).await.unwrap();
    s.add_finding(id, name, &finding("lamps", 1)).await.unwrap();
    let record = s.candidate(id).await.unwrap();
    assert_eq!(record.candidate.findings, [finding("lamps", 1)]);
    s.undo_finding(id, name, true).await.unwrap();
    let record = s.candidate(id).await.unwrap();
    assert_eq!(record.candidate.findings, [Finding { undone: true, ..finding("lamps", 1) }]);
    s.undo_finding(id, name, false).await.unwrap();
    assert!(!s.candidate(id).await.unwrap().candidate.findings[0].undone);
}

#[tokio::test]
async fn what_is_not_there_is_not_found() {
    let s = store().await;
    let nobody = Uuid::new_v4();
    assert!(matches!(s.candidate(nobody).await, Err(StoreError::NotFound("candidate"))));
    assert!(matches!(s.add_finding(nobody, nobody, &finding("lamps", 0)).await, Err(StoreError::NotFound(_))));
    assert!(matches!(s.update_candidate(nobody, 1, &candidate()).await, Err(StoreError::NotFound(_))));
    let id = s.create_candidate(&candidate()).await.unwrap();
    assert!(matches!(s.undo_finding(id, nobody, true).await, Err(StoreError::NotFound("finding"))));
}

#[tokio::test]
async fn a_change_after_which_the_document_makes_no_sense_changes_nothing() {
    let s = with_sheets().await;
    let id = s.create_candidate(&candidate()).await.unwrap();
    let before = s.candidate(id).await.unwrap();
    let senseless = |e: Result<(), StoreError>| matches!(e, Err(StoreError::Senseless(faults)) if !faults.is_empty());
    assert!(senseless(s.add_finding(id, Uuid::new_v4(), &finding("no-such-check", 0)).await));
    let mut late = reading(200_000.0, 5);
    if let Paper::Reading(r) = &mut late.paper {
        r.date = candidate().as_of.tomorrow().unwrap();
    }
    assert!(senseless(s.add_papers(id, std::slice::from_ref(&late)).await));
    assert!(senseless(s.correct_paper(id, before.paper_ids.readings[0], &late).await));
    let unbuilt = Candidate { built: candidate().as_of.tomorrow().unwrap(), ..candidate() };
    assert!(senseless(s.update_candidate(id, 1, &unbuilt).await.map(drop)));
    let after = s.candidate(id).await.unwrap();
    assert_eq!((after.version, &after.candidate, &after.paper_ids), (1, &before.candidate, &before.paper_ids));
}

#[tokio::test]
async fn a_summary_lasts_until_evidence_moves_on() {
    let s = with_sheets().await;
    let id = s.create_candidate(&candidate()).await.unwrap();
    let record = s.candidate(id).await.unwrap();
    s.keep_summary(&record, "engine/1", &json!({"seen": 1})).await.unwrap();
    assert!(s.yard("engine/1").await.unwrap()[0].summary.is_some());
    assert!(s.yard("engine/2").await.unwrap()[0].summary.is_none(), "another computation wrote it");
    s.add_finding(id, Uuid::new_v4(), &finding("lamps", 1)).await.unwrap();
    assert!(s.yard("engine/1").await.unwrap()[0].summary.is_none());
    // One computed from the record before the finding comes too late.
    s.keep_summary(&record, "engine/1", &json!({"seen": 1})).await.unwrap();
    assert!(s.yard("engine/1").await.unwrap()[0].summary.is_none());
}

#[tokio::test]
async fn put_away_it_leaves_the_yard_and_comes_back() {
    let s = store().await;
    let id = s.create_candidate(&candidate()).await.unwrap();
    s.archive_candidate(id, true).await.unwrap();
    assert_eq!(s.yard("any").await.unwrap(), []);
    assert!(s.candidate(id).await.unwrap().archived);
    s.archive_candidate(id, false).await.unwrap();
    assert_eq!(s.yard("any").await.unwrap().len(), 1);
}

fn reading(km: f64, day: i8) -> NamedPaper {
    let date = jiff::civil::date(2026, 1, day);
    let usage = Usage { value: km, unit: UsageUnit::Km };
    let paper = Paper::Reading(Reading { date, usage, source: "garage".to_owned(), known: DateKnown::Day });
    NamedPaper { id: Uuid::new_v4(), paper }
}

#[tokio::test]
async fn papers_are_appended_all_or_none_and_once() {
    let s = store().await;
    let id = s.create_candidate(&candidate()).await.unwrap();
    let before = s.candidate(id).await.unwrap();
    assert_eq!(before.paper_ids.ledger.len(), candidate().ledger.len());
    let both = [reading(119_000.0, 5), reading(120_000.0, 20)];
    s.add_papers(id, &both).await.unwrap();
    s.add_papers(id, &both).await.unwrap();
    let after = s.candidate(id).await.unwrap();
    assert_eq!(after.candidate.readings.len(), before.candidate.readings.len() + 2);
    assert_eq!(after.paper_ids.readings.last(), Some(&both[1].id), "in the order in which they were sent");
    assert_eq!((after.version, after.evidence), (1, before.evidence + 2));
    assert!(matches!(s.add_papers(Uuid::new_v4(), &both).await, Err(StoreError::NotFound("candidate"))));
    // An unknown name among several: none of them is taken back.
    let some = s.undo_papers(id, &[both[0].id, Uuid::new_v4()], true).await;
    assert!(matches!(some, Err(StoreError::NotFound(_))));
    assert_eq!(s.candidate(id).await.unwrap().candidate.readings.len(), after.candidate.readings.len());
    s.undo_papers(id, &[both[0].id, both[1].id], true).await.unwrap();
    let back = s.candidate(id).await.unwrap();
    assert_eq!((back.candidate, back.taken_back.len()), (before.candidate, 2));
}

#[tokio::test]
async fn two_corrections_of_one_paper_at_once_leave_one() {
    let s = store().await;
    let id = s.create_candidate(&candidate()).await.unwrap();
    let earlier = s.candidate(id).await.unwrap().paper_ids.readings[0];
    let (mine, theirs) = (reading(37_000.0, 5), reading(38_000.0, 6));
    let (first, second) = tokio::join!(s.correct_paper(id, earlier, &mine), s.correct_paper(id, earlier, &theirs));
    assert_eq!([first.is_ok(), second.is_ok()].iter().filter(|ok| **ok).count(), 1, "{first:?} {second:?}");
    let record = s.candidate(id).await.unwrap();
    assert_eq!(record.candidate.readings.len(), candidate().readings.len());
    assert!(record.taken_back.is_empty());
}

#[tokio::test]
async fn documents_of_an_earlier_version_keep_their_papers() {
    let url = fresh_url();
    let store = Store::open(&url).unwrap();
    store.migrate().await.unwrap();
    // As the first version stored it: papers inside the document.
    let pool = sqlx::PgPool::connect(&url).await.unwrap();
    sqlx::raw_sql(
        "DROP TABLE links, reports, settings, sessions, pairing_codes, attachments, papers, document_version; \
         DELETE FROM _sqlx_migrations WHERE version >= 2",
    )
    .execute(&pool)
    .await
    .unwrap();
    let id = Uuid::new_v4();
    let mut document = serde_json::to_value(candidate()).unwrap();
    document["findings"] = json!([]);
    sqlx::query("INSERT INTO candidates (id, body) VALUES ($1, $2)")
        .bind(id)
        .bind(&document)
        .execute(&pool)
        .await
        .unwrap();
    store.migrate().await.unwrap();
    let moved = store.candidate(id).await.unwrap().candidate;
    let whole = candidate();
    assert_eq!((moved.ledger, moved.readings, moved.provenance), (whole.ledger, whole.readings, whole.provenance));
}

/// The words of version 1 in the place of those of version 2. A measure names its source in both.
fn of_version_1(document: serde_json::Value) -> serde_json::Value {
    let words = [
        ("/2\"", "/1\""),
        ("\"sources\"", "\"schools\""),
        ("\"repair_delay\"", "\"tolerated\""),
        ("\"blocker\"", "\"gate\""),
        ("\"purchase_plan\"", "\"doing\""),
        ("\"paper_trust\"", "\"papers\""),
        ("\"kind\":\"mil\"", "\"kind\":\"lamp\""),
        ("\"policy\"", "\"school\""),
        ("\"kind\":\"recently_cleared\",\"outcome\"", "\"kind\":\"wiped\",\"wiped\""),
    ];
    let text = words.iter().fold(document.to_string(), |t, (new, old)| t.replace(new, old));
    let mut old: serde_json::Value = serde_json::from_str(&text).unwrap();
    if let Some(points) = old.get_mut("points") {
        *points = serde_json::from_str(&points.to_string().replace("\"source\"", "\"school\"")).unwrap();
    }
    old
}

#[tokio::test]
async fn stored_documents_of_format_1_are_brought_to_format_2_once() {
    let url = fresh_url();
    let s = Store::open(&url).unwrap();
    s.migrate().await.unwrap();
    s.import_bundle(&bundle(), &[]).await.unwrap();
    let id = s.yard("any").await.unwrap()[0].id;
    s.update_candidate(id, 1, &candidate()).await.unwrap();
    let (sheet, document) = (s.family("bk4", None).await.unwrap(), s.candidate(id).await.unwrap().candidate);
    // As the program before stored them.
    let pool = sqlx::PgPool::connect(&url).await.unwrap();
    sqlx::query("UPDATE document_version SET version = 1").execute(&pool).await.unwrap();
    let old = of_version_1(json!(sheet));
    assert_eq!(read_family(&old.to_string()).unwrap(), sheet, "version 1 is still read");
    sqlx::query("UPDATE families SET sheet = $1 WHERE id = 'bk4'").bind(&old).execute(&pool).await.unwrap();
    for table in ["candidates SET body = $1", "candidate_versions SET body = $1"] {
        let body = of_version_1(json!(Candidate { findings: Vec::new(), ..document.without_papers() }));
        sqlx::query(sqlx::AssertSqlSafe(format!("UPDATE {table}"))).bind(body).execute(&pool).await.unwrap();
    }
    s.migrate().await.unwrap();
    assert_eq!(s.family("bk4", None).await.unwrap(), sheet);
    assert_eq!(s.candidate(id).await.unwrap().candidate, document);
    let kept: String = sqlx::query_scalar("SELECT body->>'format' FROM candidate_versions WHERE candidate = $1")
        .bind(id)
        .fetch_one(&pool)
        .await
        .unwrap();
    assert_eq!(kept, "ticksage-candidate/2");
    // Once: what is of the newest version is not touched again.
    sqlx::query("UPDATE families SET sheet = $1 WHERE id = 'bk4'").bind(&old).execute(&pool).await.unwrap();
    s.migrate().await.unwrap();
    let mark: String =
        sqlx::query_scalar("SELECT sheet->>'format' FROM families WHERE id = 'bk4'").fetch_one(&pool).await.unwrap();
    assert_eq!(mark, "ticksage-family/1");
}

#[tokio::test]
async fn comparables_are_given_to_all_or_to_none_and_known_as_one_set() {
    let s = store().await;
    let mut other = candidate();
    other.comparables.clear();
    let (a, b) = (s.create_candidate(&candidate()).await.unwrap(), s.create_candidate(&other).await.unwrap());
    assert_eq!(s.sharing_comparables(a).await.unwrap(), Vec::<Uuid>::new());
    let list = candidate().comparables[..2].to_vec();
    // One that is not there, and an old version: nobody is given anything.
    let missing = s.set_comparables((a, 1), &[b, Uuid::new_v4()], &list).await;
    assert!(matches!(missing, Err(StoreError::NotFound("candidate"))));
    assert!(matches!(s.set_comparables((a, 7), &[b], &list).await, Err(StoreError::Conflict { current: 1 })));
    assert!(s.candidate(b).await.unwrap().candidate.comparables.is_empty());
    s.set_comparables((a, 1), &[b, b, a], &list).await.unwrap();
    for id in [a, b] {
        let record = s.candidate(id).await.unwrap();
        assert_eq!((record.version, &record.candidate.comparables), (2, &list));
    }
    assert_eq!((s.sharing_comparables(a).await.unwrap(), s.sharing_comparables(b).await.unwrap()), (vec![b], vec![a]));
    // Empty lists are nobody's set; what is put away shares nothing.
    s.set_comparables((a, 2), &[b], &[]).await.unwrap();
    assert!(s.sharing_comparables(a).await.unwrap().is_empty());
    s.set_comparables((a, 3), &[b], &list).await.unwrap();
    s.archive_candidate(b, true).await.unwrap();
    assert!(s.sharing_comparables(a).await.unwrap().is_empty());
}

#[tokio::test]
async fn files_come_with_a_bundle_or_nothing_does() {
    let s = store().await;
    let file = |behind| BundledFile {
        behind,
        file: Attachment { name: "sill.jpg".to_owned(), media: "image/jpeg".to_owned(), bytes: vec![1, 2, 3] },
    };
    let lost = file(BundledBehind::Paper(10_000));
    assert!(matches!(s.import_bundle(&bundle(), &[lost]).await, Err(StoreError::NotFound("paper"))));
    assert!(s.yard("any").await.unwrap().is_empty() && s.families().await.unwrap().is_empty());
    let check = BundledBehind::Check("ferryman".to_owned(), "sills".to_owned());
    let id = s.import_bundle(&bundle(), &[file(BundledBehind::Paper(0)), file(check)]).await.unwrap();
    let record = s.candidate(id).await.unwrap();
    assert_eq!(record.attachments.len(), 2);
    let behind = record.attachments.iter().find(|a| a.paper.is_some()).unwrap();
    assert_eq!(behind.paper, record.paper_ids.ledger.first().copied());
    assert_eq!(s.attachment(id, behind.id).await.unwrap().bytes, [1, 2, 3]);
}

#[tokio::test]
async fn the_private_database_lets_in_its_own_role_alone_and_that_without_a_superusers_rights() {
    use std::os::unix::fs::PermissionsExt;
    let folder = tempfile::Builder::new().prefix("ticksage-closed-").tempdir().unwrap();
    let cluster = Cluster::start(folder.path(), Keep::Briefly).unwrap();
    let url = cluster.create_database("own").unwrap();
    let pool = sqlx::PgPool::connect(&url).await.unwrap();
    let (role, superuser): (String, bool) =
        sqlx::query_as("SELECT rolname::text, rolsuper FROM pg_roles WHERE rolname = current_user")
            .fetch_one(&pool)
            .await
            .unwrap();
    assert_eq!((role.as_str(), superuser), ("ticksage_app", false));
    assert!(sqlx::raw_sql("CREATE ROLE another SUPERUSER").execute(&pool).await.is_err());
    assert!(sqlx::raw_sql("COPY (SELECT 1) TO PROGRAM 'true'").execute(&pool).await.is_err());
    let at = cluster.address();
    for stranger in ["ticksage", "postgres", "ticksage_app", "ticksage_app:guess", "ticksage:guess"] {
        for database in ["own", "postgres"] {
            let refused = sqlx::PgPool::connect(&format!("postgres://{stranger}@{at}/{database}")).await;
            assert!(refused.is_err(), "{stranger} came into {database}");
        }
    }
    let mode = |path: &std::path::Path| std::fs::metadata(path).unwrap().permissions().mode() & 0o777;
    assert_eq!(mode(&folder.path().join("password")), 0o600);
    let socket = cluster.socket_folder().unwrap().to_owned();
    assert_eq!(mode(&socket), 0o700);
    assert!(socket.as_os_str().len() < 80);
    // Started again it has the same password, and the socket's folder goes with the server.
    drop(cluster);
    assert!(!socket.exists());
    let again = Cluster::start(folder.path(), Keep::Briefly).unwrap();
    let password = |url: &str| url.split('@').next().unwrap().to_owned();
    assert_eq!(password(&again.create_database("own").unwrap()), password(&url));
}
