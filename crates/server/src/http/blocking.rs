//! Heavy work: whatever takes more than a millisecond or so runs here, off the threads that answer
//! requests. It is bounded (as many at a time as there are processors, and a queue that can be
//! full), cancelled when nobody waits for it any more, and given up after a while.

use std::num::NonZero;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
use std::time::Duration;

use salt_lamp_core::workers::Workers;
use tokio::sync::Semaphore;

use crate::Problem;

/// Questions that may wait for a processor; who comes later is told to come again.
const MOST_WAITING: usize = 64;
/// Work that is not done after this long is given up.
const LONGEST: Duration = Duration::from_secs(60);

/// The machine's processors, shared by all heavy work.
pub(crate) struct Pool {
    processors: usize,
    permits: Semaphore,
    /// Files that are made while they are sent: a slow reader holds one of these and no other work.
    pub(super) files: Arc<Semaphore>,
    waiting: AtomicUsize,
    longest: Duration,
}

impl Default for Pool {
    fn default() -> Self {
        Self::new(Threads::of_machine().processors, LONGEST)
    }
}

/// One out of a count, as long as it lives.
pub(super) struct Counted<'a>(&'a AtomicUsize);

impl Drop for Counted<'_> {
    fn drop(&mut self) {
        self.0.fetch_sub(1, Ordering::Relaxed);
    }
}

/// Calls work off when whoever waits for it goes away.
struct CallOff(Arc<AtomicBool>);

impl Drop for CallOff {
    fn drop(&mut self) {
        self.0.store(true, Ordering::Relaxed);
    }
}

impl Pool {
    fn new(processors: usize, longest: Duration) -> Self {
        Self {
            processors,
            permits: Semaphore::new(processors),
            files: Arc::new(Semaphore::new(processors)),
            waiting: AtomicUsize::new(0),
            longest,
        }
    }

    /// One among those that wait or are worked on, as long as it is held.
    ///
    /// # Errors
    /// 429 where there are too many.
    pub(super) fn queued(&self) -> Result<Counted<'_>, Problem> {
        self.waiting.fetch_add(1, Ordering::Relaxed);
        let counted = Counted(&self.waiting);
        if self.waiting.load(Ordering::Relaxed) > MOST_WAITING + self.processors {
            return Err(Problem::busy());
        }
        Ok(counted)
    }

    /// Threads for work that nothing but its reader calls off.
    pub(super) fn threads(&self) -> Threads {
        Threads::of(self.processors)
    }

    /// Runs work on a thread of its own and hands it threads for its parts. Work whose request is
    /// gone before it began never begins; one that has begun stops before its next part.
    ///
    /// # Errors
    /// 429 where too many wait already, 503 where it takes too long.
    pub async fn run<T: Send + 'static>(
        &self,
        work: impl FnOnce(&Threads) -> T + Send + 'static,
    ) -> Result<T, Problem> {
        let counted = self.queued()?;
        let Ok(_permit) = self.permits.acquire().await else { return Err(Problem::busy()) };
        let off = CallOff(Arc::default());
        let threads = Threads { processors: self.processors, off: Arc::clone(&off.0) };
        let done =
            tokio::time::timeout(self.longest, tokio::task::spawn_blocking(move || work(&threads)))
                .await;
        drop(counted);
        match done {
            Err(_) => Err(Problem::too_long(self.longest)),
            Ok(Ok(answer)) => Ok(answer),
            // A panic of the work goes on in the handler, whose layer answers it.
            Ok(Err(e)) => match e.try_into_panic() {
                Ok(panic) => std::panic::resume_unwind(panic),
                Err(e) => Err(Problem::fault(e)),
            },
        }
    }
}

/// Threads that share the parts of one piece of work: each takes the next part that nobody has
/// begun.
pub struct Threads {
    processors: usize,
    off: Arc<AtomicBool>,
}

/// What unwinds work that was called off. Nobody waits for it.
struct CalledOff;

impl Threads {
    /// So many, at least one, for work that nothing calls off.
    pub fn of(processors: usize) -> Self {
        Self { processors: processors.max(1), off: Arc::default() }
    }

    /// How many.
    pub fn count(&self) -> usize {
        self.processors
    }

    /// As many as the machine has processors.
    pub fn of_machine() -> Self {
        Self::of(std::thread::available_parallelism().map_or(1, NonZero::get))
    }
}

impl Workers for Threads {
    fn each<T: Send>(&self, count: usize, task: &(dyn Fn(usize) -> T + Sync)) -> Vec<T> {
        let next = AtomicUsize::new(0);
        let share = || {
            let mut done = Vec::new();
            loop {
                let i = next.fetch_add(1, Ordering::Relaxed);
                if i >= count {
                    return done;
                }
                if self.off.load(Ordering::Relaxed) {
                    std::panic::resume_unwind(Box::new(CalledOff));
                }
                done.push((i, task(i)));
            }
        };
        let others = self.processors.min(count).saturating_sub(1);
        let mut all: Vec<(usize, T)> = std::thread::scope(|scope| {
            let helpers: Vec<_> = (0..others).map(|_| scope.spawn(share)).collect();
            let mut all = share();
            for helper in helpers {
                // A panic of a part goes on in the caller, who answers it.
                all.extend(helper.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic)));
            }
            all
        });
        all.sort_unstable_by_key(|(i, _)| *i);
        all.into_iter().map(|(_, value)| value).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn many_threads_give_what_one_gives() {
        for processors in [1, 2, 5] {
            for n in [0, 1, 2, 7, 8] {
                assert_eq!(
                    Threads::of(processors).each(n, &|i| i * i),
                    (0..n).map(|i| i * i).collect::<Vec<_>>()
                );
            }
        }
    }

    #[tokio::test]
    async fn work_that_nobody_waits_for_stops_before_its_next_part() {
        let pool = Pool::new(1, LONGEST);
        let parts = Arc::new(AtomicUsize::new(0));
        let began = Arc::new(tokio::sync::Notify::new());
        let (counted, told) = (Arc::clone(&parts), Arc::clone(&began));
        let asked = pool.run(move |threads| {
            threads.each(1000, &|_| {
                counted.fetch_add(1, Ordering::Relaxed);
                told.notify_one();
                std::thread::sleep(Duration::from_millis(2));
            });
        });
        tokio::select! {
            _ = asked => panic!("it takes two seconds"),
            () = began.notified() => {}
        }
        // The request is gone: the work ends, and the next one gets its turn on the only processor.
        assert!(pool.run(|_| 7).await.is_ok_and(|x| x == 7));
        tokio::time::sleep(Duration::from_millis(50)).await;
        let after = parts.load(Ordering::Relaxed);
        tokio::time::sleep(Duration::from_millis(50)).await;
        assert!(after < 100 && parts.load(Ordering::Relaxed) == after, "{after}");
    }

    #[tokio::test]
    async fn work_that_takes_too_long_is_given_up() {
        let pool = Pool::new(2, Duration::from_millis(20));
        let late = pool
            .run(|threads| threads.each(500, &|_| std::thread::sleep(Duration::from_millis(2))))
            .await;
        assert_eq!(late.map(|_| ()).map_err(|p| p.status), Err(503));
    }

    #[tokio::test]
    async fn a_full_queue_says_so() {
        let pool = Pool::new(1, LONGEST);
        pool.waiting.store(MOST_WAITING + 1, Ordering::Relaxed);
        assert_eq!(pool.run(|_| ()).await.map_err(|p| p.status), Err(429));
        pool.waiting.store(0, Ordering::Relaxed);
        assert!(pool.run(|_| ()).await.is_ok());
    }
}
