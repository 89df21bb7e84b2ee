//! What new grass takes: seed by its label, starter, lime, cover, sod, plugs, sprigs; and the work in order, with its days.

use jiff::civil::Date;
use science::sowing;
use science::turf::Grass;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::invalid::Invalid;
use crate::new_grass::backwards::{Line, What};
use crate::new_grass::method::Method;
use crate::new_grass::stages::feeds;
use crate::quantity::Area;
use crate::ranges;
use crate::stress::repair::plugs;

/// Nitrogen of a starter, g/m²: a pound on a thousand square feet (common practice, no source).
const STARTER_N_G_M2: f64 = 4.9;
/// Sod that is cut away at edges, share (common practice, no source).
const SOD_WASTE: f64 = 0.05;
/// Sprigs, m³ on a square metre: the middle of 5 to 10 bushels on a thousand square feet (common practice, no source).
const SPRIGS_M3_M2: f64 = 7.5 * 0.035_239 / 92.903;
/// Width of a plug, m (common practice, no source).
const PLUG_M: f64 = 0.05;

/// What a person knows of the labels.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = SowingLabels)]
pub struct Labels {
    /// Share of the seed that is this grass, %.
    pub purity_pct: f64,
    /// Share of it that germinates, %.
    pub germination_pct: f64,
    /// Nitrogen of the starter, %.
    pub nitrogen_pct: f64,
    /// Phosphate (P₂O₅) of the starter, %.
    pub phosphate_pct: f64,
    /// Share of its nitrogen that is slow-release, %.
    pub slow_pct: f64,
    /// From plug to plug, mm.
    pub spacing_mm: f64,
    /// Lime by a soil test, kg/m²; 0: none.
    pub lime_kg_m2: f64,
}

impl Default for Labels {
    /// Labels as they usually are.
    fn default() -> Self {
        Self {
            purity_pct: 98.0,
            germination_pct: 85.0,
            nitrogen_pct: 18.0,
            phosphate_pct: 24.0,
            slow_pct: 0.0,
            spacing_mm: 300.0,
            lime_kg_m2: 0.0,
        }
    }
}

impl Labels {
    /// Checks them.
    ///
    /// # Errors
    /// The field that does not hold.
    pub fn validate(&self) -> Result<(), Invalid> {
        for (field, range, value) in [
            ("purity_pct", ranges::PURITY, self.purity_pct),
            ("germination_pct", ranges::GERMINATION, self.germination_pct),
            ("nitrogen_pct", ranges::NITROGEN, self.nitrogen_pct),
            ("phosphate_pct", ranges::PHOSPHATE, self.phosphate_pct),
            ("slow_pct", ranges::SLOW_RELEASE, self.slow_pct),
            ("spacing_mm", ranges::PLUG_SPACING, self.spacing_mm),
            ("lime_kg_m2", ranges::LIME, self.lime_kg_m2),
        ] {
            Invalid::unless_within(field, range, value)?;
        }
        Ok(())
    }
}

/// Something to buy.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "item", rename_all = "snake_case")]
#[schema(as = SowingItem)]
pub enum Item {
    /// Seed.
    Seed {
        /// Of which grass.
        grass: Grass,
        /// Pure live seed, g/m².
        rate_g_m2: f64,
        /// Pure live seed, kg.
        pure_kg: f64,
        /// Of the bag as it is labelled, kg.
        bag_kg: f64,
    },
    /// Starter fertilizer.
    Starter {
        /// Of the bag, kg.
        kg: f64,
        /// Nitrogen, g/m².
        nitrogen_g_m2: f64,
        /// Phosphate, g/m².
        phosphate_g_m2: f64,
    },
    /// Lime, as a soil test asks.
    Lime {
        /// Amount, kg.
        kg: f64,
    },
    /// Fine compost or sand, spread over it.
    TopDressing {
        /// Amount, m³.
        m3: f64,
        /// Depth, mm.
        depth_mm: f64,
    },
    /// Sod, waste among it.
    Sod {
        /// Area, m².
        m2: f64,
    },
    /// Plugs.
    Plugs {
        /// How many.
        count: u32,
        /// From plug to plug, mm.
        spacing_mm: f64,
        /// Weeks of growth until they meet, least.
        least_weeks: f64,
        /// Most.
        most_weeks: f64,
    },
    /// Shredded stolons.
    Sprigs {
        /// Amount, m³.
        m3: f64,
    },
}

/// A piece of work.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = SowingTask)]
#[allow(missing_docs)] // they are what they are called; the web has the words
pub enum Task {
    Spray,
    Lime,
    Loosen,
    Level,
    MowLow,
    RakeOut,
    Aerate,
    SlitTwoWays,
    Starter,
    SowTwoWays,
    RakeIn,
    Roll,
    TopDress,
    Moisten,
    LaySod,
    SetPlugs,
    SpreadSprigs,
    PressSprigs,
    KeepMoist,
    SoakThrough,
    Tug,
    Wean,
    FirstMowing,
    FeedAgain,
    WeedKillers,
    RyeEnds,
}

