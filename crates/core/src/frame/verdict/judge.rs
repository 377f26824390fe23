//! A frame judged: the scenario with the frame in it, and question by question what that says.

use crate::decide::study::Study;
use crate::decide::sub::frame::FrameTold;
use crate::frame::header::HeaderFields;
use crate::frame::verdict::answer::{FrameVerdict, Sentence, Standing, figure, sentence};
use crate::frame::verdict::gradient::slope;
use crate::frame::verdict::noise::{
    against_the_kit, plateau_of_frame, scatter, sub_to_use, swamped,
};
use crate::frame::verdict::seen::{Seen, Taken};
use crate::frame::verdict::shapes::{clipping, stars};
use crate::frame::verdict::target::of_target;
use crate::light::tables::Tables;
use crate::scenario::cfa::CfaColour;
use crate::scenario::check::Checked;
use crate::scenario::choices::TestFrame;
use crate::scenario::document::Scenario;
use crate::scenario::field_error::FieldError;
use crate::signal::model::Model;

fn wrong(path: &str, message: &str) -> Vec<FieldError> {
    vec![FieldError { path: path.to_owned(), message: message.to_owned() }]
}

/// What a header may say of the numbers that a frame is judged by; it may have been typed.
fn accepted(h: &HeaderFields) -> Result<(), Vec<FieldError>> {
    let numbers = [
        ("e_per_adu", h.e_per_adu, [1e-6, 1e4], " e-/ADU"),
        ("offset_adu", h.offset_adu, [0.0, 1e6], " ADU"),
        ("binning", h.binning, [1.0, 16.0], ""),
    ];
    let wrong = |(field, n, [low, high], unit): &(&str, Option<f64>, [f64; 2], &str)| {
        let n = n.filter(|n| !(*low..=*high).contains(n))?;
        let message = format!("{n} is not accepted; give {low} to {high}{unit}");
        Some(FieldError { path: format!("frame.header.{field}"), message })
    };
    let all: Vec<FieldError> = numbers.iter().filter_map(wrong).collect();
    if all.is_empty() { Ok(()) } else { Err(all) }
}

/// The scenario with the frame as its exposure's test frame, taken at the frame's gain.
fn with_frame(s: &Scenario, taken: &Taken, frame: TestFrame) -> Result<Checked, Vec<FieldError>> {
    let mut s = s.clone();
    let contender = &mut s.contenders[taken.contender];
    if let Some(gain) = taken.frame.read.header.gain {
        let settings = contender.sensor.gains.iter().map(|g| g.setting);
        let ends = settings.fold([f64::MAX, f64::MIN], |[a, b], g| [a.min(g), b.max(g)]);
        if (ends[0]..=ends[1]).contains(&gain) {
            contender.gain = gain;
        }
    }
    contender.exposures[taken.exposure].test_frame = Some(frame);
    s.check()
}

