//! Which grass a lawn is, by a few signs that can be seen and felt on one's knees. Every question may be left open.
//!
//! The signs are those of extension services' keys to turfgrasses (from memory): how it takes the winter, how it spreads, the blade's width, tip,
//! back and touch, the seed head, and whether it was sown. A grass that may show either of two signs has both.

use science::turf::Grass;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A question of the key.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Question {
    /// What it looks like after hard frosts.
    Winter,
    /// What it looks like where it is left to flower.
    SeedHead,
    /// How it spreads.
    Runners,
    /// How wide a blade is.
    Blade,
    /// The end of a blade.
    Tip,
    /// How it feels under a bare hand.
    Touch,
    /// The underside of a blade.
    Back,
    /// How the lawn was made.
    Origin,
}

impl Question {
    /// All, those that are answered most easily first.
    pub const ALL: [Self; 8] = [
        Self::Winter,
        Self::Runners,
        Self::Blade,
        Self::Tip,
        Self::Touch,
        Self::SeedHead,
        Self::Back,
        Self::Origin,
    ];

    /// Whether a lawn that is mown answers it, on the day on which it is asked.
    const fn is_of_a_mown_lawn(self) -> bool {
        matches!(
            self,
            Self::Winter | Self::Runners | Self::Blade | Self::Tip | Self::Touch
        )
    }

    /// Its answers.
    pub fn signs(self) -> impl Iterator<Item = Sign> {
        Sign::ALL.into_iter().filter(move |s| s.question() == self)
    }
}

/// An answer of the key.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Sign {
    /// Green, or a duller green.
    GreenInWinter,
    /// The colour of straw, all of it.
    StrawInWinter,
    /// Grows in tufts.
    NoRunners,
    /// Runners creep over the ground.
    RunnersAbove,
    /// Runners creep below it, white and pointed.
    RunnersBelow,
    /// Both.
    RunnersBoth,
    /// Like a bristle, below 1.5 mm.
    Bristle,
    /// 1.5 to 4 mm.
    Narrow,
    /// Wider than 4 mm.
    Wide,
    /// Like the bow of a boat: it splits when it is pressed flat.
    TipLikeABoat,
    /// Pointed.
    TipPointed,
    /// Blunt or round.
    TipRound,
    /// Stiff and prickly.
    Stiff,
    /// Hairy.
    Hairy,
    /// Neither.
    Smooth,
    /// Three to seven spikes from one point, like the toes of a bird.
    HeadOfToes,
    /// Two spikes, like the letter Y.
    HeadLikeY,
    /// One spike.
    HeadOfOneSpike,
    /// An open spray of branches.
    HeadLikeSpray,
    /// Combs that stand off to one side, above the leaves.
    HeadOfCombs,
    /// Shiny.
    BackShiny,
    /// Dull.
    BackDull,
    /// By seed.
    Sown,
    /// By sod, plugs or sprigs.
    Laid,
}

impl Sign {
    /// All, by question.
    pub const ALL: [Self; 24] = [
        Self::GreenInWinter,
        Self::StrawInWinter,
        Self::NoRunners,
        Self::RunnersAbove,
        Self::RunnersBelow,
        Self::RunnersBoth,
        Self::Bristle,
        Self::Narrow,
        Self::Wide,
        Self::TipLikeABoat,
        Self::TipPointed,
        Self::TipRound,
        Self::Stiff,
        Self::Hairy,
        Self::Smooth,
        Self::HeadOfToes,
        Self::HeadLikeY,
        Self::HeadOfOneSpike,
        Self::HeadLikeSpray,
        Self::HeadOfCombs,
        Self::BackShiny,
        Self::BackDull,
        Self::Sown,
        Self::Laid,
    ];

    /// What it answers.
    #[must_use]
    pub const fn question(self) -> Question {
        match self {
            Self::GreenInWinter | Self::StrawInWinter => Question::Winter,
            Self::NoRunners | Self::RunnersAbove | Self::RunnersBelow | Self::RunnersBoth => {
                Question::Runners
            }
            Self::Bristle | Self::Narrow | Self::Wide => Question::Blade,
            Self::TipLikeABoat | Self::TipPointed | Self::TipRound => Question::Tip,
            Self::Stiff | Self::Hairy | Self::Smooth => Question::Touch,
            Self::HeadOfToes
            | Self::HeadLikeY
            | Self::HeadOfOneSpike
            | Self::HeadLikeSpray
            | Self::HeadOfCombs => Question::SeedHead,
            Self::BackShiny | Self::BackDull => Question::Back,
            Self::Sown | Self::Laid => Question::Origin,
        }
    }
}

