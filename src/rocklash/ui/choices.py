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
