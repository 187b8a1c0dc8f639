//! Routes of narrowing the field: which builds to look for, and adverts by the hundred.

use std::collections::{BTreeMap, BTreeSet, VecDeque};
use std::hash::{DefaultHasher, Hash, Hasher};
use std::sync::{Arc, LazyLock, Mutex};

use actix_web::{post, web};
use serde::{Deserialize, Serialize};
use ticksage_core::assess::judge::assess_within;
use ticksage_core::base::budget::Budget;
use ticksage_core::base::units::Usage;
use ticksage_core::documents::buyer::{Buyer, Plan};
use ticksage_core::documents::care_level::CareLevel;
use ticksage_core::documents::family::FamilyKind;
use ticksage_core::documents::pricing::NO_CURRENCY;
use ticksage_core::formats::advert_table::as_lines;
use ticksage_core::formats::pattern_library::library;
use ticksage_core::formats::talk_tables::tables;
use ticksage_core::inference::depth::Depth;
use ticksage_core::questions::narrowing::{Narrowed, Wanted, narrowed};
use ticksage_core::questions::ranking::Ranked;
use ticksage_core::questions::screening::{CELLS, List, Listed, Screening, apart};
use ticksage_core::{Candidate, Family};
use ticksage_store::Store;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::aside::aside;
use crate::body::Document;
use crate::judging::{compute, table};
use crate::problem::Problem;
use crate::routes::built::{currency_of, id_of};

/// The longest list, in characters.
const LONGEST: usize = 4_000_000;

/// The most lines of a list.
const LINES: usize = 20_000;

/// The most adverts judged in one answer.
const AT_ONCE: usize = 200;

/// A list of adverts, and what is meant to be done with one of them.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AdvertList {
    /// An advert a line, as copied from anywhere; a table under a heading; or JSON lines.
    #[schema(max_length = 4000000)]
    pub text: String,
    /// Three-letter code of the currency of every price.
    #[schema(pattern = "^[A-Z]{3}$")]
    pub currency: String,
    /// What one unit of another currency comes to in this one.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub rates: BTreeMap<String, f64>,
    /// Years of keeping it, 1 to 15.
    #[schema(minimum = 1, maximum = 15)]
    pub years: u8,
    /// Kilometres a year.
    #[schema(minimum = 100, maximum = 200000)]
    pub km_a_year: u32,
}

/// A line of a list, read.
#[derive(Debug, Serialize, ToSchema)]
pub struct AdvertLine {
    /// The line, from 1.
    pub line: usize,
    /// Its first words.
    pub title: String,
    /// What is asked.
    pub asking: Option<f64>,
    /// What it has run.
    pub usage: Option<Usage>,
    /// The line that it repeats.
    pub same_as: Option<usize>,
    /// What was asked in an earlier line of the same.
    pub was: Option<f64>,
    /// What is missing to judge it.
    pub missing: Vec<String>,
}

/// A line that stands apart: what it offers is sold as broken, or passes no test.
#[derive(Debug, Serialize, ToSchema)]
pub struct AdvertApart {
    /// The line, from 1.
    pub line: usize,
    /// The words that say so.
    pub said: String,
}

/// A list, read.
#[derive(Debug, Serialize, ToSchema)]
pub struct AdvertsRead {
    /// Its lines.
    pub lines: Vec<AdvertLine>,
    /// The lines that offer something broken: they are not judged, and set nobody's price.
    pub apart: Vec<AdvertApart>,
    /// The lines that can be judged, from 1, in the order that takes the least work.
    pub open: Vec<usize>,
    /// Other currencies that prices stand in and no rate was given for.
    pub foreign: Vec<String>,
}

/// Lines of a list to judge.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AdvertsAsked {
    /// The list.
    pub list: AdvertList,
    /// The lines, from 1.
    #[schema(min_items = 1, max_items = 200)]
    pub lines: Vec<usize>,
}

/// One line of a list for the yard.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AdvertTaken {
    /// The list.
    pub list: AdvertList,
    /// The line, from 1.
    pub line: usize,
}

