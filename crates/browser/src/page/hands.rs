//! What hands, keyboards and controllers send, and who holds which keys.

use zolvik_play::inlet::Meant;

use super::state::Page;
use crate::gestures::gesture;
use crate::protocol::{Answer, HandQuestion, Refusal, Reply};

impl Page {
    /// Answers what is asked of what hands and keyboards send.
    pub(super) fn answer_hand(&mut self, question: HandQuestion) -> Result<Reply, Refusal> {
        let patch = self.history.present();
        match question {
            HandQuestion::Take {
                way,
                bytes,
                time_ms,
                touch,
            } => {
                let meant = self.inlet.take(&bytes, time_ms, touch, patch);
                Ok(self.meant_by(&way, meant).into())
            }
            HandQuestion::LetGo { ways } => Ok(self.let_go(&ways).into()),
            HandQuestion::Knows { kept } => {
                let read = kept.iter().flat_map(|text| zolvik_json::read(text));
                self.inlet.knows(read.collect());
                Ok(self.learnt(vec![]).into())
            }
            HandQuestion::Learn { what } => {
                self.inlet.learn(what);
                Ok(self.learnt(vec![]).into())
            }
            HandQuestion::Forget { what } => {
                let gone = self.inlet.forget(what);
                Ok(self.learnt(gone).into())
            }
            HandQuestion::Gesture { what } => Ok(Answer::Gesture {
                messages: gesture(what, patch.audition.note),
            }
            .into()),
        }
    }

    /// What is meant by a message of a way in, once it is known who holds what.
    fn meant_by(&mut self, way: &str, meant: Vec<Meant>) -> Answer {
        let mut heard = vec![];
        for meant in meant {
            match meant {
                Meant::Play { message } if message[0] & 0xF0 == 0xB0 && message[1] == 123 => {
                    let channel = message[0] & 15;
                    let gone = self.hands.let_go(|other, on| other == way && on == channel);
                    heard.extend(gone.into_iter().map(|message| Meant::Play { message }));
                }
                Meant::Play { message } => {
                    let message = self.hands.take(way, message);
                    heard.extend(message.map(|message| Meant::Play { message }));
                }
                other => heard.push(other),
            }
        }
        self.meant(heard)
    }

    /// Ways in go, or all of them.
    fn let_go(&mut self, ways: &[String]) -> Answer {
        let goes = |way: &str| ways.is_empty() || ways.iter().any(|gone| gone == way);
        let messages = self.hands.let_go(|way, _| goes(way)).into_iter();
        self.meant(messages.map(|message| Meant::Play { message }).collect())
    }

    fn meant(&self, meant: Vec<Meant>) -> Answer {
        Answer::Meant {
            meant,
            held: self.hands.held(),
            pedal: self.hands.pedal_holds(),
        }
    }

    fn learnt(&self, gone: Vec<u8>) -> Answer {
        let list = self.inlet.learnt().to_vec();
        Answer::Learnt { list, gone }
    }
}
