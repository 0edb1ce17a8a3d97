"""The state of the application, free of Qt widgets and of VTK."""
