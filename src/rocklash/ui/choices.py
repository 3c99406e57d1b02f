"""Words for the choices that more than one station offers."""

USES = [
    ("street", "street"),
    ("trail", "trail"),
    ("road_race", "road or kart race"),
    ("drag", "drag"),
    ("motocross", "motocross"),
    ("endurance", "endurance"),
    ("work", "work engine"),
    ("rescue", "rescue craft"),
]

CYLINDERS = [("1", "single"), ("2", "twin"), ("3", "triple"), ("4", "four"), ("5", "five"), ("6", "six")]
GEARS = [
    ("dohc", "DOHC: two camshafts above"),
    ("ohc", "OHC: one camshaft above"),
    ("push_rod", "push-rod: camshaft below"),
    ("side_valve", "side valve"),
]
FOLLOWERS = [("bucket", "bucket"), ("finger", "finger"), ("rocker", "rocker"), ("tappet", "tappet under the stem")]
ADJUSTERS = [
    ("shim_under", "shim under bucket"),
    ("shim_over", "shim over bucket"),
    ("shim_on_stem", "shim on the stem tip"),
    ("graded_bucket", "graded buckets"),
    ("screw", "adjusting screw"),
    ("lash_cap", "lash cap"),
    ("stem_grind", "grinding the stem"),
    ("hydraulic", "hydraulic, nothing to set"),
]
