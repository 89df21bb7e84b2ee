//! A figure over past years: the least, the middle, the most.

use std::cmp::Ordering;

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::quantity::Volume;

/// A figure over past years.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Spread<T> {
    /// Least.
    pub low: T,
    /// In the middle one.
    pub middle: T,
    /// Most.
    pub high: T,
    /// How many years have such a figure.
    pub years: usize,
}

impl<T: Copy> Spread<T> {
    /// Of a figure of each year; `None`: no year has one.
    #[must_use]
    pub fn of(mut values: Vec<T>, order: impl Fn(&T, &T) -> Ordering) -> Option<Self> {
        values.sort_by(order);
        Some(Self {
            low: *values.first()?,
            middle: *values.get(values.len() / 2)?,
            high: *values.last()?,
            years: values.len(),
        })
    }
}

impl Spread<f64> {
    /// Of numbers.
    #[must_use]
    pub fn of_numbers(values: Vec<f64>) -> Option<Self> {
        Self::of(values, f64::total_cmp)
    }
}

impl Spread<Volume> {
    /// Of volumes of water.
    #[must_use]
    pub fn of_volumes(values: Vec<Volume>) -> Option<Self> {
        Self::of(values, |a, b| a.l().total_cmp(&b.l()))
    }
}

impl Spread<Date> {
    /// Of days.
    #[must_use]
    pub fn of_days(values: Vec<Date>) -> Option<Self> {
        Self::of(values, Date::cmp)
    }
}