/// Judges a frame.
///
/// # Errors
/// Fields of the question that are wrong: no such path or filter, a frame that says no exposure, or
/// one of another kind of camera.
pub fn judge(
    scenario: &Checked,
    taken: &Taken,
    tables: &Tables,
) -> Result<FrameVerdict, Vec<FieldError>> {
    let s = scenario.scenario();
    let contender = s
        .contenders
        .get(taken.contender)
        .ok_or_else(|| wrong("contender", "there is no such light path"))?;
    contender
        .exposures
        .get(taken.exposure)
        .ok_or_else(|| wrong("exposure", "this light path has no such exposure"))?;
    let header = &taken.frame.read.header;
    let sub_s = header.exposure_s.filter(|t| *t > 0.0).ok_or_else(|| {
        wrong(
            "frame.header.exposure_s",
            "the frame does not say how long it was exposed; give it in seconds",
        )
    })?;
    accepted(header)?;
    let channel = |name: &str| taken.frame.channels.iter().find(|c| c.channel == name);
    let offset_adu = header.offset_adu.unwrap_or(contender.sensor.offset_adu);
    let nominal = Model::nominal(scenario, tables);
    let deciding = nominal.paths[taken.contender].exposures[taken.exposure].deciding().name;
    let own = channel(deciding).ok_or_else(|| {
        let has: Vec<&str> = taken.frame.channels.iter().map(|c| c.channel.as_str()).collect();
        wrong("frame.channels", &format!(
            "the frame has {}, this light path needs {deciding}: it was not taken with this camera",
            has.join(", ")
        ))
    })?;
    let test_frame = TestFrame {
        sub_s,
        background_adu: own.level_adu,
        with_offset: true,
        channel: deciding
            .chars()
            .next()
            .and_then(CfaColour::from_letter)
            .filter(|_| deciding != "mono"),
    };
    let study = Study::new(with_frame(s, taken, test_frame)?, tables);
    let s = study.scenario();
    let path = &study.model.paths[taken.contender];
    let model = &path.exposures[taken.exposure];
    let gain = model.instrument.gain;
    let seen = Seen {
        scenario: s,
        taken,
        model,
        deciding: model.deciding(),
        own,
        gain,
        e_per_adu: header.e_per_adu.unwrap_or(gain.e_per_adu),
        offset_adu,
        sub_s,
    };
    let decision = &study.subs[taken.contender][taken.exposure];
    let mut sentences = against_the_kit(&seen);
    sentences.push(swamped(&seen, decision));
    let subs = &study.evaluation.contenders[taken.contender].exposures[taken.exposure].sub_exposure;
    sentences.push(clipping(&seen, subs.core_clips_s));
    sentences.push(stars(&seen));
    sentences.extend(decision.test_frame.as_ref().map(sky));
    sentences.push(scatter(&seen));
    sentences.extend(of_target(&seen, path));
    sentences.push(slope(&seen));
    Ok(FrameVerdict {
        headline: headline(&sentences),
        sub_s: sub_to_use(&seen, decision),
        plateau_s: plateau_of_frame(&seen, decision),
        channel: deciding.to_owned(),
        test_frame,
        sky: decision.test_frame.clone(),
        e_per_adu: seen.e_per_adu,
        offset_adu,
        sentences,
    })
}

/// The sky against the model.
fn sky(told: &FrameTold) -> Sentence {
    let standing = match (told.agrees, told.fainter_mag) {
        (true, _) => Standing::Good,
        (false, Some(_)) => Standing::Look,
        (false, None) => Standing::Wrong,
    };
    let mut figures = vec![
        figure("Measured", format!("{:.3} e-/s a pixel", told.measured_e_per_s)),
        figure("Model, with dark current", format!("{:.3} e-/s a pixel", told.expected_e_per_s)),
    ];
    if let Some(mag) = told.toward_target_v_mag {
        figures.push(figure("Sky that explains it", format!("{mag:.2} mag/\u{2033}\u{b2}")));
    }
    sentence("sky", standing, told.text.clone(), figures)
}

/// What matters most, in one sentence.
fn headline(sentences: &[Sentence]) -> String {
    let of = |standing| {
        let mut names: Vec<&str> = sentences
            .iter()
            .filter(|s| s.standing == standing)
            .map(|s| match s.about.as_str() {
                "header" => "the settings",
                "sub" => "the sub's length",
                "clipping" => "what clips",
                "stars" => "the stars",
                "noise" => "the noise",
                "gradient" => "the gradient",
                other => {
                    if other == "sky" {
                        "the sky"
                    } else {
                        "the target"
                    }
                }
            })
            .collect();
        names.dedup();
        names
    };
    let listed = crate::wording::listed;
    match (&of(Standing::Wrong)[..], &of(Standing::Look)[..]) {
        ([], []) => "Go on: nothing in this frame speaks against it.".to_owned(),
        ([], look) => format!("Go on, with an eye on {}.", listed(look)),
        (wrong, _) => format!("Stop and look at {} first.", listed(wrong)),
    }
}
