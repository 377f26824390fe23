//! How fast every filter of a rig gathers information at any moment of a night. All spectra are
//! integrated once; a moment only scales them: extinction with airmass, airglow and lamps with
//! altitude, moonlight by its two kinds of scattering, twilight.

use crate::decide::goals::{purpose, wanted};
use crate::light::lines::{LINES, PerQuantity, Quantity};
use crate::light::spectrum::Spectrum;
use crate::light::tables::Tables;
use crate::light::units::PHOTONS_PER_RAYLEIGH;
use crate::path::filter::weights::FilterInCone;
use crate::path::rates::Rates;
use crate::path::sky::air::{Air, airmass};
use crate::path::sky::artificial::{artificial_linear_at, lamp_mix};
use crate::path::sky::beyond::Beyond;
use crate::path::sky::moon::{AEROSOLS_POWER, MOLECULES_POWER, MoonTerms, moon_linear};
use crate::path::sky::natural::{natural_growth, natural_zenith};
use crate::path::sky::part::PerSkyPart;
use crate::path::sky::twilight::{twilight_colours, twilight_linear, twilight_units};
use crate::path::target::continuum_spectrum;
use crate::scenario::check::Checked;
use crate::scenario::goal::CLEAN_SNR;
use crate::scenario::sky::{Moon, Sky};
use crate::scenario::target::LinesRayleigh;
use crate::signal::instrument::Instrument;
use crate::signal::model::{LightPath, Model};

/// What a rate depends on at one moment.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Moment {
    /// Altitude of the target, degrees.
    pub altitude_deg: f64,
    /// Azimuth of the target, degrees from north through east.
    pub azimuth_deg: f64,
    /// Altitude of the sun, degrees.
    pub sun_altitude_deg: f64,
    /// Ecliptic longitude of the sun, degrees; `None` for a night of no date.
    pub sun_longitude_deg: Option<f64>,
    /// Mean solar time, hours, 0 to 24; `None` for a night of no hour.
    pub solar_hour: Option<f64>,
    /// The moon.
    pub moon: Moon,
}

/// What all channels of a rig share at one moment: extinction of each line, and how bright each
/// part of the sky is.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Light {
    extinction: [f64; LINES.len()],
    airmass: f64,
    natural: f64,
    lamps: f64,
    moon: [f64; 2],
    twilight: [f64; 2],
}

/// Airmasses at which a continuum's rate is known.
const NODES: [f64; 6] = [1.0, 1.4, 2.0, 3.0, 5.0, 10.0];

/// One channel's rates by source, e-/s per pixel, each for one unit of that source.
#[derive(Clone, Debug)]
struct UnitRates {
    share: f64,
    pixels: f64,
    /// For one rayleigh of each of [`LINES`] outside the air.
    lines: [f64; LINES.len()],
    /// For the scenario's continuum, its logarithm at each of [`NODES`]; none where there is no
    /// continuum.
    continuum_ln: Option<[f64; NODES.len()]>,
    natural: f64,
    lamps: f64,
    /// Moonlight scattered by molecules and by aerosols, unscaled.
    moon: [f64; 2],
    /// Twilight in each of its colours.
    twilight: [f64; 2],
    dark: f64,
    records: PerQuantity<bool>,
}

impl UnitRates {
    /// Natural sky, lamps, moonlight and twilight, e-/s per pixel.
    fn sky(&self, light: &Light) -> PerSkyPart<f64> {
        PerSkyPart([
            self.natural * light.natural,
            self.lamps * light.lamps,
            self.moon[0] * light.moon[0] + self.moon[1] * light.moon[1],
            self.twilight[0] * light.twilight[0] + self.twilight[1] * light.twilight[1],
        ])
    }
}

/// How far a quantity has come, told as its goal is: by the mean's signal to noise.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct NightGoal {
    /// Signal to noise of the mean at which the goal is met.
    pub mean_snr: f64,
    /// Side of the square on which the part that the goal names comes clean, times the mean's
    /// signal to noise, arcsec; `None` for a goal of stars.
    pub clean_times_snr_arcsec: Option<f64>,
    /// The finest detail that seeing and pixels allow, arcsec.
    finest_arcsec: f64,
}

