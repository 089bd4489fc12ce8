//! What the patch document promises.

mod arrangements;
mod arranging;
mod comparing;
mod editing;
mod files;
mod golden;
mod groups;
mod hearing;
mod offers;
mod shapes;
mod tuning;
mod units;
mod values;
