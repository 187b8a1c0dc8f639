//! The limit price: the most it is worth to this buyer.
//!
//! docs/METHOD.md, section 11.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::documents::applicability::fit;
use crate::documents::assumptions::Assumptions;
use crate::documents::buyer::Appetite;
use crate::documents::candidate::Candidate;
use crate::documents::family::Family;
use crate::documents::mark::SheetMark;
use crate::documents::paper::{ProvenanceKind, ProvenanceState};
use crate::evidence::odometer_result::Odometer;
use crate::money::expected_bill::Beyond;
use crate::money::reference_price::Reference;

/// What it is worth to this buyer: the going price less what marks take off it, less what it is expected to cost
/// beyond the reference example, less room for bad luck beyond what the market prices in, less what may come out of
/// questions that nobody asked; and never less than scrap nor more than the best of its kind.
#[must_use]
pub fn limit_price(
    candidate: &Candidate,
    families: &[Family],
    reference: Reference,
    odometer: &Odometer,
    bill: Beyond,
    a: &Assumptions,
) -> LimitPrice {
    let asking = candidate.asking.get();
    let marks = marks(candidate, families, odometer, a);
    let left: f64 = marks.iter().map(|m| 1.0 - m.share).product();
    let marked_price = reference.price * left;
    let risk_margin = a.risk_margin(candidate.buyer.appetite) * bill.tail_excess
        - a.risk_margin(Appetite::Even) * bill.reference_tail_excess;
    let unasked = unasked(candidate, families, (asking, reference.price), a);
    let not_asked: f64 = unasked.iter().map(|u| u.chance * u.loss).sum();
    let unbounded = marked_price - bill.excess - risk_margin - not_asked;
    let floor = a.scrap * reference.price;
    let ceiling = match reference.dearest_sorted {
        Some(price) => price.max(marked_price),
        None => a.best_of_kind * marked_price,
    }
    .max(floor);
    let limit = unbounded.clamp(floor, ceiling);
    let bound = if unbounded < floor {
        Some(Bound::Scrap)
    } else if unbounded > ceiling {
        Some(Bound::BestOfItsKind)
    } else {
        None
    };
    LimitPrice {
        asking,
        reference,
        marks,
        marked_price,
        tail_excess: bill.tail_excess,
        risk_margin,
        unasked,
        not_asked,
        unbounded,
        floor,
        ceiling,
        bound,
        limit,
        surplus: limit - asking,
    }
}

/// What is marked on the vehicle and takes something off its going price.
fn marks(candidate: &Candidate, families: &[Family], odometer: &Odometer, a: &Assumptions) -> Vec<PriceMark> {
    use ProvenanceKind as K;
    let marked = |item: K| candidate.provenance_of(item).is_some_and(|p| p.state == ProvenanceState::Marked);
    let settled = |item: K| candidate.provenance_of(item).is_some_and(|p| p.state == ProvenanceState::Settled);
    let clock = marked(K::Mileage) || odometer.blocker(a).is_some();
    let all = [
        (K::WrittenOffStructural, marked(K::WrittenOffStructural) || settled(K::WrittenOffStructural)),
        (K::WrittenOff, marked(K::WrittenOff) || settled(K::WrittenOff)),
        (K::Imported, marked(K::Imported)),
        (K::Mileage, clock),
        (K::Colour, marked(K::Colour)),
        (K::Plate, marked(K::Plate)),
    ];
    let reported = all.into_iter().filter(|(_, holds)| *holds).filter_map(|(item, _)| {
        let (share, name) = mark_share(item, candidate, families, a);
        (share > 0.0).then_some(PriceMark { item: Some(item), name, share })
    });
    // Of the variants, only what is known to hold.
    let known = |f: &Family, m: &SheetMark| fit(&m.applies, f, candidate, a).is_some_and(|f| f.identify.is_empty());
    let of_variants = families.iter().flat_map(|f| {
        let own = f.marks.iter().filter(move |m| m.item.is_none() && known(f, m));
        own.map(|m| PriceMark { item: None, name: Some(m.name.clone()), share: m.takes_off.get() })
    });
    reported.chain(of_variants).collect()
}