/// A candidate made from an advert.
#[derive(Debug, Serialize, ToSchema)]
pub struct AdvertInYard {
    /// The candidate.
    pub candidate: Uuid,
}

/// A list as it was read, with the sheets that it was read with.
struct Kept {
    key: u64,
    families: Vec<Family>,
    listed: List,
}

/// The lists read last: a batch of judgements does not read its list again.
static KEPT: LazyLock<Mutex<VecDeque<Arc<Kept>>>> = LazyLock::new(|| Mutex::new(VecDeque::new()));

fn checked(list: &AdvertList) -> Result<(), Problem> {
    if list.text.chars().count() > LONGEST || list.text.lines().count() > LINES {
        return Err(Problem::fault("/list/text", &format!("more than {LINES} lines: paste it in parts")));
    }
    if list.currency.len() != 3 || !list.currency.bytes().all(|b| b.is_ascii_uppercase()) {
        return Err(Problem::fault("/list/currency", "a three-letter code in capitals"));
    }
    if let Some((code, _)) = list.rates.iter().find(|(_, rate)| !(1e-6..=1e6).contains(*rate)) {
        return Err(Problem::fault(&format!("/list/rates/{code}"), "a rate above nothing"));
    }
    if !(1..=15).contains(&list.years) {
        return Err(Problem::fault("/list/years", "1 to 15 years"));
    }
    if !(100..=200_000).contains(&list.km_a_year) {
        return Err(Problem::fault("/list/km_a_year", "100 to 200 000 km a year"));
    }
    Ok(())
}

fn screening<'a>(list: &AdvertList, families: &'a [Family]) -> Screening<'a> {
    Screening {
        families,
        library: library(),
        tables: tables(),
        currency: list.currency.clone(),
        rates: list.rates.clone(),
        plan: plan(list),
        buyer: Buyer::default(),
        today: jiff::ZonedDateTime::now().date(),
    }
}

fn plan(list: &AdvertList) -> Plan {
    use ticksage_core::base::units::UsageUnit;
    Plan {
        years: f64::from(list.years),
        usage_a_year: Usage { value: f64::from(list.km_a_year), unit: UsageUnit::Km },
        use_: std::collections::BTreeMap::new(),
        care: CareLevel::default(),
    }
}

/// The list, read: kept from the last question, or now.
async fn read(store: &Store, list: &AdvertList) -> Result<Arc<Kept>, Problem> {
    checked(list)?;
    let families = store.families().await?;
    let mut hasher = DefaultHasher::new();
    serde_json::to_string(list).unwrap_or_default().hash(&mut hasher);
    families.iter().for_each(|f| (&f.id, f.version).hash(&mut hasher));
    let key = hasher.finish();
    let lists = || KEPT.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
    let found = lists().iter().find(|k| k.key == key).cloned();
    if let Some(kept) = found {
        return Ok(kept);
    }
    let list = list.clone();
    let kept = aside(move || {
        let listed = screening(&list, &families).read(&as_lines(&list.text));
        Ok::<_, Problem>(Arc::new(Kept { key, families, listed }))
    })
    .await?;
    let mut lists = lists();
    lists.push_front(Arc::clone(&kept));
    lists.truncate(3);
    Ok(kept)
}

