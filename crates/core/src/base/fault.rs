//! What is wrong with a document, and where.

/// Something that makes no sense, and where.
#[derive(Debug, Clone, PartialEq, Eq, serde::Serialize, serde::Deserialize, utoipa::ToSchema)]
pub struct Fault {
    /// JSON pointer to the faulty value, such as `/points/3/life/0`.
    pub path: String,
    /// What is wrong and how to mend it.
    pub message: String,
}
