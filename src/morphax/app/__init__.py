"""Windows, panes, lists, strip, card, commands; may import everything. Qt lives here only, VTK in view3d."""
