//! What hands and keys do in any view.

mod access;
mod fields;
mod fitting;
mod keys;
mod small;
mod strips;
