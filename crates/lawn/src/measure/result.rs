//! What a test says of the sprinklers, and how far to trust it.
//!
//! Rate and uniformity by [`science::catch_can`]; a good test by the Irrigation Association's and ASABE S626's guidelines (from memory):
//! 24 cans or more, at least 25 mL in each, wind under 2 m/s. What falls short is said, and widens the range (common practice, no source).

use jiff::civil::Date;
use science::catch_can::{self, Audit, Can, Rating};
use science::sprinkler::{Kind, run_time_multiplier};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::measure::cans::CanTest;
use crate::measure::cans::depth_map::{Contour, contours};
use crate::measure::cans::pattern::{Pattern, patterns};
use crate::measure::quick::QuickTest;
use crate::measure::unevenness::{WeekCost, WeekNeed};
use crate::quantity::{Rate, count};
use crate::ranges;
use crate::sourced::{Source, Sourced};

/// What a test lacks.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "doubt", rename_all = "snake_case")]
pub enum Doubt {
    /// Fewer cans than a good test has.
    FewCans {
        /// Read.
        read: u32,
        /// Wanted.
        wanted: u32,
    },
    /// Too little water in a can to be read well.
    TooShort {
        /// Minutes that would have been enough.
        minutes: f64,
    },
    /// Too much wind.
    Windy {
        /// Wind, m/s.
        wind_m_s: f64,
        /// Limit, m/s.
        limit_m_s: f64,
    },
    /// Cans without a reading.
    Unread {
        /// How many.
        cans: u32,
    },
    /// Heads that stood still.
    Idle {
        /// Their numbers.
        heads: Vec<u16>,
    },
    /// The wind was not noted.
    WindNotNoted,
}

/// What a test says.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct TestResult {
    /// Cans read; 0 where the test had none.
    pub read: u32,
    /// Mean depth in them, mm.
    pub mean_mm: Option<f64>,
    /// Precipitation rate with its range.
    pub rate_mm_h: Sourced<Rate>,
    /// Low-quarter uniformity with its range; `None` with fewer than four cans or no water.
    pub evenness_du_lq: Option<Sourced<f64>>,
    /// Christiansen's coefficient, %.
    pub cu_pct: Option<f64>,
    /// Scheduling coefficient; `None` where it is not to be told, or infinite.
    pub scheduling_coefficient: Option<f64>,
    /// Run-time multiplier as plans use it.
    pub run_time_multiplier: Option<f64>,
    /// How good the uniformity is for the sprinkler's kind.
    pub rating: Option<TestRating>,
    /// What the driest quarter gets while the average gets 13 mm (half an inch), mm.
    pub driest_quarter_of_13_mm: Option<f64>,
    /// What the wettest can gets meanwhile, mm.
    pub wettest_of_13_mm: Option<f64>,
    /// Minutes for that depth if every place got the mean.
    pub minutes_for_13_mm_even: Option<f64>,
    /// Minutes for it as uneven as it is.
    pub minutes_for_13_mm: Option<f64>,
    /// What unevenness costs in a week like this one; `None` where no plan says what the turf uses.
    #[serde(default)]
    pub week_cost: Option<WeekCost>,
    /// What it lacks.
    pub doubts: Vec<Doubt>,
    /// What the pattern may be, the strongest first.
    pub patterns: Vec<Pattern>,
    /// Lines of equal depth; none with fewer than three cans.
    #[serde(default)]
    pub contours: Vec<Contour>,
}

/// Rate and uniformity that a test tells, each with its range.
#[derive(Debug, Clone, PartialEq)]
pub struct Figures {
    /// Precipitation rate.
    pub rate_mm_h: Sourced<Rate>,
    /// Low-quarter uniformity; `None` with fewer than four cans or no water.
    pub evenness_du_lq: Option<Sourced<f64>>,
}

impl Figures {
    /// The rate as a zone takes it, kept within the range that plans work in; `None` for a rate that no sprinkler has.
    #[must_use]
    pub fn rate(&self) -> Option<Sourced<Rate>> {
        ranges::RATE.check(self.rate_mm_h.value.mm_h()).ok()?;
        let within = |r: Rate| Rate::from_mm_h(r.mm_h().clamp(ranges::RATE.min, ranges::RATE.max));
        Some(self.rate_mm_h.clone().map(within))
    }