/// Reads a list of adverts, a line each: what each says, which repeat another, what is missing. Nothing is stored.
#[utoipa::path(tag = "adverts", request_body = AdvertList,
    responses((status = 200, body = AdvertsRead), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/adverts/list")]
pub async fn read_adverts(
    store: web::Data<Store>,
    Document(list): Document<AdvertList>,
) -> Result<web::Json<AdvertsRead>, Problem> {
    let kept = read(&store, &list).await?;
    let open = kept.listed.to_judge().into_iter().map(|at| kept.listed[at].line).collect();
    let lines = kept
        .listed
        .iter()
        .map(|l| AdvertLine {
            line: l.line,
            title: l.reading.title.clone().unwrap_or_default(),
            asking: l.reading.asking.map(|m| m.get()),
            usage: l.reading.usage,
            same_as: l.same_as,
            was: l.was,
            missing: l.missing.clone(),
        })
        .collect();
    let apart =
        apart(&kept.listed).into_iter().map(|(line, said)| AdvertApart { line, said: said.to_owned() }).collect();
    let foreign: BTreeSet<String> = kept
        .listed
        .iter()
        .filter(|l| l.reading.asking.is_some())
        .filter_map(|l| l.reading.currency.clone())
        .filter(|c| *c != list.currency)
        .collect();
    Ok(web::Json(AdvertsRead { lines, apart, open, foreign: foreign.into_iter().collect() }))
}

/// Judges lines of a list beside the others; asked in parts, so that results come as they are made and a list can be
/// left. A line that cannot be judged is left out of the answer.
#[utoipa::path(tag = "adverts", request_body = AdvertsAsked,
    responses((status = 200, body = Vec<Ranked>), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/adverts/judge")]
pub async fn judge_adverts(
    store: web::Data<Store>,
    Document(asked): Document<AdvertsAsked>,
) -> Result<web::Json<Vec<Ranked>>, Problem> {
    if asked.lines.is_empty() || asked.lines.len() > AT_ONCE {
        return Err(Problem::fault("/lines", &format!("1 to {AT_ONCE} lines at once")));
    }
    let kept = read(&store, &asked.list).await?;
    let made = compute(move |budget| {
        let s = screening(&asked.list, &kept.families);
        let runs = |l: &Listed| l.reading.sold_as.apart().is_none();
        let wanted = kept.listed.iter().enumerate().filter(|(_, l)| asked.lines.contains(&l.line) && runs(l));
        let mut out = Vec::new();
        for (at, _) in wanted {
            match s.judge(&kept.listed, at, &table(), &budget.fresh().in_cells(CELLS)) {
                Ok(ranked) => out.push(ranked),
                Err(ticksage_core::AssessError::Faults(_)) => {}
                Err(e) => return Err(e),
            }
        }
        Ok(out)
    });
    Ok(web::Json(made.await?))
}

/// Takes a line of a list to the yard: a candidate with the adverts beside it as its market. Where no sheet names it,
/// one is made from how it is built.
#[utoipa::path(tag = "adverts", request_body = AdvertTaken,
    responses((status = 200, body = AdvertInYard), (status = 404, body = Problem), (status = 413, body = Problem),
        (status = 422, body = Problem)))]
#[post("/adverts/take")]
pub async fn take_advert(
    store: web::Data<Store>,
    Document(asked): Document<AdvertTaken>,
) -> Result<web::Json<AdvertInYard>, Problem> {
    let kept = read(&store, &asked.list).await?;
    let Some(at) = kept.listed.iter().position(|l| l.line == asked.line) else {
        return Err(Problem::fault("/line", "the list has no such line"));
    };
    let s = screening(&asked.list, &kept.families);
    let Some((mut candidate, _)) = s.candidate(&kept.listed, at) else {
        let missing = kept.listed[at].missing.join(", ");
        return Err(Problem::fault("/line", &format!("it cannot be judged yet: {missing} missing")));
    };
    if candidate.title.trim().is_empty() {
        candidate.title = format!("Advert of line {}", asked.line);
    }
    let taken: Vec<String> = kept.families.iter().map(|f| f.id.clone()).collect();
    let mut families = Vec::clone(&kept.listed[at].sheets);
    for f in families.iter_mut().filter(|f| !taken.contains(&f.id)) {
        // Made from how it is built: a sheet of its own, used again by the next of the same construction.
        let same = kept.families.iter().find(|k| k.name == f.name && k.built_as == f.built_as);
        let (id, version) = same.map_or_else(|| (id_of(&f.name, &taken), 1), |k| (k.id.clone(), k.version));
        judged_by(&mut candidate, &f.id, &id, version);
        (f.id, f.version) = (id, version);
        if same.is_none() {
            store.put_family(f).await?;
        }
    }
    // What makes no sense is said before anything is stored.
    let tried = candidate.clone();
    compute(move |budget| assess_within(&tried, &families, &table(), Depth::Lean, budget)).await?;
    Ok(web::Json(AdvertInYard { candidate: store.create_candidate(&candidate).await? }))
}

