//! Whether an answer is still wanted: what computes for long asks now and then, and ends where nobody waits any more.

/// Asked at short intervals, some milliseconds apart.
pub type Wanted<'a> = &'a dyn Fn() -> bool;

/// Whoever asked waits to the end.
#[must_use]
pub const fn always() -> bool {
    true
}
