//! Is a job consistent?

use crate::base::word::word;
use crate::documents::family::Family;
use crate::documents::job::Job;
use crate::documents::words::Price;
use crate::validation::faults::Faults;

/// Whether a price rises.
pub(crate) fn price(out: &mut Faults, price: Option<Price>, path: &str) {
    if let Some(Price::Between([low, high])) = price {
        out.unless(low <= high, path, "a range of prices must rise");
    }
}

pub(crate) fn job(out: &mut Faults, f: &Family, j: &Job, at: &str) {
    let apart = !j.parts.is_empty() || j.hours.is_some() || j.sundries.is_some();
    out.unless(
        apart || j.price.is_some(),
        at,
        "a job needs a price, or parts, hours or sundries: this one costs nothing",
    );
    price(out, j.price, &format!("{at}/price"));
    let twice = apart && j.price.is_some();
    out.unless(!twice, format!("{at}/price"), "one price, or parts, hours and sundries: it is charged twice");
    for (k, id) in j.renews.iter().enumerate() {
        let known = f.point(id).is_some();
        out.unless(known, format!("{at}/renews/{k}"), format!("no failure point \"{id}\" in this sheet"));
    }
    for (grade, r) in &j.parts {
        let name = word(grade);
        out.unless(
            r.low <= r.likely && r.likely <= r.high,
            format!("{at}/parts/{name}"),
            "low, likely and high must rise",
        );
    }
    if let Some(r) = &j.sundries {
        out.unless(r.low <= r.likely && r.likely <= r.high, format!("{at}/sundries"), "low, likely and high must rise");
    }
    if let Some(h) = &j.hours {
        out.unless(h.low <= h.likely && h.likely <= h.high, format!("{at}/hours"), "low, likely and high must rise");
    }
    for (k, id) in j.access.iter().enumerate() {
        out.unless(
            f.access.iter().any(|g| &g.id == id),
            format!("{at}/access/{k}"),
            format!("no access group \"{id}\" in this sheet"),
        );
    }
}
