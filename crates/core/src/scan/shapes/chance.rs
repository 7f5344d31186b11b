//! Whether what a template or module says is carried out.

/// Whether something is carried out where it stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Default)]
pub enum Chance {
    /// In any case.
    #[default]
    Always,
    /// Wherever there is something to show: behind a question whether a point is filled or a value is there.
    Guarded,
    /// In a loop over values, behind nothing but such questions: perhaps many times.
    Repeated,
    /// As it happens.
    Perhaps,
}

impl Chance {
    /// Is it a matter of circumstances whether this is carried out?
    pub fn is_conditional(self) -> bool {
        self != Chance::Always
    }

    /// Is it carried out wherever there is something to show?
    pub fn is_meant(self) -> bool {
        self != Chance::Perhaps
    }
}
