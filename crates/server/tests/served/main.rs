//! The real binary on a real file.

mod api;
mod backups;
mod command_line;
mod faults;
mod gate;
mod hostile;
mod lived;
mod renders;
mod server;
mod sounds;