/// A piece of work with its day.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[schema(as = SowingTaskDay)]
pub struct TaskDay {
    /// The day.
    pub on: Date,
    /// What.
    pub task: Task,
}

/// What new grass takes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = SowingMaterials)]
pub struct Materials {
    /// The area, m².
    #[schema(value_type = f64)]
    pub area_m2: Area,
    /// What the labels say.
    pub labels: Labels,
    /// What to buy.
    pub items: Vec<Item>,
    /// The work, in order of days.
    pub tasks: Vec<TaskDay>,
}

/// Of a bag of seed as it is labelled, kg, that holds so much pure live seed.
///
/// # Formula
/// bag = pure / (purity · germination), both shares.
///
/// # Example
/// Seed of 98 % purity and 85 % germination is 83.3 % pure live seed; 8 lb of it are in 9.6 lb of the bag (an extension service's worked example, from memory).
/// ```
/// let bag = lawn::new_grass::materials::bag_kg(8.0, 98.0, 85.0);
/// assert!((bag - 9.6).abs() < 0.005);
/// ```
#[must_use]
pub fn bag_kg(pure_kg: f64, purity_pct: f64, germination_pct: f64) -> f64 {
    pure_kg / (purity_pct / 100.0 * germination_pct / 100.0)
}

/// Of a bag of fertilizer, kg, that brings so much nitrogen to an area.
///
/// # Example
/// A pound of nitrogen on a thousand square feet by an 18-24-12 starter takes 5.6 lb of the bag (an extension service's worked example, from memory).
/// ```
/// use lawn::{new_grass::materials::fertilizer_kg, quantity::Area};
/// let (pound_kg, thousand_square_feet) = (0.453_592, Area::from_m2(92.903));
/// let kg = fertilizer_kg(thousand_square_feet, 1000.0 * pound_kg / 92.903, 18.0);
/// assert!((kg / pound_kg - 5.56).abs() < 0.01);
/// ```
#[must_use]
pub fn fertilizer_kg(area: Area, nitrogen_g_m2: f64, nitrogen_pct: f64) -> f64 {
    area.m2() * nitrogen_g_m2 / 1000.0 / (nitrogen_pct / 100.0)
}

/// How fast a grass spreads in a week of growth, m, slow to fast (common practice, no source).
const fn spreads_m_week(grass: Grass) -> (f64, f64) {
    match grass {
        Grass::CommonBermudagrass
        | Grass::HybridBermudagrass
        | Grass::Kikuyugrass
        | Grass::SeashorePaspalum => (0.010, 0.020),
        Grass::StAugustinegrass | Grass::Buffalograss => (0.008, 0.016),
        Grass::Centipedegrass => (0.004, 0.008),
        _ => (0.003, 0.006),
    }
}

/// Depth of what is spread over it, mm (common practice, no source).
const fn top_dressing_mm(method: Method) -> Option<f64> {
    match method {
        Method::Seed | Method::WinterRye => Some(3.0),
        Method::Overseed => Some(5.0),
        Method::Sprigs => Some(6.0),
        Method::SlitSeed | Method::Sod | Method::Plugs => None,
    }
}

/// What an area takes, on the days of a line.
#[must_use]
pub fn materials(area: Area, line: &Line, labels: &Labels) -> Materials {
    Materials {
        area_m2: area,
        labels: *labels,
        items: items(area, line, labels),
        tasks: tasks(line, labels),
    }
}

fn items(area: Area, line: &Line, labels: &Labels) -> Vec<Item> {
    let method = line.method;
    let mut items = Vec::new();
    let sows = method.sows(line.grass);
    if let Some(seed) = sows.seed().filter(|_| method.is_seed()) {
        let rate_g_m2 = seed.rate_g_m2 * method.share_of_rate();
        let pure_kg = rate_g_m2 * area.m2() / 1000.0;
        items.push(Item::Seed {
            grass: sows,
            rate_g_m2,
            pure_kg,
            bag_kg: bag_kg(pure_kg, labels.purity_pct, labels.germination_pct),
        });
    }
    match method {
        Method::Sod => items.push(Item::Sod {
            m2: area.m2() * (1.0 + SOD_WASTE),
        }),
        Method::Plugs => {
            let spacing_m = labels.spacing_mm / 1000.0;
            let gap = ((spacing_m - PLUG_M) / 2.0).max(0.0);
            let (slow, fast) = spreads_m_week(line.grass);
            items.push(Item::Plugs {
                count: plugs(area, spacing_m),
                spacing_mm: labels.spacing_mm,
                least_weeks: gap / fast,
                most_weeks: gap / slow,
            });
        }
        Method::Sprigs => items.push(Item::Sprigs {
            m3: area.m2() * SPRIGS_M3_M2,
        }),
        _ => {}
    }
    let kg = fertilizer_kg(area, STARTER_N_G_M2, labels.nitrogen_pct);
    items.push(Item::Starter {
        kg,
        nitrogen_g_m2: STARTER_N_G_M2,
        phosphate_g_m2: STARTER_N_G_M2 * labels.phosphate_pct / labels.nitrogen_pct,
    });
    if labels.lime_kg_m2 > 0.0 {
        items.push(Item::Lime {
            kg: labels.lime_kg_m2 * area.m2(),
        });
    }
    if let Some(depth_mm) = top_dressing_mm(method) {
        items.push(Item::TopDressing {
            m3: area.m2() * depth_mm / 1000.0,
            depth_mm,
        });
    }
    items
}

