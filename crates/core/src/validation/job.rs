//! Is a job consistent?

use crate::base::word::word;
use crate::documents::family::Family;
use crate::documents::job::Job;
use crate::validation::faults::Faults;

pub(crate) fn job(out: &mut Faults, f: &Family, j: &Job, at: &str) {
    let costs = !j.parts.is_empty() || j.hours.is_some() || j.sundries.is_some();
    out.unless(costs, at, "a job needs parts, hours or sundries: this one costs nothing");
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
