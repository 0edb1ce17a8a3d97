"""Runs that are cast: their bodies are those that the project keeps as assets."""

from morphax.core.body.recipe import Body
from morphax.core.findings import Finding, Severity
from morphax.core.mesh.mesh import empty_mesh
from morphax.io.cast_bodies import cast_bytes, read_cast, whole_body
from morphax.io.errors import FileError
from morphax.project.model.document import Asset, Run


def cast_body(asset: Asset) -> Body:
    """The body of a cast run."""
    try:
        return read_cast(asset.data)
    except FileError as error:
        said = str(error)
        finding = Finding("cast-damaged", Severity.ERROR, f"{said[:1].upper()}{said[1:]}.")
        return Body(empty_mesh(), (finding,), 0.0, False)


def cast_data(run: Run, body: Body) -> bytes:
    """A run's body, with its pieces, as an asset keeps it."""
    return cast_bytes(whole_body(body, [s.material or "" for s in run.recipe.sets]))
