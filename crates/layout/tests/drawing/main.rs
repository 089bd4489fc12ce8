//! What is drawn of a patch.
#![allow(clippy::disallowed_methods)] // references are reckoned in their own way

mod arranging;
mod shapes;
