//! The decisions against scipy's general optimisers and distributions: see reference/README.md for
//! the script and version.

use crate::common::{ic_443, number, reference};
use salt_lamp_core::campaign::{ClearNights, forecast};
use salt_lamp_core::decide::{Draws, Range, least_served_shares};
use salt_lamp_core::light::Quantity;
use salt_lamp_core::path::sky::SkyPart;
use salt_lamp_core::signal::{SubTerms, plateau};

#[test]
fn the_best_sub_and_its_plateau_are_those_of_a_general_optimiser() {
    for row in reference("sub_plateau.csv") {
        let [rate, read_noise_e, overhead_s, loss_per_hour, longest_s, best_s, from_s, to_s] =
            row.iter().map(|c| number(c)).collect::<Vec<_>>()[..]
        else {
            panic!("{row:?}")
        };
        let p = plateau(&SubTerms {
            total_e_per_s: rate,
            background_e_per_s: rate,
            dark_e_per_s: 0.0,
            read_noise_e,
            overhead_s,
            loss_per_hour,
            longest_s: Some(longest_s),
        });
        // Near its top the curve is flat: the optimiser knows the place to a part in ten thousand
        // only.
        assert!((p.best_s / best_s - 1.0).abs() < 1e-3, "{row:?}: {p:?}");
        // The core looks no shorter than a hundredth of a second.
        assert!((p.from_s / from_s.max(0.01) - 1.0).abs() < 1e-5, "{row:?}: {p:?}");
        assert!((p.to_s / to_s - 1.0).abs() < 1e-5, "{row:?}: {p:?}");
    }
}

#[test]
fn the_fair_split_is_that_of_a_linear_programme() {
    for row in reference("fair_split.csv") {
        let (n, k): (usize, usize) =
            (row[0].parse().expect("a count"), row[1].parse().expect("a count"));
        let flat: Vec<f64> = row[2].split(';').map(number).collect();
        let gains: Vec<Vec<f64>> = flat.chunks(k).map(<[f64]>::to_vec).collect();
        let shares = least_served_shares(&gains, n);
        assert!(
            (shares.iter().sum::<f64>() - 1.0).abs() < 1e-9 && shares.iter().all(|s| *s >= 0.0),
            "{shares:?}"
        );
        let served = |goal: usize| shares.iter().zip(&gains).map(|(s, g)| s * g[goal]).sum::<f64>();
        let least = (0..k).map(served).fold(f64::INFINITY, f64::min);
        let theirs = number(&row[3]);
        assert!((least - theirs).abs() <= 1e-6 * theirs.abs() + 1e-9, "{row:?}: {least}");
    }
}

/// With one goal that a clear night fills by a fixed part, the forecast is a negative binomial
/// waiting time.
#[test]
fn the_forecast_waits_as_long_as_the_negative_binomial() {
    for row in reference("nights_needed.csv") {
        let [share, clear, median, ninety, deviation] =
            row.iter().map(|c| number(c)).collect::<Vec<_>>()[..]
        else {
            panic!("{row:?}")
        };
        // The table is of nights that know nothing of each other.
        let weather = ClearNights { lag_one: 0.0, ..ClearNights::in_runs(share) };
        let f = forecast(&[clear * 10.0 - 1.0], &vec![vec![10.0]; 600], &[0], weather, 7);
        // 400 runs: a quantile of them is off by about 1.25 to 1.7 standard deviations over the
        // root of 400.
        let slack = 4.0 * 1.7 * deviation / 20.0 + 1.0;
        let off = |ours: Option<usize>, theirs: f64| (ours.expect("it ends") as f64 - theirs).abs();
        assert!(off(f.median_nights, median) <= slack, "{row:?}: {f:?}");
        assert!(off(f.ninety_nights, ninety) <= 1.5 * slack, "{row:?}: {f:?}");
    }
}

/// What is drawn has the stated spread: log-normal for the target, normal in magnitudes for the
/// sky.
#[test]
fn draws_have_the_quantiles_of_their_distributions() {
    for row in reference("ranges.csv") {
        let stated = number(&row[1]);
        let mut s = ic_443();
        s.choices.uncertainty.draws = 2000;
        // Without lamps all of the sky is what was read.
        s.sky.zenith_v_mag = s.sky.natural_v_mag;
        s.choices.uncertainty.sky_mag = if row[0] == "sky" { stated } else { 0.0 };
        s.choices.uncertainty.target_relative = if row[0] == "target" { stated } else { 0.0 };
        let draws = Draws::new(&s);
        let of = |sky: bool| {
            draws
                .of(0)
                .iter()
                .map(|(scales, _)| match sky {
                    true => scales.sky[SkyPart::Natural],
                    // Without what the air does to both alike.
                    false => scales.lines[Quantity::Continuum] / scales.star,
                })
                .collect()
        };
        let drawn = Range::of(of(row[0] == "sky")).expect("draws");
        for (ours, theirs) in [(drawn.low, &row[2]), (drawn.middle, &row[3]), (drawn.high, &row[4])]
        {
            // 2000 draws: the tenths of a normal deviate are off by sqrt(0.1 x 0.9) / 0.1755 = 1.71
            // of its standard deviations over their root (0.1755: the density there). Both are
            // normal in their logarithm: magnitudes, or ln(1 + stated).
            let sigma = if row[0] == "sky" {
                0.4 * std::f64::consts::LN_10 * stated
            } else {
                stated.ln_1p()
            };
            let slack = 4.0 * 1.71 * sigma / 2000f64.sqrt() * number(theirs);
            assert!((ours - number(theirs)).abs() < slack, "{row:?}: {drawn:?}");
        }
        let other = Range::of(of(row[0] != "sky")).expect("draws");
        assert_eq!((other.low, other.high), (1.0, 1.0));
    }
}
