//! Keys, phrases, articulations, whole jobs, too much to play.

mod articulations;
mod jobs;
mod overload;
mod phrases;
mod playing;
