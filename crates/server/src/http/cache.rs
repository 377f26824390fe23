//! Answers that are remembered for a while, by what they were asked: a bounded number of bounded
//! weight, the least lately asked goes first.

use std::sync::{Arc, Mutex, OnceLock, PoisonError};

use axum::body::Bytes;
use salt_lamp_core::decide::{DecisionsAnswer, Study, decide};
use salt_lamp_core::library::Gear;
use salt_lamp_core::light::Tables;
use salt_lamp_core::report::bench;
use salt_lamp_core::{Checked, Scenario};
use serde::Serialize;

use crate::Problem;

/// Questions that are remembered, at most, of each kind.
const MOST: usize = 12;
/// What is remembered of a kind weighs this much, at most; the newest is kept in any case. Bytes.
const MOST_BYTES: usize = 64_000_000;
/// Posted scenarios that are remembered, at most.
const MOST_POSTED: usize = 64;
/// A document in memory takes about this many times what its text does: eight bytes a number and
/// what stands around it.
const DOCUMENT_PER_TEXT: usize = 4;

/// What is being made, or was: whoever asks for the same meanwhile waits for it and does not make
/// it twice.
type Slot<V> = Arc<OnceLock<V>>;

/// What is remembered knows about how much memory it takes besides its question.
trait Weighs {
    fn bytes(&self) -> usize;
}

impl Weighs for Arc<Study> {
    fn bytes(&self) -> usize {
        self.as_ref().draws.bytes()
    }
}

impl Weighs for Bytes {
    fn bytes(&self) -> usize {
        self.len()
    }
}

impl<T> Weighs for (Arc<T>, Bytes) {
    /// The answer in memory beside its text.
    fn bytes(&self) -> usize {
        self.1.len() * (1 + DOCUMENT_PER_TEXT)
    }
}

/// Answers by their questions.
struct Remembered<V>(Mutex<Vec<(String, Slot<V>)>>);

impl<V> Default for Remembered<V> {
    fn default() -> Self {
        Self(Mutex::default())
    }
}

impl<V: Clone + Weighs> Remembered<V> {
    /// The answer to a question, made now if it is not among the last. Only those who ask the same
    /// wait for each other.
    fn get(&self, question: &str, make: impl FnOnce() -> V) -> V {
        let answer = self.slot(question).get_or_init(make).clone();
        self.forget();
        answer
    }

    /// Lets the oldest go until what is kept fits.
    fn forget(&self) {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let weighs = |(question, slot): &(String, Slot<V>)| {
            question.len() * (1 + DOCUMENT_PER_TEXT) + slot.get().map_or(0, V::bytes)
        };
        keep_newest(&mut all, MOST, MOST_BYTES, weighs);
    }

    fn slot(&self, question: &str) -> Slot<V> {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let slot = match all.iter().position(|(q, _)| q == question) {
            Some(at) => all.remove(at).1,
            None => Slot::default(),
        };
        all.push((question.to_owned(), Arc::clone(&slot)));
        slot
    }
}

/// Lets the oldest of a list go, its first, until no more than so many are left that weigh no more
/// than so much; the newest stays.
fn keep_newest<T>(all: &mut Vec<T>, most: usize, most_bytes: usize, weighs: impl Fn(&T) -> usize) {
    let mut bytes: usize = all.iter().map(&weighs).sum();
    let mut gone = 0;
    while all.len() - gone > 1 && (all.len() - gone > most || bytes > most_bytes) {
        bytes -= weighs(&all[gone]);
        gone += 1;
    }
    all.drain(..gone);
}

/// What was worked out lately about scenarios.
#[derive(Default)]
pub(crate) struct Studies {
    studies: Remembered<Arc<Study>>,
    benches: Remembered<Bytes>,
    decisions: Remembered<(Arc<DecisionsAnswer>, Bytes)>,
}

/// A document as JSON.
pub(crate) fn json(value: &impl Serialize) -> Result<String, Problem> {
    serde_json::to_string(value).map_err(Problem::fault)
}

/// A document that this program made as bytes of JSON: every one of them has a written form.
pub(crate) fn written(value: &impl Serialize) -> Bytes {
    Bytes::from(
        serde_json::to_vec(value).unwrap_or_else(|e| panic!("an answer has no written form: {e}")),
    )
}

/// What a scenario is known by.
pub(crate) fn question(s: &Scenario) -> Result<String, Problem> {
    json(s)
}

impl Studies {
    /// The study of a scenario, and what it is known by.
    ///
    /// # Errors
    /// Where the scenario has no written form.
    pub fn study(
        &self,
        scenario: Checked,
        tables: &Tables,
    ) -> Result<(String, Arc<Study>), Problem> {
        let question = question(scenario.scenario())?;
        let study = self.studies.get(&question, || Arc::new(Study::new(scenario, tables)));
        Ok((question, study))
    }

    /// The bench's answer as JSON.
    ///
    /// # Errors
    /// As [`Self::study`].
    pub fn bench(&self, scenario: Checked, tables: &Tables) -> Result<Bytes, Problem> {
        let (question, study) = self.study(scenario, tables)?;
        Ok(self.benches.get(&question, || written(&bench(&study))))
    }

