//! What was made lately is kept, to be made only once.

use std::num::NonZeroUsize;
use std::sync::{Arc, LazyLock, Mutex};

use lru::LruCache;

/// Things made lately, by key; those not wanted for longest make room.
pub(crate) type Memo<T> = LazyLock<Mutex<LruCache<u64, Arc<T>>>>;

/// An empty one with room for so many.
pub(crate) fn with_room<T>(count: usize) -> Mutex<LruCache<u64, Arc<T>>> {
    let room = NonZeroUsize::new(count).unwrap_or(NonZeroUsize::MIN);
    Mutex::new(LruCache::new(room))
}

/// The thing with a key, made now if it is not remembered; none if it cannot be made.
pub(crate) fn remembered<T>(
    memo: &Memo<T>,
    key: u64,
    make: impl FnOnce() -> Option<T>,
) -> Option<Arc<T>> {
    let mut memo = memo.lock().unwrap_or_else(|e| e.into_inner());
    if let Some(known) = memo.get(&key) {
        return Some(known.clone());
    }
    let made = Arc::new(make()?);
    memo.put(key, made.clone());
    Some(made)
}
