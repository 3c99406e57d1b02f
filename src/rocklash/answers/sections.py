"""Lobe and follower of a train in section, as data for the drawing."""

import numpy as np

from rocklash.ui.drawings import lobe_section
from rocklash.ui.drawings.lobe_section import Section, SectionData
from valvetrain.errors import ValveTrainError
from valvetrain.parts.cam_drive import Path
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.cams.lobe_fit import outline_of

_SAMPLES = 121
_USUAL_FACE = 22e-3  # m, drawn where no face is known


def section_of_train(train: TrainSide, face: float = 0.0) -> Section | None:
    """Lobe and follower to scale with what turns them; `face` (m) across a bucket. None when no lobe gives the lift."""
    try:
        shape, outline = outline_of(train)
    except ValveTrainError:
        return None
    drive, base = train.cam.drive, train.cam.base
    pick = np.linspace(0, len(shape.angle) - 1, _SAMPLES).astype(int)
    if drive.path is Path.PIVOTED:
        spoke = shape.centre[pick] - drive.pivot
        path = np.degrees(np.unwrap(np.angle(spoke)))
    else:
        path = (shape.centre[pick].imag - shape.centre[pick].imag.min()) * 1e3

    def points(values: np.ndarray) -> tuple[tuple[float, float], ...]:
        return tuple((float(value.real) * 1e3, float(value.imag) * 1e3) for value in values)

    return lobe_section.draw(
        SectionData(
            outline=points(outline[::2]),
            angle=tuple(np.degrees(shape.angle[pick])),
            touch=points(shape.touch[pick]),
            centre=points(shape.centre[pick]),
            path=tuple(float(value) for value in path),
            face=drive.contact.value,
            radius=drive.bow * 1e3,
            across=(face or _USUAL_FACE) * 1e3,
            base=base * 1e3,
            sense=drive.sense,
            pivot=drive.pivot * 1e3 if drive.path is Path.PIVOTED else None,
            valve_arm=drive.valve_arm * 1e3,
            beyond=drive.beyond,
        )
    )
