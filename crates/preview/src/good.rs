//! Pages as they were when nothing was broken.

use std::collections::VecDeque;
use std::sync::{Arc, Mutex, MutexGuard};

use crate::state::{Shown, locked};

/// How many are kept.
const MOST: usize = 64;

/// The last good form of each page, those that were looked at last.
#[derive(Default)]
pub struct Good(Mutex<VecDeque<(String, Arc<Shown>)>>);

impl Good {
    fn all(&self) -> MutexGuard<'_, VecDeque<(String, Arc<Shown>)>> {
        locked(&self.0)
    }

    /// Keeps a page under some key.
    pub fn keep(&self, key: &str, page: &Arc<Shown>) {
        let mut all = self.all();
        all.retain(|(known, _)| known != key);
        all.push_back((key.to_string(), page.clone()));
        if all.len() > MOST {
            all.pop_front();
        }
    }

    /// The page of some key.
    pub fn get(&self, key: &str) -> Option<Arc<Shown>> {
        self.all().iter().find(|(known, _)| known == key).map(|(_, page)| page.clone())
    }
}
