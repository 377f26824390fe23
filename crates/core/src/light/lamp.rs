//! The lamps that a lamp mix may name. Their spectra are in [`super::tables`].

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::light::per::per;

/// The kinds of lamp that a lamp mix may name.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema,
)]
#[serde(rename_all = "snake_case")]
pub enum Lamp {
    /// High-pressure sodium, yellow-orange.
    HighPressureSodium,
    /// Low-pressure sodium, one yellow line.
    LowPressureSodium,
    /// Mercury vapour.
    Mercury,
    /// Metal halide.
    MetalHalide,
    /// White LED, 3000 K.
    #[serde(rename = "led_3000k")]
    Led3000k,
    /// White LED, 4000 K.
    #[serde(rename = "led_4000k")]
    Led4000k,
}

per! {
    /// One value for each [`Lamp`].
    PerLamp, Lamp, 6
}

impl Lamp {
    /// All lamps.
    pub const ALL: [Lamp; 6] = [
        Self::HighPressureSodium,
        Self::LowPressureSodium,
        Self::Mercury,
        Self::MetalHalide,
        Self::Led3000k,
        Self::Led4000k,
    ];

    /// The name in the scenario document.
    pub fn key(self) -> &'static str {
        match self {
            Self::HighPressureSodium => "high_pressure_sodium",
            Self::LowPressureSodium => "low_pressure_sodium",
            Self::Mercury => "mercury",
            Self::MetalHalide => "metal_halide",
            Self::Led3000k => "led_3000k",
            Self::Led4000k => "led_4000k",
        }
    }
}
