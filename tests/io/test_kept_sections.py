"""One's own sections on the disk: plain SVG files that keep the outline and its anchor."""

from pathlib import Path

import pytest

from morphax.core.section.outlines import loop_area
from morphax.core.section.sections import anchor_place, section_bounds
from morphax.demo.drawn import cornice_section, gutter_section
from morphax.io.errors import FileError
from morphax.io.kept_sections import forget_section, keep_section, kept_sections
from morphax.io.outline_files import read_section
from morphax.project.lookup import source_shape
from morphax.project.model.document import OutlineSource, Section


@pytest.mark.parametrize("source", [cornice_section(), gutter_section()], ids=["cornice", "gutter"])
def test_a_kept_section_comes_back_with_its_anchor(source: OutlineSource, tmp_path: Path) -> None:
    file = keep_section(tmp_path / "own", Section(id="s1", name='A/b "c"', source=source))
    assert file.name == "A_b _c_.svg" and read_section(file)[1] == ()
    (name, back), *_ = kept_sections(tmp_path / "own").items()
    old, new = source_shape(source), source_shape(back)
    assert name == "A_b _c_"
    assert sum(map(loop_area, new.loops)) == pytest.approx(sum(map(loop_area, old.loops)), rel=1e-6)
    assert (back.orientation, back.side, back.corner) == (source.orientation, source.side, source.corner)
    file.write_text(file.read_text().replace("upright", "sideways"))
    assert len(kept_sections(tmp_path / "own")) == 1, "what somebody spoiled is an outline all the same"
    for shape, at in ((old, anchor_place(old, old.laying.anchor)), (new, anchor_place(new, new.laying.anchor))):
        x0, y0, *_ = section_bounds(shape)
        beside = (at[0] - x0, at[1] - y0)
        assert beside == pytest.approx((0.0, 0.17 if source.name == "Cornice" else 0.1), abs=1e-8)


def test_files_are_read_once_and_strangers_are_left_out(tmp_path: Path) -> None:
    section = Section(id="s1", name="Mine", source=cornice_section())
    keep_section(tmp_path, section)
    (tmp_path / "other.svg").write_text("this is no drawing")
    first = kept_sections(tmp_path)
    assert list(first) == ["Mine"] and kept_sections(tmp_path)["Mine"] is first["Mine"]
    forget_section(tmp_path, "Mine")
    assert kept_sections(tmp_path) == {} and kept_sections(tmp_path / "nowhere") == {}
    (tmp_path / "in the way").write_text("")
    with pytest.raises(FileError):
        keep_section(tmp_path / "in the way", section)
