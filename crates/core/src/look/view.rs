//! How a look is wanted: field, seed, time, colours, stretch, and what is left out.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::light::lines::Quantity;
use crate::light::units::FWHM_PER_SIGMA;
use crate::look::ghost::USUAL_GAP_MM;
use crate::path::sky::air::airmass;
use crate::scenario::check::{Checker, FieldRange};
use crate::scenario::document::Scenario;
use crate::scenario::field_error::FieldError;
use crate::signal::star::seeing_fwhm_arcsec;

macro_rules! defaults {
    ($($name:ident: $type:ty = $value:expr;)*) => { $(fn $name() -> $type { $value })* };
}

defaults! {
    field_arcsec: f64 = 600.0; time_fraction: f64 = 1.0; strength: f64 = 0.6;
    gap_mm: f64 = USUAL_GAP_MM; seed: u32 = 1; ha: Quantity = Quantity::Ha;
}

/// The farthest that a crop lies from where the rigs look, arcsec.
const FARTHEST_ARCSEC: f64 = 20_000.0;

/// How the look is wanted.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LookView {
    /// Width and height of the crop, arcsec.
    #[serde(default = "field_arcsec")]
    #[schema(default = 600.0)]
    pub field_arcsec: f64,
    /// How far its middle lies to the right of where the rigs look, arcsec.
    #[serde(default)]
    #[schema(default = 0.0)]
    pub right_arcsec: f64,
    /// And how far above it.
    #[serde(default)]
    #[schema(default = 0.0)]
    pub up_arcsec: f64,
    /// How large the target is across, arcsec: a smaller one than the crop stands in its own size.
    /// Null for one that fills the crop.
    #[serde(default)]
    pub object_arcsec: Option<f64>,
    /// Seed of structure and noise.
    #[serde(default = "seed")]
    #[schema(default = 1)]
    pub seed: u32,
    /// Share of the scenario's time that is stacked, 0-1; 0 is one sub.
    #[serde(default = "time_fraction")]
    #[schema(default = 1.0)]
    pub time_fraction: f64,
    /// How colours are made.
    #[serde(default)]
    pub palette: Palette,
    /// The quantity of [`Palette::Single`].
    #[serde(default = "ha")]
    pub single: Quantity,
    /// The curve.
    #[serde(default)]
    pub stretch: Stretch,
    /// How strong the curve is, 0-1.
    #[serde(default = "strength")]
    #[schema(default = 0.6)]
    pub strength: f64,
    /// What is made equal before the stretch.
    #[serde(default, rename = "match")]
    pub matched: Match,
    /// Without any noise.
    #[serde(default)]
    pub truth: bool,
    /// Without structure and stars: the target's mean everywhere.
    #[serde(default)]
    pub flat: bool,
    /// Guiding error, arcsec root mean square, added to the seeing.
    #[serde(default)]
    #[schema(default = 0.0)]
    pub guiding_rms_arcsec: f64,
    /// Way from filter to sensor where a rig states none, mm.
    #[serde(default = "gap_mm")]
    #[schema(default = 15.0)]
    pub gap_mm: f64,
    /// Where the moon stands, degrees from up to the left.
    #[serde(default)]
    #[schema(default = 0.0)]
    pub moon_direction_deg: f64,
}

impl Default for LookView {
    fn default() -> Self {
        Self {
            field_arcsec: field_arcsec(),
            right_arcsec: 0.0,
            up_arcsec: 0.0,
            object_arcsec: None,
            seed: seed(),
            time_fraction: time_fraction(),
            palette: Palette::default(),
            single: ha(),
            stretch: Stretch::default(),
            strength: strength(),
            matched: Match::default(),
            truth: false,
            flat: false,
            guiding_rms_arcsec: 0.0,
            gap_mm: gap_mm(),
            moon_direction_deg: 0.0,
        }
    }
}

impl LookView {
    /// Full width at half maximum of a star, arcsec: seeing and guiding in quadrature.
    pub fn star_fwhm_arcsec(&self, s: &Scenario) -> f64 {
        let seeing = seeing_fwhm_arcsec(s.seeing_fwhm_arcsec, airmass(s.sky.target_altitude_deg));
        seeing.hypot(FWHM_PER_SIGMA * self.guiding_rms_arcsec)
    }

    /// Where its middle lies, arcsec to the right and up of where the rigs look.
    pub fn at_arcsec(&self) -> [f64; 2] {
        [self.right_arcsec, self.up_arcsec]
    }

