"""Every figure the product knows, a line each.

The bounds are wide (a karting single and a tractor both pass); they catch wrong units, not unusual engines. Source: judgement.
"""

from valvetrain.parts.kinds import FigureKind, Owner
from valvetrain.quantities import from_unit
from valvetrain.units import QuantityKind


def figure_rows() -> tuple[FigureKind, ...]:  # noqa: PLR0915  (a table, one line a figure)
    """The lines."""
    length, mass, force, rate = QuantityKind.LENGTH, QuantityKind.MASS, QuantityKind.FORCE, QuantityKind.RATE
    rows: list[FigureKind] = []

    def add(
        owner: Owner, key: str, label: str, kind: QuantityKind, unit: str, low: float, high: float, card: float, measured: float, hint: str = "",
        floor: float = 0.0,
    ) -> None:  # fmt: skip
        ends = from_unit(low, kind, unit), from_unit(high, kind, unit)
        rows.append(FigureKind(key, owner, label, kind, *ends, card, measured, hint, from_unit(floor, kind, unit)))

    e, g, c, v, s, f = Owner.ENGINE, Owner.GOAL, Owner.CAM, Owner.VALVE, Owner.SPRING, Owner.FIT
    add(e, "bore", "Bore", length, "mm", 20, 200, 0.001, 0.0005)
    add(e, "stroke", "Stroke", length, "mm", 15, 200, 0.001, 0.0005)
    add(e, "rod_length", "Connecting rod", length, "mm", 40, 400, 0.002, 0.001, hint="centre to centre")
    add(e, "compression", "Compression ratio", QuantityKind.NUMBER, "", 4, 20, 0.02, 0.01)
    add(e, "idle", "Idle", QuantityKind.SPEED, "rpm", 300, 4000, 0.05, 0.02)
    add(e, "peak", "Power peak, stock", QuantityKind.SPEED, "rpm", 1500, 25000, 0.03, 0.01)
    add(e, "limiter", "Limiter, stock", QuantityKind.SPEED, "rpm", 2000, 25000, 0.01, 0.01)
    for side in ("intake", "exhaust"):
        add(e, f"clearance_{side}_least", f"{side.capitalize()} clearance, least", length, "mm", 0.0, 1.5, 0.0, 0.0)
        add(e, f"clearance_{side}_most", f"{side.capitalize()} clearance, most", length, "mm", 0.01, 1.5, 0.0, 0.0)
    add(e, "shim_step", "Shim sizes on sale, step", length, "mm", 0.005, 0.5, 0.0, 0.0)
    add(e, "shim_thinnest", "Thinnest shim on sale", length, "mm", 0.5, 10, 0.0, 0.0)
    add(e, "shim_thickest", "Thickest shim on sale", length, "mm", 0.5, 10, 0.0, 0.0)
    add(e, "shim_price", "Price of a shim", QuantityKind.NUMBER, "", 0, 1000, 0.0, 0.0)
    add(e, "seat_to_cam", "Seat to cam axis", length, "mm", 25, 250, 0.02, 0.01, hint="along the valve")
    add(
        e,
        "rocker_ratio",
        "Ratio, valve to blade",
        QuantityKind.NUMBER,
        "",
        0.5,
        3,
        0.02,
        0.01,
        hint="valve motion over motion where the blade is",
    )
    add(
        e, "screw_ratio", "Ratio, valve to screw", QuantityKind.NUMBER, "", 0.3, 3, 0.02, 0.01, hint="1 where the screw stands on the valve"
    )
    add(e, "screw_pitch", "Adjuster thread pitch", length, "mm", 0.2, 2, 0.0, 0.0)
    add(e, "lift_ratio", "Valve lift over lobe lift", QuantityKind.NUMBER, "", 0.5, 3, 0.02, 0.01, hint="1 for buckets and tappets")
    for side in ("intake", "exhaust"):
        name = side.capitalize()
        add(
            e,
            f"phaser_{side}_advance",
            f"{name} phaser, advances by",
            QuantityKind.ANGLE,
            "deg",
            0,
            90,
            0.03,
            0.01,
            hint="crank, from rest",
        )
        add(e, f"phaser_{side}_retard", f"{name} phaser, retards by", QuantityKind.ANGLE, "deg", 0, 90, 0.03, 0.01, hint="crank, from rest")
    add(e, "sprocket_teeth", "Teeth of the cam sprocket", QuantityKind.NUMBER, "", 10, 90, 0.0, 0.0)
    add(e, "sprocket_holes", "Holes in the sprocket", QuantityKind.NUMBER, "", 1, 36, 0.0, 0.0, hint="1 where it cannot be slotted")
    add(e, "flange_holes", "Holes in the cam flange", QuantityKind.NUMBER, "", 1, 36, 0.0, 0.0)
    add(
        e, "chain_pins", "Chain pins between the marks", QuantityKind.NUMBER, "", 3, 80, 0.0, 0.0, hint="counted before the chain comes off"
    )
    add(
        e,
        "train_stiffness",
        "Train stiffness at the valve",
        rate,
        "N/mm",
        500,
        200000,
        0.3,
        0.1,
        hint="lobe held, force on the valve over its motion",
    )
    add(e, "train_damping", "Damping of the train", QuantityKind.NUMBER, "", 0.005, 0.6, 0.4, 0.2, hint="share of critical")
    add(e, "seat_stiffness", "Stiffness of seat and stem", rate, "N/mm", 5000, 500000, 0.3, 0.1)
    add(e, "seat_damping", "Damping of the seat", QuantityKind.NUMBER, "", 0.01, 0.8, 0.4, 0.2, hint="share of critical")
    add(e, "spring_damping", "Damping of the springs", QuantityKind.NUMBER, "", 0.002, 0.3, 0.4, 0.2, hint="share of critical, first surge")
    add(e, "clash", "Closed coils over open coils", QuantityKind.NUMBER, "", 2, 200, 0.4, 0.2, hint="stiffness")
    for key, label in (
        ("cam_cap", "Cam caps"), ("head", "Head bolts, last stage"), ("cover", "Cover"), ("tensioner", "Tensioner"), ("lock_nut", "Adjuster lock nuts"),
        ("cam_sprocket", "Cam sprocket"),
    ):  # fmt: skip
        add(e, f"torque_{key}", label, QuantityKind.TORQUE, "N*m", 0.5, 250, 0.0, 0.0, hint="by the manual; dry or oiled as it says")
    add(
        e,
        "service_interval",
        "Valves to be looked at every",
        QuantityKind.DURATION,
        "h",
        1,
        5000,
        0.0,
        0.0,
        hint="running hours, by the manual",
    )
    add(e, "face_off", "Taken off the head's face", length, "mm", 0, 4, 0.0, 0.0, hint="by surfacing; of the proposed set-up", floor=0.01)
    add(e, "gasket_new", "New head gasket, pressed", length, "mm", 0.05, 5, 0.05, 0.03, hint="where another one goes in")
    add(
        e, "chamber_share", "Chamber opening over bore area", QuantityKind.NUMBER, "", 0.3, 1.05, 0.03, 0.02,
        hint="at the head's face; 1 where no squish band lies in the face",
    )  # fmt: skip
    add(e, "cam_chain_pitch", "Cam chain or belt pitch", length, "mm", 3, 16, 0.0, 0.0, hint="pin to pin")
    add(e, "cam_distance", "Crank to cam axis", length, "mm", 60, 800, 0.01, 0.005)
    add(e, "gasket", "Head gasket, pressed", length, "mm", 0.05, 5, 0.05, 0.03)
    add(
        e, "deck", "Crown below the deck at TDC", length, "mm", -5, 8, 0.02, 0.02, floor=0.05,
        hint="depth gauge at the crown's rim; above the deck is negative",
    )  # fmt: skip
    add(e, "pin_offset", "Pin or bore offset", length, "mm", -5, 5, 0.02, 0.02, floor=0.05, hint="towards the side the crank turns to")
    for side in ("intake", "exhaust"):
        name = side.capitalize()
        add(
            e,
            f"valve_angle_{side}",
            f"{name} valve to bore",
            QuantityKind.ANGLE,
            "deg",
            0,
            45,
            0.02,
            0.02,
            floor=0.5,
            hint="stem against the bore's axis",
        )
        add(
            e, f"head_height_{side}", f"{name} valve, closed: above the gasket face", length, "mm", -5, 25, 0.02, 0.01, floor=0.05,
            hint="shut, lowest edge, rule across the head",
        )  # fmt: skip
        add(
            e, f"pocket_depth_{side}", f"{name} pocket below the crown's rim", length, "mm", -10, 15, 0.02, 0.01, floor=0.05,
            hint="at its middle; a dome without pocket is negative",
        )  # fmt: skip
        add(
            e,
            f"pocket_angle_{side}",
            f"{name} pocket floor, tilted",
            QuantityKind.ANGLE,
            "deg",
            0,
            45,
            0.05,
            0.05,
            floor=0.5,
            hint="0 is square to the bore",
        )
        add(e, f"pocket_diameter_{side}", f"{name} pocket diameter", length, "mm", 10, 90, 0.01, 0.01)
        add(
            e,
            f"pocket_offset_{side}",
            f"{name} pocket off the stem",
            length,
            "mm",
            -5,
            5,
            0.05,
            0.05,
            floor=0.2,
            hint="its centre, piston up; from clay",
        )
        add(
            e,
            f"valve_offset_{side}",
            f"{name} valves from the bore's middle",
            length,
            "mm",
            0,
            80,
            0.02,
            0.01,
            floor=0.2,
            hint="across, head centre, shut",
        )
        add(
            e,
            f"valve_spread_{side}",
            f"{name} valves, one to the next",
            length,
            "mm",
            0,
            120,
            0.01,
            0.01,
            floor=0.1,
            hint="centres, along the crank; 0 for one valve",
        )
    add(e, "piston_mass", "Piston, pin and rings", mass, "g", 20, 3000, 0.02, 0.01)
    add(e, "rod_small_end", "Small end of the rod", mass, "g", 5, 1000, 0.05, 0.03, hint="weighed with the big end held up")
    add(e, "rod_section", "Rod shank, least section", QuantityKind.AREA, "mm**2", 15, 1500, 0.1, 0.05)
    add(e, "bearing_play", "Play of both rod bearings", length, "mm", 0, 0.5, 0.3, 0.2)
    add(e, "primary_teeth_crank", "Primary, teeth on the crank", QuantityKind.NUMBER, "", 5, 120, 0.0, 0.0)
    add(e, "primary_teeth_clutch", "Primary, teeth on the clutch", QuantityKind.NUMBER, "", 5, 200, 0.0, 0.0)
    for number in range(1, 7):
        add(e, f"gear_{number}", f"Gear {number}", QuantityKind.NUMBER, "", 0.3, 6, 0.0, 0.0, hint="ratio")
    add(e, "front_teeth", "Front sprocket", QuantityKind.NUMBER, "", 5, 60, 0.0, 0.0)
    add(e, "rear_teeth", "Rear sprocket", QuantityKind.NUMBER, "", 8, 120, 0.0, 0.0)
    add(e, "chain_pitch", "Chain pitch", length, "mm", 4, 32, 0.0, 0.0, hint="pin to pin: 12.7 mm is half an inch")
    add(e, "chain_links", "Chain links", QuantityKind.NUMBER, "", 20, 250, 0.0, 0.0)
    add(e, "clutch_engages", "Clutch takes hold at", QuantityKind.SPEED, "rpm", 500, 12000, 0.05, 0.02)
    add(
        e, "hydraulic_limit", "Hydraulic elements good to", QuantityKind.SPEED, "rpm", 2000, 14000, 0.03, 0.03,
        hint="beyond it they pump up and hold the valve open",
    )  # fmt: skip
    add(
        e,
        "hydraulic_preload",
        "Preload of the elements",
        length,
        "mm",
        0.0,
        4,
        0.1,
        0.05,
        hint="how far the plunger is pushed in, valve shut",
    )
    add(e, "rolling", "Rolling circumference", length, "mm", 300, 4000, 0.02, 0.01, hint="chalk mark, rider on it")
    add(e, "tyre_growth", "Tyre grows at top speed by", QuantityKind.NUMBER, "", 0, 0.2, 0.0, 0.0, hint="0.02 is 2 %")
    add(e, "wheel_slip", "Wheel slips under power", QuantityKind.NUMBER, "", 0, 0.4, 0.0, 0.0, hint="0.03 is 3 %")
    add(e, "impeller_pitch", "Impeller or screw, pitch", length, "mm", 50, 1000, 0.02, 0.02)
    add(e, "impeller_ratio", "Crank turns for one of it", QuantityKind.NUMBER, "", 0.3, 6, 0.0, 0.0)
    add(e, "impeller_slip", "Slip in the water", QuantityKind.NUMBER, "", 0, 0.8, 0.2, 0.1, hint="0.2 is 20 %")
    add(e, "governed", "Governor holds", QuantityKind.SPEED, "rpm", 500, 12000, 0.02, 0.01)
    add(g, "goal_rpm", "Working maximum", QuantityKind.SPEED, "rpm", 2000, 25000, 0.0, 0.0, hint="the speed it must hold in use")
    add(
        g,
        "over_rev",
        "Over-rev it must survive",
        QuantityKind.SPEED,
        "rpm",
        2000,
        26000,
        0.0,
        0.0,
        hint="missed shift, pump out of the water",
    )
    add(g, "boost", "Boost", QuantityKind.PRESSURE, "bar", 0, 5, 0.08, 0.03, hint="gauge, at the intake port")
    add(g, "back_pressure", "Back pressure", QuantityKind.PRESSURE, "bar", 0, 6, 0.3, 0.05, hint="gauge, mean, at the exhaust port")
    add(g, "pulse_factor", "Back-pressure peak over mean", QuantityKind.NUMBER, "", 1, 4, 0.2, 0.1)
    add(
        g,
        "reserve",
        "Safety margin on rpm",
        QuantityKind.NUMBER,
        "",
        0,
        0.5,
        0.0,
        0.0,
        hint="0.10 is 10 %: real trains let go before a rigid one",
    )
    for side in ("intake", "exhaust"):
        add(g, f"seat_force_{side}", f"Seat force to keep, {side}", force, "N", 10, 2000, 0.05, 0.05)
    add(g, "coil_bind_limit", "Coil bind, at least", length, "mm", 0.2, 5, 0.0, 0.0)
    add(g, "retainer_limit", "Retainer to seal, at least", length, "mm", 0.2, 5, 0.0, 0.0)
    for side in ("intake", "exhaust"):
        add(g, f"piston_gap_limit_{side}", f"Piston to {side} valve, at least", length, "mm", 0.2, 6, 0.0, 0.0)
    for key, label in (
        ("pocket_rim_limit", "Valve head to pocket's wall, at least"), ("valve_valve_limit", "Valve to valve, at least"),
        ("valve_bore_limit", "Valve head to bore, at least"), ("nested_limit", "Nested springs, at least"),
        ("follower_limit", "Follower to retainer, at least"), ("lobe_head_limit", "Lobe nose to head, at least"),
        ("spring_pocket_limit", "Spring to its pocket, at least"), ("head_room_limit", "Valve to cylinder head, at least"),
    ):  # fmt: skip
        add(g, key, label, length, "mm", 0.0, 6, 0.0, 0.0)
    add(g, "gap_at_speed_limit", "Piston gap at the over-rev, at least", length, "mm", 0.0, 3, 0.0, 0.0)
    add(g, "acceleration_limit", "Piston acceleration, at most", QuantityKind.ACCELERATION, "m/s**2", 2000, 120000, 0.0, 0.0)
    add(g, "rod_load_limit", "Rod load over that at the stock limiter, at most", QuantityKind.NUMBER, "", 1, 3, 0.0, 0.0)
    add(g, "road_speed", "Speed wished for", QuantityKind.ROAD, "km/h", 5, 500, 0.0, 0.0)
    add(g, "piston_speed_limit", "Piston speed, at most", QuantityKind.VELOCITY, "m/s", 8, 35, 0.0, 0.0)
    add(g, "interval", "Between checks", QuantityKind.DURATION, "h", 1, 5000, 0.0, 0.0)
    add(c, "lift", "Full lift", length, "mm", 1, 25, 0.01, 0.003, hint="at the valve, before clearance, unless set otherwise above")
    add(c, "height_1", "Duration stated at", length, "mm", 0.03, 8, 0.0, 0.0, hint="a lift, given as the full lift is")
    add(c, "duration_1", "Duration at that lift", QuantityKind.ANGLE, "deg", 100, 400, 0.008, 0.004, hint="crank degrees")
    add(c, "height_2", "A second height", length, "mm", 0.03, 8, 0.0, 0.0)
    add(c, "duration_2", "Duration at that lift, second", QuantityKind.ANGLE, "deg", 60, 400, 0.008, 0.004)
    add(c, "lobe_centre", "Lobe centre", QuantityKind.ANGLE, "deg", 60, 160, 0.01, 0.005, hint="crank degrees from overlap TDC")
    add(c, "height_3", "A third height", length, "mm", 0.03, 15, 0.0, 0.0)
    add(c, "duration_3", "Duration at that lift, third", QuantityKind.ANGLE, "deg", 40, 400, 0.008, 0.004)
    add(c, "height_4", "A fourth height", length, "mm", 0.03, 20, 0.0, 0.0)
    add(c, "duration_4", "Duration at that lift, fourth", QuantityKind.ANGLE, "deg", 20, 400, 0.008, 0.004)
    add(
        c,
        "opens_1",
        "Opens",
        QuantityKind.ANGLE,
        "deg",
        -60,
        120,
        0.0,
        0.0,
        hint="at the first height; intake before TDC, exhaust before BDC",
    )
    add(
        c,
        "shuts_1",
        "Closes",
        QuantityKind.ANGLE,
        "deg",
        -60,
        120,
        0.0,
        0.0,
        hint="at the first height; intake after BDC, exhaust after TDC",
    )
    add(c, "card_clearance", "Clearance on the card", length, "mm", 0, 1.5, 0.0, 0.0)
    add(c, "ramp_height", "Ramp height", length, "mm", 0, 1.5, 0.05, 0.03, hint="at the valve")
    add(c, "ramp_velocity", "Ramp velocity", QuantityKind.RAMP, "mm/deg", 0.002, 0.08, 0.3, 0.1, hint="per degree of cam")
    add(c, "base_diameter", "Base circle", length, "mm", 10, 80, 0.002, 0.002, hint="across, by micrometer")
    add(c, "lobe_height", "Lobe height", length, "mm", 12, 100, 0.002, 0.001, hint="heel to nose, by micrometer or caliper")
    add(c, "lobe_width", "Lobe width", length, "mm", 3, 40, 0.02, 0.01)
    add(v, "head_diameter", "Valve head diameter", length, "mm", 10, 80, 0.005, 0.001)
    add(v, "seat_width", "Seat width", length, "mm", 0.4, 4, 0.15, 0.1)
    add(v, "stem_diameter", "Stem diameter", length, "mm", 3, 15, 0.005, 0.002)
    add(v, "mass", "Mass", mass, "g", 4, 400, 0.03, 0.005)
    add(v, "margin", "Margin", length, "mm", 0.2, 5, 0.1, 0.05, hint="thickness of the head's edge")
    for owner, high in ((Owner.RETAINER, 100), (Owner.KEEPERS, 40), (Owner.FOLLOWER, 600), (Owner.SHIM, 40)):
        hint = (
            "moving with the valve" if owner is not Owner.FOLLOWER else "at the valve: a rocker or push-rod counts with its ratio squared"
        )
        add(owner, "mass", "Mass", mass, "g", 0.1, high, 0.03, 0.01, hint=hint)
    add(Owner.RETAINER, "outer_diameter", "Across, top", length, "mm", 8, 50, 0.005, 0.003)
    o = Owner.FOLLOWER
    add(o, "tip_radius", "Radius where it pushes the stem", length, "mm", 2, 500, 0.05, 0.03, hint="pad, roller or screw end")
    add(o, "tip_width", "Reach of that pad along the arm", length, "mm", 2, 40, 0.05, 0.03)
    add(o, "face_radius", "Radius of dome, roller or pad", length, "mm", 2, 2000, 0.03, 0.01)
    add(o, "face_diameter", "Face across", length, "mm", 6, 60, 0.003, 0.001, hint="of bucket or tappet")
    add(o, "pivot", "Cam centre to pivot", length, "mm", 8, 150, 0.005, 0.003)
    add(o, "arm", "Pivot to pad, roller or push-rod", length, "mm", 5, 150, 0.01, 0.005)
    add(o, "valve_arm", "Pivot to valve", length, "mm", 8, 150, 0.01, 0.005)
    add(s, "seat_load", "Seat force, at installed height", force, "N", 5, 2500, 0.06, 0.02, hint="valve shut; counts at once")
    add(s, "rate", "Rate", rate, "N/mm", 2, 200, 0.06, 0.02)
    add(
        s,
        "bend",
        "Rate rises by",
        QuantityKind.STIFFENING,
        "N/mm**2",
        -2,
        20,
        0.2,
        0.15,
        hint="per mm, from the height of the load on; 0 is a straight line",
    )
    add(s, "load", "Load at another height", force, "N", 5, 2500, 0.06, 0.02, hint="with the height below")
    add(s, "load_height", "Height of that load", length, "mm", 10, 120, 0.0, 0.0)
    add(s, "solid_height", "Solid height", length, "mm", 6, 90, 0.015, 0.005)
    add(s, "mass", "Mass", mass, "g", 2, 300, 0.03, 0.01)
    add(s, "wire_diameter", "Wire", length, "mm", 1, 8, 0.01, 0.005)
    add(s, "mean_diameter", "Mean coil diameter", length, "mm", 6, 60, 0.01, 0.005)
    add(s, "small_diameter", "Mean diameter, small end", length, "mm", 5, 60, 0.01, 0.005, hint="of a cone or beehive")
    add(s, "taper_coils", "Coils that taper", QuantityKind.NUMBER, "", 0.5, 20, 0.05, 0.03, hint="of a beehive")
    add(s, "total_coils", "Total coils", QuantityKind.NUMBER, "", 3, 25, 0.02, 0.01)
    add(
        s, "active_coils", "Active coils", QuantityKind.NUMBER, "", 1, 24, 0.03, 0.02, hint="all coils less the ones lying flat at the ends"
    )
    add(s, "free_length", "Free length", length, "mm", 15, 150, 0.005, 0.003)
    add(f, "installed_height", "Installed height", length, "mm", 12, 110, 0.008, 0.003, hint="seat to retainer, no added shim, valve shut")
    add(f, "inner_step", "Inner spring's seat higher by", length, "mm", -5, 10, 0.05, 0.03)
    add(f, "spring_shim", "Spring shim added", length, "mm", 0, 6, 0.0, 0.01)
    add(f, "retainer_to_seal", "Retainer to seal, valve closed", length, "mm", 1, 40, 0.03, 0.01)
    add(
        f,
        "follower_gap",
        "Follower to retainer",
        length,
        "mm",
        -1,
        15,
        0.05,
        0.03,
        floor=0.05,
        hint="nearest place, valve shut; bucket: underside to retainer",
    )
    add(f, "tip_height", "Stem tip above the retainer", length, "mm", -2, 20, 0.05, 0.03, floor=0.05, hint="with shim or cap, valve shut")
    add(f, "lobe_to_head", "Lobe nose to head", length, "mm", -2, 30, 0.05, 0.03, floor=0.05, hint="cam turned past, feeler or clay")
    add(f, "spring_pocket", "Spring pocket diameter", length, "mm", 10, 70, 0.005, 0.003)
    add(f, "head_room", "Valve to cylinder head, shut", length, "mm", 1, 40, 0.03, 0.02, hint="side valves")
    add(f, "clearance", "Clearance set", length, "mm", 0, 1.5, 0.15, 0.1)
    add(f, "switch_speed", "Changes to the high lobe at", QuantityKind.SPEED, "rpm", 1000, 20000, 0.02, 0.01)
    add(f, "low_follower_mass", "Follower mass on the low lobe", mass, "g", 0.1, 600, 0.03, 0.01)
    return tuple(rows)
