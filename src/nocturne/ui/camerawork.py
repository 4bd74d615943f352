"""What is done with the camera by pointing at the picture: focus, exposure, white balance, upright verticals."""

import numpy as np

from nocturne.colour.spaces import luminance
from nocturne.engine.pick import Hit, focus_distance
from nocturne.errors import SceneError
from nocturne.scene import edit, exposing
from nocturne.scene.camera import View
from nocturne.scene.desk import gains
from nocturne.ui.session import Session
from nocturne.ui.view.picture import PictureView


class CameraWork:
    """Edits of the active view from what is seen."""

    def __init__(self, session: Session, picture: PictureView) -> None:
        self.session, self.picture = session, picture
        self._hold = False  # whether the next picked focus is held on its thing
        picture.focus_picked.connect(self._focus)
        picture.light_picked.connect(self._light)
        picture.moved.connect(self._moved)

    def _put(self, view: View, label: str, merge: object = None) -> None:
        self.session.edit(edit.put, "views", view, label=label, merge=merge)

    def _moved(self, view: View, merge: object) -> None:
        self._put(view, "Move the view", merge)

    def pick_focus(self) -> None:
        """Let the next click in the picture set the focus distance."""
        self._hold = bool(self.session.document.view.focus_on)
        self.picture.set_mode("focus")

    def hold_focus(self, on: bool) -> None:
        """Let the next click choose a thing that stays sharp, or let the one that does go."""
        if on:
            self._hold = True
            self.picture.set_mode("focus")
        else:
            self._put(edit.changed(self.session.document.view, focus_on=""), "Let the focus go")

    def _focus(self, hit: Hit | None) -> None:
        if hit is None:
            self.session.said.emit("There is nothing to focus on there.", True)
            return
        distance = focus_distance(self.picture.print.frame.prepared, hit.point)
        document = self.session.document
        view = exposing.focused_at(edit.changed(document.view, depth_of_field=True, focus_on=""), distance)
        holds = self._hold and document.find("things", hit.id) is not None
        if holds:
            try:
                view = exposing.holding(view, document, hit.id, hit.point)
            except SceneError as error:
                self.session.said.emit(str(error), True)
                return
        self._put(view, "Hold the focus" if holds else "Pick the focus")
        words = "Focus held on" if holds else "Focused on"
        near = "" if distance >= view.focus_m - 1e-4 else f"; focused at {view.focus_m:.3g} m, the nearest there is"
        self.session.said.emit(f"{words} “{hit.name}”, {distance:.3g} m away{near}.", False)

    def _light(self, mode: str, radiance: np.ndarray | None) -> None:
        if radiance is None or float(luminance(radiance)) <= 0:
            self.session.said.emit("It is black there: nothing to go by.", True)
            return
        view = self.session.document.view
        if mode == "spot":
            self._expose(float(luminance(radiance)), "Expose for a spot")
        else:
            kelvin = exposing.neutral_kelvin(radiance)
            self._put(edit.changed(view, white_k=kelvin), "Pick a neutral")
            self.session.said.emit(f"White balance {kelvin:.0f} K.", False)

    def _expose(self, nits: float, label: str) -> None:
        before = self.session.document.view
        after = exposing.exposed_for(before, nits)
        self._put(after, label)
        stops = np.log2(after.shutter_s / before.shutter_s)
        self.session.said.emit(f"Exposed for {nits:.3g} nit: {stops:+.1f} stops by the shutter.", False)

    def expose_for_all(self) -> None:
        """Expose so that the mean of the picture becomes middle grey."""
        shown = self.picture.print
        if shown is None:
            return
        film, desk = shown.frame.film, shown.document.desk
        if shown.clean is not None:
            radiance = np.einsum("gyxc,gc->yxc", shown.clean, gains(film.group_names, desk))
        else:
            radiance = film.beauty(gains(film.group_names, desk))
        nits = exposing.average_luminance(luminance(radiance))
        if nits > 0:
            self._expose(nits, "Expose for the whole picture")

    def upright(self) -> None:
        """Hold the camera level and shift the frame, so that verticals are upright."""
        self._put(exposing.upright(self.session.document.view), "Upright verticals")
