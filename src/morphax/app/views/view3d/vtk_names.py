"""The one module that knows where each VTK class lives."""

import vtkmodules.vtkRenderingOpenGL2  # registers the OpenGL classes
from vtkmodules.util.numpy_support import numpy_to_vtk, numpy_to_vtkIdTypeArray, vtk_to_numpy
from vtkmodules.vtkCommonCore import vtkFloatArray, vtkObject, vtkPoints, vtkUnsignedCharArray
from vtkmodules.vtkCommonDataModel import vtkCellArray, vtkImageData, vtkPolyData
from vtkmodules.vtkCommonMath import vtkMatrix4x4
from vtkmodules.vtkRenderingCore import (
    vtkActor,
    vtkCamera,
    vtkLight,
    vtkPolyDataMapper,
    vtkProperty,
    vtkRenderer,
    vtkRenderWindow,
    vtkTexture,
)

__all__ = [
    "numpy_to_vtk",
    "numpy_to_vtkIdTypeArray",
    "vtkActor",
    "vtkCamera",
    "vtkCellArray",
    "vtkFloatArray",
    "vtkImageData",
    "vtkLight",
    "vtkMatrix4x4",
    "vtkObject",
    "vtkPoints",
    "vtkPolyData",
    "vtkPolyDataMapper",
    "vtkProperty",
    "vtkRenderWindow",
    "vtkRenderer",
    "vtkTexture",
    "vtkUnsignedCharArray",
    "vtk_to_numpy",
]