impl NightGoal {
    fn new(path: &LightPath, q: Quantity) -> Self {
        let aim = &path.aims[q];
        let mean_snr = path.mean_snr_at_goal(q);
        // The goal's own square, scaled from its signal to noise to that of clean.
        let side = aim.goal.detail_arcsec * aim.goal.snr / CLEAN_SNR * mean_snr;
        Self {
            mean_snr,
            clean_times_snr_arcsec: aim.goal.star_v_mag.is_none().then_some(side),
            finest_arcsec: path.finest_arcsec(q),
        }
    }

    /// Side of the square on which the part comes clean once the mean has this signal to noise,
    /// arcsec; `None` for a goal of stars, or where nothing is there.
    pub fn clean_arcsec(&self, mean_snr: f64) -> Option<f64> {
        let side = self.clean_times_snr_arcsec? / mean_snr;
        (mean_snr > 0.0).then(|| side.max(self.finest_arcsec))
    }
}

#[derive(Clone, Debug)]
struct NightExposure {
    sub_s: f64,
    /// Whether it shows stars and galaxies in their own light.
    broad: bool,
    purpose: Option<Quantity>,
    /// Everything that somebody wants of what it records, what it is for first.
    lines: Vec<Quantity>,
    channels: Vec<UnitRates>,
    instrument: Instrument,
}

/// A rig over a night.
#[derive(Clone, Debug)]
pub struct NightRig {
    sky: Sky,
    /// Where the target stands beyond the air.
    beyond: Option<Beyond>,
    k: [f64; LINES.len()],
    k_v: f64,
    natural_v: f64,
    moon_v: [f64; 2],
    lines: LinesRayleigh,
    goals: PerQuantity<NightGoal>,
    exposures: Vec<NightExposure>,
    instrument: Instrument,
}

impl NightRig {
    /// Prepares one contender of a scenario. `None` where there is no such contender.
    pub fn new(scenario: &Checked, contender: usize, tables: &Tables) -> Option<Self> {
        let s = scenario.scenario();
        let c = s.contenders.get(contender)?;
        let model = Model::nominal(scenario, tables);
        let path = &model.paths[contender];
        let air = Air::new(s.sky.site_height_m, s.sky.k_v, 1.0);
        let natural = natural_zenith(tables, s.sky.natural_zenith_mag());
        let lamps = lamp_mix(tables, &s.sky.lamps);
        let scattered = |power: f64| tables.sunlight.clone().shaped(|nm| (nm / 550.0).powf(power));
        let moon = [scattered(MOLECULES_POWER), scattered(AEROSOLS_POWER)];
        let twilight = twilight_units(tables);
        let continuum = s.target.continuum.as_ref().map(|c| continuum_spectrum(tables, c));
        let through_air: Option<Vec<Spectrum>> = continuum.map(|outside| {
            NODES.map(|x| outside.clone().shaped(|nm| 10f64.powf(-0.4 * air.k(nm) * x))).to_vec()
        });
        let per_pixel = c.photons_per_pixel();
        let sensor_channels = c.sensor.channels();
        let wanted = wanted(path);
        let exposures = c.exposures.iter().zip(&path.exposures).map(|(e, own_exposure)| {
            let filter = FilterInCone::new(e.filter.as_ref(), &c.optics, 0.0);
            let weights = filter.weights();
            let channels =
                sensor_channels.iter().zip(&own_exposure.channels).map(|(channel, own)| {
                    let response = channel.response_on_grid();
                    let sensitivity: Vec<f64> =
                        weights.iter().zip(&response).map(|(w, r)| w * r).collect();
                    let rate = |spectrum: &Spectrum| {
                        let sum: f64 =
                            sensitivity.iter().zip(&spectrum.continuum).map(|(a, b)| a * b).sum();
                        let lines: f64 = spectrum
                            .lines
                            .iter()
                            .map(|l| {
                                l.photons
                                    * filter.at(l.wavelength_nm)
                                    * channel.response(l.wavelength_nm)
                            })
                            .sum();
                        (sum + lines) * per_pixel
                    };
                    UnitRates {
                        share: own.pixel_share,
                        pixels: own.pixels,
                        lines: LINES.map(|l| {
                            PHOTONS_PER_RAYLEIGH
                                * filter.at(l.wavelength_nm)
                                * channel.response(l.wavelength_nm)
                                * per_pixel
                        }),
                        continuum_ln: through_air.as_ref().map(|list| {
                            let mut out = [0.0; NODES.len()];
                            out.iter_mut()
                                .zip(list)
                                .for_each(|(o, spectrum)| *o = rate(spectrum).max(1e-300).ln());
                            out
                        }),
                        natural: rate(&natural),
                        lamps: rate(&lamps),
                        moon: [rate(&moon[0]), rate(&moon[1])],
                        twilight: [rate(&twilight[0]), rate(&twilight[1])],
                        dark: own.nominal().dark,
                        records: own.records,
                    }
                });
            NightExposure {
                sub_s: e.sub_s,
                broad: own_exposure.is_broad(),
                purpose: purpose(own_exposure),
                lines: {
                    let first = purpose(own_exposure);
                    let recorded = |q: &Quantity| own_exposure.records(*q);
                    let others =
                        wanted.iter().copied().filter(|q| Some(*q) != first && recorded(q));
                    first.into_iter().chain(others).collect()
                },
                channels: channels.collect(),
                instrument: own_exposure.instrument.dithered(),
            }
        });
        Some(Self {
            k: LINES.map(|l| air.k(l.wavelength_nm)),
            k_v: air.k(550.0),
            natural_v: tables.v_linear(&natural),
            moon_v: [tables.v_linear(&moon[0]), tables.v_linear(&moon[1])],
            lines: s.target.lines_rayleigh,
            goals: PerQuantity(Quantity::JUDGED).map(|q| NightGoal::new(path, q)),
            exposures: exposures.collect(),
            instrument: path.instrument.dithered(),
            beyond: s.beyond_the_air(),
            sky: s.sky.clone(),
        })
    }

