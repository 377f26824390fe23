//! Tests of [`super`].

use super::*;
use proptest::prelude::*;

fn points(text: &str) -> Vec<[f64; 2]> {
    read_curve(text).unwrap().curve.0
}

#[test]
fn dialects_of_spreadsheets() {
    let want = vec![[450.5, 0.93], [460.0, 0.5]];
    for text in [
        "450.5,0.93\n460,0.5\n",
        "wavelength nm,transmission\n450.5,0.93\n460,0.5",
        "450,5;0,93\n460;0,5",
        "450.5\t0.93\r\n460\t0.5\r\n",
        "450.5 0.93\n460 0.5",
        "450,5 0,93\n460 0,5",
        "4505,93\n4600,50",
        "Angstrom;per cent\n4505;93\n4600;50",
        "450.5, 93 %\n460, 50 %",
        "0.4505,0.93\n0.46,0.5",
        "\u{feff}nm;T %\n450,5;93\n460;50",
        "# made by hand\n450.5,0.93\n\n460,0.5",
    ] {
        assert_eq!(points(text), want, "{text}");
    }
}

#[test]
fn what_was_understood_is_said() {
    let r = read_curve("450,5;93\n460;50").unwrap();
    assert!(r.understood[0].contains("semicolons") && r.understood[0].contains("decimal comma"));
    assert!(
        r.understood.iter().any(|u| u.contains("per cent"))
            && r.understood.iter().any(|u| u.contains("nanometres"))
    );
    assert!(r.mended.is_empty());
}

#[test]
fn wrong_rows_are_named() {
    let row = |text: &str| read_curve(text).unwrap_err().row();
    assert_eq!(row("450,0.9\n460,high\n470,0.1"), Some(2));
    assert_eq!(row("nm,T\n450,0.9\n460"), Some(3));
    assert_eq!(row("450,0.9\n460,-0.2\n470,0.1"), Some(2));
    assert_eq!(row("450,0.9\n460,120\n470,0.1"), Some(2));
    assert_eq!(row("450,0.9\n460,0.5\n460,0.6"), Some(3));
    assert_eq!(read_curve("hello"), Err(CurveReadError::Empty));
    assert_eq!(read_curve(""), Err(CurveReadError::Empty));
    assert!(matches!(read_curve("450,0.9"), Err(CurveReadError::Curve(_))));
    let long = (0..200_000)
        .map(|i| format!("{},0.5", 300.0 + f64::from(i) * 0.001))
        .collect::<Vec<_>>()
        .join("\n");
    assert_eq!(read_curve(&long), Err(CurveReadError::TooLong(200_000)));
}

#[test]
fn of_several_columns_the_headed_one_is_read_and_the_others_are_named() {
    let want = vec![[450.0, 0.9], [460.0, 0.5]];
    for text in [
        "index,wavelength nm,transmission,od\n1,450,0.9,0.05\n2,460,0.5,0.3",
        "wavelength (nm);reflection;transmission\n450;0.1;0.9\n460;0.5;0.5",
        "OD\tT %\tnm\n0.05\t90\t450\n0.3\t50\t460",
        // Without headings: what ascends like light, and the first fractions behind it.
        "1,450,0.9\n2,460,0.5",
        "450,0.9,0.01\n460,0.5,0.02",
    ] {
        let r = read_curve(text).unwrap();
        assert_eq!(r.curve.0, want, "{text}: {:?}", r.understood);
        assert!(r.understood.iter().any(|u| u.contains("not read:")), "{:?}", r.understood);
        assert_eq!(r.columns.len(), text.lines().next().unwrap().split([',', ';', '\t']).count());
    }
    let two = read_curve("450,0.9\n460,0.5").unwrap();
    assert!(!two.understood.iter().any(|u| u.contains("not read")), "{:?}", two.understood);
    assert_eq!(
        (two.columns.as_slice(), two.wavelength_column, two.value_column),
        (&["column 1".to_owned(), "column 2".into()][..], 0, 1)
    );
}

#[test]
fn both_columns_can_be_chosen_by_hand() {
    let text = "wavelength,transmission,reflection\n450,0.9,0.1\n460,0.5,0.4";
    let of = |wavelength, value| read_curve_of(text, ChosenColumns { wavelength, value });
    assert_eq!(of(None, Some(2)).unwrap().curve.0, vec![[450.0, 0.1], [460.0, 0.4]]);
    assert_eq!(of(Some(0), Some(1)).unwrap().curve.0, vec![[450.0, 0.9], [460.0, 0.5]]);
    assert!(matches!(of(Some(3), None), Err(CurveReadError::Column { column: 4, .. })));
    assert!(matches!(of(Some(1), Some(1)), Err(CurveReadError::Column { column: 2, .. })));
}

#[test]
fn a_camera_s_colours_stand_beside_its_efficiency() {
    let (qe, red) =
        (Curve(vec![[400.0, 0.5], [600.0, 0.9]]), Curve(vec![[500.0, 0.0], [600.0, 1.0]]));
    let text = write_ecsv("camera", &[("quantum_efficiency", &qe), ("r", &red)]);
    assert!(
        text.contains("\nwavelength quantum_efficiency r\n400 0.5 0\n500 0.7 0\n600 0.9 1\n"),
        "{text}"
    );
    // Read back, the efficiency is what its heading says.
    assert_eq!(points(&text), vec![[400.0, 0.5], [500.0, 0.7], [600.0, 0.9]]);
}

#[test]
fn order_and_repeats_are_mended_and_said() {
    let r = read_curve("470,0.1\n450,0.9\n460,0.5\n460,0.5").unwrap();
    assert_eq!(r.curve.0, vec![[450.0, 0.9], [460.0, 0.5], [470.0, 0.1]]);
    assert_eq!(r.mended.len(), 2);
    assert!(r.mended.iter().all(|m| m.contains("row")));
}

#[test]
fn ecsv_names_its_unit() {
    let text =
        write_ecsv("A \"name\"", &[("transmission", &Curve(vec![[450.0, 0.5], [451.0, 0.25]]))]);
    assert_eq!(points(&text), vec![[450.0, 0.5], [451.0, 0.25]]);
    let angstrom = text
        .replace("unit: nm", "unit: Angstrom")
        .replace("\n450 ", "\n4500 ")
        .replace("\n451 ", "\n4510 ");
    assert_eq!(points(&angstrom), vec![[450.0, 0.5], [451.0, 0.25]]);
    assert_eq!(
        read_curve(&text.replace("unit: nm", "unit: parsec")),
        Err(CurveReadError::Unit("parsec".into()))
    );
}

proptest! {
    #[test]
    fn what_is_written_is_read_back(values in proptest::collection::vec(0.0..1.0f64, 2..200)) {
        let curve = Curve(values.iter().enumerate()
            .map(|(i, v)| [400.0 + i as f64, round(*v).max(1e-6)]).collect());
        prop_assert_eq!(read_curve(&write_ecsv("x", &[("transmission", &curve)])).unwrap()
            .curve, curve);
    }

    #[test]
    fn no_text_makes_it_panic(text in "\\PC{0,200}") {
        let _ = read_curve(&text);
    }
}
