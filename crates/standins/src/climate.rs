//! Five climates, by a few figures each at midwinter and midsummer. Orders of magnitude are those of published normals (see the
//! tests); none is a place.

use serde::{Deserialize, Serialize};

/// Which climate.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, clap::ValueEnum)]
#[serde(rename_all = "kebab-case")]
pub enum Climate {
    /// Between cool and warm grasses: hot dry spells in early summer, storms.
    Transition,
    /// Maritime: cool, wet winters, a dry high summer.
    HumidCool,
    /// Dry hot summers, rain in winter.
    MediterraneanDry,
    /// Hot wet summers, mild winters.
    HumidSubtropical,
    /// Cold winters, warm summers with thunderstorms.
    Continental,
}

impl Climate {
    /// All of them.
    pub const ALL: [Self; 5] = [
        Self::Transition,
        Self::HumidCool,
        Self::MediterraneanDry,
        Self::HumidSubtropical,
        Self::Continental,
    ];

    pub(crate) const fn figures(self) -> &'static Figures {
        match self {
            Self::Transition => &TRANSITION,
            Self::HumidCool => &HUMID_COOL,
            Self::MediterraneanDry => &MEDITERRANEAN_DRY,
            Self::HumidSubtropical => &HUMID_SUBTROPICAL,
            Self::Continental => &CONTINENTAL,
        }
    }
}

/// A figure at midwinter and midsummer; between them it follows the sun.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Swing {
    pub winter: f64,
    pub summer: f64,
}

impl Swing {
    /// At a warmth of the season from −1 (midwinter) to 1 (midsummer).
    pub(crate) fn at(self, warmth: f64) -> f64 {
        f64::midpoint(self.winter, self.summer) + (self.summer - self.winter) / 2.0 * warmth
    }
}

const fn swing(winter: f64, summer: f64) -> Swing {
    Swing { winter, summer }
}

/// A climate's figures.
#[derive(Debug)]
pub(crate) struct Figures {
    /// Mean air temperature, °C.
    pub mean_c: Swing,
    /// Spread of daily means about it, °C.
    pub spread_c: Swing,
    /// Daily range of a clear dry day, °C.
    pub range_c: Swing,
    /// Probability of a wet day after a dry one.
    pub wet_after_dry: Swing,
    /// Probability of a wet day after a wet one.
    pub wet_after_wet: Swing,
    /// Mean rain of a wet day, mm.
    pub rain_mm: Swing,
    /// Share of clear-sky radiation on a dry day.
    pub clear: Swing,
    /// How far the dew point lies below the least temperature on a dry day, °C.
    pub dryness_c: Swing,
    /// Mean wind at 2 m, m/s.
    pub wind_m_s: Swing,
    /// How much warmer a lasting high makes a day, in spreads: heat waves in summer.
    pub blocking: Swing,
}

const TRANSITION: Figures = Figures {
    mean_c: swing(4.0, 25.5),
    spread_c: swing(5.2, 2.7),
    range_c: swing(12.5, 13.0),
    wet_after_dry: swing(0.24, 0.26),
    wet_after_wet: swing(0.44, 0.48),
    rain_mm: swing(8.6, 11.2),
    clear: swing(0.82, 0.84),
    dryness_c: swing(2.0, 0.8),
    wind_m_s: swing(2.3, 1.8),
    blocking: swing(0.1, 0.7),
};

const HUMID_COOL: Figures = Figures {
    mean_c: swing(5.6, 19.2),
    spread_c: swing(3.2, 2.8),
    range_c: swing(7.0, 13.0),
    wet_after_dry: swing(0.38, 0.11),
    wet_after_wet: swing(0.67, 0.42),
    rain_mm: swing(8.9, 7.4),
    clear: swing(0.6, 0.86),
    dryness_c: swing(1.2, 1.8),
    wind_m_s: swing(2.9, 2.3),
    blocking: swing(0.0, 0.7),
};

const MEDITERRANEAN_DRY: Figures = Figures {
    mean_c: swing(11.0, 23.8),
    spread_c: swing(2.8, 3.0),
    range_c: swing(11.0, 14.5),
    wet_after_dry: swing(0.27, 0.012),
    wet_after_wet: swing(0.6, 0.2),
    rain_mm: swing(12.0, 4.0),
    clear: swing(0.85, 0.97),
    dryness_c: swing(3.0, 3.5),
    wind_m_s: swing(1.8, 2.2),
    blocking: swing(0.1, 0.8),
};

const HUMID_SUBTROPICAL: Figures = Figures {
    mean_c: swing(12.5, 27.8),
    spread_c: swing(4.8, 1.4),
    range_c: swing(12.0, 11.0),
    wet_after_dry: swing(0.2, 0.38),
    wet_after_wet: swing(0.38, 0.62),
    rain_mm: swing(12.0, 13.5),
    clear: swing(0.82, 0.8),
    dryness_c: swing(1.2, 0.4),
    wind_m_s: swing(2.2, 1.8),
    blocking: swing(0.1, 0.5),
};

const CONTINENTAL: Figures = Figures {
    mean_c: swing(-7.5, 23.0),
    spread_c: swing(6.5, 3.2),
    range_c: swing(10.0, 13.0),
    wet_after_dry: swing(0.17, 0.26),
    wet_after_wet: swing(0.36, 0.42),
    rain_mm: swing(3.2, 11.5),
    clear: swing(0.78, 0.85),
    dryness_c: swing(1.8, 1.0),
    wind_m_s: swing(3.2, 2.6),
    blocking: swing(-0.2, 0.7),
};