    /// Exposures of the rig.
    pub fn len(&self) -> usize {
        self.exposures.len()
    }

    /// Whether the rig exposes nothing.
    pub fn is_empty(&self) -> bool {
        self.exposures.is_empty()
    }

    /// What an exposure is for.
    pub fn purpose(&self, exposure: usize) -> Option<Quantity> {
        self.exposures[exposure].purpose
    }

    /// The goal for a quantity.
    pub fn goal(&self, q: Quantity) -> &NightGoal {
        &self.goals[q]
    }

    /// The finest detail that seeing and pixels allow in a quantity, arcsec.
    pub fn finest_arcsec(&self, q: Quantity) -> f64 {
        self.goals[q].finest_arcsec
    }

    /// Signal to noise of the mean that an exposure must bring in what it is for; `None` where it
    /// is for nothing.
    pub fn goal_snr(&self, exposure: usize) -> Option<f64> {
        self.purpose(exposure).map(|q| self.goals[q].mean_snr)
    }

    /// The name of a quantity on the rig's target.
    pub fn name_of(&self, q: Quantity) -> &'static str {
        self.lines.name_of(q)
    }

    /// Everything that somebody wants of what an exposure records, what it is for first.
    pub fn lines(&self, exposure: usize) -> &[Quantity] {
        &self.exposures[exposure].lines
    }

    /// (Signal to noise)^2 per hour of clock of each of [`Self::lines`] under light that was worked
    /// out before.
    pub fn lines_per_h(&self, exposure: usize, light: &Light) -> Vec<f64> {
        self.lines(exposure)
            .iter()
            .map(|q| 3600.0 * self.information_under(exposure, *q, light))
            .collect()
    }

    /// Whether an exposure is through a filter wide enough for stars, galaxies and dust in their
    /// own light.
    pub fn is_broad(&self, exposure: usize) -> bool {
        self.exposures[exposure].broad
    }

    /// Time lost after each sub, s.
    pub fn between_s(&self) -> f64 {
        self.instrument.between_s
    }

    /// Share of an exposure's subs that is kept on average.
    pub fn kept_share(&self, exposure: usize) -> f64 {
        self.instrument.kept(1.0, self.sub_s(exposure))
    }

    /// Length of a sub, s.
    pub fn sub_s(&self, exposure: usize) -> f64 {
        self.exposures[exposure].sub_s
    }

    /// What all channels share at a moment.
    pub fn light_at(&self, m: &Moment) -> Light {
        self.light_towards(m, self.beyond)
    }

    /// The same towards another direction, at the moment's altitude and azimuth.
    pub fn light_towards(&self, m: &Moment, beyond: Option<Beyond>) -> Light {
        let airmass = airmass(m.altitude_deg);
        let moonlight = moon_linear(&m.moon, m.altitude_deg, self.k_v, self.natural_v);
        let t = MoonTerms::at(m.moon.separation_deg);
        let scale = moonlight / (t.rayleigh * self.moon_v[0] + t.mie * self.moon_v[1]);
        let moon = [t.rayleigh * scale, t.mie * scale];
        let twilight = twilight_linear(m.sun_altitude_deg);
        Light {
            extinction: self.k.map(|k| 10f64.powf(-0.4 * k * airmass)),
            airmass,
            natural: natural_growth(m.altitude_deg, self.k_v)
                * beyond.map_or(1.0, |b| b.natural_light(m.sun_longitude_deg)),
            lamps: artificial_linear_at(&self.sky, m.altitude_deg, Some(m.azimuth_deg), self.k_v)
                * m.solar_hour.map_or(1.0, |hour| self.sky.lit_at(hour)),
            moon,
            twilight: twilight_colours(m.sun_altitude_deg).map(|share| share * twilight),
        }
    }

    fn rates(&self, b: &UnitRates, light: &Light, lines: &LinesRayleigh, continuum: f64) -> Rates {
        let mut out = Rates { dark: b.dark, ..Rates::default() };
        for (i, (line, rayleigh)) in LINES.iter().zip(lines.each()).enumerate() {
            out.add_line(line, rayleigh * b.lines[i] * light.extinction[i]);
        }
        if let Some(ln) = b.continuum_ln.as_ref().filter(|_| continuum > 0.0) {
            let i = NODES.partition_point(|n| *n <= light.airmass).clamp(1, NODES.len() - 1);
            let f = ((light.airmass - NODES[i - 1]) / (NODES[i] - NODES[i - 1])).min(1.0);
            out.target[Quantity::Continuum] =
                continuum * (ln[i - 1] + (ln[i] - ln[i - 1]) * f).exp();
        }
        out.sky = b.sky(light);
        out
    }

    /// Rates of every channel of an exposure at a moment, with the share of the pixels.
    pub fn rates_at(&self, exposure: usize, m: &Moment) -> Vec<(f64, Rates)> {
        let light = self.light_at(m);
        self.exposures[exposure]
            .channels
            .iter()
            .map(|b| (b.share, self.rates(b, &light, &self.lines, 1.0)))
            .collect()
    }

    /// (Signal to noise)^2 of a quantity per second of clock through one exposure at a moment.
    pub fn information_per_s(&self, exposure: usize, q: Quantity, m: &Moment) -> f64 {
        self.information_of(exposure, q, &self.light_at(m), &self.lines, 1.0)
    }

    /// The same under light that was worked out before.
    pub fn information_under(&self, exposure: usize, q: Quantity, light: &Light) -> f64 {
        self.information_of(exposure, q, light, &self.lines, 1.0)
    }

    /// The sky through one exposure, e-/s per pixel, mean over the pixels of all colours.
    pub fn background_under(&self, exposure: usize, light: &Light) -> f64 {
        self.exposures[exposure]
            .channels
            .iter()
            .map(|b| b.share * b.sky(light).iter().sum::<f64>())
            .sum()
    }

    /// [`Self::information_under`] for another target: its lines, and its continuum as a multiple
    /// of the scenario's.
    pub fn information_of(
        &self,
        exposure: usize,
        q: Quantity,
        light: &Light,
        lines: &LinesRayleigh,
        continuum: f64,
    ) -> f64 {
        let e = &self.exposures[exposure];
        let one = |b: &UnitRates| {
            if !b.records[q] && q != Quantity::Continuum {
                return 0.0;
            }
            let r = self.rates(b, light, lines, continuum);
            e.instrument.channel_snr2(&r, q, b.pixels, e.sub_s, 1.0)
        };
        e.channels.iter().map(one).sum::<f64>() / (e.sub_s + self.between_s())
    }
}
