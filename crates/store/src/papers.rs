//! Papers: appended, corrected by a later one, taken back, never overwritten; and what is attached to them.

use sqlx::PgConnection;
use sqlx::types::Json;
use ticksage_core::documents::candidate::Candidate;
use ticksage_core::documents::paper::Paper;
use uuid::Uuid;

use crate::record::touch;
use crate::undo::{Evidence, mark};
use crate::{Store, StoreError, sense};

/// A paper under an id of the sender's choosing.
#[derive(Debug, Clone, PartialEq)]
pub struct NamedPaper {
    /// Its name; sending it twice stores it once.
    pub id: Uuid,
    /// The paper.
    pub paper: Paper,
}

/// The papers' own names, list by list, in the document's order.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct PaperIds {
    /// Ledger entries.
    pub ledger: Vec<Uuid>,
    /// Readings.
    pub readings: Vec<Uuid>,
    /// Items of history reports.
    pub provenance: Vec<Uuid>,
    /// Advisories.
    pub advisories: Vec<Uuid>,
    /// Campaigns.
    pub campaigns: Vec<Uuid>,
    /// Scans.
    pub scans: Vec<Uuid>,
}

impl PaperIds {
    fn push(&mut self, id: Uuid, paper: &Paper) {
        match paper {
            Paper::Entry(_) => self.ledger.push(id),
            Paper::Reading(_) => self.readings.push(id),
            Paper::Provenance(_) => self.provenance.push(id),
            Paper::Advisory(_) => self.advisories.push(id),
            Paper::Campaign(_) => self.campaigns.push(id),
            Paper::Scan(_) => self.scans.push(id),
        }
    }
}

/// What a file stands behind.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Behind<'a> {
    /// A paper, by its name.
    Paper(Uuid),
    /// A check of a family.
    Check {
        /// The family.
        family: &'a str,
        /// The check.
        check: &'a str,
    },
}

/// An attachment without its bytes.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct AttachmentHead {
    /// Its id in the store.
    pub id: Uuid,
    /// The paper that it stands behind, if it is one.
    pub paper: Option<Uuid>,
    /// The family of the check that it stands behind, if it is one.
    pub family: Option<String>,
    /// That check.
    pub check: Option<String>,
    /// The file's name as sent.
    pub name: String,
    /// Media type as stored.
    pub media: String,
    /// Bytes as stored.
    pub size: i32,
}

/// A picture or a document, cleaned.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Attachment {
    /// The file's name as sent.
    pub name: String,
    /// Media type.
    pub media: String,
    /// Its bytes.
    pub bytes: Vec<u8>,
}

/// Reads a candidate's papers into its document; their names, and those taken back, the latest first.
pub(crate) async fn read(
    tx: &mut PgConnection,
    id: Uuid,
    candidate: &mut Candidate,
) -> Result<(PaperIds, Vec<NamedPaper>), StoreError> {
    let rows = sqlx::query!(
        r#"SELECT id, body AS "body: Json<Paper>", undone_at IS NOT NULL AS "undone!",
                  EXISTS (SELECT 1 FROM papers later WHERE later.replaces = papers.id AND later.undone_at IS NULL) AS "replaced!"
           FROM papers WHERE candidate = $1 ORDER BY seq"#,
        id
    )
    .fetch_all(&mut *tx)
    .await?;
    let (mut ids, mut taken_back) = (PaperIds::default(), Vec::new());
    for row in rows {
        if !row.undone {
            ids.push(row.id, &row.body.0);
            candidate.add_paper(row.body.0);
        } else if !row.replaced {
            taken_back.push(NamedPaper { id: row.id, paper: row.body.0 });
        }
    }
    taken_back.reverse();
    taken_back.truncate(20);
    Ok((ids, taken_back))
}

/// Reads what is attached to a candidate's papers.
pub(crate) async fn heads(tx: &mut PgConnection, id: Uuid) -> Result<Vec<AttachmentHead>, StoreError> {
    let heads = sqlx::query_as!(
        AttachmentHead,
        r#"SELECT id, paper, family, check_id AS "check", name, media, octet_length(bytes) AS "size!"
           FROM attachments WHERE candidate = $1 AND undone_at IS NULL ORDER BY seq"#,
        id
    )
    .fetch_all(&mut *tx)
    .await?;
    Ok(heads)
}

