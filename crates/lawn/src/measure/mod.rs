//! What was measured and seen, and what it says: tests of sprinklers, heads and what is wrong with them, the grass
//! by its signs, the soil and its roots, what was seen, figures that are asked about.

pub mod cans;
pub mod grass_key;
pub mod head_fault;
pub mod hot_spot;
pub mod outline;
pub mod quick;
pub mod result;
pub mod seen;
pub mod soil;
pub mod sprinkler;
pub mod squeeze;
pub mod unevenness;
pub mod unlikely;
pub mod wet_check;
