//! Notes that end: by themselves, by being let go, under overload.

mod ringing;
mod shedding;
mod silencing;
