//! Figures, printed and not asserted.

mod frames;
mod measures;
