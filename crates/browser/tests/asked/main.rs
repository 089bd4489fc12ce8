//! The page’s side and the tasks, asked as the page asks them.

mod everything;
mod finishing;
mod gestures;
mod hand;
mod moving;
mod page;
mod pictures;
mod playing;
mod sheets;
mod support;
mod told;
