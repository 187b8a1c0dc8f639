//! What the table assumes of a mechanism, a word, a grade, a piece of evidence.

use crate::documents::assumptions::Assumptions;
use crate::documents::claim::{Mechanism, ShareWord};
use crate::documents::failure_point::FailurePoint;
use crate::documents::job::PartGrade;
use crate::documents::paper::Evidence;

impl Assumptions {
    /// Weibull shape of a mechanism.
    #[must_use]
    pub fn shape(&self, mechanism: Mechanism) -> f64 {
        match mechanism {
            Mechanism::Infant => self.shape_infant,
            Mechanism::Random => self.shape_random,
            Mechanism::Wear => self.shape_wear,
            Mechanism::Ageing => self.shape_ageing,
            Mechanism::Fatigue => self.shape_fatigue,
        }
    }

    /// Share meant by a word.
    #[must_use]
    pub fn share(&self, word: ShareWord) -> f64 {
        match word {
            ShareWord::Rare => self.share_rare,
            ShareWord::Occasional => self.share_occasional,
            ShareWord::Common => self.share_common,
            ShareWord::Most => self.share_most,
            ShareWord::All => self.share_all,
        }
    }

    /// Life of a point's part of that grade against the first one.
    #[must_use]
    pub fn grade_of(&self, point: &FailurePoint, grade: PartGrade) -> f64 {
        point.used_lasts.filter(|_| grade == PartGrade::Used).unwrap_or_else(|| self.grade(grade))
    }

    /// Life of a part of that grade against the first one.
    #[must_use]
    pub fn grade(&self, grade: PartGrade) -> f64 {
        match grade {
            PartGrade::Original => self.grade_original,
            PartGrade::Equivalent => self.grade_equivalent,
            PartGrade::Used => self.grade_used,
            PartGrade::Unknown => self.grade_unknown,
        }
    }

    /// Credibility of a ledger entry.
    #[must_use]
    pub fn credibility(&self, evidence: Evidence) -> f64 {
        match evidence {
            Evidence::InvoiceNamingPart => self.credit_invoice_naming_part,
            Evidence::Invoice => self.credit_invoice,
            Evidence::Stamp => self.credit_stamp,
            Evidence::OwnerLog => self.credit_owner_log,
            Evidence::SellersWord => self.credit_sellers_word,
        }
    }
}
