//! A library on a real file.

mod backups;
mod damage;
mod steps;
mod store;
mod support;
