"""Where figures count that move no check of the verdict sheet by themselves."""

_TIMING, _GEARING, _SPEED = (
    "counts on Cams, Timing",
    "counts on Gearing and for an over-rev by road speed",
    "counts in the motion, At speed",
)
_PISTON = "counts in what is left at speed, and for an over-rev"
_REST = "counts in the computed gap, once gasket, deck, head height, pocket and both angles are told"
# Where figures count that move no check of the verdict sheet alone: what is kept must never seem to do nothing.
COUNTS: dict[str, str] = {
    "rod_length": "counts in the trapped ratio, piston gaps and over-rev", "compression": "counts in the trapped ratio on Cams",
    "idle": "stands on the rev ladder", "peak": "stands on the rev ladder", "shim_step": "counts on Lash", "shim_thinnest": "counts on Lash",
    "shim_thickest": "counts on Lash", "shim_price": "counts in the swap plan on Lash", "seat_to_cam": "counts in the warm hint on Lash",
    "screw_ratio": "counts on Lash, for screws", "screw_pitch": "counts on Lash, for screws",
    "lift_ratio": "counts once a cam's lifts are told at the lobe", "phaser_intake_retard": "counts on Timing and in the piston gap",
    "phaser_exhaust_advance": "counts on Timing and in the piston gap", "sprocket_teeth": _TIMING, "sprocket_holes": _TIMING,
    "flange_holes": _TIMING, "chain_pins": _TIMING, "train_stiffness": _SPEED, "train_damping": _SPEED, "seat_stiffness": _SPEED,
    "seat_damping": _SPEED, "spring_damping": _SPEED, "clash": _SPEED, "gasket": _REST, "deck": _REST,
    "pin_offset": "counts where the piston stands at a crank angle", "piston_mass": _PISTON, "rod_small_end": _PISTON, "rod_section": _PISTON,
    "bearing_play": _PISTON, "governed": "counts in the governor's caution and on Gearing",
    "pulse_factor": "counts where pulses at full power are worse than lifting off", "pocket_rim_limit": "counts once the pocket is measured",
    "lobe_head_limit": "counts once another lobe is proposed", "spring_pocket_limit": "counts once the spring's pocket is measured",
    "gap_at_speed_limit": "counts in what is left at speed", "acceleration_limit": "counts for an over-rev",
    "rod_load_limit": "counts for an over-rev", "road_speed": "counts on Gearing", "interval": "counts for the next check on Lash",
    "installed_height": "where the seat force counts; decides coil bind once the solid height is told",
    "inner_step": "counts once figures of the inner spring are told",
    "tip_height": "counts with the radius that pushes the stem, for fingers and rockers",
    "spring_pocket": "counts with the outer spring's wire and coil diameter", "switch_speed": "counts with a low cam",
    "service_interval": "stands on the sheet",
    **dict.fromkeys((f"torque_{key}" for key in ("cam_cap", "head", "cover", "tensioner", "lock_nut", "cam_sprocket")), "stands on the sheet"),
    "face_off": "counts in ratio, gaps and cam timing of the proposed set-up", "gasket_new": "counts in ratio and gaps of the proposed set-up",
    "chamber_share": "counts where the head is surfaced", "cam_chain_pitch": "counts where the head is surfaced",
    "cam_distance": "counts where the head is surfaced", "low_follower_mass": "counts with a low cam", "hydraulic_limit": "counts for hydraulic elements", "hydraulic_preload": "stands on Lash and on the sheet",
}  # fmt: skip
COUNTS |= {f"{key}_{side}": _REST for key in ("pocket_depth", "pocket_angle") for side in ("intake", "exhaust")}
COUNTS |= {f"{key}_{side}": "counts beside the head, once the pocket is measured" for key in ("pocket_diameter", "pocket_offset")
            for side in ("intake", "exhaust")}  # fmt: skip
COUNTS |= dict.fromkeys(
    (
        "primary_teeth_crank", "primary_teeth_clutch", "front_teeth", "rear_teeth", "rolling", "tyre_growth", "wheel_slip", "impeller_pitch",
        "impeller_ratio", "impeller_slip", "chain_pitch", "chain_links", "clutch_engages", *(f"gear_{number}" for number in range(1, 7)),
    ),
    _GEARING,
)  # fmt: skip