/// Appends papers; those whose names are stored already are passed over.
pub(crate) async fn append(tx: &mut PgConnection, candidate: Uuid, papers: &[NamedPaper]) -> Result<(), StoreError> {
    let ids: Vec<Uuid> = papers.iter().map(|p| p.id).collect();
    let bodies: Vec<Json<&Paper>> = papers.iter().map(|p| Json(&p.paper)).collect();
    sqlx::query!(
        "INSERT INTO papers (id, candidate, body)
         SELECT x.id, $1, x.body FROM UNNEST($2::uuid[], $3::jsonb[]) WITH ORDINALITY AS x (id, body, n) ORDER BY x.n
         ON CONFLICT (id) DO NOTHING",
        candidate,
        &ids,
        &bodies as _
    )
    .execute(&mut *tx)
    .await?;
    // Those whose ids were taken say the same, or nothing is stored.
    let differ = sqlx::query_scalar!(
        r#"SELECT count(*) AS "count!" FROM papers p JOIN UNNEST($2::uuid[], $3::jsonb[]) AS x (id, body) ON p.id = x.id
           WHERE p.candidate <> $1 OR p.body <> x.body"#,
        candidate,
        &ids,
        &bodies as _
    )
    .fetch_one(&mut *tx)
    .await?;
    if differ == 0 { Ok(()) } else { Err(StoreError::Differs("paper")) }
}

impl Store {
    /// Appends papers, all of them or none; sending them twice stores them once.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is no such candidate.
    pub async fn add_papers(&self, candidate: Uuid, papers: &[NamedPaper]) -> Result<(), StoreError> {
        let mut tx = self.pool.begin().await?;
        touch(&mut tx, candidate).await?;
        let before = sense::faults(&mut tx, candidate).await?;
        append(&mut tx, candidate, papers).await?;
        sense::no_worse(&mut tx, candidate, &before).await?;
        tx.commit().await?;
        Ok(())
    }

