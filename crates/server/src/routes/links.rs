//! Links for customers and sellers: to read one candidate, until a date and until taken back.

use actix_web::http::header::{ContentDisposition, DispositionType};
use actix_web::{HttpResponse, get, post, put, web};
use serde::{Deserialize, Serialize};
use ticksage_core::base::units::Usage;
use ticksage_store::Store;
use ticksage_store::links::{Link, Opened};
use ticksage_store::papers::Attachment;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::access::new_token;
use crate::body::Document;
use crate::problem::Problem;
use crate::routes::reports::IssuedReport;
use crate::views::{AttachmentView, CandidateView, Part, view};

/// For whom a link is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Audience {
    /// Who pays for the inspection: the whole report.
    Customer,
    /// Who sells: findings, photos and the bill; no limit price, no offer, no margin.
    Seller,
}

impl Audience {
    fn word(self) -> &'static str {
        match self {
            Self::Customer => "customer",
            Self::Seller => "seller",
        }
    }

    fn of(word: &str) -> Self {
        if word == "customer" { Self::Customer } else { Self::Seller }
    }
}

/// A link to be made.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewLink {
    /// For whom.
    pub audience: Audience,
    /// Days for which it opens.
    #[schema(minimum = 1, maximum = 366)]
    pub days: i32,
}

/// A new link; its token is told this once.
#[derive(Debug, Serialize, ToSchema)]
pub struct MadeLink {
    /// Its id.
    pub id: Uuid,
    /// Its path, to be put behind the address of the application.
    pub path: String,
}

/// A link, without its token.
#[derive(Debug, Serialize, ToSchema)]
pub struct LinkView {
    /// Its id.
    pub id: Uuid,
    /// For whom.
    pub audience: Audience,
    /// The last moment at which it opens, UTC.
    pub until: String,
    /// When it was made, UTC.
    pub made_at: String,
    /// Whether it still opens.
    pub open: bool,
}

/// Makes a link.
#[utoipa::path(tag = "links", params(("id" = Uuid, Path)), request_body = NewLink, responses((status = 201, body = MadeLink)))]
#[post("/candidates/{id}/links")]
pub async fn make_link(
    store: web::Data<Store>,
    id: web::Path<Uuid>,
    Document(NewLink { audience, days }): Document<NewLink>,
) -> Result<HttpResponse, Problem> {
    let token = new_token();
    // A customer reads what was issued, and nothing that changes behind it.
    let report = match audience {
        Audience::Seller => None,
        Audience::Customer => Some(store.reports(*id).await?.first().map(|r| r.id).ok_or_else(|| {
            Problem::fault("/audience", "issue the report first: a customer's link opens an issued one")
        })?),
    };
    let made = store.add_link(*id, (audience.word(), report), days, &token).await?;
    Ok(HttpResponse::Created().json(MadeLink { id: made, path: format!("/shared/{token}") }))
}

/// The links of a candidate that were not taken back, the latest first.
#[utoipa::path(tag = "links", params(("id" = Uuid, Path)), responses((status = 200, body = Vec<LinkView>)))]
#[get("/candidates/{id}/links")]
pub async fn list_links(store: web::Data<Store>, id: web::Path<Uuid>) -> Result<web::Json<Vec<LinkView>>, Problem> {
    let view = |Link { id, audience, until, made_at, open }| LinkView {
        id,
        audience: Audience::of(&audience),
        until,
        made_at,
        open,
    };
    Ok(web::Json(store.links(*id).await?.into_iter().map(view).collect()))
}

/// Takes a link back.
#[utoipa::path(tag = "links", params(("id" = Uuid, Path), ("link" = Uuid, Path)), responses((status = 204, description = "Taken back")))]
#[put("/candidates/{id}/links/{link}/revoked")]
pub async fn revoke_link(store: web::Data<Store>, path: web::Path<(Uuid, Uuid)>) -> Result<HttpResponse, Problem> {
    let (id, link) = path.into_inner();
    store.revoke_link(id, link).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// What a link opens.
#[derive(Debug, Serialize, ToSchema)]
#[serde(tag = "audience", rename_all = "snake_case")]
pub enum SharedView {
    /// The whole report.
    Customer {
        /// The last moment at which the link opens, UTC.
        until: String,
        /// The report, as it was issued.
        #[schema(value_type = IssuedReport)]
        report: serde_json::Value,
    },
    /// What the seller may see.
    Seller {
        /// The last moment at which the link opens, UTC.
        until: String,
        /// Findings, photos and bill.
        report: Box<SellerReport>,
    },
}

/// What is told to a seller: what was found and what mending it costs, and nothing of what the buyer would pay.
#[derive(Debug, Serialize, ToSchema)]
pub struct SellerReport {
    /// What it is called.
    pub title: String,
    /// The day of judgement.
    #[schema(value_type = String, format = Date)]
    pub as_of: jiff::civil::Date,
    /// Day of build.
    #[schema(value_type = String, format = Date)]
    pub built: jiff::civil::Date,
    /// Usage as stated.
    pub usage: Usage,
    /// Currency of the amounts.
    pub currency: String,
    /// Checks that were done, in the order of work.
    pub findings: Vec<SharedFinding>,
    /// What each point and piece of work costs to put right, the likeliest to be there now first.
    pub bill: Vec<SharedCost>,
    /// Checks that were not done.
    pub open: usize,
}

/// A finding as a seller reads it.
#[derive(Debug, Serialize, ToSchema)]
pub struct SharedFinding {
    /// The check.
    pub name: String,
    /// What came of it.
    pub outcome: String,
    /// Whether something is amiss.
    pub amiss: bool,
    /// A reading with its unit.
    pub reading: Option<f64>,
    /// Unit of the reading.
    pub unit: String,
    /// Photos, by the id of each.
    pub photos: Vec<Uuid>,
}

/// A cost as a seller reads it.
#[derive(Debug, Serialize, ToSchema)]
pub struct SharedCost {
    /// What needs doing.
    pub name: String,
    /// The job; empty for scheduled work.
    pub job: String,
    /// Whether it is scheduled work that is overdue.
    pub due: bool,
    /// Chance that it is there, or due, now.
    pub now: f64,
    /// At least.
    pub low: f64,
    /// At most.
    pub high: f64,
}

/// The chance from which a cost is told to a seller.
const TOLD_FROM: f64 = 0.2;

/// What a link opens now.
#[utoipa::path(tag = "links", params(("token" = String, Path)),
    responses((status = 200, body = SharedView), (status = 404, body = Problem)))]