/// The signs that a grass shows. Of a question without one it says nothing.
#[must_use]
pub const fn signs(grass: Grass) -> &'static [Sign] {
    use Sign::*;
    match grass {
        Grass::KentuckyBluegrass => &[
            GreenInWinter,
            RunnersBelow,
            Narrow,
            TipLikeABoat,
            Smooth,
            HeadLikeSpray,
            BackDull,
            Sown,
            Laid,
        ],
        Grass::PerennialRyegrass => &[
            GreenInWinter,
            NoRunners,
            Narrow,
            TipPointed,
            Smooth,
            HeadOfOneSpike,
            BackShiny,
            Sown,
        ],
        Grass::TallFescue => &[
            GreenInWinter,
            NoRunners,
            Narrow,
            Wide,
            TipPointed,
            Smooth,
            HeadLikeSpray,
            BackDull,
            Sown,
            Laid,
        ],
        Grass::FineFescue => &[
            GreenInWinter,
            NoRunners,
            RunnersBelow,
            Bristle,
            TipPointed,
            Smooth,
            HeadLikeSpray,
            BackDull,
            Sown,
        ],
        Grass::CreepingBentgrass => &[
            GreenInWinter,
            RunnersAbove,
            Bristle,
            Narrow,
            TipPointed,
            Smooth,
            HeadLikeSpray,
            BackDull,
            Sown,
            Laid,
        ],
        Grass::CommonBermudagrass => &[
            StrawInWinter,
            RunnersAbove,
            RunnersBoth,
            Narrow,
            TipPointed,
            Smooth,
            HeadOfToes,
            BackDull,
            Sown,
        ],
        Grass::HybridBermudagrass => &[
            StrawInWinter,
            RunnersAbove,
            RunnersBoth,
            Bristle,
            Narrow,
            TipPointed,
            Smooth,
            HeadOfToes,
            BackDull,
            Laid,
        ],
        Grass::Zoysiagrass => &[
            StrawInWinter,
            RunnersAbove,
            RunnersBoth,
            Bristle,
            Narrow,
            TipPointed,
            Stiff,
            HeadOfOneSpike,
            BackDull,
            Sown,
            Laid,
        ],
        Grass::StAugustinegrass => &[
            StrawInWinter,
            RunnersAbove,
            Wide,
            TipRound,
            Smooth,
            HeadOfOneSpike,
            BackDull,
            Laid,
        ],
        Grass::Centipedegrass => &[
            StrawInWinter,
            RunnersAbove,
            Narrow,
            Wide,
            TipRound,
            Smooth,
            HeadOfOneSpike,
            BackDull,
            Sown,
            Laid,
        ],
        Grass::Bahiagrass => &[
            StrawInWinter,
            RunnersAbove,
            RunnersBelow,
            Wide,
            TipPointed,
            Stiff,
            HeadLikeY,
            BackDull,
            Sown,
            Laid,
        ],
        Grass::Buffalograss => &[
            StrawInWinter,
            RunnersAbove,
            Narrow,
            TipPointed,
            Hairy,
            HeadOfCombs,
            BackDull,
            Sown,
            Laid,
        ],
        // Its flowers hide among the leaves.
        Grass::Kikuyugrass => &[
            StrawInWinter,
            RunnersAbove,
            RunnersBoth,
            Narrow,
            Wide,
            TipPointed,
            Hairy,
            BackDull,
            Sown,
            Laid,
        ],
        Grass::SeashorePaspalum => &[
            StrawInWinter,
            RunnersAbove,
            RunnersBoth,
            Narrow,
            TipPointed,
            Smooth,
            HeadLikeY,
            BackShiny,
            Sown,
            Laid,
        ],
    }
}

/// Whether a grass goes with a sign: it shows it, or says nothing of its question.
fn goes_with(grass: Grass, sign: Sign) -> bool {
    let of = signs(grass);
    of.contains(&sign) || of.iter().all(|s| s.question() != sign.question())
}

/// What the key says of what was seen.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Found {
    /// The grasses that go best with it, in the catalogue's order; never none.
    pub grasses: Vec<Grass>,
    /// Signs that do not go with any of them: one was seen wrong, or it is a mixture.
    pub against: Vec<Sign>,
    /// What to look at next; `None`: nothing that is left would tell them apart.
    pub next: Option<Question>,
}

