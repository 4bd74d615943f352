"""A clean picture of a coarse film: denoised small, and brought up by what every pixel's middle sees."""

from dataclasses import dataclass, replace

import numpy as np

from nocturne.film.film import Film
from nocturne.film.sight import Sight
from nocturne.finish import upsampling
from nocturne.finish.denoise import Remover
from nocturne.scene.document import Document, render_key

_LIGHTS = 2  # of `render_key`
_LAMP_TRUST = 0.75  # in a lamp's scaled light: what a clamp took does not scale
# How far light may differ from an earlier picture's, as a logarithm, for that to be believed in full, and at all.
_SAME, _OTHER = 0.3, 0.8
_REACH = 3  # coarse pixels to each side over which light is compared: noise is less than that
_DARK = 0.02  # of the mean: what is darker differs by nothing


@dataclass(frozen=True, eq=False, repr=False)
class Subject:
    """What a film is of, as far as early pictures ask: document, `Prepared.eye` and `blur`, gains of light groups."""

    document: Document
    eye: np.ndarray
    blur: tuple[float, float]
    gains: np.ndarray

    def scaled(self, other: "Subject") -> dict[str, float] | None:
        """Return by how much each light group has changed since another subject; None if that is not known.

        Only lamps whose power changed, each alone in its group, are.
        """
        now = self.document
        old_lights, lights = ([li for li in d.lights if li.gives_light] for d in (other.document, now))
        if len(old_lights) != len(lights):
            return None
        factors: dict[str, float] = {}
        for old, new in zip(old_lights, lights):
            if old is new:
                continue
            if not hasattr(old, "power") or old.power <= 0 or old.model_copy(update={"power": new.power}) != new:
                return None
            others = [light for light in lights if light.group == new.group and light is not new]
            if others or any(m.is_emitter and (m.emission_group or "light") == new.group for m in now.materials):
                return None
            factors[new.group] = new.power / old.power
        return factors


@dataclass(frozen=True, eq=False, repr=False)
class _Memory:
    """The newest clean picture: light over albedo of every pixel or every other, and what is known of it."""

    subject: Subject
    sight: Sight
    bare: np.ndarray
    groups: np.ndarray | None


def _every(sight: Sight, k: int) -> tuple[np.ndarray, np.ndarray]:
    """Return what every `k`th pixel sees, and its ids."""
    return np.ascontiguousarray(sight.seen[::k, ::k]), np.ascontiguousarray(sight.ids[::k, ::k])