/// What a mark takes off the going price, and its name where a sheet prices it: the most that a sheet says, else the
/// usual share.
fn mark_share(
    item: ProvenanceKind,
    candidate: &Candidate,
    families: &[Family],
    a: &Assumptions,
) -> (f64, Option<String>) {
    let usual = match item {
        ProvenanceKind::WrittenOffStructural => a.mark_structural,
        ProvenanceKind::WrittenOff => a.mark_written_off,
        ProvenanceKind::Imported => a.mark_imported,
        ProvenanceKind::Mileage => a.mark_clock,
        _ => 0.0,
    };
    let concerns =
        |f: &Family, m: &SheetMark| fit(&m.applies, f, candidate, a).is_some_and(|fit| fit.share >= a.there_now);
    let said = families.iter().flat_map(|f| f.marks.iter().filter(move |m| m.item == Some(item) && concerns(f, m)));
    let most = said.max_by(|x, y| x.takes_off.get().total_cmp(&y.takes_off.get()));
    most.map_or((usual, None), |m| (m.takes_off.get(), Some(m.name.clone())))
}

/// Items of the history report that nobody asked, with the chance that they are marked and what would be lost.
fn unasked(candidate: &Candidate, families: &[Family], (asking, price): (f64, f64), a: &Assumptions) -> Vec<Unasked> {
    use ProvenanceKind as K;
    let mark_share = |item: K| mark_share(item, candidate, families, a).0;
    let all = [
        (K::Stolen, a.unasked_stolen, asking),
        (K::Scrapped, a.unasked_scrapped, asking),
        (K::WrittenOffStructural, a.unasked_structural, mark_share(K::WrittenOffStructural) * price),
        (K::WrittenOff, a.unasked_written_off, mark_share(K::WrittenOff) * price),
        (K::Finance, a.unasked_finance, a.loss_finance * asking),
        (K::ThirdParty, a.unasked_third_party, a.loss_third_party * asking),
        (K::Mileage, a.unasked_mileage, mark_share(K::Mileage) * price),
    ];
    let open = |item: K| candidate.provenance_of(item).is_none_or(|p| p.state == ProvenanceState::NotAsked);
    let items = all.into_iter().filter(|(item, ..)| open(*item));
    items.map(|(item, chance, loss)| Unasked { item, chance, loss }).collect()
}

/// Something marked on the vehicle that takes a share off its going price.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PriceMark {
    /// Which item of the history report; none for what a sheet says of the variant.
    pub item: Option<ProvenanceKind>,
    /// What a sheet calls it, where a sheet prices it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// Share of the price, 0 to 1.
    pub share: f64,
}

/// An item of the history report that nobody asked.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Unasked {
    /// Which.
    pub item: ProvenanceKind,
    /// Chance that it is marked.
    pub chance: f64,
    /// What would be lost if it is.
    pub loss: f64,
}

/// What holds the limit price.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Bound {
    /// It is never worth less than its scrap.
    Scrap,
    /// Nobody pays more than the best of its kind costs.
    BestOfItsKind,
}

/// Worth and limit price, units of the currency.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LimitPrice {
    /// Asked.
    pub asking: f64,
    /// The going price.
    pub reference: Reference,
    /// What is marked on it and takes something off.
    pub marks: Vec<PriceMark>,
    /// The going price with that taken off.
    pub marked_price: f64,
    /// How far the mean of the dearest tenth of futures lies above the mean of all.
    pub tail_excess: f64,
    /// What is held back for that, by the buyer's appetite for risk, beyond what the market holds back for the
    /// reference example.
    pub risk_margin: f64,
    /// What nobody asked of the history report.
    pub unasked: Vec<Unasked>,
    /// The expected loss of that.
    pub not_asked: f64,
    /// What it is worth before the bounds.
    pub unbounded: f64,
    /// Scrap.
    pub floor: f64,
    /// What the best of its kind costs.
    pub ceiling: f64,
    /// Which of the two holds the limit price.
    pub bound: Option<Bound>,
    /// The most it is worth to this buyer.
    pub limit: f64,
    /// Limit less asking.
    pub surplus: f64,
}

impl LimitPrice {
    /// The limit price were the bill, or what nobody asked, dearer by something.
    #[must_use]
    pub fn with_more(&self, change: f64) -> f64 {
        (self.unbounded - change).clamp(self.floor, self.ceiling)
    }
}
