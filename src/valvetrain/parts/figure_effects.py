"""Where figures count that move no check of the verdict sheet by themselves."""

_TIMING, _GEARING, _SPEED = (
    "used on Cams, Timing",
    "used on Gearing and for an over-rev by road speed",
    "used in the motion, At speed",
)
_PISTON = "used in what is left at speed, and for an over-rev"
_REST = "used in the computed gap, once gasket, deck, head height, pocket and both angles are known"
# Where figures count that move no check of the verdict sheet alone: what is kept must never seem to do nothing.
COUNTS: dict[str, str] = {
    "rod_length": "used in the trapped compression ratio, piston gaps and over-rev", "compression": "used in the trapped compression ratio on Cams",
    "idle": "shown on the rev ladder", "peak": "shown on the rev ladder", "shim_step": "used on Lash", "shim_thinnest": "used on Lash",
    "shim_thickest": "used on Lash", "shim_price": "used in the swap plan on Lash", "seat_to_cam": "used in the warm hint on Lash",
    "screw_ratio": "used on Lash, for screws", "screw_pitch": "used on Lash, for screws",
    "lift_ratio": "used once a cam's lifts are given at the lobe", "phaser_intake_retard": "used on Timing and in the piston gap",
    "phaser_exhaust_advance": "used on Timing and in the piston gap", "sprocket_teeth": _TIMING, "sprocket_holes": _TIMING,
    "flange_holes": _TIMING, "chain_pins": _TIMING, "train_stiffness": _SPEED, "train_damping": _SPEED, "seat_stiffness": _SPEED,
    "seat_damping": _SPEED, "spring_damping": _SPEED, "clash": _SPEED, "gasket": _REST, "deck": _REST,
    "pin_offset": "used where the piston stands at a crank angle", "piston_mass": _PISTON, "rod_small_end": _PISTON, "rod_section": _PISTON,
    "bearing_play": _PISTON, "governed": "used in the governor's caution and on Gearing",
    "pulse_factor": "used where pulses at full power are worse than lifting off", "pocket_rim_limit": "used once the pocket is measured",
    "lobe_head_limit": "used once another lobe is proposed", "spring_pocket_limit": "used once the spring's pocket is measured",
    "gap_at_speed_limit": "used in what is left at speed", "acceleration_limit": "used for an over-rev",
    "rod_load_limit": "used for an over-rev", "road_speed": "used on Gearing", "interval": "used for the next check on Lash",
    "installed_height": "where the seat force counts; decides coil bind once the solid height is known",
    "inner_step": "used once figures of the inner spring are known",
    "tip_height": "used with the radius that pushes the stem, for fingers and rockers",
    "spring_pocket": "used with the outer spring's wire and coil diameter", "switch_speed": "used with a low cam",
    "service_interval": "printed on the sheet",
    **dict.fromkeys((f"torque_{key}" for key in ("cam_cap", "head", "cover", "tensioner", "lock_nut", "cam_sprocket")), "printed on the sheet"),
    "face_off": "used in ratio, gaps and cam timing of the proposed set-up", "gasket_new": "used in ratio and gaps of the proposed set-up",
    "chamber_share": "used where the head is surfaced", "cam_chain_pitch": "used where the head is surfaced",
    "cam_distance": "used where the head is surfaced", "low_follower_mass": "used with a low cam", "hydraulic_limit": "used for hydraulic elements", "hydraulic_preload": "shown on Lash and on the sheet",
}  # fmt: skip
COUNTS |= {f"{key}_{side}": _REST for key in ("pocket_depth", "pocket_angle") for side in ("intake", "exhaust")}
COUNTS |= {f"{key}_{side}": "used beside the head, once the pocket is measured" for key in ("pocket_diameter", "pocket_offset")
            for side in ("intake", "exhaust")}  # fmt: skip
COUNTS |= dict.fromkeys(
    (
        "primary_teeth_crank", "primary_teeth_clutch", "front_teeth", "rear_teeth", "rolling", "tyre_growth", "wheel_slip", "impeller_pitch",
        "impeller_ratio", "impeller_slip", "chain_pitch", "chain_links", "clutch_engages", *(f"gear_{number}" for number in range(1, 7)),
    ),
    _GEARING,
)  # fmt: skip