/// Goes through the key with what was seen; questions in `open` are not asked again.
#[must_use]
pub fn find(seen: &[Sign], open: &[Question]) -> Found {
    let misses = |grass: Grass| seen.iter().filter(|s| !goes_with(grass, **s)).count();
    let least = Grass::ALL.into_iter().map(misses).min().unwrap_or(0);
    let best = Grass::ALL.into_iter().filter(|g| misses(*g) == least);
    let grasses: Vec<Grass> = best.collect();
    let against = seen.iter().copied();
    let against = against.filter(|s| !grasses.iter().any(|g| goes_with(*g, *s)));
    let asked = |q: Question| open.contains(&q) || seen.iter().any(|s| s.question() == q);
    // Of those that a mown lawn answers, else of all, the question after whose worst answer fewest are left; of equals the easiest.
    let worst = |q: Question| {
        let left = |sign| grasses.iter().filter(|g| goes_with(**g, sign)).count();
        q.signs().map(left).max().unwrap_or(grasses.len())
    };
    let next = Question::ALL.into_iter().filter(|q| !asked(*q));
    let next = next.filter(|q| worst(*q) < grasses.len());
    let next = next.min_by_key(|q| (!q.is_of_a_mown_lawn(), worst(*q)));
    Found {
        against: against.collect(),
        next,
        grasses,
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    /// Answers each question that the key asks with a sign of a grass, until it asks no more.
    fn told(grass: Grass, choice: usize) -> (Found, usize) {
        let (mut seen, mut open) = (Vec::new(), Vec::new());
        let mut questions = 0;
        loop {
            let found = find(&seen, &open);
            let Some(question) = found.next else {
                return (found, questions);
            };
            questions += 1;
            let own = signs(grass).iter().filter(|s| s.question() == question);
            let own: Vec<Sign> = own.copied().collect();
            match own.get(choice % own.len().max(1)) {
                Some(sign) => seen.push(*sign),
                None => open.push(question),
            }
        }
    }

    #[test]
    fn who_sees_all_signs_of_a_grass_is_told_that_grass() {
        for grass in Grass::ALL {
            for choice in 0..2 {
                let (found, questions) = told(grass, choice);
                assert!(found.grasses.contains(&grass), "{grass:?}: {found:?}");
                assert!(found.against.is_empty());
                // Few enough for a person in the rain.
                assert!(questions <= 7, "{grass:?}: {questions}");
                assert!(found.grasses.len() <= 2, "{grass:?}: {found:?}");
            }
        }
    }

    #[test]
    fn what_a_mown_lawn_shows_is_asked_first() {
        let first = find(&[], &[]).next.unwrap();
        assert!(first.is_of_a_mown_lawn(), "{first:?}");
        // Seed heads, when nothing else tells bermudagrasses from zoysiagrass.
        let mown = [Question::Winter, Question::Runners, Question::Blade];
        let mown = [mown.as_slice(), &[Question::Tip, Question::Touch]].concat();
        assert_eq!(find(&[], &mown).next, Some(Question::SeedHead));
    }

    #[test]
    fn an_easy_sign_names_some_at_once() {
        assert_eq!(
            find(&[Sign::TipLikeABoat], &[]).grasses,
            [Grass::KentuckyBluegrass]
        );
        let feet = find(&[Sign::HeadOfToes], &[]);
        // Kikuyugrass, whose heads nobody sees, is not ruled out by one.
        assert!(feet.grasses.contains(&Grass::CommonBermudagrass));
        assert!(feet.grasses.contains(&Grass::HybridBermudagrass));
        assert!(!feet.grasses.contains(&Grass::Zoysiagrass));
        // Only how it was made tells the two bermudagrasses apart for sure.
        let sown = [Sign::HeadOfToes, Sign::Smooth, Sign::Narrow, Sign::Sown];
        assert_eq!(find(&sown, &[]).grasses, [Grass::CommonBermudagrass]);
    }

    #[test]
    fn one_sign_seen_wrong_is_named() {
        // A bluegrass whose blades were taken for wide.
        let seen = [
            Sign::GreenInWinter,
            Sign::RunnersBelow,
            Sign::TipLikeABoat,
            Sign::Wide,
        ];
        let found = find(&seen, &[]);
        assert_eq!(found.grasses, [Grass::KentuckyBluegrass]);
        assert_eq!(found.against, [Sign::Wide]);
    }

    proptest! {
        /// Whatever was seen, the key names a grass, and never asks what was answered or left open.
        #[test]
        fn the_key_always_answers(
            seen in prop::collection::vec(prop::sample::select(Sign::ALL.to_vec()), 0..9),
            open in prop::collection::vec(prop::sample::select(Question::ALL.to_vec()), 0..4),
        ) {
            let found = find(&seen, &open);
            prop_assert!(!found.grasses.is_empty());
            if let Some(next) = found.next {
                prop_assert!(!open.contains(&next));
                prop_assert!(seen.iter().all(|s| s.question() != next));
                prop_assert!(found.grasses.len() > 1);
            }
            if seen.is_empty() {
                prop_assert_eq!(found.grasses.len(), Grass::ALL.len());
            }
        }
    }
}