class Early:
    """Makes early pictures, and remembers clean ones: an edit brings along what it leaves as it was."""

    def __init__(self) -> None:
        self._remover = Remover()
        # Of the newest clean picture, and of the newest that another edit came after.
        self._latest: _Memory | None = None
        self._earlier: _Memory | None = None
        self._newest: tuple | None = None  # what is to be remembered

    def picture(self, film: Film, sight: Sight, subject: Subject, step: int) -> np.ndarray:
        """Return (h / k, w / k, 3) float32 radiance of a film of which every `step`th pixel has a sample.

        k is the sight's step: the picture is as large as that knows.
        """
        gains, k = np.ascontiguousarray(subject.gains, np.float32), sight.step
        light, straight = upsampling.gather(film.arrays, sight.ids, gains, step)
        # By what middles see, not by the samples' own albedo: that is noise where a sample may pass glass or not, and
        # light without noise, divided by it, flares up.
        albedo = np.ascontiguousarray(sight.part("ALBEDO", step))
        light = np.maximum(self._remover.remove(light, albedo, sight.part("CLEAN_NORMAL", step)), 0)
        bare = light / (albedo + upsampling.EPS)
        prior = self._prior(sight, subject, k)
        if prior is not None:
            prior = prior[0], believed(*prior, bare, step // k)
        picture = upsampling.raised(
            bare,
            light + straight,
            sight.seen,
            sight.ids,
            gains=gains,
            step=step,
            k=k,
            lens=subject.blur,
            prior=prior,
        )
        self._newest = (picture, sight.part("ALBEDO", k), replace(sight), subject, None)
        return picture

    def remember(
        self, picture: np.ndarray, film: Film, sight: Sight, subject: Subject, groups: np.ndarray | None
    ) -> None:
        """Remember a film's whole clean picture, and its groups if they are known apart."""
        if sight.step == 1:
            self._newest = (picture, film.albedo, replace(sight), subject, groups)
            self.settle()

    def settle(self) -> None:
        """Bring the newest clean picture into the form in which it is remembered: while nobody waits for the next."""
        if self._newest is None:
            return
        (picture, albedo, sight, subject, groups), self._newest = self._newest, None
        gains = np.ascontiguousarray(subject.gains, np.float32)
        bare = upsampling.over_albedo(picture, np.ascontiguousarray(albedo), *_every(sight, sight.step), gains)
        if self._latest is not None and _differs(self._latest.subject, subject):
            self._earlier = self._latest
        self._latest = _Memory(subject, sight, bare, groups)

    def _prior(self, sight: Sight, subject: Subject, k: int) -> tuple[np.ndarray, np.ndarray] | None:
        """Return light over albedo that an earlier picture gives, and how far it holds; None if it says nothing."""
        self.settle()
        memory = self._latest
        if memory is not None and not _differs(memory.subject, subject):
            memory = self._earlier  # not of this very film: a coarser picture of that would bring nothing new
        if memory is None or not np.array_equal(memory.subject.gains, subject.gains):
            return None
        differs = _differs(memory.subject, subject)
        if differs == {_LIGHTS} and memory.groups is not None and memory.sight.seen.shape == sight.seen.shape:
            scaled = self._scaled(memory, sight, subject, k)
            if scaled is not None:
                return scaled
        arrays = (memory.sight.seen, memory.sight.ids), (sight.seen, sight.ids)
        is_same = np.array_equal(memory.subject.eye, subject.eye) and memory.sight.seen.shape == sight.seen.shape
        return upsampling.reprojected(memory.bare, *arrays, memory.subject.eye, k, is_same=is_same)

    def _scaled(self, memory: _Memory, sight: Sight, subject: Subject, k: int) -> tuple[np.ndarray, np.ndarray] | None:
        factors = subject.scaled(memory.subject)
        if factors is None:
            return None
        names = subject.document.lit_groups
        gains = subject.gains * np.array([factors.get(name, 1.0) for name in names], np.float32)[:, None]
        mixed = np.einsum("gyxc,gc->yxc", memory.groups[:, ::k, ::k], gains, dtype=np.float32)
        albedo = np.ascontiguousarray(sight.part("ALBEDO", k))
        bare = upsampling.over_albedo(mixed, albedo, *_every(sight, k), np.ascontiguousarray(subject.gains))
        return bare, np.full(bare.shape[:2], _LAMP_TRUST, np.float32)

    def close(self) -> None:
        """Let go of the denoiser."""
        self._remover.close()


def _differs(one: Subject, other: Subject) -> set[int]:
    """Return which parts of `render_key` differ between two subjects."""
    keys = zip(render_key(one.document), render_key(other.document))
    return {i for i, (a, b) in enumerate(keys) if a is not b and a != b}


def believed(before: np.ndarray, trust: np.ndarray, fresh: np.ndarray, r: int) -> np.ndarray:
    """Return (h, w) trust in an earlier picture's light, less where the new one's is not the same round about.

    before (h, w, 3), trust (h, w): light over albedo of the earlier picture, and how far it holds by itself. fresh
    (h / r, w / r, 3): the new one's, of every `r`th pixel. Where an edit changed the light, nothing of the old remains.
    """
    known = (trust[::r, ::r] > 0)[..., None]
    old, new = _sums(np.where(known, before[::r, ::r], 0)), _sums(np.where(known, fresh, 0))
    dark = _DARK * float(new.mean()) + 1e-20
    apart = np.abs(np.log((new + dark) / (old + dark))).max(-1)
    same = np.clip((_OTHER - apart) / (_OTHER - _SAME), 0, 1).astype(np.float32)
    return trust * _stretched(same, r, trust.shape)


def _sums(picture: np.ndarray) -> np.ndarray:
    """Return sums over squares of pixels, `_REACH` to each side."""
    n = 2 * _REACH + 1
    padded = np.pad(picture, ((_REACH, _REACH), (_REACH, _REACH), (0, 0)), mode="edge")
    rows = sum(padded[i : i + picture.shape[0]] for i in range(n))
    return sum(rows[:, i : i + picture.shape[1]] for i in range(n))


def _stretched(picture: np.ndarray, r: int, shape: tuple[int, int]) -> np.ndarray:
    """Return a picture of every `r`th pixel brought up to a shape, straight from one to the next."""
    for axis, size in enumerate(shape):
        at = np.arange(size, dtype=np.float32) / r
        first = at.astype(int)
        part = (at - first).astype(np.float32)
        part = part[:, None] if axis == 0 else part
        a = np.take(picture, first, axis)
        b = np.take(picture, np.minimum(first + 1, picture.shape[axis] - 1), axis)
        picture = a + (b - a) * part
    return picture
