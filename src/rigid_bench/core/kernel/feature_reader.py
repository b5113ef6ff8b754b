"""Name what a solid's faces are: planes, round walls, cones, and the rest by kind."""

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray
from OCP.Bnd import Bnd_Box
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.gp import gp_Pnt
from OCP.TopAbs import TopAbs_State
from OCP.TopoDS import TopoDS, TopoDS_Shape

from rigid_bench.core.kernel.binding import faces_of, kernel, shells_of, xyz
from rigid_bench.core.kernel.edge_reader import read_edges, with_angles
from rigid_bench.core.kernel.mass_properties import area_of, volume_of
from rigid_bench.core.kernel.surfaces import read_surface
from rigid_bench.core.part.crossed_holes import join_crossed
from rigid_bench.core.part.edges import CIRCLE, ELLIPSE, LINE
from rigid_bench.core.part.faces import Surface
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.join import join_surfaces, within_edges
from rigid_bench.core.part.model import Body
from rigid_bench.core.values.errors import GeometryError
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _

#: A solid of less volume, as a share of its size cubed, is a crossed or crushed sketch.
_FLAT = 1e-10
#: The share of edges with a face on one side only, up to which faces are a body that is not closed.
_MOST_OPEN = 0.5


def read_features(shape: TopoDS_Shape, *, tolerance: Tolerance) -> PartFeatures:
    """Read a part into named faces and its mass properties.

    Parameters
    ----------
    shape
        One solid, in mm.
    tolerance
        Its `surface_mm` decides which cylinder faces are one wall.

    Returns
    -------
    PartFeatures

    Raises
    ------
    GeometryError
        The kernel cannot read a face, or the faces enclose nothing.
    """
    with kernel(_("reading the faces")):
        faces = faces_of(shape)
        raw, edge_kinds = read_edges(faces)
        by_face: list[Surface] = []
        all_simple = True
        for index, (face, kinds) in enumerate(zip(faces, edge_kinds, strict=True)):
            surface = BRepAdaptor_Surface(face)
            is_simple = _is_simple(surface, kinds)
            all_simple = all_simple and is_simple
            area, point = area_of(face, is_simple=is_simple)
            by_face.append(read_surface(index, face, surface, point=point, area=area, tolerance=tolerance))
        edges = with_angles(raw, faces, by_face)
        volume, centroid = volume_of(shape, is_simple=all_simple)
        box = tight_box(shape)
        closed = all(shell.Closed() for shell in shells_of(shape))
    if abs(volume) < _FLAT * float(np.linalg.norm(box[1] - box[0])) ** 3:
        raise GeometryError(
            _("part"),
            _("its faces enclose no volume"),
            _("Look for lines of its sketch that cross, then export it again"),
        )
    if volume < 0:  # inside out: every face looks into the material
        return read_features(TopoDS.Solid(shape.Reversed()), tolerance=tolerance)
    surfaces = join_surfaces(by_face, edges, tolerance)
    outer = edges.joined(_surface_of(surfaces, len(faces)))
    surfaces = join_crossed([within_edges(k, surface, outer) for k, surface in enumerate(surfaces)], outer, tolerance)
    outer = edges.joined(_surface_of(surfaces, len(faces)))
    return PartFeatures(
        shape=shape,
        is_mesh=False,
        is_inside=_classifier(shape),
        surfaces=tuple(surfaces),
        edges=outer,
        closed=closed,
        volume=volume,
        area=sum(surface.area for surface in by_face),
        centroid=centroid,
        box=box,
    )


def _surface_of(surfaces: Sequence[Surface], faces: int) -> NDArray[np.int64]:
    """Return the place of the surface that each face belongs to, (faces,) int."""
    surface_of = np.empty(faces, dtype=np.int64)
    for number, surface in enumerate(surfaces):
        surface_of[list(surface.faces)] = number
    return surface_of


def is_nearly_closed(shape: TopoDS_Shape) -> bool:
    """Say whether faces are a body that lacks some, and not a plane or sheet: most edges have a face on both sides."""
    faces = faces_of(shape)
    sides = read_edges(faces)[0].sides if faces else np.zeros((0, 2))
    return bool(len(sides)) and float((sides[:, 1] < 0).mean()) <= _MOST_OPEN


def _classifier(shape: TopoDS_Shape) -> Callable[[NDArray[np.float64]], bool]:
    """Return what says whether there is material at a point of a solid, (3,) mm."""
    made: list[BRepClass3d_SolidClassifier] = []  # making one takes longer than asking it

    def is_inside(point: NDArray[np.float64]) -> bool:
        if not made:
            made.append(BRepClass3d_SolidClassifier(shape))
        made[0].Perform(gp_Pnt(*(float(value) for value in point)), 1e-6)
        return bool(made[0].State() == TopAbs_State.TopAbs_IN)

    return is_inside


def tight_box(shape: Body) -> NDArray[np.float64]:
    """Return the least and greatest corner of the tight box along the axes, (2, 3) mm."""
    if not isinstance(shape, TopoDS_Shape):
        return np.asarray(shape.bounds, dtype=float)
    box = Bnd_Box()
    BRepBndLib.AddOptimal_s(shape, box, False, False)
    if box.IsVoid():
        return np.zeros((2, 3))
    return np.array([xyz(box.CornerMin()), xyz(box.CornerMax())])


_SIMPLE_EDGES = {LINE, CIRCLE}
_FLAT_EDGES = _SIMPLE_EDGES | {ELLIPSE}
_SIMPLE_SURFACES = {
    GeomAbs_SurfaceType.GeomAbs_Cylinder,
    GeomAbs_SurfaceType.GeomAbs_Cone,
    GeomAbs_SurfaceType.GeomAbs_Sphere,
    GeomAbs_SurfaceType.GeomAbs_Torus,
}


def _is_simple(surface: BRepAdaptor_Surface, kinds: set[int]) -> bool:
    """Say whether plain integration is exact on a face, which is a hundred times faster than a tight one.

    Within lines and circles it is, on a plane within ellipses too. Elsewhere it is off by up to 6e-4.
    """
    if surface.GetType() == GeomAbs_SurfaceType.GeomAbs_Plane:
        return kinds <= _FLAT_EDGES
    return surface.GetType() in _SIMPLE_SURFACES and kinds <= _SIMPLE_EDGES
