//! Headers in a dozen dialects, written here after what programs of each kind are known to write
//! (common practice, no source).

use salt_lamp_core::frame::FrameKind;
use salt_lamp_core::frame::header::HeaderRead;

use super::*;

fn read(text: &str) -> HeaderRead {
    meaning(&Cards::read(text), [6248, 4176])
}

/// What each of twelve dialects says of the same frame: 300 s of H-alpha at gain 100 and -10 C.
const DIALECTS: [&str; 12] = [
    "IMAGETYP= 'LIGHT'\nEXPTIME = 300.0\nDATE-OBS= '2027-01-28T18:40:00.000'\n\
     FILTER  = 'Ha'\nGAIN    = 100\nEGAIN   = 0.25\nCCD-TEMP= -10.0\n\
     RA      = 94.25\nDEC     = 22.57",
    "IMAGETYP= 'Light Frame'\nEXPOSURE= 300\nDATE-OBS= '2027-01-28T18:40:00'\n\
     FILTER  = 'Ha      '\nGAIN    = 100\nE_GAIN  = 0.25\nCCDTEMP = -10\n\
     OBJCTRA = '06 17 00'\nOBJCTDEC= '+22 34 12'",
    "FRAME   = 'Light'\nEXPTIME = 3.000000E+02\nDATE-OBS= '2027-01-28T18:40:00Z'\n\
     FILTER1 = 'Ha'\nGAIN    = 100.\nGAINADU = 0.25\nDET-TEMP= -1.0E1\n\
     RA      = '6:17:00'\nDEC     = '+22:34:12'",
    "FRAMETYP= 'light'\nEXP_TIME= 300.0 / seconds\nDATE-OBS= '2027-01-28'\n\
     TIME-OBS= '18:40:00'\nFILTNAME= 'Ha'\nGAIN    = 100\nEGAIN   = 0.25\n\
     SENSTEMP= -10.0\nOBJCTRA = '6 17 00.0'\nOBJCTDEC= '22 34 12.0'",
    "OBSTYPE = 'OBJECT'\nITIME   = 300\nDATE-OBS= '2027-01-28'\n\
     UT      = '18:40:00'\nINSFLNAM= 'Ha'\nGAIN    = 100\nEGAIN   = 0.25\n\
     CCD-TEMP= -10\nRA      = '06 17 00'\nDEC     = '+22 34 12'",
    "IMAGETYP= 'science'\nEXPTIME = 3.0D2\nDATE-OBS= '2027-01-28T18:40:00'\n\
     TIMESYS = 'UTC'\nFILTERS = 'Ha'\nGAIN    = 100\nEGAIN   = 0.25\n\
     CCD-TEMP= -10.0\nCRVAL1  = 94.25\nCRVAL2  = 22.57\nCRPIX1  = 3124.5\n\
     CRPIX2  = 2088.5\nCD1_1   = -4.35E-4\nCD1_2   = 0.0\nCD2_1   = 0.0\n\
     CD2_2   = 4.35E-4",
    "HIERARCH IMAGETYP = 'LIGHT'\nHIERARCH EXPTIME = 300.0\n\
     DATE-OBS= '2027-01-28T18:40:00'\nFILTER  = 'Ha'\nGAIN    = 100\nEGAIN   = 0.25\n\
     CCD-TEMP= -10.0\nRA      = 94.25\nDEC     = 22.57",
    "IMGTYPE = 'Light'\nEXPOSURE= 300.0\nDATE-OBS= '2027-01-28T18:40:00'\n\
     FILTER  = 'Ha'\nISO     = 100\nEGAIN   = 0.25\nCCD-TEMP= -10.0\n\
     RA      = 94.25\nDEC     = 22.57",
    "IMAGETYP= 'Light'\nEXPTIME = 300.\nDATE-OBS= '2027-01-28T18:40:00.00'\n\
     DATE-LOC= '2027-01-28T13:40:00.00'\nFILTER  = 'Ha'\nGAIN    = 100\n\
     EGAIN   = 0.25\nSET-TEMP= -10.0\nCCD-TEMP= -10.0\nRA      = 94.25\n\
     DEC     = 22.57",
    "IMAGETYP= 'LIGHT   '\nEXPTIME =                  300\n\
     DATE-OBS= '2027-01-28T18:40:00'\nFILTER  = 'Ha'\nISOSPEED= 100\nEGAIN   = 0.25\n\
     CCD-TEMP= -10.0\nCRVAL1  = 94.25\nCRVAL2  = 22.57\nCRPIX1  = 3124.5\n\
     CRPIX2  = 2088.5\nCDELT1  = -4.35E-4\nCDELT2  = 4.35E-4\nCROTA2  = 0.0",
    "imagetyp= 'light'\nexptime = 300.0\ndate-obs= '2027-01-28T18:40:00'\n\
     filter  = 'Ha'\ngain    = 100\negain   = 0.25\nccd-temp= -10.0\n\
     ra      = 94.25\ndec     = 22.57",
    "IMAGETYP= 'LIGHT'\nEXPTIME = 300.0\nEXPOSURE= 300.0\n\
     DATE-OBS= '2027-01-28T18:40:00.0000000'\nFILTER  = 'Ha'\nGAIN    = 100\n\
     EGAIN   = 2.5E-1\nCCD-TEMP= -10.0\nOBJCTRA = '06 17 00'\nOBJCTDEC= '+22 34 12'\n\
     RA = 94.25\nDEC = 22.57",
];

