//! The constants of the method in one table, each with its reason and its kind.
//!
//! Every result names the table it used.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// On what ground a constant stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Ground {
    /// A published source.
    Published,
    /// Common practice, no published source.
    CommonPractice,
    /// Our judgement.
    Judgement,
}

/// One row of the table, for showing.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct AssumptionRow {
    /// Name.
    pub key: String,
    /// Value, in the unit that the reason states.
    pub value: f64,
    /// Why this value.
    pub reason: String,
    /// On what ground.
    pub ground: Ground,
}

macro_rules! assumptions {
    ($($(#[doc = $reason:literal])+ $key:ident = $value:literal, $ground:ident;)*) => {
        /// The table. Every field's documentation is the reason that is shown beside it.
        #[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
        #[serde(deny_unknown_fields)]
        pub struct Assumptions {
            /// Name of the table.
            pub table: String,
            $($(#[doc = $reason])+ pub $key: f64,)*
        }

        impl Default for Assumptions {
            fn default() -> Self {
                Self { table: "ticksage-defaults/2".to_owned(), $($key: $value,)* }
            }
        }

        impl Assumptions {
            /// Every constant with its reason and ground.
            #[must_use]
            pub fn rows(&self) -> Vec<AssumptionRow> {
                vec![$(AssumptionRow {
                    key: stringify!($key).to_owned(),
                    value: self.$key,
                    reason: concat!($($reason),+).trim().to_owned(),
                    ground: Ground::$ground,
                },)*]
            }
        }
    };
}

assumptions! {
    /// Share failed at the lower figure of "between A and B": people state ranges too narrow.
    p_between_low = 0.20, Judgement;
    /// Share failed at the upper figure of "between A and B": people state ranges too narrow.
    p_between_high = 0.80, Judgement;
    /// Share failed at A in "from about A on".
    p_from_about = 0.10, Judgement;
    /// Share failed at A in "about A".
    p_about = 0.50, Judgement;
    /// Share failed at A in "rarely beyond A".
    p_rarely_beyond = 0.90, Judgement;
    /// Share failed at A in "at least A".
    p_at_least = 0.05, Judgement;
    /// Weibull shape of parts made wrong: they fail early or not.
    shape_infant = 0.8, Published;
    /// Weibull shape of failures that come at any time alike.
    shape_random = 1.0, Published;
    /// Weibull shape of what is rubbed away.
    shape_wear = 3.0, Judgement;
    /// Weibull shape of what hardens, corrodes or perishes.
    shape_ageing = 3.5, Judgement;
    /// Weibull shape of what cracks after many cycles.
    shape_fatigue = 5.0, Judgement;
    /// Share meant by "rare".
    share_rare = 0.03, Judgement;
    /// Share meant by "occasional".
    share_occasional = 0.10, Judgement;
    /// Share meant by "common".
    share_common = 0.35, Judgement;
    /// Share meant by "most".
    share_most = 0.70, Judgement;
    /// Share meant by "all".
    share_all = 1.0, Judgement;
    /// Share of the family that has an unknown fact, where the sheet gives none.
    share_unknown_fact = 0.5, Judgement;
    /// How hard a tune that was set up on a bench strains, against one of which nothing is known.
    tune_documented = 0.6, Judgement;
    /// The same of a box or a file of unknown origin.
    tune_rough = 1.6, Judgement;
    /// How many times as hard power beyond what standard parts bear strains as power below it.
    tune_beyond = 4.0, Judgement;
    /// Hardest strain that is counted; 1 is a tune to the limit of which nothing is known.
    tune_most = 6.0, Judgement;
    /// Least life factor that use and care together may give.
    life_factor_min = 0.25, Judgement;
    /// Greatest life factor that use and care together may give.
    life_factor_max = 2.5, Judgement;
    /// Life under poor care of what depends on upkeep.
    care_poor = 0.75, Judgement;
    /// Life under good care of what depends on upkeep.
    care_good = 1.15, Judgement;
    /// How many times as long as usual owners live with a fault under poor care.
    patience_poor = 4.0, Judgement;
    /// How many times as long as usual owners live with a fault under good care.
    patience_good = 0.5, Judgement;
    /// Weight of evidenced services in the care index.
    care_weight_services = 0.5, Judgement;
    /// Weight of the service interval kept in the care index.
    care_weight_interval = 0.2, Judgement;
    /// Weight of advisories put right in the care index.
    care_weight_advisories = 0.2, Judgement;
    /// Weight of the condition of what the owner can see in the care index.
    care_weight_condition = 0.1, Judgement;
    /// Care index where nothing is known.
    care_unknown = 0.5, Judgement;
    /// Life of an original part against the first one.
    grade_original = 1.0, Judgement;
    /// Life of an equivalent part against the first one.
    grade_equivalent = 0.8, CommonPractice;
    /// Life of a used part against the first one: 30–50 against 100 thousand km.
    grade_used = 0.4, CommonPractice;
    /// Life of a part of unknown grade against the first one.
    grade_unknown = 0.8, Judgement;
    /// Belief in an invoice that names the part.
    credit_invoice_naming_part = 0.97, Judgement;
    /// Belief in an invoice.
    credit_invoice = 0.90, Judgement;
    /// Belief in a stamp: easily had, and does not say what was done.
    credit_stamp = 0.60, Judgement;
    /// Belief in the owner's dated log or a mark on the part.
    credit_owner_log = 0.70, Judgement;
    /// Belief in the seller's word.
    credit_sellers_word = 0.30, Judgement;
    /// Chance that a repair left a paper when invoices cover the whole life.
    completeness_full = 0.9, Judgement;
    /// Chance that a repair left a paper when no invoice is known.
    completeness_least = 0.1, Judgement;
    /// Hours of an independent workshop, parts included, above which a job is big: its paper is shown.
    big_job_hours = 10.0, Judgement;
    /// Of the repairs of a big job that the papers would have missed, the share that leaves a paper all the same.
    big_job_paper = 0.6, Judgement;
    /// Hours of an independent workshop above which a job is very big: nobody hides a rebuilt engine's invoice.
    very_big_job_hours = 25.0, Judgement;
    /// Of the repairs of a very big job that the papers would have missed, the share that leaves a paper all the same.
    very_big_job_paper = 0.85, Judgement;
    /// How likely a sound part is renewed, against one that has failed, where the paper does not say why.
    renewed_sound = 0.05, Judgement;
    /// The same for a part that scheduled work renews.
    renewed_sound_scheduled = 0.5, Judgement;
    /// Further services, half of them evidenced, that are counted in: one invoice does not make a cared-for car.
    care_services_added = 3.0, Judgement;
    /// Chance that an oil change which came due was kept, where no paper says so.
    kept_oil = 0.6, Judgement;
    /// The same of a job of more than some hours.
    kept_big = 0.4, Judgement;
    /// Hours of an independent workshop, parts included, above which scheduled work is a big job.
    kept_big_hours = 4.0, Judgement;
    /// The same of all other scheduled work.
    kept_other = 0.5, Judgement;
    /// What poor care makes of the odds that scheduled work was kept.
    kept_odds_poor = 0.5, Judgement;
    /// What good care makes of the odds that scheduled work was kept.
    kept_odds_good = 2.0, Judgement;
    /// Usage before an invoice for which it speaks, in km: about a service interval.
    invoice_covers_km = 15_000.0, Judgement;
    /// Usage before an invoice for which it speaks, in engine hours.
    invoice_covers_hours = 250.0, Judgement;
    /// Statute miles read as kilometres are known by a ratio this near to 1.609.
    miles_ratio = 0.03, Judgement;
    /// Usage rates beyond this many robust deviations from the vehicle's own median are pointed out.
    rate_deviations = 3.5, Published;
    /// Least spread of a vehicle's usage rates that is assumed, as a share of their median: nobody drives like a clock.
    rate_spread_least = 0.10, Judgement;
    /// Readings closer together than this many days tell no rate.
    rate_days = 30.0, Judgement;
    /// Rates needed before one of them can be called outlying.
    rate_count = 4.0, Judgement;
    /// How many times the usual rate a clock that was set back may hide, and one that went round may have run.
    rate_unseen = 2.0, Judgement;
    /// How many times the usual rate a reading jumps at, at the least, to be taken for a slip.
    rate_jump = 3.0, Judgement;
    /// Months between two readings beyond which a gap is pointed out.
    gap_months = 18.0, Judgement;
    /// A reading this little below an earlier one is rounding or a slip, in km.
    reading_slack_km = 200.0, Judgement;
    /// A reading this little below an earlier one is rounding or a slip, in engine hours.
    reading_slack_hours = 5.0, Judgement;
    /// Share of today's usage that readings may leave open before it must be proved first.
    open_usage = 0.10, Judgement;
    /// Share of today's usage that a gap or a slow year may hide before it is more than a note.
    hidden_usage = 0.05, Judgement;
    /// Usage a year that is thought possible where a vehicle's own readings tell none, in km.
    rate_possible_km = 40_000.0, Judgement;
    /// Usage a year that is thought possible where an engine's own readings tell none, in hours.
    rate_possible_hours = 1_500.0, Judgement;
    /// Chance, before it is asked, that a seller can prove what is asked for.
    answer_yes = 0.5, Judgement;
    /// Price of an hour of the owner's own work.
    rate_own = 15.0, Judgement;
    /// Price of an hour at an independent workshop.
    rate_independent = 60.0, Judgement;
    /// Price of an hour at a dealer.
    rate_dealer = 110.0, Judgement;
    /// Price of an hour at a specialist of the family.
    rate_specialist = 85.0, Judgement;
    /// Price of an hour of the person who looks at the vehicle.
    rate_person = 20.0, Judgement;
    /// Recovery and the days without it, when something fails on the road.
    recovery = 200.0, Judgement;
    /// Usage below which nobody drives on with a fault, in km: it leaves one at the roadside.
    strands_km = 1_000.0, Judgement;
    /// The same in engine hours.
    strands_hours = 10.0, Judgement;
    /// What a vehicle is worth as scrap, as a share of the going price.
    scrap = 0.05, Judgement;
    /// Jobs this near to each other are done at one visit, in km.
    visit_km = 5_000.0, Judgement;
    /// Jobs this near to each other are done at one visit, in engine hours.
    visit_hours = 100.0, Judgement;
    /// Chance that a fault is there now at or above which it counts as there, and is put right at purchase.
    there_now = 0.5, Judgement;
    /// Chance that a fault that can hurt someone is there now at or above which it is put right at purchase.
    hurts_now = 0.2, Judgement;
    /// Chance within the plan at or above which those who renew up front do so.
    up_front = 0.25, Judgement;
    /// Chance within the plan at or above which a point is budgeted for: more likely than not.
    budgeted = 0.5, Judgement;
    /// Chance within the plan at or above which a point is watched.
    watched = 0.05, Judgement;
    /// Chance of having been done below which scheduled work that is overdue is carried out at purchase.
    overdue_done = 0.5, Judgement;
    /// Usage before its interval within which scheduled work is nearly due, in km.
    near_km = 10_000.0, Judgement;
    /// Usage before its interval within which scheduled work is nearly due, in engine hours.
    near_hours = 200.0, Judgement;
    /// How far below what it is worth an opening offer goes at most, as a share of it.
    opening_margin = 0.10, Judgement;
    /// Share of the reference price beyond the limit at which no bargaining will bridge the gap.
    bridge = 0.25, Judgement;
    /// Room left for bad luck by a bold buyer, as a share of the worst tenth's excess.
    risk_margin_bold = 0.0, Judgement;
    /// Room left for bad luck by an even buyer.
    risk_margin_even = 0.25, Judgement;
    /// Room left for bad luck by a careful buyer.
    risk_margin_careful = 0.5, Judgement;
    /// Comparables with a known age needed for a price by usage and age.
    surface_least = 6.0, Judgement;
    /// Different ages among them needed for it.
    surface_ages = 3.0, Judgement;
    /// Correlation of usage and age from which they cannot be told apart.
    surface_correlation = 0.95, Judgement;
    /// What the best of its kind costs where no well-sorted one is known, against the going price.
    best_of_kind = 1.15, Judgement;
    /// What a settled structural write-off takes off the going price.
    mark_structural = 0.30, Judgement;
    /// What another write-off takes off the going price.
    mark_written_off = 0.15, Judgement;
    /// What an import without papers takes off the going price.
    mark_imported = 0.10, Judgement;
    /// What a clock that nobody explains takes off the going price.
    mark_clock = 0.20, Judgement;
    /// Chance that a vehicle offered privately is reported stolen.
    unasked_stolen = 0.003, Judgement;
    /// Chance that it is marked as scrapped.
    unasked_scrapped = 0.003, Judgement;
    /// Chance that it was written off with structural damage.
    unasked_structural = 0.03, Judgement;
    /// Chance that it was written off without.
    unasked_written_off = 0.04, Judgement;
    /// Chance that finance is outstanding.
    unasked_finance = 0.08, Judgement;
    /// Chance that another party has an interest in it.
    unasked_third_party = 0.02, Judgement;
    /// Chance that a mileage discrepancy is on record.
    unasked_mileage = 0.06, Judgement;
    /// What is lost where finance is outstanding, as a share of the asking price: the mark is often stale.
    loss_finance = 0.25, Judgement;
    /// What is lost where another party has an interest in it, as a share of the asking price.
    loss_third_party = 0.10, Judgement;
    /// What a history report costs, in hours of an independent workshop.
    report_hours = 0.3, Judgement;
    /// Minutes that it takes to ask for a history report.
    report_minutes = 10.0, Judgement;
    /// What a check must be worth beyond its cost to be waited for, as a share of the going price.
    worth_waiting = 0.01, Judgement;
    /// Least money that is given as a reason, as a share of the going price.
    reason_money = 0.01, Judgement;
    /// Chance that something which can hurt someone is there or comes unannounced, from which it weighs.
    hurts_likely = 0.05, Judgement;
    /// The same from which it is a dangerous defect.
    hurts_surely = 0.50, Judgement;
    /// Belief in an entry at or above which scheduled work counts as done for the mark on the strip.
    believed = 0.5, Judgement;
    /// Belief in a renewal at or above which its part counts as proved renewed and needs no look.
    proved = 0.85, Judgement;
    /// How far a service that was due and is not evidenced counts as done while not every paper was seen.
    service_unseen = 0.5, Judgement;
    /// Chance within the plan at or above which the seller is asked when a part was renewed.
    asked_about = 0.10, Judgement;
    /// Severity of a point: worst cost as a share of the reference price, up to which it is the lowest.
    severity_low = 0.02, Judgement;
    /// Severity of a point: worst cost as a share of the reference price, up to which it is low.
    severity_middle = 0.08, Judgement;
    /// Severity of a point: worst cost as a share of the reference price, from which it is the highest.
    severity_high = 0.25, Judgement;
    /// Chance within the plan below which a failure is unlikely.
    likelihood_low = 0.05, Judgement;
    /// Chance within the plan from which a failure is likely.
    likelihood_middle = 0.20, Judgement;
    /// Chance within the plan from which a failure is expected.
    likelihood_high = 0.50, Judgement;
    /// Smallest change of a chance that is given as a reason.
    reason_least = 0.01, Judgement;
    /// Smallest change of a chance that is reported as moved.
    moved_least = 0.005, Judgement;
    /// Warm-ups since clear at or below which a memory was wiped lately.
    cleared_warm_ups = 5.0, Judgement;
    /// Distance since clear at or below which a memory was wiped lately, km.
    cleared_km = 100.0, Judgement;
    /// Monitors not run at or above which a memory was wiped lately, unless it was cleared long ago.
    cleared_monitors = 3.0, Judgement;
    /// Warm-ups since clear above which open monitors wait for something else than a first drive.
    cleared_long_ago_warm_ups = 40.0, Judgement;
    /// The same by distance since clear, km.
    cleared_long_ago_km = 500.0, Judgement;
    /// Compression of a rotary engine gained by each rpm of cranking near 250 rpm, kPa: common practice.
    rotary_slope = 1.7, CommonPractice;
    /// What a sign that is its fault's own means on a typical example: the chance that the fault is there or near.
    says_sure = 0.95, Judgement;
    /// What a clear sign means on a typical example.
    says_clear = 0.75, Judgement;
    /// What a sign that hints means on a typical example.
    says_hint = 0.35, Judgement;
    /// Chance that a direct look at the part sees a fault that is not there.
    leak_direct = 0.001, Judgement;
    /// Least chance that a sign comes from something else.
    leak_least = 0.0001, Judgement;
    /// Greatest chance that a sign comes from something else.
    leak_most = 0.3, Judgement;
    /// How often a fault that is there shows a sign that it mostly shows.
    shows_mostly = 0.9, Judgement;
    /// How often a fault that is there shows a sign that half of them show.
    shows_half = 0.6, Judgement;
    /// How often a fault that is there shows a sign that it seldom shows.
    shows_seldom = 0.3, Judgement;
    /// A fault that is coming shows its sign so many times less often than one that is there.
    coming_shows_less = 3.0, Judgement;
    /// How often an outcome that shows a stage of a fault shows the stage that it is in.
    stage_told = 0.8, Judgement;
    /// Kilometres that an engine hour stands for, where a word is meant in kilometres.
    km_an_hour = 50.0, CommonPractice;
    /// Share of failures that end an engine of which something sellable is left, where nobody has said.
    survives_half = 0.5, Judgement;
    /// What putting right a point costs where nobody has said, in hours of an independent workshop.
    unsaid_job_hours = 5.0, Judgement;
    /// What scheduled work costs where nobody has said, in hours of an independent workshop.
    unsaid_work_hours = 1.5, Judgement;
    /// What another engine costs fitted where nobody has said, in hours of an independent workshop.
    unsaid_engine_hours = 70.0, Judgement;
    /// Chance that an unannounced failure ends the engine where somebody says that it does.
    said_ends_engine = 0.6, Judgement;
    /// The same where somebody says that it can.
    said_may_end_engine = 0.2, Judgement;
    /// A point lasts so many times as long where it "hates" a use.
    said_worse = 0.8, Judgement;
    /// The same where a use "kills" it.
    said_much_worse = 0.65, Judgement;
    /// A point lasts so many times as long where a use is said to help it.
    said_better = 1.15, Judgement;
    /// What is tried first costs, where nobody has said, in hours of an independent workshop.
    first_try_hours = 1.5, Judgement;
    /// Chance that what is tried first suffices, where nobody has said.
    first_try_suffices = 0.4, Judgement;
    /// What a middling car or van has run, where nobody has said, in km.
    middling_km = 110_000.0, Judgement;
    /// What a middling motorcycle has run, in km.
    middling_motorcycle_km = 25_000.0, Judgement;
    /// What a middling engine has run, in engine hours.
    middling_hours = 2_500.0, Judgement;
    /// Usage a year of a car or van where nobody has said, in km.
    pace_km = 15_000.0, Judgement;
    /// Usage a year of a motorcycle, in km.
    pace_motorcycle_km = 6_000.0, Judgement;
    /// Usage a year of an engine, in engine hours.
    pace_hours = 250.0, Judgement;
    /// What a car or van out of warranty costs to keep going a year, at least, in hours of an independent workshop.
    usual_car_low = 8.0, CommonPractice;
    /// The same at most.
    usual_car_high = 25.0, CommonPractice;
    /// What a motorcycle costs to keep going a year, at least, in hours of an independent workshop.
    usual_motorcycle_low = 4.0, CommonPractice;
    /// The same at most.
    usual_motorcycle_high = 14.0, CommonPractice;
    /// What an engine with what it drives costs to keep going a year, at least, in hours of an independent workshop.
    usual_engine_low = 3.0, CommonPractice;
    /// The same at most.
    usual_engine_high = 18.0, CommonPractice;
    /// What a young example has run, against a middling one.
    sanity_young = 0.5, Judgement;
    /// What a much used example has run, against a middling one.
    sanity_old = 1.6, Judgement;
    /// How far beyond the usual a typical example may cost before it is pointed out: the usual is a round figure.
    sanity_slack = 0.05, Judgement;
    /// Share of the going price below which an advert is asked why.
    too_cheap = 0.6, Judgement;
    /// What a middling used vehicle goes for, in hours of an independent workshop.
    middling_price_hours = 120.0, Judgement;
    /// Usage for which owners live with a fault for days, in km.
    lived_with_days = 500.0, Judgement;
    /// Usage for which owners live with a fault for weeks, in km.
    lived_with_weeks = 1_500.0, Judgement;
    /// Usage for which owners live with a fault for months, in km.
    lived_with_months = 7_500.0, Judgement;
    /// Usage for which owners live with a fault for a year, in km.
    lived_with_a_year = 17_500.0, Judgement;
    /// Usage for which owners live with a fault for years, in km.
    lived_with_for_years = 60_000.0, Judgement;
    /// Usage between the first sign and the failure of what gives short notice, in km.
    notice_short = 2_000.0, Judgement;
    /// Usage between the first sign and the failure of what gives long notice, in km.
    notice_long = 8_000.0, Judgement;
    /// Usage between the first sign and the failure of what gives notice for years, in km.
    notice_years = 30_000.0, Judgement;
    /// Chance that a failure which most notice is caught in time.
    noticed_most = 0.8, Judgement;
    /// Chance that a failure which half notice is caught in time.
    noticed_half = 0.5, Judgement;
    /// Chance that a failure which those who look notice is caught in time.
    noticed_looking = 0.25, Judgement;
    /// What one price may come to at the least, against the figure.
    price_low = 0.8, Judgement;
    /// What one price may come to at the most, against the figure.
    price_high = 1.4, Judgement;
    /// Largest number of joint states counted exactly behind findings that link several points.
    joint_states = 200_000.0, Judgement;
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_constant_has_a_reason() {
        let rows = Assumptions::default().rows();
        assert!(rows.len() > 40);
        assert!(rows.iter().all(|r| r.reason.len() > 15));
    }
}
