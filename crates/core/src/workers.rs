//! Work in parts that do not depend on each other. The core starts no threads: it asks for workers.

/// Who does a number of like tasks: one after another here, or threads where there are some.
/// Results come in the order of their numbers either way.
pub trait Workers {
    /// Does tasks 0 to `count` - 1.
    fn each<T: Send>(&self, count: usize, task: &(dyn Fn(usize) -> T + Sync)) -> Vec<T>;
}

/// One after another.
pub struct SingleThread;

impl Workers for SingleThread {
    fn each<T: Send>(&self, count: usize, task: &(dyn Fn(usize) -> T + Sync)) -> Vec<T> {
        (0..count).map(task).collect()
    }
}
