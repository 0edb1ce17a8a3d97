"""Pages that stand in for the inspector or over the panes: export, keys, knots, first sheet."""