    /// The evenness as a zone takes it, kept within the range that plans work in; `None` where the test tells none.
    #[must_use]
    pub fn evenness(&self) -> Option<Sourced<f64>> {
        self.rate()?;
        let evenness = self.evenness_du_lq.clone()?;
        Some(evenness.map(|e| e.clamp(ranges::EVENNESS.min, ranges::EVENNESS.max)))
    }
}

/// Words of the rating.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)] // the names say it
pub enum TestRating {
    Failing,
    Poor,
    Fair,
    Good,
    VeryGood,
    Excellent,
}

impl From<Rating> for TestRating {
    fn from(rating: Rating) -> Self {
        match rating {
            Rating::Failing => Self::Failing,
            Rating::Poor => Self::Poor,
            Rating::Fair => Self::Fair,
            Rating::Good => Self::Good,
            Rating::VeryGood => Self::VeryGood,
            Rating::Excellent => Self::Excellent,
        }
    }
}

/// What a test was made on.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Tested {
    /// What waters the zone.
    pub kind: Kind,
    /// The site's day.
    pub date: Date,
    /// What the turf uses in this week, and what its water costs, where known.
    pub week: Option<WeekNeed>,
}

impl Tested {
    /// What the unevenness that a test found costs in this week; `None` where either is not known.
    #[must_use]
    pub fn week_cost(&self, result: &TestResult) -> Option<WeekCost> {
        let evenness = result.evenness_du_lq.as_ref()?.value;
        self.week?.cost(result.rate_mm_h.value.mm_h(), evenness)
    }
}

/// Cans of a good test.
const GOOD_CANS: u32 = 24;
/// Least volume in a can of a good test, mL; for straight cans the depth that a mouth of 100 cm² would have.
const GOOD_ML: f64 = 25.0;
const GOOD_MM: f64 = 2.5;
/// Greatest wind of a good test, m/s.
const GOOD_WIND_M_S: f64 = 2.0;
/// What each doubt does to a range.
const DOUBT_WIDENS: f64 = 1.3;
/// Half an inch, the trade's usual soak, mm.
const SOAK_MM: f64 = 13.0;

/// What cans say; `None` before any is read.
#[must_use]
pub fn of_cans(test: &CanTest, tested: &Tested) -> Option<TestResult> {
    let cans = depths(test);
    let audit = catch_can::audit(&cans, test.minutes)?;
    let outline = test.outline();
    let inside =
        |x_m: f64, y_m: f64| outline.contains(&crate::measure::outline::Point { x_m, y_m });
    let doubts = doubts(test, &audit, count(cans.len()));
    let Figures {
        rate_mm_h,
        evenness_du_lq,
    } = figures(&cans, &audit, &doubts, tested.date);
    let rate = audit.precipitation_rate_mm_h;
    let wettest = cans.iter().map(|c| c.depth_mm).fold(0.0, f64::max);
    let wet = audit.mean_mm > 0.0;
    let mut samples = catch_can::samples(&cans);
    for sample in &mut samples {
        sample.value /= audit.mean_mm;
    }
    Some(TestResult {
        read: count(cans.len()),
        mean_mm: Some(audit.mean_mm),
        cu_pct: audit.cu_pct,
        scheduling_coefficient: catch_can::scheduling_coefficient(&cans, &inside)
            .filter(|sc| sc.is_finite()),
        run_time_multiplier: audit.du_lq.map(run_time_multiplier),
        rating: audit
            .du_lq
            .map(|du| catch_can::rating(tested.kind.rotates(), du).into()),
        driest_quarter_of_13_mm: audit.du_lq.map(|du| du * SOAK_MM),
        wettest_of_13_mm: wet.then(|| wettest / audit.mean_mm * SOAK_MM),
        minutes_for_13_mm_even: wet.then(|| 60.0 * SOAK_MM / rate),
        minutes_for_13_mm: audit
            .du_lq
            .map(|du| 60.0 * SOAK_MM / rate * run_time_multiplier(du)),
        week_cost: tested.week.and_then(|week| week.cost(rate, audit.du_lq?)),
        doubts,
        patterns: patterns(test, tested.kind),
        contours: if wet && samples.len() >= 3 {
            contours(&samples, &outline)
        } else {
            Vec::new()
        },
        rate_mm_h,
        evenness_du_lq,
    })
}

/// The depths that were read.
fn depths(test: &CanTest) -> Vec<Can> {
    test.read().iter().map(|(_, can)| *can).collect()
}