    /// Checks every field.
    ///
    /// # Errors
    /// All fields that are wrong, with what is accepted.
    pub fn check(self) -> Result<Self, Vec<FieldError>> {
        Checker::errors_of(|c| self.checked_by(c)).map(|()| self)
    }

    /// The ranges of its numbers.
    pub fn ranges() -> Vec<FieldRange> {
        Checker::ranges_of(|c| Self::default().checked_by(c))
    }

    fn checked_by(&self, c: &mut Checker) {
        c.within("view.field_arcsec", self.field_arcsec, 30.0, 3600.0, "arcsec");
        for (at, arcsec) in
            [("view.right_arcsec", self.right_arcsec), ("view.up_arcsec", self.up_arcsec)]
        {
            c.within(at, arcsec, -FARTHEST_ARCSEC, FARTHEST_ARCSEC, "arcsec");
        }
        c.maybe_within("view.object_arcsec", self.object_arcsec, 1.0, 360_000.0, "arcsec");
        c.within("view.time_fraction", self.time_fraction, 0.0, 1.0, "");
        c.within("view.strength", self.strength, 0.0, 1.0, "");
        c.within("view.guiding_rms_arcsec", self.guiding_rms_arcsec, 0.0, 10.0, "arcsec");
        c.within("view.gap_mm", self.gap_mm, 1.0, 200.0, "mm");
        c.within("view.moon_direction_deg", self.moon_direction_deg, -360.0, 360.0, "degrees");
    }

    /// The view with what only changes noise, palette and stretch set aside: views that agree in
    /// this share their [`Look`].
    pub fn of_planes(&self) -> Self {
        Self {
            time_fraction: 1.0,
            palette: Palette::default(),
            single: ha(),
            stretch: Stretch::default(),
            strength: strength(),
            matched: Match::default(),
            truth: false,
            ..*self
        }
    }
}

/// How colours are made.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Palette {
    /// Each light at its own hue, balanced on a sunlike star. A path of one line is grey.
    #[default]
    Natural,
    /// H-alpha red, [O III] green and blue.
    Hoo,
    /// [S II] red, H-alpha green, [O III] blue.
    Sho,
    /// One quantity, grey.
    Single,
}

impl Palette {
    /// The quantities that a picture in this palette is made of; `single` is that of a grey one.
    pub fn quantities(self, single: Quantity) -> Vec<Quantity> {
        match self {
            Self::Natural => Quantity::ALL.to_vec(),
            Self::Hoo => vec![Quantity::Ha, Quantity::Oiii],
            Self::Sho => vec![Quantity::Sii, Quantity::Ha, Quantity::Oiii],
            Self::Single => vec![single],
        }
    }
}

/// The curve from electrons to brightness.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Stretch {
    /// Straight.
    Linear,
    /// Inverse hyperbolic sine: straight in the faint, logarithmic in the bright.
    #[default]
    Asinh,
    /// The midtones function that puts the background at a chosen brightness.
    Midtones,
}

/// What the crops are made equal in before they are stretched.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Match {
    /// The background's level and the target's brightness: what remains is noise.
    #[default]
    Background,
    /// Nothing: electrons as they were counted. A brighter sky looks like more signal.
    Exposure,
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn views_that_differ_in_noise_and_colour_alone_share_their_planes() {
        let plain = LookView::default();
        let changes: [fn(&mut LookView); 7] = [
            |v| v.time_fraction = 0.3,
            |v| v.palette = Palette::Sho,
            |v| v.single = Quantity::Sii,
            |v| v.stretch = Stretch::Linear,
            |v| v.strength = 0.1,
            |v| v.matched = Match::Exposure,
            |v| v.truth = true,
        ];
        for (i, change) in changes.iter().enumerate() {
            let mut other = plain;
            change(&mut other);
            assert_ne!(other, plain, "change {i} does something");
            assert_eq!(other.of_planes(), plain.of_planes(), "change {i}");
        }
        let planes: [fn(&mut LookView); 9] = [
            |v| v.field_arcsec = 300.0,
            |v| v.right_arcsec = -50.0,
            |v| v.up_arcsec = 100.0,
            |v| v.object_arcsec = Some(80.0),
            |v| v.seed = 2,
            |v| v.flat = true,
            |v| v.guiding_rms_arcsec = 1.0,
            |v| v.gap_mm = 20.0,
            |v| v.moon_direction_deg = 45.0,
        ];
        for (i, change) in planes.iter().enumerate() {
            let mut other = plain;
            change(&mut other);
            assert_ne!(other.of_planes(), plain.of_planes(), "change {i} needs planes of its own");
        }
    }
}