    /// Everything that is decided with what stands on the shelf, and the same as JSON.
    ///
    /// # Errors
    /// As [`Self::study`].
    pub fn decisions(
        &self,
        scenario: Checked,
        shelf: &Gear,
        tables: &Tables,
    ) -> Result<(Arc<Study>, Arc<DecisionsAnswer>, Bytes), Problem> {
        let (question, study) = self.study(scenario, tables)?;
        let of_shelf = format!("{question}\n{}", json(shelf)?);
        let make = || {
            let answer = decide(&study, shelf);
            let bytes = written(&answer);
            (Arc::new(answer), bytes)
        };
        let (answer, bytes) = self.decisions.get(&of_shelf, make);
        Ok((study, answer, bytes))
    }
}

/// Scenarios that were posted, so that later questions about their looks need only name them.
#[derive(Default)]
pub(crate) struct Posted(Mutex<Vec<Kept>>);

/// A scenario, what it is known by, and the length of its text.
struct Kept {
    id: String,
    scenario: Checked,
    text_bytes: usize,
}

impl Posted {
    /// Takes a scenario and says under which id it is known: the same for the same content.
    ///
    /// # Errors
    /// Where the scenario has no written form.
    pub fn take(&self, scenario: Checked) -> Result<String, Problem> {
        let text = question(scenario.scenario())?;
        let id = content_id(&text);
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        all.retain(|kept| kept.id != id);
        all.push(Kept { id: id.clone(), scenario, text_bytes: text.len() });
        keep_newest(&mut all, MOST_POSTED, MOST_BYTES, |kept| kept.text_bytes * DOCUMENT_PER_TEXT);
        Ok(id)
    }

    /// A scenario that was posted; asking for it keeps it among the last.
    pub fn get(&self, id: &str) -> Option<Checked> {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let at = all.iter().position(|kept| kept.id == id)?;
        let hit = all.remove(at);
        let scenario = hit.scenario.clone();
        all.push(hit);
        Some(scenario)
    }
}

/// A name for a text by what it says: 128 bits of FNV-1a.
fn content_id(text: &str) -> String {
    let step = |h: u128, b: u8| {
        (h ^ u128::from(b)).wrapping_mul(0x0000_0000_0100_0000_0000_0000_0000_013b)
    };
    format!("{:032x}", text.bytes().fold(0x6c62_272e_07bb_0142_62b8_2175_6295_c58d, step))
}

#[cfg(test)]
mod tests {
    use super::*;

    impl Weighs for usize {
        fn bytes(&self) -> usize {
            0
        }
    }

    #[test]
    fn what_is_kept_is_bounded_in_bytes_and_the_newest_stays() {
        let mut all = vec![50, 20, 30, 40];
        keep_newest(&mut all, 9, 70, |b| *b);
        assert_eq!(all, [30, 40]);
        keep_newest(&mut all, 9, 10, |b| *b);
        assert_eq!(all, [40]);
        let remembered = Remembered::default();
        let made = std::cell::Cell::new(0);
        let ask = |n: &str, bytes: usize| {
            remembered.get(n, || {
                made.set(made.get() + 1);
                Bytes::from(vec![0; bytes])
            });
        };
        ask("a", MOST_BYTES / 2);
        ask("b", MOST_BYTES / 4);
        ask("a", 0);
        assert_eq!(made.get(), 2, "both fit");
        ask("c", MOST_BYTES / 2);
        ask("a", MOST_BYTES / 2);
        assert_eq!(made.get(), 4, "the oldest had to go");
    }

    #[test]
    fn the_same_question_is_answered_once_and_the_oldest_is_forgotten() {
        let remembered = Remembered::default();
        let made = std::cell::Cell::new(0);
        let ask = |n: usize| {
            remembered.get(&n.to_string(), || {
                made.set(made.get() + 1);
                n
            })
        };
        assert_eq!((ask(1), ask(1), made.get()), (1, 1, 1));
        for n in 2..=MOST {
            ask(n);
        }
        ask(1);
        ask(MOST + 1);
        assert_eq!(made.get(), MOST + 1, "asking again keeps it among the last");
        ask(1);
        ask(2);
        assert_eq!(made.get(), MOST + 2, "the least lately asked was forgotten");
    }

    #[test]
    fn what_broke_off_is_made_anew() {
        let remembered = Remembered::default();
        let broken = std::panic::catch_unwind(std::panic::AssertUnwindSafe(|| {
            remembered.get("a", || std::panic::resume_unwind(Box::new("called off")));
        }));
        assert!(broken.is_err());
        remembered.get("a", || 0_usize);
    }

    #[test]
    fn a_text_is_known_by_its_content() {
        // FNV-1a of 128 bits of "a" (draft-eastlake-fnv, test vectors).
        assert_eq!(content_id("a"), "d228cb696f1a8caf78912b704e4a8964");
        assert_ne!(content_id("a"), content_id("b"));
    }
}