/// Rate and evenness that cans tell; `None` before any is read.
#[must_use]
pub fn figures_of_cans(test: &CanTest, date: Date) -> Option<Figures> {
    let cans = depths(test);
    let audit = catch_can::audit(&cans, test.minutes)?;
    let doubts = doubts(test, &audit, count(cans.len()));
    Some(figures(&cans, &audit, &doubts, date))
}

fn figures(cans: &[Can], audit: &Audit, doubts: &[Doubt], date: Date) -> Figures {
    let widen = doubts
        .iter()
        .filter(|d| !matches!(d, Doubt::WindNotNoted))
        .fold(1.0, |w, _| w * DOUBT_WIDENS);
    let source = Source::Measured {
        test: match cans.len() {
            1 => "can test, 1 can".to_owned(),
            n => format!("can test, {n} cans"),
        },
        date,
    };
    let n = f64::from(count(cans.len()));
    let share = (spread(cans, audit.mean_mm) * widen).min(0.6);
    let rate = audit.precipitation_rate_mm_h;
    Figures {
        rate_mm_h: Sourced {
            value: Rate::from_mm_h(rate),
            low: Rate::from_mm_h(rate * (1.0 - share)),
            high: Rate::from_mm_h(rate * (1.0 + share)),
            source: source.clone(),
        },
        evenness_du_lq: audit.du_lq.map(|du| {
            let half = (0.3 / n.sqrt()).max(0.03) * widen;
            Sourced {
                value: du,
                low: (du - half).max(0.0),
                high: (du + half).min(1.0),
                source,
            }
        }),
    }
}

/// What a quick test says: the rate alone.
#[must_use]
pub fn of_quick(test: &QuickTest, tested: &Tested) -> TestResult {
    let rate_mm_h = test.rate(tested.date);
    let rate = rate_mm_h.value.mm_h();
    TestResult {
        read: match test {
            QuickTest::ToDepth { minutes, .. } => count(minutes.len()),
            _ => 0,
        },
        mean_mm: None,
        rate_mm_h,
        evenness_du_lq: None,
        cu_pct: None,
        scheduling_coefficient: None,
        run_time_multiplier: None,
        rating: None,
        driest_quarter_of_13_mm: None,
        wettest_of_13_mm: None,
        minutes_for_13_mm_even: (rate > 0.0).then(|| 60.0 * SOAK_MM / rate),
        minutes_for_13_mm: None,
        week_cost: None,
        doubts: Vec::new(),
        patterns: Vec::new(),
        contours: Vec::new(),
    }
}

/// Twice the standard error of the mean, share of it, not less than a twentieth; a half without water.
fn spread(cans: &[Can], mean_mm: f64) -> f64 {
    if mean_mm <= 0.0 {
        return 0.5;
    }
    let n = f64::from(count(cans.len()));
    let squares: f64 = cans.iter().map(|c| (c.depth_mm - mean_mm).powi(2)).sum();
    // One can alone says nothing of the spread.
    let least = if cans.len() < 4 { 0.3 } else { 0.05 };
    (2.0 * (squares / n / n).sqrt() / mean_mm).max(least)
}

fn doubts(test: &CanTest, audit: &Audit, read: u32) -> Vec<Doubt> {
    let mut doubts = Vec::new();
    if read < GOOD_CANS {
        doubts.push(Doubt::FewCans {
            read,
            wanted: GOOD_CANS,
        });
    }
    let (mean, wanted) = test
        .container
        .throat_cm2()
        .map_or((audit.mean_mm, GOOD_MM), |throat| {
            (audit.mean_mm * throat / 10.0, GOOD_ML)
        });
    if mean > 0.0 && mean < wanted {
        doubts.push(Doubt::TooShort {
            minutes: (test.minutes * wanted / mean).ceil(),
        });
    }
    match test.wind_m_s {
        Some(wind_m_s) if wind_m_s > GOOD_WIND_M_S => doubts.push(Doubt::Windy {
            wind_m_s,
            limit_m_s: GOOD_WIND_M_S,
        }),
        Some(_) => {}
        None => doubts.push(Doubt::WindNotNoted),
    }
    let unread = count(test.cans.len()).saturating_sub(read);
    if unread > 0 {
        doubts.push(Doubt::Unread { cans: unread });
    }
    if !test.idle_heads.is_empty() {
        doubts.push(Doubt::Idle {
            heads: test.idle_heads.clone(),
        });
    }
    doubts
}