#[test]
fn twelve_dialects_say_the_same() {
    for text in DIALECTS {
        let read = read(text);
        let h = &read.header;
        assert_eq!(h.kind, Some(FrameKind::Light), "{text}");
        assert_eq!(h.exposure_s, Some(300.0), "{text}");
        let start = h.start.as_deref().and_then(start_unix_s);
        assert_eq!(start, Some(1_801_161_600.0), "{text}: {:?}", h.start);
        assert_eq!(h.filter.as_deref(), Some("Ha"), "{text}");
        assert_eq!(
            (h.gain, h.e_per_adu, h.sensor_c),
            (Some(100.0), Some(0.25), Some(-10.0)),
            "{text}"
        );
        let (ra, dec) = (h.ra_deg.expect("a place"), h.dec_deg.expect("a place"));
        assert!((ra - 94.25).abs() < 1e-3 && (dec - 22.57).abs() < 1e-3, "{text}: {ra} {dec}");
        for field in ["type", "exposure_s", "start", "filter", "gain", "ra_deg"] {
            assert!(read.understood.contains_key(field), "{field} of {text}");
        }
    }
}

#[test]
fn what_is_doubtful_is_said() {
    let local = read("DATE-LOC= '2027-01-28T13:40:00'");
    assert_eq!(local.header.start.as_deref(), Some("2027-01-28T13:40:00"));
    assert!(local.assumed.iter().any(|a| a.contains("DATE-LOC is local time")));
    let same = read("DATE-OBS= '2027-01-28T13:40:00'\nDATE-LOC= '2027-01-28T13:40:00'");
    assert!(same.header.start.as_deref().and_then(start_unix_s).is_none());
    assert!(same.assumed.iter().any(|a| a.contains("seems to be local")));
    let day = read("DATE-OBS= '26/10/92'");
    assert_eq!(day.header.start.as_deref(), Some("1992-10-26T00:00:00Z"));
    assert!(day.assumed.iter().any(|a| a.contains("the day alone")));
    let ratio = read("GAIN = 1.37");
    assert_eq!((ratio.header.gain, ratio.header.e_per_adu), (None, Some(1.37)));
    assert!(ratio.assumed.iter().any(|a| a.contains("electrons per ADU")));
    assert_eq!(ratio.understood.get("e_per_adu").map(String::as_str), Some("GAIN"));
    let none = read("X = 1");
    assert!(none.assumed.iter().any(|a| a.contains("taken as a light frame")));
    let wrong = read("EXPTIME = -3\nCCD-TEMP= 999\nOBJCTRA = 'x'\nOBJCTDEC= 'y'\nXPIXSZ = NaN");
    let h = &wrong.header;
    assert_eq!((h.exposure_s, h.sensor_c, h.ra_deg, h.pixel_um), (None, None, None, None));
    assert!(wrong.assumed.iter().any(|a| a.contains("place is not used")));
}

#[test]
fn mount_focuser_and_site_are_read() {
    let h = read(
        "PIERSIDE= 'WEST'\nFOCPOS  = 12345\nFOCTEMP = -3.5\nSITELAT = '+46 21 00'\n\
         SITELONG= '-72 33 00'\nSITEELEV= 30\nAIRMASS = 1.2\nXBINNING= 2\nOFFSET = 50\n\
         SET-TEMP= -10\nPOSANGLE= 20.5\nRA = 94.25\nDEC = 22.57\nINSTRUME= 'Mono'\n\
         TELESCOP= 'Refractor'",
    )
    .header;
    assert_eq!(h.pier_side.as_deref(), Some("west"));
    assert_eq!((h.focuser_steps, h.focuser_c), (Some(12345.0), Some(-3.5)));
    assert_eq!(
        (h.latitude_deg, h.longitude_deg, h.height_m),
        (Some(46.35), Some(-72.55), Some(30.0))
    );
    assert_eq!(
        (h.airmass, h.binning, h.offset, h.set_c),
        (Some(1.2), Some(2.0), Some(50.0), Some(-10.0))
    );
    assert_eq!(h.position_angle_deg, Some(20.5));
    assert_eq!((h.camera.as_deref(), h.telescope.as_deref()), (Some("Mono"), Some("Refractor")));
}
