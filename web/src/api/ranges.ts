// Written by ranges.mjs from docs/openapi.json. Do not edit.
/** What the core accepts for each number of a document, and what a number is worth that was left out. */
export const RANGES = {
  "Scenario": {
    "detail_arcsec": {
      "min": 0.1,
      "max": 3600,
      "usual": 5
    },
    "goal_snr": {
      "min": 0.1,
      "max": 1000,
      "usual": 20
    },
    "seeing_fwhm_arcsec": {
      "min": 0.3,
      "max": 30,
      "usual": 2.5
    },
    "star_v_mag": {
      "min": -2,
      "max": 30,
      "usual": 16
    },
    "total_s": {
      "min": 1,
      "max": 3600000
    },
    "version": {
      "min": 1,
      "max": 1
    }
  },
  "Calibration": {
    "dark_frames": {
      "min": 1,
      "max": 10000,
      "usual": 50
    },
    "flat_residue": {
      "min": 0,
      "max": 0.2,
      "usual": 0
    }
  },
  "Choices": {
    "calibration_excess": {
      "min": 0.001,
      "max": 0.5,
      "usual": 0.02
    },
    "clear_nights_per_year": {
      "min": 1,
      "max": 366,
      "usual": 40
    },
    "core_fill": {
      "min": 0.01,
      "max": 100,
      "usual": 1
    },
    "disk_gb": {
      "min": 0.1,
      "max": 100000
    },
    "excess": {
      "min": 0.001,
      "max": 1,
      "usual": 0.05
    },
    "faint_snr": {
      "min": 0.1,
      "max": 100,
      "usual": 3
    },
    "histogram_adu": {
      "min": 1,
      "max": 1000000,
      "usual": 500
    },
    "histogram_fraction": {
      "min": 0.001,
      "max": 0.9,
      "usual": 0.05
    },
    "hours_per_night": {
      "min": 0.1,
      "max": 24,
      "usual": 5
    },
    "least_frames": {
      "min": 1,
      "max": 10000,
      "usual": 20
    },
    "live_sub_s": {
      "min": 0.1,
      "max": 120,
      "usual": 10
    },
    "luminance_ratio": {
      "min": 0.1,
      "max": 100,
      "usual": 3
    },
    "star_clips_v_mag": {
      "min": -2,
      "max": 20,
      "usual": 13
    },
    "swamp_factor": {
      "min": 0.1,
      "max": 1000,
      "usual": 10
    }
  },
  "Uncertainty": {
    "airglow_mag": {
      "min": 0,
      "max": 1,
      "usual": 0.3
    },
    "draws": {
      "min": 20,
      "max": 2000,
      "usual": 200
    },
    "k_v_mag": {
      "min": 0,
      "max": 1,
      "usual": 0.05
    },
    "nii_relative": {
      "min": 0,
      "max": 2,
      "usual": 0.25
    },
    "seed": {
      "min": 0,
      "max": 4294967295,
      "usual": 0
    },
    "sky_mag": {
      "min": 0,
      "max": 2,
      "usual": 0.15
    },
    "target_relative": {
      "min": 0,
      "max": 2,
      "usual": 0.2
    },
    "throughput_relative": {
      "min": 0,
      "max": 1,
      "usual": 0.1
    }
  },
  "Target": {
    "declination_deg": {
      "min": -90,
      "max": 90
    },
    "knots_factor": {
      "min": 1,
      "max": 100000
    },
    "outskirts_factor": {
      "min": 0.001,
      "max": 1,
      "usual": 0.2
    },
    "peak_factor": {
      "min": 1,
      "max": 100000,
      "usual": 1
    },
    "right_ascension_deg": {
      "min": 0,
      "max": 360
    }
  },
  "LinesRayleigh": {
    "ha": {
      "min": 0,
      "max": 10000000
    },
    "hb": {
      "min": 0,
      "max": 10000000
    },
    "nii": {
      "min": 0,
      "max": 10000000
    },
    "oiii": {
      "min": 0,
      "max": 10000000
    },
    "sii": {
      "min": 0,
      "max": 10000000
    }
  },
  "Continuum": {
    "b_v": {
      "min": -0.4,
      "max": 2.5
    },
    "temperature_k": {
      "min": 1000,
      "max": 60000
    },
    "v_mag_arcsec2": {
      "min": 5,
      "max": 35
    }
  },
  "Sky": {
    "ambient_c": {
      "min": -60,
      "max": 60,
      "usual": 10
    },
    "k_v": {
      "min": 0.05,
      "max": 2
    },
    "latitude_deg": {
      "min": -90,
      "max": 90
    },
    "natural_v_mag": {
      "min": 20.5,
      "max": 22.5,
      "usual": 21.9
    },
    "site_height_m": {
      "min": -450,
      "max": 6000,
      "usual": 0
    },
    "sun_altitude_deg": {
      "min": -90,
      "max": 90,
      "usual": -40
    },
    "target_altitude_deg": {
      "min": 1,
      "max": 90
    },
    "target_azimuth_deg": {
      "min": 0,
      "max": 360
    },
    "toward_target_altitude_deg": {
      "min": 1,
      "max": 90
    },
    "toward_target_azimuth_deg": {
      "min": 0,
      "max": 360
    },
    "toward_target_v_mag": {
      "min": 12,
      "max": 22.5
    },
    "zenith_v_mag": {
      "min": 14,
      "max": 22.5
    }
  },
  "Moon": {
    "altitude_deg": {
      "min": -90,
      "max": 90
    },
    "phase_angle_deg": {
      "min": -180,
      "max": 180
    },
    "separation_deg": {
      "min": 0,
      "max": 180
    }
  },
  "Contender": {
    "gain": {
      "min": 0,
      "max": 1000000
    },
    "loss_per_hour": {
      "min": 0,
      "max": 60,
      "usual": 0
    },
    "overhead_s_per_sub": {
      "min": 0,
      "max": 3600,
      "usual": 0
    },
    "price": {
      "min": 0,
      "max": 10000000
    },
    "sensor_temperature_c": {
      "min": -60,
      "max": 60
    },
    "total_s": {
      "min": 1,
      "max": 3600000
    }
  },
  "Mount": {
    "trail_px": {
      "min": 0.1,
      "max": 100,
      "usual": 1
    }
  },
  "Dither": {
    "cost_s": {
      "min": 0,
      "max": 3600
    },
    "every": {
      "min": 1,
      "max": 1000
    }
  },
  "Optics": {
    "aperture_mm": {
      "min": 5,
      "max": 20000
    },
    "exit_pupil_mm": {
      "min": 10,
      "max": 100000
    },
    "focal_length_mm": {
      "min": 10,
      "max": 200000
    },
    "longest_sub_s": {
      "min": 0.001,
      "max": 7200
    },
    "obstruction_mm": {
      "min": 0,
      "max": 19000,
      "usual": 0
    },
    "reducer": {
      "min": 0.1,
      "max": 5,
      "usual": 1
    },
    "throughput": {
      "min": 0.01,
      "max": 1,
      "usual": 0.9
    }
  },
  "Sensor": {
    "bits": {
      "min": 8,
      "max": 32
    },
    "columns": {
      "min": 1,
      "max": 100000
    },
    "offset_adu": {
      "min": 0,
      "max": 3865470565.5
    },
    "pixel_um": {
      "min": 0.5,
      "max": 100
    },
    "readout_s": {
      "min": 0,
      "max": 600,
      "usual": 1
    },
    "rise_above_ambient_k": {
      "min": 0,
      "max": 60
    },
    "rows": {
      "min": 1,
      "max": 100000
    }
  },
  "GainRow": {
    "e_per_adu": {
      "min": 0.0001,
      "max": 10000
    },
    "full_well_e": {
      "min": 10,
      "max": 100000000
    },
    "read_noise_e": {
      "min": 0.01,
      "max": 1000
    },
    "setting": {
      "min": 0,
      "max": 1000000
    }
  },
  "Dark": {
    "at_c": {
      "min": -100,
      "max": 80
    },
    "doubling_k": {
      "min": 1,
      "max": 30,
      "usual": 6.3
    },
    "e_per_s": {
      "min": 0,
      "max": 10000
    }
  },
  "Exposure": {
    "binning": {
      "min": 1,
      "max": 4,
      "usual": 1
    },
    "share": {
      "min": 0,
      "max": 1
    },
    "sub_s": {
      "min": 0.001,
      "max": 7200
    },
    "weight": {
      "min": 0.01,
      "max": 100,
      "usual": 1
    }
  },
  "TestFrame": {
    "background_adu": {
      "min": 0,
      "max": 4294967295
    },
    "sub_s": {
      "min": 0.001,
      "max": 7200
    }
  },
  "Filter": {
    "centre_tolerance_nm": {
      "min": 0,
      "max": 10,
      "usual": 0.5
    },
    "n_eff": {
      "min": 1.2,
      "max": 4,
      "usual": 1.9
    },
    "off_band_od": {
      "min": 0.5,
      "max": 8,
      "usual": 4
    },
    "price": {
      "min": 0,
      "max": 1000000
    },
    "rear_reflectance": {
      "min": 0,
      "max": 1
    },
    "thickness_mm": {
      "min": 0.1,
      "max": 20
    }
  },
  "Passband": {
    "centre_nm": {
      "min": 300,
      "max": 1100
    },
    "fwhm_nm": {
      "min": 0.3,
      "max": 800
    },
    "order": {
      "min": 0.5,
      "max": 20,
      "usual": 3
    },
    "peak": {
      "min": 0.001,
      "max": 1
    }
  },
  "LookView": {
    "field_arcsec": {
      "min": 30,
      "max": 3600,
      "usual": 600
    },
    "gap_mm": {
      "min": 1,
      "max": 200,
      "usual": 15
    },
    "guiding_rms_arcsec": {
      "min": 0,
      "max": 10,
      "usual": 0
    },
    "moon_direction_deg": {
      "min": -360,
      "max": 360,
      "usual": 0
    },
    "right_arcsec": {
      "min": -20000,
      "max": 20000,
      "usual": 0
    },
    "strength": {
      "min": 0,
      "max": 1,
      "usual": 0.6
    },
    "time_fraction": {
      "min": 0,
      "max": 1,
      "usual": 1
    },
    "up_arcsec": {
      "min": -20000,
      "max": 20000,
      "usual": 0
    }
  },
  "Overheads": {
    "dither_every": {
      "min": 1,
      "max": 100,
      "usual": 1
    },
    "flats_min": {
      "min": 0,
      "max": 240,
      "usual": 15
    },
    "flip_s": {
      "min": 0,
      "max": 3600,
      "usual": 300
    },
    "least_block_min": {
      "min": 5,
      "max": 600,
      "usual": 30
    },
    "refocus_every_k": {
      "min": 0.1,
      "max": 50
    },
    "refocus_every_min": {
      "min": 1,
      "max": 1440,
      "usual": 60
    },
    "refocus_s": {
      "min": 0,
      "max": 3600,
      "usual": 180
    },
    "settle_s": {
      "min": 0,
      "max": 600,
      "usual": 12
    },
    "setup_min": {
      "min": 0,
      "max": 240,
      "usual": 20
    },
    "temperature_drop_k": {
      "min": 0,
      "max": 50,
      "usual": 6
    }
  },
  "FixedBlock": {
    "exposure": {
      "min": 0,
      "max": 0
    },
    "minutes": {
      "min": 1,
      "max": 1440
    },
    "subs": {
      "min": 1,
      "max": 10000
    }
  },
  "NightLimits": {
    "altitude_above_deg": {
      "min": 0,
      "max": 85,
      "usual": 20
    },
    "sun_below_deg": {
      "min": -18,
      "max": -5,
      "usual": -18
    }
  },
  "Site": {
    "height_m": {
      "min": -450,
      "max": 6000
    },
    "k_v": {
      "min": 0.05,
      "max": 2
    },
    "latitude_deg": {
      "min": -90,
      "max": 90
    },
    "longitude_deg": {
      "min": -180,
      "max": 180
    },
    "nights_per_year": {
      "min": 1,
      "max": 366
    },
    "seeing_fwhm_arcsec": {
      "min": 0.3,
      "max": 30
    },
    "zenith_v_mag": {
      "min": 14,
      "max": 22.5
    }
  },
  "Rig": {
    "back_focus_mm": {
      "min": 1,
      "max": 1000
    },
    "binning": {
      "min": 1,
      "max": 4,
      "usual": 1
    },
    "extra_price": {
      "min": 0,
      "max": 10000000
    },
    "gain": {
      "min": 0,
      "max": 1000000
    },
    "longest_sub_s": {
      "min": 0.001,
      "max": 7200
    },
    "loss_per_hour": {
      "min": 0,
      "max": 60,
      "usual": 0.2
    },
    "overhead_s_per_sub": {
      "min": 0,
      "max": 3600,
      "usual": 4
    },
    "reducer": {
      "min": 0.1,
      "max": 5
    },
    "temperature_c": {
      "min": -60,
      "max": 60
    }
  },
  "Campaign": {
    "clear_share": {
      "min": 0.01,
      "max": 1
    }
  },
  "CampaignFraming": {
    "dec_deg": {
      "min": -90,
      "max": 90
    },
    "position_angle_deg": {
      "min": -360,
      "max": 360
    },
    "ra_deg": {
      "min": 0,
      "max": 360
    }
  },
  "CampaignGoal": {
    "snr": {
      "min": 0.1,
      "max": 1000
    }
  },
  "Shot": {
    "snr2": {
      "min": 0,
      "max": 1000000000000
    },
    "subs": {
      "min": 0,
      "max": 100000
    }
  },
  "FramePlan": {
    "overlap": {
      "min": 0,
      "max": 0.6,
      "usual": 0.15
    },
    "panels_high": {
      "min": 1,
      "max": 20,
      "usual": 1
    },
    "panels_wide": {
      "min": 1,
      "max": 20,
      "usual": 1
    }
  },
  "Goal": {
    "detail_arcsec": {
      "min": 0.1,
      "max": 3600
    },
    "snr": {
      "min": 0.1,
      "max": 1000,
      "usual": 10
    },
    "star_v_mag": {
      "min": -2,
      "max": 30
    }
  },
  "TrialDesign": {
    "change_s": {
      "min": 0,
      "max": 3600,
      "usual": 90
    },
    "dearer": {
      "min": -1000000,
      "max": 1000000
    },
    "frames_a_slot": {
      "min": 1,
      "max": 20,
      "usual": 1
    },
    "matters": {
      "min": 0.005,
      "max": 1,
      "usual": 0.05
    },
    "pairs": {
      "min": 1,
      "max": 500
    },
    "scatter": {
      "min": 0.001,
      "max": 1,
      "usual": 0.03
    }
  }
} as const;