#[get("/shared/{token}")]
pub async fn open_link(store: web::Data<Store>, token: web::Path<String>) -> Result<web::Json<SharedView>, Problem> {
    let Opened { candidate, audience, report, until } = opened(&store, &token).await?;
    Ok(web::Json(match Audience::of(&audience) {
        Audience::Seller => {
            let whole = view(&store, candidate, Part::Whole).await?;
            SharedView::Seller { until, report: Box::new(SellerReport::new(&whole)) }
        }
        Audience::Customer => {
            let issued =
                report.ok_or_else(|| Problem::not_found("issued report behind this link: ask for a new one"))?;
            let text = store.report(candidate, issued).await?;
            let report = serde_json::from_str(&text).map_err(|_| Problem::not_found("report"))?;
            SharedView::Customer { until, report }
        }
    }))
}

async fn opened(store: &Store, token: &str) -> Result<Opened, Problem> {
    store.open_link(token).await.map_err(|e| match e {
        ticksage_store::StoreError::NotFound(_) => {
            Problem::not_found("page any more: the link was taken back, or its time is over")
        }
        e => e.into(),
    })
}

/// A file that a link shows.
#[utoipa::path(tag = "links", params(("token" = String, Path), ("file" = Uuid, Path)),
    responses((status = 200, content_type = "image/jpeg"), (status = 404, body = Problem)))]
#[get("/shared/{token}/files/{file}")]
pub async fn shared_file(store: web::Data<Store>, path: web::Path<(String, Uuid)>) -> Result<HttpResponse, Problem> {
    let (token, file) = path.into_inner();
    let candidate = opened(&store, &token).await?.candidate;
    let record = store.candidate(candidate).await?;
    // Photos of checks alone: invoices bear names and addresses.
    let shown = record.attachments.into_iter().map(AttachmentView::from).any(|a| a.id == file && a.check.is_some());
    if !shown {
        return Err(Problem::not_found("photo"));
    }
    let Attachment { media, bytes, .. } = store.attachment(candidate, file).await?;
    Ok(HttpResponse::Ok()
        .content_type(media)
        .insert_header(ContentDisposition { disposition: DispositionType::Inline, parameters: Vec::new() })
        .insert_header(("Content-Security-Policy", "default-src 'none'; sandbox"))
        .body(bytes))
}

impl SellerReport {
    fn new(view: &CandidateView) -> Self {
        let (c, a) = (&view.candidate, view.assessment.whole());
        let done = view.checks.iter().flatten().filter_map(|k| {
            let outcome = k.outcome?;
            let finding = c.finding_on(&k.family, &k.check.id);
            Some(SharedFinding {
                name: k.check.name.clone(),
                outcome: k.check.outcomes.get(outcome).map_or_else(String::new, |o| o.label.clone()),
                amiss: outcome > 0,
                reading: finding.and_then(|f| f.reading),
                unit: k.check.measure.as_ref().map_or_else(String::new, |m| m.unit.clone()),
                photos: view
                    .attachments
                    .iter()
                    .filter(|x| x.family.as_deref() == Some(&k.family) && x.check.as_deref() == Some(&k.check.id))
                    .map(|x| x.id)
                    .collect(),
            })
        });
        let points = a.points.iter().filter(|p| p.p_now >= TOLD_FROM).map(|p| SharedCost {
            name: p.name.clone(),
            job: p.job.clone(),
            due: false,
            now: p.p_now,
            low: p.cost.low,
            high: p.cost.high,
        });
        let due = a.due.iter().filter(|d| d.overdue && 1.0 - d.chance_done >= TOLD_FROM).map(|d| SharedCost {
            name: d.name.clone(),
            job: String::new(),
            due: true,
            now: 1.0 - d.chance_done,
            low: d.cost.low,
            high: d.cost.high,
        });
        let mut bill: Vec<SharedCost> = points.chain(due).collect();
        bill.sort_by(|x, y| y.now.total_cmp(&x.now));
        Self {
            title: c.title.clone(),
            as_of: c.as_of,
            built: c.built,
            usage: c.usage,
            currency: c.currency.clone(),
            findings: done.collect(),
            bill,
            open: view.checks.iter().flatten().filter(|k| k.outcome.is_none()).count(),
        }
    }
}

/// Registers the routes.
pub fn routes(config: &mut web::ServiceConfig) {
    config.service(make_link).service(list_links).service(revoke_link).service(open_link).service(shared_file);
}