/// Which of a family to look for.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NarrowAsked {
    /// The family, and further sheets that judge it together (a body for an engine).
    #[schema(min_items = 1, max_items = 4)]
    pub families: Vec<String>,
    /// The yard's currency, for a sheet without one.
    #[serde(default)]
    pub currency: Option<String>,
    /// What one means to buy.
    pub wanted: Wanted,
}

/// Every variant and build stretch of a family with what a typical example costs, and what changes between them.
#[utoipa::path(tag = "adverts", request_body = NarrowAsked,
    responses((status = 200, body = Narrowed), (status = 404, body = Problem), (status = 413, body = Problem),
        (status = 422, body = Problem)))]
#[post("/narrow")]
pub async fn narrow(
    store: web::Data<Store>,
    Document(asked): Document<NarrowAsked>,
) -> Result<web::Json<Narrowed>, Problem> {
    let w = &asked.wanted;
    let within = |x: f64, least: f64, most: f64| x.is_finite() && (least..=most).contains(&x);
    if !within(w.years, 0.5, 15.0) {
        return Err(Problem::fault("/wanted/years", "0.5 to 15 years"));
    }
    if !within(w.usage_a_year, 10.0, 200_000.0) {
        return Err(Problem::fault("/wanted/usage_a_year", "10 to 200 000 a year"));
    }
    if w.usage.is_some_and(|u| !within(u, 1.0, 2_000_000.0)) {
        return Err(Problem::fault("/wanted/usage", "1 to 2 000 000"));
    }
    if w.budget.is_some_and(|b| !within(b, 50.0, 10_000_000.0)) {
        return Err(Problem::fault("/wanted/budget", "50 to 10 000 000"));
    }
    if asked.families.is_empty() || asked.families.len() > 4 {
        return Err(Problem::fault("/families", "one to four sheets"));
    }
    let mut families = Vec::new();
    for id in &asked.families {
        families.push(store.family(id, None).await?);
    }
    if families.iter().any(|f| f.clock != families[0].clock) {
        return Err(Problem::fault("/families", "sheets on one clock: kilometres, or engine hours"));
    }
    // A written sheet says nothing of tyres and brakes: the general checks do.
    let whole = families.iter().any(|f| f.built_as.as_ref().is_some_and(|b| b.patterns.is_empty()));
    let kind = match families[0].kind {
        FamilyKind::Motorcycle => FamilyKind::BaseMotorcycle,
        _ if families.iter().any(|f| f.kind == FamilyKind::Body) => FamilyKind::BaseVehicle,
        _ => FamilyKind::BaseEngine,
    };
    if !whole {
        let clock = families[0].clock;
        let base = store.families().await?.into_iter().find(|f| f.kind == kind && f.clock == clock);
        families.extend(base.filter(|b| families.iter().all(|f| f.id != b.id)));
    }
    let known = families.iter().map(|f| currency_of(f, asked.currency.as_deref())).find(|c| c != NO_CURRENCY);
    let currency = known.or(asked.currency).unwrap_or_else(|| "EUR".to_owned());
    let today = jiff::ZonedDateTime::now().date();
    let made = compute(move |budget: &Budget<'_>| {
        narrowed(&families, &asked.wanted, &Buyer::default(), &currency, today, &table(), budget)
    });
    Ok(web::Json(made.await?))
}

/// Registers the routes.
pub fn routes(config: &mut web::ServiceConfig) {
    config.service(read_adverts).service(judge_adverts).service(take_advert).service(narrow);
}

/// Puts a sheet's id in place of the one that it had while the list was judged, in all that an advert says.
fn judged_by(candidate: &mut Candidate, was: &str, id: &str, version: u32) {
    let rename = |family: &mut String| {
        if family == was {
            id.clone_into(family);
        }
    };
    candidate.families.iter_mut().filter(|r| r.id == was).for_each(|r| (r.id, r.version) = (id.to_owned(), version));
    candidate.findings.iter_mut().for_each(|f| rename(&mut f.family));
    for entry in &mut candidate.ledger {
        entry.renews.iter_mut().for_each(|at| rename(&mut at.family));
        entry.performs.iter_mut().for_each(|at| rename(&mut at.family));
    }
}
