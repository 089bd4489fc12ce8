//! Numbers as they go beside an answer.

/// Each as its four bytes, the lowest first.
pub(super) fn bytes(values: &[f32]) -> Vec<u8> {
    values.iter().flat_map(|v| v.to_le_bytes()).collect()
}
