//! What the patch document promises.

mod arranging;
mod editing;
mod files;
mod hearing;
mod shapes;
mod values;