    /// Puts a corrected paper in the place of an earlier one, which is kept.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the earlier one is not in force: somebody corrected it or took it back.
    pub async fn correct_paper(&self, candidate: Uuid, earlier: Uuid, paper: &NamedPaper) -> Result<(), StoreError> {
        let mut tx = self.pool.begin().await?;
        touch(&mut tx, candidate).await?;
        let before = sense::faults(&mut tx, candidate).await?;
        let stored =
            sqlx::query_scalar!(r#"SELECT 1 AS "one!" FROM papers WHERE id = $1 AND replaces = $2"#, paper.id, earlier)
                .fetch_optional(&mut *tx)
                .await?;
        if stored.is_none() {
            mark(&mut tx, candidate, (Evidence::Paper, earlier), true).await?;
            sqlx::query!(
                "INSERT INTO papers (id, candidate, body, replaces) VALUES ($1, $2, $3, $4)",
                paper.id,
                candidate,
                Json(&paper.paper) as _,
                earlier
            )
            .execute(&mut *tx)
            .await?;
            // What was attached to the earlier one stands behind the later.
            sqlx::query!("UPDATE attachments SET paper = $1 WHERE paper = $2", paper.id, earlier)
                .execute(&mut *tx)
                .await?;
        }
        sense::no_worse(&mut tx, candidate, &before).await?;
        tx.commit().await?;
        Ok(())
    }

    /// Takes papers back, or puts them in force again; what a correction replaced goes the other way.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when one of them is not in the other state; nothing is changed then.
    pub async fn undo_papers(&self, candidate: Uuid, papers: &[Uuid], undone: bool) -> Result<(), StoreError> {
        let mut tx = self.pool.begin().await?;
        touch(&mut tx, candidate).await?;
        let before = sense::faults(&mut tx, candidate).await?;
        // Papers of their own all at once; a correction and what it took the place of, one after another.
        let rows = sqlx::query!(
            "SELECT id, replaces FROM papers WHERE candidate = $1 AND id = ANY($2) ORDER BY seq",
            candidate,
            papers
        )
        .fetch_all(&mut *tx)
        .await?;
        let named: std::collections::HashSet<&Uuid> = papers.iter().collect();
        if rows.len() != named.len() {
            return Err(StoreError::NotFound("paper"));
        }
        let own: Vec<Uuid> = rows.iter().filter(|r| r.replaces.is_none()).map(|r| r.id).collect();
        let marked = sqlx::query!(
            "UPDATE papers SET undone_at = CASE WHEN $3 THEN now() END
             WHERE candidate = $1 AND id = ANY($2) AND (undone_at IS NULL) = $3",
            candidate,
            &own,
            undone
        )
        .execute(&mut *tx)
        .await?;
        if marked.rows_affected() != own.len() as u64 {
            return Err(StoreError::NotFound("paper in that state"));
        }
        for (id, earlier) in rows.into_iter().filter_map(|r| Some((r.id, r.replaces?))) {
            mark(&mut tx, candidate, (Evidence::Paper, id), undone).await?;
            mark(&mut tx, candidate, (Evidence::Paper, earlier), !undone).await?;
            let (from, to) = if undone { (id, earlier) } else { (earlier, id) };
            sqlx::query!("UPDATE attachments SET paper = $1 WHERE paper = $2", to, from).execute(&mut *tx).await?;
        }
        sense::no_worse(&mut tx, candidate, &before).await?;
        tx.commit().await?;
        Ok(())
    }

    /// Stores a file behind a paper or a check, under an id of the sender's choosing; the same id twice is
    /// stored once.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is no such candidate or paper.
    pub async fn attach(
        &self,
        candidate: Uuid,
        behind: Behind<'_>,
        id: Uuid,
        a: &Attachment,
    ) -> Result<(), StoreError> {
        let mut tx = self.pool.begin().await?;
        touch(&mut tx, candidate).await?;
        attach(&mut tx, candidate, behind, id, a).await?;
        tx.commit().await?;
        Ok(())
    }

    /// What is attached, with its bytes.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none.
    pub async fn attachment(&self, candidate: Uuid, id: Uuid) -> Result<Attachment, StoreError> {
        sqlx::query_as!(
            Attachment,
            "SELECT name, media, bytes FROM attachments WHERE id = $1 AND candidate = $2",
            id,
            candidate
        )
        .fetch_optional(&self.pool)
        .await?
        .ok_or(StoreError::NotFound("attachment"))
    }

    /// Takes an attachment back, or puts it in its place again.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none.
    pub async fn undo_attachment(&self, candidate: Uuid, id: Uuid, undone: bool) -> Result<(), StoreError> {
        self.undo(candidate, (Evidence::Attachment, id), undone).await
    }
}

/// Stores a file.
pub(crate) async fn attach(
    tx: &mut PgConnection,
    candidate: Uuid,
    behind: Behind<'_>,
    id: Uuid,
    a: &Attachment,
) -> Result<(), StoreError> {
    let (paper, family, check) = match behind {
        Behind::Paper(paper) => (Some(paper), None, None),
        Behind::Check { family, check } => (None, Some(family), Some(check)),
    };
    if let Some(paper) = paper {
        sqlx::query_scalar!(r#"SELECT 1 AS "one!" FROM papers WHERE id = $1 AND candidate = $2"#, paper, candidate)
            .fetch_optional(&mut *tx)
            .await?
            .ok_or(StoreError::NotFound("paper"))?;
    }
    sqlx::query!(
        "INSERT INTO attachments (id, candidate, paper, family, check_id, name, media, bytes)
         VALUES ($1, $2, $3, $4, $5, $6, $7, $8) ON CONFLICT (id) DO NOTHING",
        id,
        candidate,
        paper,
        family,
        check,
        a.name,
        a.media,
        a.bytes
    )
    .execute(&mut *tx)
    .await?;
    Ok(())
}
