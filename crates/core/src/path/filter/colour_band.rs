//! Which part of the visible a filter passes, told by what it does and not by its box.

use crate::path::filter::weights::FilterInCone;

/// The part of the visible that a filter passes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum ColourBand {
    /// All of it: luminance, or all colours of a colour camera.
    Any,
    /// Red alone.
    Red,
    /// Green alone.
    Green,
    /// Blue alone.
    Blue,
    /// Something else: stars through it have no colours of theirs.
    Odd,
}

/// Blue, green and red of a picture, nm: the middles of what sets of filters call so (common
/// practice, no source).
const COLOURS_NM: [(u32, u32); 3] = [(430, 490), (510, 570), (600, 670)];

impl FilterInCone<'_> {
    /// The part of the visible that it passes, by the mean of each colour.
    pub fn colour_band(&self) -> ColourBand {
        let shares = COLOURS_NM.map(|(from, to)| {
            let sum: f64 = (from..=to).map(|nm| self.at_normal_incidence(f64::from(nm))).sum();
            sum / f64::from(to - from + 1)
        });
        let (most, some, little) =
            (|k: usize| shares[k] > 0.6, |k: usize| shares[k] > 0.3, |k: usize| shares[k] < 0.2);
        match () {
            () if some(0) && some(1) && some(2) => ColourBand::Any,
            () if little(0) && little(1) && most(2) => ColourBand::Red,
            () if little(0) && most(1) && little(2) => ColourBand::Green,
            () if most(0) && little(1) && little(2) => ColourBand::Blue,
            () => ColourBand::Odd,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::library::gear::Library;

    #[test]
    fn the_shelf_s_filters_are_told_by_what_they_pass() {
        let gear = Library::shipped().expect("the library").gear;
        let optics = &gear.optics[0].optics;
        for (id, band) in [
            ("lum", ColourBand::Any),
            ("uv-ir-cut", ColourBand::Any),
            ("sodium-notch", ColourBand::Any),
            ("red", ColourBand::Red),
            ("red-wide", ColourBand::Red),
            ("green", ColourBand::Green),
            ("blue", ColourBand::Blue),
            ("uhc", ColourBand::Odd),
            ("ha-7", ColourBand::Odd),
        ] {
            let filter = &gear.filters.iter().find(|f| f.id == id).expect(id).filter;
            assert_eq!(FilterInCone::new(Some(filter), optics, 0.0).colour_band(), band, "{id}");
        }
        assert_eq!(FilterInCone::new(None, optics, 0.0).colour_band(), ColourBand::Any);
    }
}