/// What brings seed to the soil, or planting into it, on the day of working the soil and on that of sowing.
const fn works(method: Method) -> (&'static [Task], &'static [Task]) {
    match method {
        Method::Seed => (
            &[Task::Loosen, Task::Level],
            &[
                Task::Starter,
                Task::SowTwoWays,
                Task::RakeIn,
                Task::Roll,
                Task::TopDress,
                Task::KeepMoist,
            ],
        ),
        Method::Overseed => (
            &[Task::MowLow, Task::RakeOut, Task::Aerate],
            &[
                Task::Starter,
                Task::SowTwoWays,
                Task::RakeIn,
                Task::TopDress,
                Task::KeepMoist,
            ],
        ),
        Method::SlitSeed => (
            &[Task::MowLow, Task::RakeOut],
            &[
                Task::Starter,
                Task::SlitTwoWays,
                Task::Roll,
                Task::KeepMoist,
            ],
        ),
        Method::Sod => (
            &[Task::Loosen, Task::Level],
            &[
                Task::Starter,
                Task::Moisten,
                Task::LaySod,
                Task::Roll,
                Task::SoakThrough,
            ],
        ),
        Method::Plugs => (
            &[Task::Loosen, Task::Level],
            &[
                Task::Starter,
                Task::Moisten,
                Task::SetPlugs,
                Task::SoakThrough,
            ],
        ),
        Method::Sprigs => (
            &[Task::Loosen, Task::Level],
            &[
                Task::Starter,
                Task::SpreadSprigs,
                Task::PressSprigs,
                Task::TopDress,
                Task::KeepMoist,
            ],
        ),
        Method::WinterRye => (
            &[Task::MowLow, Task::RakeOut],
            &[
                Task::Starter,
                Task::SowTwoWays,
                Task::RakeIn,
                Task::TopDress,
                Task::KeepMoist,
            ],
        ),
    }
}

fn tasks(line: &Line, labels: &Labels) -> Vec<TaskDay> {
    let on = |what: What| line.points.iter().find(|p| p.what == what).map(|p| p.on);
    let mut tasks = Vec::new();
    let mut add = |on: Option<Date>, of: &[Task]| {
        tasks.extend(
            on.into_iter()
                .flat_map(|on| of.iter().map(move |task| TaskDay { on, task: *task })),
        );
    };
    let (soil, sowing) = works(line.method);
    add(on(What::Spray), &[Task::Spray]);
    if labels.lime_kg_m2 > 0.0 {
        add(on(What::SoilWork), &[Task::Lime]);
    }
    add(on(What::SoilWork), soil);
    let sow = on(What::Sow);
    let (starters, sowing): (Vec<Task>, Vec<Task>) =
        sowing.iter().partition(|task| **task == Task::Starter);
    let fed = sow.map(|sow| {
        let grass = line.method.sows(line.grass);
        feeds(grass, line.method.made(), sow, labels.slow_pct)
    });
    let fed_on = |at: usize| Some(fed.as_ref()?.get(at)?.on);
    let starter_on = fed_on(0);
    if starter_on == sow {
        add(sow, &starters);
    }
    add(sow, &sowing);
    if starter_on != sow {
        add(starter_on, &starters);
    }
    match line.method {
        Method::Sod | Method::Plugs => add(on(What::Weaning), &[Task::Tug, Task::Wean]),
        _ => add(on(What::Weaning), &[Task::Wean]),
    }
    add(on(What::FirstMowing), &[Task::FirstMowing]);
    add(fed_on(1), &[Task::FeedAgain]);
    add(on(What::WeedKillers), &[Task::WeedKillers]);
    add(on(What::RyeEnds), &[Task::RyeEnds]);
    tasks.sort_by_key(|task| task.on);
    tasks
}

/// Seedlings of a good stand on bare ground, on a square decimetre: half of the seed comes up (common practice, no source); `None`: it is not sown.
#[must_use]
pub fn good_stand_dm2(grass: Grass, method: Method) -> Option<f64> {
    const COMES_UP: f64 = 0.5;
    let sows = method.sows(grass);
    let rate_g_m2 = sows.seed()?.rate_g_m2 * method.share_of_rate();
    Some(rate_g_m2 * sowing::seeds_per_g(sows) / 100.0 * COMES_UP)
}
